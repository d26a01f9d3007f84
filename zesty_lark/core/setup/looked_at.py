"""What of a set-up is well, and since who looked: a layout cannot show a closed guard or a burr, and a default is no
yes."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from zesty_lark.core.setup.before import Listed, needed
from zesty_lark.core.setup.checks import Checked
from zesty_lark.core.setup.rulebook.data import Finding
from zesty_lark.core.work.preparing import ITEMS, Item
from zesty_lark.core.work.run import Run

BY_LOOKING: Mapping[str, str] = {
    "guard open": "guard",
    "hand near the wheel": "stopped",
    "burr under the part": "burrs",
    "part rocks": "rock",
    "chuck not clean": "wiped",
    "stroke too short to clear": "stroke",
    "starts on the low side": "high side",
    "no coolant": "nozzle",
}
"""The rules that only eyes and hands can answer, each with the item of the list before the touch-off that does."""
DULL = "dull wheel"


@dataclass(frozen=True)
class Well:
    """A rule that is kept; ``listed`` is the answer it rests on, ``None`` of what follows from the layout."""

    finding: Finding
    listed: Listed | None = None


def well(checked: Checked, listed: Sequence[Listed], run: Run | None) -> list[Well]:
    """Return the rules that are known to be kept: from the layout, or since somebody looked. Whether the wheel is sharp
    is not known while its dress is still to come."""
    answered = {row.item.key: row for row in listed if row.is_done}
    found = []
    for finding in (each.finding for each in checked.pinned if each.level == "pass"):
        key = BY_LOOKING.get(finding.check)
        if finding.check == DULL and (run is None or run.next_step is None or run.next_step.kind == "dress"):
            continue
        if key is None or key in answered:
            found.append(Well(finding, None if key is None else answered[key]))
    return found


def not_looked_at(checked: Checked, listed: Sequence[Listed]) -> list[Item]:
    """Return what nobody has looked at yet of what the list asks for this set-up, in its order."""
    answered = {row.item.key for row in listed if row.is_done}
    return [ITEMS[key] for key in needed(checked) if key not in answered]
