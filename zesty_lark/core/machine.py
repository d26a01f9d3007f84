"""A grinder and a wheel as far as planning needs them."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from zesty_lark.core.layout import FeedEvery
from zesty_lark.core.units import Unit

__all__ = ["Coolant", "Machine", "Wheel"]

Coolant = Literal["dry", "mist", "water", "oil"]


@dataclass(frozen=True)
class Machine:
    """A surface grinder.

    Attributes
    ----------
    dial_unit : {"mm", "in"}
        What its collar is cut in.
    graduation_mm, per_rev_mm : Decimal
        Downfeed graduation and distance a revolution [mm].
    backlash_mm : Decimal
        Known backlash of the downfeed [mm].
    crossfeed_graduation_mm, crossfeed_min_mm, crossfeed_max_mm : Decimal
        Side step: its graduation and range [mm].
    table_min_mm_s, table_max_mm_s : Decimal
        Table speed range [mm/s].
    reversal_s : float
        Time lost at each reversal [s].
    travel_long_mm, travel_cross_mm, height_mm : Decimal
        Travel along and across, and room under the wheel [mm].
    cut_ratio : float
        Share η of what is asked that one wipe takes.
    feed_every : {"stroke", "pair"}
        Side step at each end or at one end only.
    coolant : {"dry", "mist", "water", "oil"}
        What reaches the wheel.
    """

    dial_unit: Unit
    graduation_mm: Decimal
    per_rev_mm: Decimal
    backlash_mm: Decimal
    crossfeed_graduation_mm: Decimal
    crossfeed_min_mm: Decimal
    crossfeed_max_mm: Decimal
    table_min_mm_s: Decimal
    table_max_mm_s: Decimal
    reversal_s: float
    travel_long_mm: Decimal
    travel_cross_mm: Decimal
    height_mm: Decimal
    cut_ratio: float
    feed_every: FeedEvery
    coolant: Coolant


@dataclass(frozen=True)
class Wheel:
    """A wheel as it is mounted: its size [mm], and the grit and grade letter of its marking."""

    diameter_mm: Decimal
    width_mm: Decimal
    grit: int
    grade: str
