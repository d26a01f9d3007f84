"""Wheel speed: a stop, never a caution, above the marked maximum."""

import math
from dataclasses import dataclass

from zesty_lark.core.quantities.numbers import InputError, Positive, Rpm

MM_PER_MIN_TO_M_PER_S = 1 / 60_000


@dataclass(frozen=True)
class WheelSpeed:
    """Surface speed [m/s], the most the marking allows [rpm] [m/s], the share used, and whether it may run."""

    speed_m_s: float
    max_rpm: float
    max_speed_m_s: float
    share: float
    may_run: bool
    new_speed_m_s: float | None
    why: str


def surface_speed(diameter_mm: float, rpm: float) -> float:
    """Return vs = π·d·n/60000 [m/s]."""
    return math.pi * diameter_mm * rpm * MM_PER_MIN_TO_M_PER_S


def wheel_speed(
    *,
    wheel_diameter_mm: Positive,
    wheel_rpm: Rpm,
    marked_max_rpm: Rpm | None = None,
    marked_max_m_s: Positive | None = None,
    new_diameter_mm: Positive | None = None,
) -> WheelSpeed:
    """Check a wheel's speed against its marking.

    Parameters
    ----------
    wheel_diameter_mm, wheel_rpm : float
        The wheel as it is [mm] and the spindle [rpm].
    marked_max_rpm, marked_max_m_s : float, optional
        What the wheel is marked with; at least one, the stricter counts [rpm] [m/s].
    new_diameter_mm : float, optional
        Its diameter when new, to show what wear has taken off the speed [mm].

    Raises
    ------
    InputError
        If the wheel is marked with neither: then it may not be mounted.
    """
    if marked_max_rpm is None and marked_max_m_s is None:
        raise InputError("marked_max_rpm", "marked_max_rpm or marked_max_m_s is needed: a wheel without is not mounted")
    speed = surface_speed(wheel_diameter_mm, wheel_rpm)
    a_turn = surface_speed(wheel_diameter_mm, 1.0)
    limits = [marked_max_rpm] if marked_max_rpm is not None else []
    if marked_max_m_s is not None:
        limits.append(marked_max_m_s / a_turn)
    most = min(limits)
    may = wheel_rpm <= most
    why = (
        f"{wheel_rpm:.0f} rpm is within the marked {most:.0f} rpm."
        if may
        else f"{wheel_rpm:.0f} rpm is over the marked {most:.0f} rpm. It must not be run; nobody can release it."
    )
    new = surface_speed(new_diameter_mm, wheel_rpm) if new_diameter_mm is not None else None
    return WheelSpeed(speed, most, most * a_turn, wheel_rpm / most, may, new, why)
