"""The short list before the wheel touches: what of it this set-up needs, in the order hands do it, and what is done."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal

from zesty_lark.core.setup.checks import Checked
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.looking import PUT_UP, WARM_UP, OpenItem, answer_of, is_well, prepared, put_up, still_open
from zesty_lark.core.work.machine_acts import Prepared
from zesty_lark.core.work.plans import MAGNET, PlanSteps
from zesty_lark.core.work.preparing import ITEMS, Answer, Item
from zesty_lark.core.work.run import Run

MISSED = "not looked at before the touch-off"
LEVEL_MM = Decimal("0.001")
"""Sides nearer than this are level: it does not matter where one starts [mm]."""


@dataclass(frozen=True)
class Listed:
    """An item of the list: when it was done, what was said and by whom, or nothing yet; ``known`` is what the log knows
    of it without; ``pieces`` are those of the load that it is still to be said of, where one may differ in it."""

    item: Item
    at: datetime | None = None
    said: Answer | None = None
    known: str = ""
    by: str | None = ""
    pieces: tuple[int, ...] = ()

    @property
    def is_done(self) -> bool:
        """Whether nothing is left to do of it."""
        return self.at is not None and not self.pieces and (self.said is None or self.said.well)

    @property
    def is_wrong(self) -> bool:
        """Whether what was felt has to be put right."""
        return self.said is not None and not self.said.well


@dataclass(frozen=True)
class Touch:
    """A touch of the indicator: where on the face, as shares of its length from the left and its width from the front,
    and what it read [mm]."""

    along: float
    across: float
    reading_mm: Decimal


def high_side(touches: list[Touch]) -> str:
    """Return which side a few touches show to be high: front or back; level where it does not matter.

    Raises
    ------
    ValueError
        If the touches are not on both sides.
    """
    front = [touch.reading_mm for touch in touches if touch.across < 0.5]
    back = [touch.reading_mm for touch in touches if touch.across > 0.5]
    if not front or not back:
        raise ValueError("Touch both sides: at least once at the front and once at the back.")
    gap = sum(front, Decimal(0)) / len(front) - sum(back, Decimal(0)) / len(back)
    return "level" if abs(gap) < LEVEL_MM else "front" if gap > 0 else "back"


def before(job_state: JobState, run: Run, keys: Iterable[str], *, warm_at: datetime | None) -> list[Listed]:
    """Return the list for a load. What the log knows already is done; what nobody said before the touch-off was not
    looked at, and nothing makes it so.

    Parameters
    ----------
    job_state, run : Standing, Run
        Where the job and the load stand.
    keys : iterable of str
        The items that its set-up needs, in their order: of a set-up those that ``needed`` gives.
    warm_at : datetime, optional
        When the machine had its warm-up run today.
    """
    said, up = prepared(job_state, run), put_up(job_state, run)
    wanted = tuple(keys)
    waits = {each.item.key: each for each in still_open(said, wanted, run.pieces)}
    touched = job_state.is_up(run) and run.touched_off
    listed = []
    for key in wanted:
        item = ITEMS[key]
        if key in said:
            listed.append(_said(item, list(said[key].values()), waits.get(key)))
        elif key == WARM_UP and warm_at is not None:
            listed.append(Listed(item, warm_at, known="run on this machine today"))
        elif key == PUT_UP and up is not None:
            listed.append(Listed(item, up.at, known="seen before it was put up", by=up.by))
        else:
            listed.append(Listed(item, known=MISSED if touched else "", pieces=_each(item, waits.get(key))))
    return listed


def _said(item: Item, entries: list[Prepared], open_item: OpenItem | None) -> Listed:
    """An item of which something was said: what is wrong before what is well, else what was said last."""
    entry = max(entries, key=lambda each: (not is_well(each), each.seq))
    return Listed(item, entry.at, answer_of(entry), by=entry.by, pieces=_each(item, open_item))


def _each(item: Item, open_item: OpenItem | None) -> tuple[int, ...]:
    return open_item.pieces if item.each and open_item is not None else ()


def comes_now(listed: list[Listed]) -> Listed | None:
    """Return what is to be done now: what was felt to be wrong first, then the list in its order."""
    waits = [row for row in listed if not row.is_done]
    return next((each for each in waits if each.is_wrong), waits[0] if waits else None)


def needed(checked: Checked) -> Iterator[str]:
    """Return the items that a set-up laid out needs, in their order."""
    built = checked.built
    in_fixture = any(True for _ in built.of_role("fixture"))
    yield from ("warm up", "stopped", "wiped", "burrs")
    if not in_fixture:
        yield "rock"
    if any(True for _ in built.of_role("shim")):
        yield "shimmed"
    yield "pushed"
    if in_fixture:
        yield "proud"
    if any(True for _ in built.of_role("backing", "support", "lead_in", "under", "clamp")):
        yield "below"
    yield "guard"
    if built.facts.coolant != "dry":
        yield "nozzle"
    yield from ("stroke", "high side")


def needed_for(checks: Iterable[str], coolant: str) -> Iterator[str]:
    """Return the items that the set-up of a slot, an angle or an edge needs, its own checks among them."""
    yield from ("warm up", "stopped", "wiped", "burrs")
    yield from checks
    yield from ("pushed", "guard")
    if coolant != "dry":
        yield "nozzle"
    yield "stroke"


def in_their_order(keys: Iterable[str]) -> list[str]:
    """Return items once each, in the order hands do them."""
    wanted = set(keys)
    return [key for key in ITEMS if key in wanted]


def needed_at_least(plan: PlanSteps, coolant: str) -> Iterator[str]:
    """Return the items that a face of the block needs whatever its layout is: by what its plan holds it with, and its
    coolant."""
    in_fixture = plan.holder != MAGNET
    yield from ("warm up", "stopped", "wiped", "burrs")
    yield from ("pushed", "proud") if in_fixture else ("rock", "pushed")
    if in_fixture or plan.of_kind("blocks"):
        yield "below"
    yield "guard"
    if coolant != "dry":
        yield "nozzle"
    yield from ("stroke", "high side")
