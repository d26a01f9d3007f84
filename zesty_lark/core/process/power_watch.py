"""Spindle power while a wheel dulls: the dullness it tells, how hot that gets, how much is left to grind before burn.

u = P/Q, and u = u_chip + u_rub·S·λ·(h_ref/h_eq)^0.5: what the meter shows over its idle solved for S, pass by pass. S
rises straight with V' (the wheel's use); where the line through the passes meets the S at which the surface would reach
the share of its limit that the plan keeps, the wheel is dressed before.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from zesty_lark.core.process.evaluate import STANDARD, Condition, Coolant, evaluate, fluid_of, kinematics, rubbing

CAUTION_SHARE, STOP_SHARE = 0.75, 1.0
"""Shares of the limit at which a roughing pass is warned of and stopped."""
RISE_SHARE = 0.25
"""So much over what a fresh wheel would take counts as rising."""
LEAST_W = 20.0
DULLEST = 12.0
STEPS = 48


@dataclass(frozen=True)
class PassPower:
    """A pass as the meter saw it: the power over idle [W], what it took [mm], its settings [mm] [mm/s], the edge's
    width [mm] and the wheel's use V' then [mm³/mm]."""

    power_w: float
    depth_mm: float
    crossfeed_mm: float
    table_mm_s: float
    edge_mm: float
    volume_mm3_mm: float


@dataclass(frozen=True)
class Spindle:
    """What turns: the wheel's diameter [mm], its speed [rpm], the coolant, and what the meter shows idling [W]."""

    wheel_diameter_mm: float
    wheel_rpm: float
    coolant: Coolant
    idle_w: float = 0.0


@dataclass(frozen=True)
class PowerWatch:
    """What the meter tells.

    Attributes
    ----------
    dullness, expected : float
        S by the meter, and as the wheel's use alone would have it.
    temperature_c, limit_c : float
        Of the contact at that S, and what the steel bears.
    volume_left_mm3_mm : float or None
        V' still to go until the caution; ``None`` when it does not rise.
    state : {"well", "rising", "caution", "stop"}
    """

    dullness: float
    expected: float
    temperature_c: float
    limit_c: float
    volume_left_mm3_mm: float | None
    state: Literal["well", "rising", "caution", "stop"]


def watch_power(
    passes: Sequence[PassPower], spindle: Spindle, *, fresh: float, reference_mm3_mm: float, limit_c: float
) -> PowerWatch | None:
    """Return what the meter tells of the passes since the last dress, oldest first; ``None`` when it tells nothing.

    Parameters
    ----------
    passes : sequence of PassPower
    spindle : Spindle
    fresh : float
        S0 after the last dress.
    reference_mm3_mm : float
        V'ref of the wheel's grade.
    limit_c : float
        What the steel bears for a moment [°C].
    """
    told = [
        (one_pass, dullness_of(one_pass, spindle))
        for one_pass in passes
        if one_pass.power_w - spindle.idle_w >= LEAST_W and one_pass.depth_mm > 0
    ]
    if not told:
        return None
    last, found = told[-1]
    now, slope = _line([(each.volume_mm3_mm, s) for each, s in told], fresh)
    dull = max(now, min(found, DULLEST)) if len(told) < 3 else now
    expected = fresh * (1 + last.volume_mm3_mm / reference_mm3_mm)
    hot = _temperature(last, dull, spindle)
    left = None
    if slope > 0:
        caution = _dullness_at(last, CAUTION_SHARE * limit_c, spindle)
        left = max(0.0, (caution - dull) / slope)
    share = hot / limit_c
    state: Literal["well", "rising", "caution", "stop"] = "well"
    if share >= STOP_SHARE:
        state = "stop"
    elif share >= CAUTION_SHARE:
        state = "caution"
    elif dull > expected * (1 + RISE_SHARE):
        state = "rising"
    return PowerWatch(dull, expected, hot, limit_c, left, state)


def dullness_of(seen: PassPower, spindle: Spindle) -> float:
    """Return the S at which a pass takes the power that the meter showed; 0 where it shows less than the chips need."""
    given = Condition(
        spindle.wheel_diameter_mm,
        spindle.wheel_rpm,
        seen.table_mm_s,
        seen.depth_mm,
        seen.crossfeed_mm,
        seen.edge_mm,
        1.0,
    )
    cut = kinematics(given, STANDARD)
    u = (seen.power_w - spindle.idle_w) / cut.removal_rate_mm3_s
    rubs = STANDARD.u_rub * fluid_of(spindle.coolant).lubrication * rubbing(STANDARD, cut)
    return max(0.0, (u - STANDARD.u_chip) / rubs)


def _line(told: Sequence[tuple[float, float]], fresh: float) -> tuple[float, float]:
    """The straight line of S over V' from the fresh wheel through what was told: S at the last, and the slope."""
    volume = np.array([each for each, _ in told])
    over = np.array([s for _, s in told]) - fresh
    squares = float(volume @ volume)
    slope = float(volume @ over) / squares if squares > 0 else 0.0
    return fresh + slope * float(volume[-1]), slope


def _temperature(seen: PassPower, dull: float, spindle: Spindle) -> float:
    made = evaluate(
        wheel_diameter_mm=spindle.wheel_diameter_mm,
        wheel_rpm=spindle.wheel_rpm,
        table_mm_s=seen.table_mm_s,
        depth_mm=seen.depth_mm,
        crossfeed_mm=seen.crossfeed_mm,
        edge_width_mm=seen.edge_mm,
        sharpness=max(dull, 1e-3),
        coolant=spindle.coolant,
    )
    return made.surface_temperature_c


def _dullness_at(seen: PassPower, limit_c: float, spindle: Spindle) -> float:
    """The S at which a pass like this one reaches a temperature, by halving."""
    low, high = 0.0, DULLEST
    for _ in range(STEPS):
        middle = (low + high) / 2
        if _temperature(seen, middle, spindle) < limit_c:
            low = middle
        else:
            high = middle
    return (low + high) / 2
