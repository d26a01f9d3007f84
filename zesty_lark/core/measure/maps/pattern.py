"""The pattern that the wheel really left beside the one the map predicts: whether the map can be trusted, and if not,
why."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Cause = Literal["", "dirt", "holding", "heat", "mixed"]
NEAR_UM = 0.5
"""A place this near the feather line may be seen either way [µm]."""
AGREES = 0.9
"""Share of the places that has to be as predicted."""
MIDDLE = 0.3
"""How near the middle a pattern's centre of gravity counts as the middle, as a share of the extent."""
WORDS: dict[Cause, str] = {
    "": "The pattern is the one the map predicts: the map can be trusted.",
    "dirt": "It ground on one side where the map says it is low: something lifts the part there. Take it off, clean "
    "part and chuck, and look for a burr.",
    "holding": "It did not grind where the map says it stands high: the part gives way there, or dirt lifted it when "
    "it was mapped. Check the hold under that place, then map again.",
    "heat": "It ground more in the middle than the map predicts: the part bulges while it is warm. Let it cool, and "
    "look at the dress and the coolant.",
    "mixed": "The pattern is not the one the map predicts, and in no one way. Clean part and chuck, then map again.",
}


@dataclass(frozen=True)
class Pattern:
    """How a seen pattern compares.

    Attributes
    ----------
    agrees : bool
        The map can be trusted.
    share : float
        The share of the places that are as predicted, those at the feather line left out.
    extra, missing : tuple of int
        Places that were ground and should not have been; that should have been ground and were not.
    cause : str
        What the difference points to; empty when it agrees.
    words : str
        That in a sentence, with what to do.
    """

    agrees: bool
    share: float
    extra: tuple[int, ...]
    missing: tuple[int, ...]
    cause: Cause
    words: str


def compare_pattern(
    points: Sequence[Sequence[float]], depth_um: float, seen: Mapping[int, bool], *, near_um: float = NEAR_UM
) -> Pattern:
    """Compare what somebody saw with what a map predicts at a depth.

    Parameters
    ----------
    points : (n, 3) sequence
        The map: x, y [mm] and z [µm].
    depth_um : float
        How far the wheel has gone below the high point [µm].
    seen : mapping
        For each place that was looked at, by number from 0, whether it was ground.
    near_um : float
        Places as near to the feather line as this do not count [µm].
    """
    table = np.asarray(points, dtype=np.float64)
    over = table[:, 2] - (table[:, 2].max() - depth_um)
    telling = {number: ground for number, ground in seen.items() if abs(float(over[number])) > near_um}
    extra = tuple(number for number, ground in telling.items() if ground and over[number] < 0)
    missing = tuple(number for number, ground in telling.items() if not ground and over[number] > 0)
    share = 1.0 if not telling else 1 - (len(extra) + len(missing)) / len(telling)
    agrees = share >= AGREES and not _cluster(extra, missing)
    cause: Cause = "" if agrees else _cause(table, extra, missing)
    return Pattern(agrees, share, extra, missing, cause, WORDS[cause])


def _cluster(extra: tuple[int, ...], missing: tuple[int, ...]) -> bool:
    """Two places off in the same way are no slip of the eye."""
    return len(extra) > 1 or len(missing) > 1


def _cause(table: NDArray[np.float64], extra: tuple[int, ...], missing: tuple[int, ...]) -> Cause:
    if extra and missing:
        return "mixed"
    if missing:
        return "holding"
    low, high = table[:, :2].min(axis=0), table[:, :2].max(axis=0)
    off = (table[list(extra), :2].mean(axis=0) - (low + high) / 2) / np.maximum((high - low) / 2, 1e-9)
    return "heat" if float(np.abs(off).max()) <= MIDDLE else "dirt"
