"""The collar plan: stock in, a list of collar readings in whole graduations out."""

import math
from dataclasses import dataclass
from decimal import ROUND_DOWN, Decimal
from typing import Annotated, Literal

from annotated_types import Ge, Lt

from zesty_lark.core.quantities.numbers import ExactNonNegative, ExactPositive, InputError, Whole, refuse_work

RATIO_SLACK = 1e-9
"""Slack on a count that comes from a rounded cosine, so that it does not cost a graduation."""

MOST_PASSES = 5_000
MOST_WORK = {"plan": {"roughing passes": MOST_PASSES, "finish passes": MOST_PASSES}}

_KEPT = Decimal("0.000001")


class GraduationError(InputError):
    """A step is smaller than the machine's graduation, or a length that must be over 0 is not."""


@dataclass(frozen=True)
class CollarPass:
    """One pass of the plan; lengths exact [mm].

    Attributes
    ----------
    step_mm, reading_mm : Decimal
        The downfeed of this pass and the total the collar then stands for.
    revs : int
        Whole revolutions from the collar's zero.
    on_collar_mm : Decimal
        What the collar itself shows: the reading less the whole revolutions.
    kind : {"rough", "finish"}
    """

    step_mm: Decimal
    reading_mm: Decimal
    revs: int
    on_collar_mm: Decimal
    kind: Literal["rough", "finish"]


@dataclass(frozen=True)
class CollarPlan:
    """All passes, the total downfeed, and the normal stock that stays on [mm]."""

    passes: tuple[CollarPass, ...]
    downfeed_total_mm: Decimal
    left_on_mm: Decimal


def whole_graduations(length_mm: Decimal, graduation_mm: Decimal) -> int:
    """Return how many whole graduations fit into a length; exact, rounded down."""
    return int((length_mm / graduation_mm).to_integral_value(ROUND_DOWN))


def on_collar(reading_mm: Decimal, per_rev_mm: Decimal) -> tuple[int, Decimal]:
    """Split a reading into whole revolutions and what the collar shows [mm]."""
    revs = math.floor(reading_mm / per_rev_mm)
    return revs, reading_mm - revs * per_rev_mm


def next_shown(shown_mm: Decimal, from_mm: Decimal, per_rev_mm: Decimal) -> Decimal:
    """Return the reading at which the collar next shows something, turned on from a reading [mm]."""
    revs = math.floor(from_mm / per_rev_mm)
    here = revs * per_rev_mm + shown_mm
    return here if here > from_mm else here + per_rev_mm


def plan(
    *,
    stock_mm: ExactNonNegative,
    graduation_mm: ExactPositive,
    rough_mm: ExactPositive,
    finish_mm: ExactNonNegative,
    finish_passes: Whole,
    per_rev_mm: ExactPositive,
    start_mm: ExactNonNegative = Decimal(0),
    feed_normal_angle_deg: Annotated[float, Ge(0), Lt(90)] = 0.0,
) -> CollarPlan:
    """List the collar readings that take the stock off without ever going past it.

    Parameters
    ----------
    stock_mm : Decimal
        Stock normal to the face [mm].
    graduation_mm, per_rev_mm : Decimal
        The collar's graduation and its distance a revolution [mm].
    rough_mm, finish_mm : Decimal
        The downfeed wanted for roughing and for finishing; rounded down to graduations [mm].
    finish_passes : int
        How many finish passes come last; cut short when they would exceed the total.
    start_mm : Decimal
        The collar's reading before the first pass [mm].
    feed_normal_angle_deg : float
        Angle φ between the face's normal and the downfeed; downfeed = normal stock / cos φ [°].

    Returns
    -------
    CollarPlan

    Raises
    ------
    GraduationError
        If a length is not over 0, a step is under a graduation, or φ is not under 90°.

    Notes
    -----
    total = floor(stock / (graduation · cos φ)) graduations; left on = stock − total · cos φ, rounded down
    to 0.000001 mm. The odd remainder of the roughing is the first, smaller cut.
    """
    _check(stock_mm, graduation_mm, per_rev_mm, finish_passes, angle_deg=feed_normal_angle_deg)
    rough = _steps("rough_mm", rough_mm, graduation_mm)
    finish = _steps("finish_mm", finish_mm, graduation_mm) if finish_passes else 0
    total, left = _total(stock_mm, graduation_mm, feed_normal_angle_deg)
    finish_total = min(total, finish * finish_passes)
    whole, odd = divmod(total - finish_total, rough)
    refuse_work("rough_mm", whole, MOST_PASSES, "roughing passes")
    refuse_work("finish_mm", -(-finish_total // finish) if finish else 0, MOST_PASSES, "finish passes")
    roughing = ([odd] if odd else []) + [rough] * whole
    finishing = [min(finish, finish_total - done) for done in range(0, finish_total, finish)] if finish else []
    passes: list[CollarPass] = []
    reading = start_mm
    for index, graduations in enumerate(roughing + finishing):
        reading += graduations * graduation_mm
        revs, shown = on_collar(reading, per_rev_mm)
        kind: Literal["rough", "finish"] = "rough" if index < len(roughing) else "finish"
        passes.append(CollarPass(graduations * graduation_mm, reading, revs, shown, kind))
    return CollarPlan(tuple(passes), total * graduation_mm, left)


def _total(stock: Decimal, graduation: Decimal, angle_deg: float) -> tuple[int, Decimal]:
    """Whole graduations of downfeed and the normal stock left on [mm]."""
    if angle_deg == 0:
        total = whole_graduations(stock, graduation)
        left = stock - total * graduation
    else:
        cosine = math.cos(math.radians(angle_deg))
        total = math.floor(float(stock) / (float(graduation) * cosine) + RATIO_SLACK)
        left = max(stock - Decimal(repr(total * float(graduation) * cosine)), Decimal(0))
    return total, left.quantize(_KEPT, ROUND_DOWN)


def _steps(field: str, wanted: Decimal, graduation: Decimal) -> int:
    steps = whole_graduations(wanted, graduation)
    if steps < 1:
        raise GraduationError(field, f"{field} must be at least one graduation of the dial ({graduation} mm)")
    return steps


def _check(stock: Decimal, graduation: Decimal, per_rev: Decimal, finish_passes: int, *, angle_deg: float) -> None:
    if stock < 0:
        raise GraduationError("stock_mm", "stock_mm must not be negative")
    if graduation <= 0:
        raise GraduationError("graduation_mm", "graduation_mm must be over 0")
    if per_rev <= 0:
        raise GraduationError("per_rev_mm", "per_rev_mm must be over 0")
    if finish_passes < 0:
        raise GraduationError("finish_passes", "finish_passes must not be negative")
    if not 0 <= angle_deg < 90:
        raise GraduationError("feed_normal_angle_deg", "feed_normal_angle_deg must be from 0 to under 90")
