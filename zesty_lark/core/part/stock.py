"""Stock across a pair of faces: how it is shared, and whether the faces clean up."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from zesty_lark.core.quantities.numbers import ExactNonNegative, ExactPositive, ExactShare, InputError

MILL_FIRST_MM = Decimal("0.25")
"""Soft material further out of parallel or square than this belongs on the mill first (about 0.010 in) [mm]."""
LONG_ROUGHING_MIN = 60.0
"""Roughing that takes longer belongs on the mill, or before the lead [min]."""

CleanUp = Literal["cleans up", "may clean up", "does not"]


@dataclass(frozen=True)
class Goal:
    """The size to aim at, and half the width of the tolerance zone round it [mm]."""

    goal_mm: Decimal
    half_tolerance_mm: Decimal


def size_goal(*, target_mm: ExactPositive, tol_minus_mm: ExactNonNegative, tol_plus_mm: ExactNonNegative) -> Goal:
    """Return the middle of the tolerance zone: target + (plus − minus)/2 [mm].

    Raises
    ------
    InputError
        If the minus tolerance leaves nothing of the size.
    """
    if tol_minus_mm >= target_mm:
        raise InputError("tol_minus_mm", "tol_minus_mm must be under target_mm")
    return Goal(target_mm + (tol_plus_mm - tol_minus_mm) / 2, (tol_plus_mm + tol_minus_mm) / 2)


@dataclass(frozen=True)
class StockSplit:
    """How the stock of a pair is shared; all lengths exact [mm].

    Attributes
    ----------
    total_stock_mm : Decimal
        Greatest measured thickness less the target; negative when there is nothing to grind.
    first_face_mm, second_face_mm : Decimal
        What each face takes, never negative.
    spare_mm : Decimal
        What is over once both faces have their clean-up and skin; negative when it is short.
    cleans_up, cleans_up_within_tolerance : bool
        Whether both faces clean up at the target, or at least within the tolerance.
    contradiction : bool
        The two clean-ups add up to less than the thickness varies: one of the three is wrong.
    answer : {"cleans up", "may clean up", "does not"}
        By the sum of both clean-ups (at the target, or as the tolerance allows); or only if the second face, standing
        on a true first one, needs no more than its own form: map it; or not at all.
    """

    total_stock_mm: Decimal
    first_face_mm: Decimal
    second_face_mm: Decimal
    spare_mm: Decimal
    cleans_up: bool
    cleans_up_within_tolerance: bool
    contradiction: bool
    answer: CleanUp


def split(
    *,
    measured_max_mm: ExactPositive,
    measured_min_mm: ExactPositive,
    target_mm: ExactPositive,
    tol_minus_mm: ExactNonNegative,
    tol_plus_mm: ExactNonNegative,
    first_cleanup_mm: ExactNonNegative,
    second_cleanup_mm: ExactNonNegative,
    min_skin_mm: ExactNonNegative,
    first_share: ExactShare | None = None,
) -> StockSplit:
    """Share the stock of a pair between its first and its second face.

    Parameters
    ----------
    measured_max_mm, measured_min_mm : Decimal
        Greatest and least measured thickness [mm].
    target_mm, tol_minus_mm, tol_plus_mm : Decimal
        The size wanted and its tolerance, both as positive amounts [mm].
    first_cleanup_mm, second_cleanup_mm : Decimal
        High minus low of each face [mm].
    min_skin_mm : Decimal
        The extra below clean-up, per face [mm].
    first_share : Decimal, optional
        The first face's share of all the stock, 0 to 1; without it the first face takes only its need.

    Returns
    -------
    StockSplit

    Raises
    ------
    InputError
        If the least thickness is over the greatest, a tolerance, clean-up or skin is negative, or the share
        is outside 0 to 1.
    """
    _check(measured_max_mm, measured_min_mm, first_share)
    _not_negative(
        tol_minus_mm=tol_minus_mm,
        tol_plus_mm=tol_plus_mm,
        min_skin_mm=min_skin_mm,
        first_cleanup_mm=first_cleanup_mm,
        second_cleanup_mm=second_cleanup_mm,
    )
    total, varies = measured_max_mm - target_mm, measured_max_mm - measured_min_mm
    need_first, need_second = first_cleanup_mm + min_skin_mm, second_cleanup_mm + min_skin_mm
    first, second = _shared(total, need_first, need_second, first_share)
    room, thick_enough = total + tol_minus_mm, measured_min_mm >= target_mm - tol_minus_mm
    own_form = first_cleanup_mm + max(Decimal(0), second_cleanup_mm - varies) + 2 * min_skin_mm
    by_sum = need_first + need_second <= room
    answer: CleanUp = "does not"
    if thick_enough and (by_sum or own_form <= room):
        answer = "cleans up" if by_sum else "may clean up"
    spare = total - need_first - need_second
    return StockSplit(
        total_stock_mm=total,
        first_face_mm=first,
        second_face_mm=second,
        spare_mm=spare,
        cleans_up=spare >= 0 and measured_min_mm >= target_mm,
        cleans_up_within_tolerance=by_sum and thick_enough,
        contradiction=first_cleanup_mm + second_cleanup_mm < varies,
        answer=answer,
    )


def _shared(
    total: Decimal, need_first: Decimal, need_second: Decimal, share: Decimal | None
) -> tuple[Decimal, Decimal]:
    """What each face takes: its need, the first its share where there is room; else what there is."""
    if total < need_first + need_second:
        there = max(total, Decimal(0))
        first = min(need_first, there)
        return first, there - first
    first = need_first if share is None else min(max(share * total, need_first), total - need_second)
    return first, total - first


def _not_negative(**amounts: Decimal) -> None:
    for name, amount in amounts.items():
        if amount < 0:
            raise InputError(name, f"{name} must not be negative")


def _check(greatest: Decimal, least: Decimal, share: Decimal | None) -> None:
    if least > greatest:
        raise InputError("measured_min_mm", "measured_min_mm must not be over measured_max_mm")
    if least <= 0:
        raise InputError("measured_min_mm", "measured_min_mm must be over 0")
    if share is not None and not 0 <= share <= 1:
        raise InputError("first_share", "first_share must be from 0 to 1")


def mill_first(out_of_parallel_mm: Decimal, roughing_minutes: float, *, soft: bool) -> str:
    """Return what is to be said of a face with much to come off; empty when nothing is.

    Only soft material belongs on the mill: too far out, or too long to rough here. Hardened work is ground, whatever is
    on; from an hour on the lead should look.
    """
    long = roughing_minutes > LONG_ROUGHING_MIN
    if soft and (out_of_parallel_mm > MILL_FIRST_MM or long):
        return f"This belongs on the mill first: roughing it here would take {roughing_minutes:.0f} min."
    return f"Roughing takes {roughing_minutes:.0f} min, over an hour: let the lead look at it." if long else ""
