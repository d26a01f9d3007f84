"""Sizes as the print has them, readings, and what a reading proves (ISO 14253-1, guarded by the full U)."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import ROUND_HALF_EVEN, ROUND_UP, Decimal
from typing import Literal

from pydantic import model_validator
from pydantic.dataclasses import dataclass as checked

from zesty_lark.core.part.stock import size_goal
from zesty_lark.core.quantities.numbers import Exact, ExactNonNegative, InputError
from zesty_lark.core.quantities.steel import REFERENCE_C, STEEL_EXPANSION
from zesty_lark.core.quantities.units import MICROMETRE_MM, SMALLEST_MM

Decision = Literal["in", "out", "unsure"]
Verdict = Literal["in", "not yet", "unsure", "out"]
"""In; too big with stock still on; not to be told; what cannot be put back."""


def size_contradictions(target_mm: Decimal, tol_minus_mm: Decimal, tol_plus_mm: Decimal) -> dict[str, str]:
    """Return what of a size on the print does not go together, by field, in words.

    A zone and a position may start at 0, and go under it.
    """
    said = {}
    if tol_minus_mm + tol_plus_mm == 0:
        said["tol_plus_mm"] = "One of the two tolerances has to be more than 0."
    if target_mm and tol_minus_mm >= target_mm:
        said["tol_minus_mm"] = "The tolerance leaves nothing of the size."
    return said


@checked(frozen=True)
class Size:
    """A size on the print with its limits [mm]; checked, wherever it comes from.

    Raises
    ------
    ValueError
        If its limits do not go together.
    """

    target_mm: ExactNonNegative
    tol_minus_mm: ExactNonNegative
    tol_plus_mm: ExactNonNegative

    @model_validator(mode="after")
    def _goes_together(self) -> "Size":
        for field, words in size_contradictions(self.target_mm, self.tol_minus_mm, self.tol_plus_mm).items():
            raise ValueError(f"{field}: {words}")
        return self

    @property
    def lower_mm(self) -> Decimal:
        """Lower limit [mm]."""
        return self.target_mm - self.tol_minus_mm

    @property
    def upper_mm(self) -> Decimal:
        """Upper limit [mm]."""
        return self.target_mm + self.tol_plus_mm

    @property
    def goal_mm(self) -> Decimal:
        """The size to aim at: the middle of the zone [mm]."""
        return size_goal(target_mm=self.target_mm, tol_minus_mm=self.tol_minus_mm, tol_plus_mm=self.tol_plus_mm).goal_mm

    def zone_depths(self, stock_mm: Decimal) -> tuple[Decimal, Decimal]:
        """Return the downfeeds between which a face with this much stock over the goal is within the limits [mm]."""
        return stock_mm - (self.upper_mm - self.goal_mm), stock_mm + (self.goal_mm - self.lower_mm)

    @property
    def width_mm(self) -> Decimal:
        """Width of the tolerance zone [mm]."""
        return self.tol_minus_mm + self.tol_plus_mm


@dataclass(frozen=True)
class Reading:
    """One reading at a named place [mm]."""

    place: str
    value_mm: Decimal


def growth(length_mm: float, delta_c: float, *, expansion: float = STEEL_EXPANSION) -> float:
    """Return how much a length grows with a change of temperature, L·α·ΔT [mm]."""
    return length_mm * expansion * delta_c


def corrected(reading: Reading, part_c: Decimal, gauge_c: Decimal | None, room_c: Decimal | None) -> Reading:
    """Take a steel part's warmth out of a reading: indicated minus true is L·α·(T_part − T_gauge), at 20 °C or not.

    A gauge whose temperature nobody took lies in the room; where neither was taken it is at the reference temperature.
    """
    against = gauge_c if gauge_c is not None else room_c if room_c is not None else Decimal(repr(REFERENCE_C))
    extra = reading.value_mm * Decimal(repr(STEEL_EXPANSION)) * (part_c - against)
    return Reading(reading.place, (reading.value_mm - extra).quantize(SMALLEST_MM, ROUND_HALF_EVEN))


def verdict(value_mm: Exact, lower_mm: Exact, upper_mm: Exact, expanded_uncertainty_mm: ExactNonNegative) -> Decision:
    """Decide in, out or unsure for one value (ISO 14253-1, guarded by the full U); all [mm].

    Raises
    ------
    ValueError
        If the limits are the wrong way round or U is negative.
    """
    if lower_mm > upper_mm:
        raise InputError("lower_mm", "lower_mm must not be over upper_mm")
    if expanded_uncertainty_mm < 0:
        raise InputError("expanded_uncertainty_mm", "expanded_uncertainty_mm must not be negative")
    if lower_mm + expanded_uncertainty_mm <= value_mm <= upper_mm - expanded_uncertainty_mm:
        return "in"
    if value_mm < lower_mm - expanded_uncertainty_mm or value_mm > upper_mm + expanded_uncertainty_mm:
        return "out"
    return "unsure"


def judge_zone(
    readings: Sequence[Reading], allowed_mm: Decimal, uncertainty_mm: Decimal, *, overdue: bool = False
) -> Verdict:
    """Judge what only has an upper limit - square, flat, parallel, a roughness - by its worst reading [mm].

    Raises
    ------
    ValueError
        If there is no reading.
    """
    if not readings:
        raise ValueError("at least one reading is needed")
    worst = max(reading.value_mm for reading in readings)
    if worst - uncertainty_mm > allowed_mm:
        return "out"
    return "in" if worst + uncertainty_mm <= allowed_mm and not overdue else "unsure"


def parallel_decision(spread_mm: Decimal, allowed_mm: Decimal, uncertainty_mm: Decimal) -> Decision:
    """Compare two readings of one gauge: its common errors cancel, what is left is about √2·U/2.

    The guard is rounded up to 0.1 µm; a spread surely within what is allowed is in.
    """
    guard = (uncertainty_mm * Decimal("0.7072")).quantize(MICROMETRE_MM / 10, ROUND_UP)
    if spread_mm + guard <= allowed_mm:
        return "in"
    return "out" if spread_mm - guard > allowed_mm else "unsure"
