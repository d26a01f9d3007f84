"""Dressing: lead, overlap, what a dress takes off, and what the diamond's place does."""

import math
from dataclasses import dataclass
from decimal import ROUND_CEILING, Decimal
from typing import Annotated, Literal

from annotated_types import Ge, Le

from zesty_lark.core.quantities.numbers import Graduation, InputError, NonNegative, Positive, Rpm

SECONDS_A_MINUTE = 60.0
MARGIN_MM = Decimal("0.05")
"""What a dress takes off beyond the deepest cut since the last one [mm]."""
DIAMOND_MM = 0.8
"""The working width of a dressing diamond until somebody says another [mm]."""
MOST_A_PASS_MM = Decimal("0.05")
TILT_DEG = 12.0
OFFSET_SHARE = 0.05
"""How far past the centre line the point stands, as a share of the diameter: 9 mm on a wheel of 180."""
LEAST_SHARPNESS, MOST_SHARPNESS = 0.35, 1.4
Kind = Literal["rough", "general", "fine"]
Turns = Literal["clockwise", "counter-clockwise"]


@dataclass(frozen=True)
class Dress:
    """A way of dressing: sharpness after it, overlap, depth [mm]."""

    sharpness: float
    overlap: float
    depth_mm: float


DRESSES: dict[Literal["rough", "general", "fine"], Dress] = {
    "rough": Dress(0.5, 2.0, 0.028),
    "general": Dress(0.8, 4.0, 0.015),
    "fine": Dress(1.1, 8.0, 0.0075),
}


VOLUME_REFERENCE: dict[Literal["soft", "medium", "hard"], float] = {"soft": 500.0, "medium": 300.0, "hard": 150.0}
"""V'ref: the volume ground per mm of width after which a wheel is twice as dull, by grade [mm³/mm]."""


@dataclass(frozen=True)
class DressLead:
    """Traverse per wheel turn [mm], overlap, and which dress that is."""

    lead_mm: float
    overlap: float
    kind: Literal["rough", "general", "fine"]


def dress_lead(*, diamond_width_mm: Positive, traverse_mm_s: Positive, wheel_rpm: Rpm) -> DressLead:
    """Return the dressing lead and overlap.

    Diamond's working width [mm], traverse [mm/s], wheel [rpm]; lead = traverse·60/n, overlap = width/lead.
    Rough 1.5 to 3, general 3 to 5, fine from there.
    """
    lead = traverse_mm_s * SECONDS_A_MINUTE / wheel_rpm
    overlap = diamond_width_mm / lead
    kind: Literal["rough", "general", "fine"] = "rough" if overlap < 3 else "general" if overlap < 5.5 else "fine"
    return DressLead(lead, overlap, kind)


def sharpness(start: NonNegative, volume_mm3_mm: NonNegative, reference_mm3_mm: Positive) -> float:
    """Return S = S0·(1 + V'/V'ref): it rises with use; V' is the volume ground per mm of width in use [mm³/mm]."""
    return start * (1 + volume_mm3_mm / reference_mm3_mm)


def sharpness_after(overlap: Positive) -> float:
    """Return S0 after a dress of an overlap: 0.5 at 2, 0.8 at 4, 1.1 at 8, and between them by the logarithm."""
    return min(max(0.5 + 0.3 * math.log2(overlap / 2), LEAST_SHARPNESS), MOST_SHARPNESS)


def dress_total(deepest_mm: Decimal, graduation_mm: Decimal) -> Decimal:
    """Return what a dress takes off the radius: the deepest cut since the last one and 0.05 mm, in whole graduations
    [mm]."""
    whole = ((deepest_mm + MARGIN_MM) / graduation_mm).to_integral_value(ROUND_CEILING)
    return whole * graduation_mm


@dataclass(frozen=True)
class DressPlan:
    """A dress as it is done.

    Attributes
    ----------
    lead_mm, traverse_mm_s, seconds : float
        Along the wheel a turn [mm], how fast the diamond goes [mm/s], how long it takes across the face [s].
    depth_mm, last_mm, total_mm : Decimal
        Each pass, the last one, and all of them off the radius [mm].
    passes : int
    sharpness : float
        S0 after it.
    """

    lead_mm: float
    traverse_mm_s: float
    seconds: float
    depth_mm: Decimal
    last_mm: Decimal
    total_mm: Decimal
    passes: int
    sharpness: float


def dress_plan(
    *,
    kind: Kind,
    diamond_width_mm: Annotated[float, Ge(0.1), Le(10)],
    wheel_rpm: Rpm,
    wheel_width_mm: Positive,
    graduation_mm: Graduation,
    deepest_mm: Annotated[Decimal, Ge(0), Le(1)] = Decimal(0),
) -> DressPlan:
    """Plan a dress: how fast across, how deep, how many passes.

    Parameters
    ----------
    kind : {"rough", "general", "fine"}
        Overlap 2, 4 or 8; at most 0.028, 0.015 or 0.0075 mm a pass. The last pass of a fine one is one graduation.
    diamond_width_mm, wheel_rpm, wheel_width_mm : float
        The diamond's working width [mm], the spindle [rpm], the face [mm].
    graduation_mm, deepest_mm : Decimal
        Of the collar, and the deepest cut since the last dress [mm].

    Raises
    ------
    InputError
        If a graduation is more than a dressing pass may ever take.
    """
    if graduation_mm > MOST_A_PASS_MM:
        raise InputError("graduation_mm", f"graduation_mm must be at most {MOST_A_PASS_MM}: a dress never takes more")
    dress = DRESSES[kind]
    lead = diamond_width_mm / dress.overlap
    traverse = lead * wheel_rpm / SECONDS_A_MINUTE
    depth = max(Decimal(repr(dress.depth_mm)) // graduation_mm, Decimal(1)) * graduation_mm
    total = dress_total(deepest_mm, graduation_mm)
    light = graduation_mm if kind == "fine" and depth > graduation_mm else Decimal(0)
    passes = int(((total - light) / depth).to_integral_value(ROUND_CEILING)) + (1 if light else 0)
    last = light or total - (passes - 1) * depth
    return DressPlan(lead, traverse, wheel_width_mm / traverse, depth, last, total, passes, dress.sharpness)


@dataclass(frozen=True)
class DiamondPlace:
    """Where the diamond stands, seen from the front: on which side of the wheel's centre line and how far [mm], its
    tilt [°], and how much higher the wheel's bottom stands there than at the centre line [mm]."""

    side: Literal["left", "right", "centre"]
    offset_mm: float
    tilt_deg: float
    rise_mm: float


def diamond_place(
    *, wheel_turns: Turns, wheel_diameter_mm: Positive, offset_mm: NonNegative | None = None, shape: bool = False
) -> DiamondPlace:
    """Place the diamond: a little past the centre line the way the wheel turns at its bottom, tilted to drag.

    Parameters
    ----------
    wheel_turns : {"clockwise", "counter-clockwise"}
        Seen from the front.
    wheel_diameter_mm, offset_mm : float
        The wheel, and where the point stands where that is not the usual twentieth of it [mm].
    shape : bool
        For angles and radii the point is on the centre line: off it the form is falsified.

    Raises
    ------
    InputError
        If the point would stand beside the wheel.

    Notes
    -----
    Off centre by x the wheel's bottom is r − √(r² − x²) higher: never take a size from it.
    """
    radius = wheel_diameter_mm / 2
    offset = 0.0 if shape else wheel_diameter_mm * OFFSET_SHARE if offset_mm is None else offset_mm
    if offset >= radius:
        raise InputError("offset_mm", f"offset_mm must be under {radius:g}: the point would stand beside the wheel")
    rise = radius - math.sqrt(radius**2 - offset**2)
    side: Literal["left", "right", "centre"] = (
        "centre" if not offset else "left" if wheel_turns == "clockwise" else "right"
    )
    return DiamondPlace(side, offset, TILT_DEG, rise)
