"""Why a size comes up short of the collar: backlash, springs, wear and heat told apart by what each grows with.

A first step that is lost after each touch-off is backlash; what is lost with the volume ground is wear; what the
springs hold back is followed pass by pass and taken out first; what comes back when the part is cold is heat.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zesty_lark.core.quantities.units import UM_A_MM

RUNS_LEAST = 4
SURE_SHARE = 2.0
"""An effect counts when it is over so many times its own standard error."""
CM3 = 1000.0


@dataclass(frozen=True)
class SizeFigures:
    """One run between two measurements [mm], [mm³]: ``fresh`` when it began with a touch-off."""

    asked_mm: float
    got_mm: float
    held_back_mm: float
    volume_mm3: float
    fresh: bool


@dataclass(frozen=True)
class WarmAndCold:
    """The same size read warm and then cold, with no cut between [mm]."""

    warm_mm: float
    cold_mm: float


@dataclass(frozen=True)
class Cause:
    """One cause: how much, its standard error, whether it is told apart from nothing, and the evidence in words."""

    name: str
    value: float
    error: float
    told: bool
    words: str


@dataclass(frozen=True)
class ShortOf:
    """What the runs say. ``backlash`` [µm a touch-off], ``wear`` [µm a cm³], ``springs`` [µm a run, by the model]; the
    grinding ratio that the wear comes to; ``None`` where the runs cannot tell it."""

    runs: int
    backlash: Cause | None
    wear: Cause | None
    springs: Cause
    grinding_ratio: float | None


def short_of(runs: Sequence[SizeFigures], *, wheel_diameter_mm: float, wheel_width_mm: float) -> ShortOf:
    """Tell apart why sizes came up short, by least squares over runs.

    Parameters
    ----------
    runs : sequence of SizeFigures
    wheel_diameter_mm, wheel_width_mm : float
        For the grinding ratio: size lost = volume/(G·π·d·width).
    """
    held = [run.held_back_mm * UM_A_MM for run in runs]
    springs = Cause(
        "springs",
        float(np.mean(held)) if held else 0.0,
        0.0,
        bool(held) and float(np.mean(held)) > 0.1,
        f"By the passes of each run the springs held back {np.mean(held):.1f} µm in the mean; that is taken out first."
        if held
        else "No run yet.",
    )
    if len(runs) < RUNS_LEAST:
        return ShortOf(len(runs), None, None, springs, None)
    short = np.array([(each.asked_mm - each.got_mm - each.held_back_mm) * UM_A_MM for each in runs])
    fresh = np.array([float(each.fresh) for each in runs])
    volume = np.array([each.volume_mm3 / CM3 for each in runs])
    columns = [column for column in (fresh, volume) if np.ptp(column) > 0 or (column is fresh and fresh.any())]
    if not columns:
        return ShortOf(len(runs), None, None, springs, None)
    table = np.column_stack(columns)
    if np.linalg.matrix_rank(table) < len(columns):
        return ShortOf(len(runs), None, None, springs, None)
    found, *_ = np.linalg.lstsq(table, short, rcond=None)
    variance = float(np.sum((short - table @ found) ** 2)) / (len(runs) - len(columns))
    errors = np.sqrt(np.maximum(np.diag(np.linalg.inv(table.T @ table)) * variance, 0.0))
    told = {id(column): (float(v), float(e)) for column, v, e in zip(columns, found, errors, strict=True)}
    backlash = _backlash(told.get(id(fresh)), int(fresh.sum()))
    wear = _wear(told.get(id(volume)), float(np.ptp(volume)))
    ratio = None
    if wear is not None and wear.told:
        ratio = CM3 / (wear.value / UM_A_MM * math.pi * wheel_diameter_mm * wheel_width_mm)
    return ShortOf(len(runs), backlash, wear, springs, ratio)


def heat_told(pairs: Sequence[WarmAndCold]) -> Cause:
    """Tell what of a size came back when the part was cold.

    Parameters
    ----------
    pairs : sequence of WarmAndCold
    """
    if not pairs:
        return Cause(
            "heat", 0.0, 0.0, False, "No size was read warm and then cold yet: what comes back when it is cold is heat."
        )
    back = np.array([(pair.warm_mm - pair.cold_mm) * UM_A_MM for pair in pairs])
    value = float(back.mean())
    error = float(back.std(ddof=1) / math.sqrt(back.size)) if back.size > 1 else abs(value)
    times = "once" if back.size == 1 else f"{back.size} times"
    words = (
        f"Read warm and then cold with no cut between, {times}: {value:.1f} µm came back in the mean. That is heat, "
        "not any of the others: let it cool before it is measured."
    )
    return Cause("heat", value, error, _is_told(value, error), words)


def _is_told(value: float, error: float) -> bool:
    return value > SURE_SHARE * error


def _backlash(found: tuple[float, float] | None, touched: int) -> Cause | None:
    if found is None:
        return None
    value, error = found
    told = _is_told(value, error)
    words = (
        f"{touched} runs that began with a touch-off lost {value:.1f} ± {2 * error:.1f} µm once, however much was "
        "ground: back off past it and come down again."
        if told
        else f"Runs that began with a touch-off lost no more than the others ({value:.1f} ± {2 * error:.1f} µm)."
    )
    return Cause("backlash", value, error, told, words)


def _wear(found: tuple[float, float] | None, range_cm3: float) -> Cause | None:
    if found is None:
        return None
    value, error = found
    told = _is_told(value, error)
    words = (
        f"What was lost grew by {value:.2f} ± {2 * error:.2f} µm with each cm³ ground, over runs that differ by "
        f"{range_cm3:.1f} cm³: the wheel wears."
        if told
        else f"What was lost did not grow with what was ground ({value:.2f} ± {2 * error:.2f} µm a cm³)."
    )
    return Cause("wear", value, error, told, words)
