"""A face's plan as the log keeps it: exact collar steps in whole graduations, made from what the planner found."""

from decimal import Decimal

from zesty_lark.core import dial
from zesty_lark.core.process import springs
from zesty_lark.core.process.finishing import SIZE_SHARE
from zesty_lark.core.route.planned import FacePlan
from zesty_lark.core.shoplog.entries import PlanStep, PlanSteps

__all__ = ["plan_steps"]

MOST_BLANKS = 10
SLOW_CROSSFEED_MM, SLOW_TABLE_MM_S = Decimal("0.4"), Decimal(200)
"""What blank passes alone are run at."""
_KEPT = Decimal("0.0000001")


def plan_steps(made: FacePlan, *, graduation_mm: Decimal, per_rev_mm: Decimal, carries_on: bool,
               tolerance_mm: Decimal,
               held_back_mm: Decimal = Decimal(0), cut_ratio: float = 0.6) -> PlanSteps:
    """Return a face's plan in exact steps.

    Parameters
    ----------
    made : FacePlan
        Where there is less than a graduation to take it has no plan: then it is blank passes only, until what the springs
        hold back has come off.
    graduation_mm, per_rev_mm : Decimal
        The collar's graduation and its distance a revolution [mm].
    carries_on : bool
        Whether it carries on from the collar's last reading, without a new touch-off.
    tolerance_mm, held_back_mm : Decimal
        The width of the size's tolerance, and what the springs still hold back [mm].
    cut_ratio : float
        Share of it that one blank pass takes.

    Raises
    ------
    ValueError
        If the face could not be planned and there is more to take than a graduation.
    """
    stock = max(made.stock_mm, Decimal(0))
    if made.plan is None:
        if stock >= graduation_mm:
            raise ValueError(made.problem or "this face has no plan")
        return _blanks_only(made, stock, carries_on, held_back_mm, tolerance_mm, cut_ratio)
    plan, step = made.plan, graduation_mm
    collar = dial.plan(stock_mm=stock, graduation_mm=step, rough_mm=max(_exact(plan.downfeed_mm), step),
                       finish_mm=_exact(plan.finish_step_mm), finish_passes=plan.finish_passes, per_rev_mm=per_rev_mm)
    depth, steps = Decimal(0), []
    for number, each in enumerate(collar.passes, start=1):
        depth += each.step_mm
        steps.append(PlanStep(number, each.step_mm, depth, each.kind))
    return PlanSteps(
        0, made.face, made.choice.habit, stock, collar.left_on_mm, tuple(steps), plan.finish_blanks, carries_on,
        _exact(plan.crossfeed_mm), _exact(plan.table_mm_s), plan.minutes, _exact(plan.finish_crossfeed_mm),
        _exact(plan.finish_table_mm_s), plan.blanks, plan.rough_dress, plan.finish_dress,
        Decimal(repr(made.choice.skew_deg)).quantize(Decimal("0.01")))


def _blanks_only(made: FacePlan, stock: Decimal, carries_on: bool, held_back: Decimal, tolerance: Decimal,
                 cut_ratio: float) -> PlanSteps:
    allow = tolerance * Decimal(repr(SIZE_SHARE))
    blanks = springs.passes_until(float(held_back), cut_ratio, float(allow)) if held_back > allow else 1
    return PlanSteps(0, made.face, made.choice.habit, stock, stock, (), max(1, min(blanks, MOST_BLANKS)), carries_on,
                     SLOW_CROSSFEED_MM, SLOW_TABLE_MM_S, 1.0)


def _exact(length: float) -> Decimal:
    return Decimal(repr(round(length, 7))).quantize(_KEPT).normalize() + 0
