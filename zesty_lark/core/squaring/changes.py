"""What differs between two states of a plan, in the words of its figures."""

from collections.abc import Mapping
from dataclasses import dataclass

SAME_SHARE = 0.005
"""Figures that differ by less than this share are the same for the eye."""

Figure = float | str | None


@dataclass(frozen=True)
class Change:
    """A figure that differs: what of (a face, a relation, the shop), which figure, and both values."""

    of: str
    what: str
    before: Figure
    after: Figure


def differences(before: Mapping[str, Mapping[str, Figure]], after: Mapping[str, Mapping[str, Figure]]) -> list[Change]:
    """Return every figure that differs between two states: ``{of: {what: value}}`` each; what only one has counts
    too."""
    found = []
    for of in dict.fromkeys([*before, *after]):
        one, other = before.get(of, {}), after.get(of, {})
        found += [
            Change(of, what, one.get(what), other.get(what))
            for what in dict.fromkeys([*one, *other])
            if not _same(one.get(what), other.get(what))
        ]
    return found


def moved(changes: list[Change]) -> list[str]:
    """Return what the changes are about, once each."""
    return list(dict.fromkeys(change.of for change in changes))


def _same(one: Figure, other: Figure) -> bool:
    if isinstance(one, int | float) and isinstance(other, int | float):
        return abs(one - other) <= SAME_SHARE * max(abs(one), abs(other))
    return one == other
