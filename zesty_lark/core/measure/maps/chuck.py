"""A chuck's maps over the years: when it is to be ground, and how much that takes."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

LIGHT_CUT_UM = 2.5
"""A light cut on a chuck [µm]: own estimate, a tenth."""
CLEAN_UP_UM = 2.5
"""What is taken beyond the range, so that the last low place is surely clean [µm]: own estimate."""
SOON = timedelta(days=60)
YEAR = timedelta(days=365)


@dataclass(frozen=True)
class MapInTime:
    """A map of a chuck in use: when it was taken and its range [µm]."""

    at: datetime
    range_um: float


@dataclass(frozen=True)
class Outlook:
    """Whether a chuck is to be ground.

    Attributes
    ----------
    due : bool
        Its range is over its limit.
    soon : bool
        At the rate of its last maps it will be, within two months.
    range_um, limit_um : float
    um_a_year : float or None
        How fast the range grows; ``None`` from one map.
    due_on : datetime or None
        When the limit is reached at that rate.
    take_um : float
        How much the grinding takes: the range, and a little beyond it.
    passes : int
        Light cuts that is.
    words : str
    """

    due: bool
    soon: bool
    range_um: float
    limit_um: float
    um_a_year: float | None
    due_on: datetime | None
    take_um: float
    passes: int
    words: str


def passes_for(take_um: float, cut_um: float = LIGHT_CUT_UM) -> int:
    """Return how many light cuts a depth takes."""
    return max(1, math.ceil(take_um / cut_um - 1e-9))


def outlook(maps: Sequence[MapInTime], limit_um: float, now: datetime) -> Outlook:
    """Tell when a chuck is to be ground, and how much that takes.

    Parameters
    ----------
    maps : sequence of MapInTime
        In use, oldest first, at least one; a grinding in between makes the range fall, and only what came after the
        last fall tells the rate.
    limit_um : float
        Its limit [µm].
    """
    if not maps:
        raise ValueError("at least one map is needed")
    newest, rate = maps[-1], _rate(maps)
    take = newest.range_um + CLEAN_UP_UM
    due = newest.range_um > limit_um
    at: datetime | None = None
    if not due and rate is not None and rate > 0:
        at = newest.at + YEAR * ((limit_um - newest.range_um) / rate)
    soon = at is not None and at - now <= SOON
    return Outlook(
        due,
        soon,
        newest.range_um,
        limit_um,
        rate,
        at,
        take,
        passes_for(take),
        _words(newest.range_um, limit_um, at, rate),
    )


def _rate(maps: Sequence[MapInTime]) -> float | None:
    """How fast the range grows since the chuck was last ground, by least squares [µm a year]."""
    since = list(maps)
    for number in range(len(since) - 1, 0, -1):
        if since[number].range_um < since[number - 1].range_um * 0.7:
            since = since[number:]
            break
    years = [(each.at - since[0].at) / YEAR for each in since]
    mean = sum(years) / len(years)
    spread = sum((year - mean) ** 2 for year in years)
    if len(since) < 2 or spread == 0:
        return None
    return sum((year - mean) * each.range_um for year, each in zip(years, since, strict=True)) / spread


def _words(range_um: float, limit_um: float, at: datetime | None, rate: float | None) -> str:
    state = f"Its map ranges over {range_um:.1f} µm; its limit is {limit_um:.1f}."
    if range_um > limit_um:
        return f"{state} It is due for grinding."
    if at is not None and rate is not None:
        return f"{state} At {rate:.1f} µm a year the limit is reached about {at:%B %Y}."
    return state if rate is None else f"{state} It is not getting worse."
