"""Thickness: its uncertainty by GUM, and the verdict in, out or unsure.

Uncertainty follows JCGM 100 with k = 2; decisions follow ISO 14253-1, guarded by the full U.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from zesty_lark.core.measure.budget import COVERAGE, RECTANGLE, Budget, budget_of
from zesty_lark.core.measure.instruments import Instrument
from zesty_lark.core.part.sizes import Decision, Reading, Size, Verdict, growth, parallel_decision, verdict
from zesty_lark.core.quantities.steel import STEEL_EXPANSION
from zesty_lark.core.quantities.units import UM_A_MM

TEMPERATURE_U_C = 0.5
"""Standard uncertainty of a part's temperature that was not measured, in a tempered shop [K]."""

TAKEN_TEMPERATURE_U_C = 0.3
"""Standard uncertainty of a difference of temperatures that were taken [K]."""

HOT_SHARE = 0.1
"""A part counts as warm when it has grown over the room by more than this share of the tolerance."""


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

    @classmethod
    def of(cls, instrument: Instrument, today: date) -> "Gauge":
        """Return what an instrument of the shop brings on a day."""
        return cls(
            instrument.resolution_mm,
            instrument.error_limit_mm,
            instrument.calibration_u_mm,
            instrument.repeatability_mm,
            overdue=today > instrument.due_on,
        )


def is_hot(length_mm: float, part_c: float, room_c: float, tolerance_width_mm: float) -> bool:
    """Tell whether a part is so much warmer than the room [°C] that it is not called in: it is still shrinking."""
    return growth(length_mm, part_c - room_c) > HOT_SHARE * tolerance_width_mm


def temperature_u(*, taken: bool, rise_c: float = 0.0) -> float:
    """Return the standard uncertainty of the difference between part and gauge [K].

    A degree nobody took is part of it: a part just ground may be as much warmer as its plan predicts (rectangular).
    """
    return TAKEN_TEMPERATURE_U_C if taken else math.hypot(TEMPERATURE_U_C, rise_c / RECTANGLE)


def size_budget(
    gauge: Gauge, length_mm: float, *, readings_each: int = 1, temperature_u_c: float = TEMPERATURE_U_C
) -> Budget:
    """Return the uncertainty budget of a size read directly.

    Parameters
    ----------
    gauge : Gauge
        The instrument.
    length_mm : float
        The size measured [mm].
    readings_each : int
        How many readings the value at a place is the mean of.
    temperature_u_c : float
        Standard uncertainty of the difference to the reference temperature [K].

    Raises
    ------
    ValueError
        If there is no reading, or the length is not over 0.
    """
    if readings_each < 1:
        raise ValueError("readings_each must be at least 1")
    if not length_mm > 0:
        raise ValueError("length_mm must be over 0")
    return budget_of(
        [
            ("resolution", float(gauge.resolution_mm) / 2 / RECTANGLE * UM_A_MM),
            ("stated error", float(gauge.error_limit_mm) / RECTANGLE * UM_A_MM),
            ("calibration", float(gauge.calibration_u_mm) / COVERAGE * UM_A_MM),
            ("repeatability", float(gauge.repeatability_mm) / math.sqrt(readings_each) * UM_A_MM),
            ("temperature", length_mm * STEEL_EXPANSION * temperature_u_c * UM_A_MM),
        ]
    )


def form_budget(gauge: Gauge, *, plate_um: float = 0.0) -> Budget:
    """Return the budget of a deviation of form: square, flat, parallel; over next to no length, by the difference of
    two readings, on a plate that is itself within ``plate_um`` there."""
    return budget_of(
        [
            ("resolution", float(gauge.resolution_mm) / 2 / RECTANGLE * UM_A_MM),
            ("stated error", float(gauge.error_limit_mm) / RECTANGLE * UM_A_MM),
            ("calibration", float(gauge.calibration_u_mm) / COVERAGE * UM_A_MM),
            ("repeatability", float(gauge.repeatability_mm) * UM_A_MM),
            ("plate", plate_um / 2 / RECTANGLE),
        ]
    )


def reading_u_um(gauge: Gauge) -> float:
    """Return the standard uncertainty of one reading: step, stated error, calibration, repeatability [µm]."""
    return float(form_budget(gauge).expanded_mm) * UM_A_MM / COVERAGE


def expanded_uncertainty(
    gauge: Gauge, length_mm: float, *, readings_each: int = 1, temperature_u_c: float = TEMPERATURE_U_C
) -> Decimal:
    """Return U of a size read directly, k = 2, rounded up to 0.01 µm [mm]; as ``size_budget``."""
    return size_budget(gauge, length_mm, readings_each=readings_each, temperature_u_c=temperature_u_c).expanded_mm


@dataclass(frozen=True)
class Judgement:
    """What the readings of a thickness come to; lengths [mm].

    Attributes
    ----------
    verdict : {"in", "not yet", "unsure", "out"}
        The worst of all places; never "in" for a warm part or an overdue gauge. Too big by more than U with stock still
        on is "not yet"; "out" is what cannot be put back.
    greatest, least : Reading
        The thickest and the thinnest place.
    spread_mm : Decimal
        Greatest less least: out of parallel.
    parallel : {"in", "out", "unsure"} or None
        The spread against the parallelism asked for, where one is.
    uncertainty_mm : Decimal
        U of each value, k = 2.
    remaining_mm : Decimal
        What the thickest place has over the goal; negative below it.
    under : bool
        Some place is surely below the lower limit: it cannot be put back.
    over : bool
        The thickest place is surely above the upper limit: there is still something to take.
    hot, overdue : bool
        Why an "in" was held back.
    hopeless : bool
        2U is more than the tolerance: nothing could be in with this gauge.
    grows : bool
        The size becomes more as it is ground: ``greatest`` is the narrowest place then, ``least`` the widest.
    """

    verdict: Verdict
    greatest: Reading
    least: Reading
    spread_mm: Decimal
    parallel: Decision | None
    uncertainty_mm: Decimal
    remaining_mm: Decimal
    under: bool
    over: bool
    hot: bool
    overdue: bool
    hopeless: bool
    grows: bool = False


def judge(
    readings: Sequence[Reading],
    size: Size,
    uncertainty_mm: Decimal,
    *,
    goal_mm: Decimal | None = None,
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
    goal_mm : Decimal, optional
        The size aimed at; the middle of the zone without it [mm].
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
    decisions = {verdict(each.value_mm, size.lower_mm, size.upper_mm, uncertainty_mm) for each in (greatest, least)}
    spread = greatest.value_mm - least.value_mm
    parallel = None
    if parallel_mm is not None and len(readings) > 1:
        parallel = parallel_decision(spread, parallel_mm, uncertainty_mm)
    under = least.value_mm < size.lower_mm - uncertainty_mm
    over = greatest.value_mm > size.upper_mm + uncertainty_mm
    held_back = hot or overdue or "unsure" in decisions
    word: Verdict = (
        "out"
        if under
        else "not yet"
        if over
        else "out"
        if parallel == "out" and not hot and not overdue
        else "unsure"
        if held_back or parallel in ("out", "unsure")
        else "in"
    )
    return Judgement(
        verdict=word,
        greatest=greatest,
        least=least,
        spread_mm=spread,
        parallel=parallel,
        uncertainty_mm=uncertainty_mm,
        remaining_mm=greatest.value_mm - (size.goal_mm if goal_mm is None else goal_mm),
        under=under,
        over=over,
        hot=hot,
        overdue=overdue,
        hopeless=2 * uncertainty_mm > size.width_mm,
    )
