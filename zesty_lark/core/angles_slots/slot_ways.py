"""Two ways of grinding a slot's wall, side by side: with the wheel's side, and tilted to 45° with its face."""

import math
from dataclasses import dataclass
from decimal import ROUND_CEILING, Decimal
from typing import Annotated

from annotated_types import Ge, Le

from zesty_lark.core.process.springs import spark_passes_needed
from zesty_lark.core.quantities.numbers import ExactPositive, Graduation, NonNegative, Positive

SIDE_ETA = 0.28
"""η of a thin wheel pushed sideways: the middle of 0.2 to 0.35."""
FACE_ETA = 0.6
SIDE_STEP_MM, FACE_STEP_MM = Decimal("0.005"), Decimal("0.01")
ROOM_MM = 0.2
"""What a wheel needs beside the slot's wall to come clear of it [mm]."""


@dataclass(frozen=True)
class WallWay:
    """One way of taking a wall's stock: each step at the dial, how many, all of it at the dial, what a step takes off
    the wall [mm], and the passes without feed after it."""

    step_mm: Decimal
    steps: int
    at_dial_mm: Decimal
    off_wall_mm: float
    spark_passes: int


@dataclass(frozen=True)
class SlotWays:
    """Both ways, the widest wheel that turns round in the slot [mm], and whether the one asked about has room."""

    side: WallWay
    tilted: WallWay
    widest_wheel_mm: float
    has_room: bool
    first_mm: Decimal


def slot_ways(
    *,
    stock_mm: ExactPositive,
    graduation_mm: Graduation,
    slot_width_mm: Positive,
    wheel_width_mm: Positive,
    allow_um: Annotated[float, Ge(0.05), Le(100)] = 0.5,
    side_ratio: Annotated[float, Ge(0.05), Le(1)] = SIDE_ETA,
    face_ratio: Annotated[float, Ge(0.05), Le(1)] = FACE_ETA,
    both_stocks_mm: NonNegative = 0.0,
) -> SlotWays:
    """Plan a wall's stock both ways.

    Parameters
    ----------
    stock_mm, graduation_mm : Decimal
        On the wall, and of the dial that feeds [mm].
    slot_width_mm, wheel_width_mm : float
        As it is now, and the wheel's [mm].
    allow_um : float
        What may be left in the springs [µm].
    side_ratio, face_ratio : float
        η of one pass with the wheel's side, and with its face.
    both_stocks_mm : float
        What both walls together will give, so that a wheel which has no room now may have it later [mm].

    Notes
    -----
    With the side the infeed is what comes off the wall. Tilted, a downfeed D takes D·cos 45° off it. The first spark is
    crept up to in the finest steps the dial has.
    """
    cos = math.cos(math.radians(45))
    side = _way(stock_mm, graduation_mm, SIDE_STEP_MM, eta=side_ratio, share=1.0, allow_um=allow_um)
    tilted = _way(stock_mm, graduation_mm, FACE_STEP_MM, eta=face_ratio, share=cos, allow_um=allow_um)
    widest = max(slot_width_mm + both_stocks_mm - ROOM_MM, 0.0)
    return SlotWays(side, tilted, widest, wheel_width_mm <= slot_width_mm - ROOM_MM, graduation_mm)


def _way(stock: Decimal, graduation: Decimal, usual: Decimal, *, eta: float, share: float, allow_um: float) -> WallWay:
    step = max(usual // graduation, Decimal(1)) * graduation
    total = (stock / Decimal(repr(share)) / graduation).to_integral_value(ROUND_CEILING) * graduation
    steps = int((total / step).to_integral_value(ROUND_CEILING))
    sparks = spark_passes_needed(
        step_mm=float(step) * share, steps=max(1, min(steps, 1000)), cut_ratio=eta, allow_mm=allow_um / 1000
    )
    return WallWay(step, steps, total, float(step) * share, sparks)
