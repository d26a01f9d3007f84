"""Slots: each wall's own stock, and what a lift under one end does to a slot ground in two settings."""

from dataclasses import dataclass
from decimal import Decimal

from zesty_lark.core.quantities.numbers import ExactNonNegative, ExactPositive, InputError, NonNegative, Positive


@dataclass(frozen=True)
class SlotPlan:
    """Stock of each wall and of both [mm]; when it cannot be held, the least position and width errors."""

    left_stock_mm: Decimal
    right_stock_mm: Decimal
    total_mm: Decimal
    possible: bool
    best_position_error_mm: Decimal
    best_width_error_mm: Decimal
    why: str


@dataclass(frozen=True)
class FlipTaper:
    """Taper along the wall and over its depth [mm]."""

    along_mm: float
    depth_mm: float


def slot_plan(
    *,
    datum_to_left_mm: ExactNonNegative,
    datum_to_right_mm: ExactPositive,
    centre_mm: ExactPositive,
    width_mm: ExactPositive,
) -> SlotPlan:
    """Share out a slot's stock: walls as distances from one datum, left smaller; wanted centre and width; exact [mm].

    Raises
    ------
    InputError
        If the right wall is not beyond the left one.

    Notes
    -----
    left = left wall − wanted left wall; right = wanted right − right wall. Where one is negative the slot is already
    too far on that side: it can be held in width off its position, or in position too wide.
    """
    if datum_to_right_mm <= datum_to_left_mm:
        raise InputError("datum_to_right_mm", "datum_to_right_mm must be over datum_to_left_mm")
    left = datum_to_left_mm - (centre_mm - width_mm / 2)
    right = centre_mm + width_mm / 2 - datum_to_right_mm
    total = left + right
    lacking = max(-left, -right, Decimal(0))
    if lacking == 0:
        return SlotPlan(left, right, total, True, Decimal(0), Decimal(0), "Both walls have stock.")
    too_wide = max(-total, Decimal(0))
    position = lacking if total >= 0 else abs(left - right) / 2
    width = 2 * lacking
    side = "left" if left <= right else "right"
    why = (
        f"The {side} wall lacks {lacking.normalize():f} mm: keep the width and be off position, "
        "or keep the position and be too wide."
        if too_wide == 0
        else f"The slot is {too_wide.normalize():f} mm too wide already."
    )
    return SlotPlan(left, right, total, False, position, width if too_wide == 0 else max(width, too_wide), why)


def slot_flip_taper(
    *, seat_lift_mm: NonNegative, seat_span_mm: Positive, wall_length_mm: Positive, wall_depth_mm: Positive
) -> FlipTaper:
    """Return what dirt under one end of the outer side in one of two settings does: lift/span × length, × depth
    [mm]."""
    slope = seat_lift_mm / seat_span_mm
    return FlipTaper(slope * wall_length_mm, slope * wall_depth_mm)
