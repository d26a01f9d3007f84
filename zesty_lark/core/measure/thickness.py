"""Thickness: its uncertainty by GUM, and the verdict in, out or unsure.

Uncertainty follows JCGM 100 with k = 2; decisions follow ISO 14253-1, guarded by the full U.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import ROUND_HALF_EVEN, ROUND_UP, Decimal
from typing import Literal

from uncertainties import ufloat

from zesty_lark.core.measure.cooling import REFERENCE_C, STEEL_EXPANSION
from zesty_lark.core.quantities import Exact, ExactNonNegative, InputError
from zesty_lark.core.units import MICROMETRE_MM, SMALLEST_MM

__all__ = [
    "COVERAGE", "HOT_SHARE", "Gauge", "Judgement", "Reading", "Size", "Verdict",
    "at_reference", "expanded_uncertainty", "growth", "is_hot", "judge", "verdict",
]

Verdict = Literal["in", "out", "unsure"]

COVERAGE = 2
"""Coverage factor k of every expanded uncertainty."""

TEMPERATURE_U_C = 0.5
"""Standard uncertainty of a part's temperature that was not measured, in a tempered shop [K]."""

HOT_SHARE = 0.1
"""A part counts as hot when its growth over the reference is more than this share of the tolerance."""

_RECTANGLE = 3**0.5
_U_KEPT = Decimal("0.00001")


@dataclass(frozen=True)
class Gauge:
    """What an instrument brings to the uncertainty; all [mm].

    Attributes
    ----------
    resolution_mm : Decimal
        The smallest step it shows.
    error_limit_mm : Decimal
        Its stated error, plus or minus.
    calibration_u_mm : Decimal
        Expanded uncertainty (k = 2) of its calibration or of the master it is set to.
    repeatability_mm : Decimal
        Standard deviation of one reading, lifted and replaced.
    overdue : bool
        Its calibration has run out: a verdict from it is at most "unsure".
    """

    resolution_mm: Decimal
    error_limit_mm: Decimal
    calibration_u_mm: Decimal
    repeatability_mm: Decimal
    overdue: bool = False


@dataclass(frozen=True)
class Size:
    """A size on the print with its limits [mm]."""

    target_mm: Decimal
    tol_minus_mm: Decimal
    tol_plus_mm: Decimal

    @property
    def lower_mm(self) -> Decimal:
        """Lower limit [mm]."""
        return self.target_mm - self.tol_minus_mm

    @property
    def upper_mm(self) -> Decimal:
        """Upper limit [mm]."""
        return self.target_mm + self.tol_plus_mm

    def zone_depths(self, stock_mm: Decimal) -> tuple[Decimal, Decimal]:
        """Return the downfeeds between which a face with this much stock over the target is within the limits [mm]."""
        return stock_mm - self.tol_plus_mm, stock_mm + self.tol_minus_mm

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


def at_reference(reading: Reading, part_c: Decimal) -> Reading:
    """Bring a reading of a steel part at ``part_c`` [°C] to 20 °C: indicated minus true is L·α·(T − 20).

    The instrument is taken to be at the reference temperature.
    """
    extra = reading.value_mm * Decimal(repr(STEEL_EXPANSION)) * (part_c - Decimal(repr(REFERENCE_C)))
    return Reading(reading.place, (reading.value_mm - extra).quantize(SMALLEST_MM, ROUND_HALF_EVEN))


def is_hot(length_mm: float, part_c: float, tolerance_width_mm: float) -> bool:
    """Tell whether a part at ``part_c`` [°C] is too warm to be called in."""
    return growth(length_mm, part_c - REFERENCE_C) > HOT_SHARE * tolerance_width_mm


def expanded_uncertainty(
    gauge: Gauge, length_mm: float, *, readings_each: int = 1, temperature_u_c: float = TEMPERATURE_U_C
) -> Decimal:
    """Return the expanded uncertainty U of a thickness, k = 2, rounded up to 0.01 µm [mm].

    Parameters
    ----------
    gauge : Gauge
        The instrument.
    length_mm : float
        The thickness measured [mm].
    readings_each : int
        How many readings the value at a place is the mean of.
    temperature_u_c : float
        Standard uncertainty of the difference to the reference temperature [K].

    Raises
    ------
    ValueError
        If there is no reading, or the length is not over 0.

    Notes
    -----
    Resolution and stated error are rectangular (½ step, ± limit); calibration is U/2; repeatability s/√n;
    temperature u(ΔT)·α·L. Root-sum-square by propagation.
    """
    if readings_each < 1:
        raise ValueError("readings_each must be at least 1")
    if not length_mm > 0:
        raise ValueError("length_mm must be over 0")
    value = (
        length_mm
        + ufloat(0, float(gauge.resolution_mm) / 2 / _RECTANGLE)
        + ufloat(0, float(gauge.error_limit_mm) / _RECTANGLE)
        + ufloat(0, float(gauge.calibration_u_mm) / COVERAGE)
        + ufloat(0, float(gauge.repeatability_mm) / readings_each**0.5)
        - length_mm * STEEL_EXPANSION * ufloat(0, temperature_u_c)
    )
    return Decimal(repr(COVERAGE * float(value.std_dev))).quantize(_U_KEPT, ROUND_UP)


def verdict(value_mm: Exact, lower_mm: Exact, upper_mm: Exact, expanded_uncertainty_mm: ExactNonNegative) -> Verdict:
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


@dataclass(frozen=True)
class Judgement:
    """What the readings of a thickness come to; lengths [mm].

    Attributes
    ----------
    verdict : {"in", "out", "unsure"}
        The worst of all places; never "in" for a hot part or an overdue gauge.
    greatest, least : Reading
        The thickest and the thinnest place.
    spread_mm : Decimal
        Greatest less least: out of parallel.
    parallel : {"in", "out", "unsure"} or None
        The spread against the parallelism asked for, where one is.
    uncertainty_mm : Decimal
        U of each value, k = 2.
    remaining_mm : Decimal
        What the thickest place has over the target; negative below it.
    under : bool
        Some place is surely below the lower limit: it cannot be put back.
    over : bool
        The thickest place is surely above the upper limit: there is still something to take.
    hot, overdue : bool
        Why an "in" was held back.
    hopeless : bool
        2U is more than the tolerance: nothing could be in with this gauge.
    """

    verdict: Verdict
    greatest: Reading
    least: Reading
    spread_mm: Decimal
    parallel: Verdict | None
    uncertainty_mm: Decimal
    remaining_mm: Decimal
    under: bool
    over: bool
    hot: bool
    overdue: bool
    hopeless: bool


def judge(
    readings: Sequence[Reading],
    size: Size,
    uncertainty_mm: Decimal,
    *,
    parallel_mm: Decimal | None = None,
    hot: bool = False,
    overdue: bool = False,
) -> Judgement:
    """Judge a thickness from readings at several places; the verdict takes the worst.

    Parameters
    ----------
    readings : sequence of Reading
        At least one.
    size : Size
        What the print asks.
    uncertainty_mm : Decimal
        Expanded uncertainty of each value [mm].
    parallel_mm : Decimal, optional
        Parallelism the print asks [mm].
    hot, overdue : bool
        The part is warm, or the gauge is past its date: then never "in".

    Raises
    ------
    ValueError
        If there is no reading.
    """
    if not readings:
        raise ValueError("at least one reading is needed")
    greatest = max(readings, key=lambda reading: reading.value_mm)
    least = min(readings, key=lambda reading: reading.value_mm)
    verdicts = {verdict(each.value_mm, size.lower_mm, size.upper_mm, uncertainty_mm) for each in (greatest, least)}
    spread = greatest.value_mm - least.value_mm
    parallel = None
    if parallel_mm is not None and len(readings) > 1:
        parallel = _parallel(spread, parallel_mm, uncertainty_mm)
        verdicts.add(parallel)
    if hot or overdue:
        verdicts.add("unsure")
    worst: Verdict = "out" if "out" in verdicts else "unsure" if "unsure" in verdicts else "in"
    return Judgement(
        verdict=worst,
        greatest=greatest,
        least=least,
        spread_mm=spread,
        parallel=parallel,
        uncertainty_mm=uncertainty_mm,
        remaining_mm=greatest.value_mm - size.target_mm,
        under=least.value_mm < size.lower_mm - uncertainty_mm,
        over=greatest.value_mm > size.upper_mm + uncertainty_mm,
        hot=hot,
        overdue=overdue,
        hopeless=2 * uncertainty_mm > size.width_mm,
    )


def _parallel(spread_mm: Decimal, allowed_mm: Decimal, uncertainty_mm: Decimal) -> Verdict:
    """Compare two readings of one gauge: its common errors cancel, what is left is about √2·U/2.

    The guard is rounded up to 0.1 µm; a spread surely within what is allowed is in.
    """
    guard = (uncertainty_mm * Decimal("0.7072")).quantize(MICROMETRE_MM / 10, ROUND_UP)
    if spread_mm + guard <= allowed_mm:
        return "in"
    return "out" if spread_mm - guard > allowed_mm else "unsure"
