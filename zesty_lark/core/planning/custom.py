"""One plan at a person's own settings, whatever limits it breaks."""

from dataclasses import dataclass

from zesty_lark.core.planning.finish import FinishKind
from zesty_lark.core.planning.means import DressKind, PlanQuestion
from zesty_lark.core.planning.plan import Plan, fewest_finish, plan_at, usual_finish
from zesty_lark.core.planning.problem import WORK_OF_A_PLAN, Problem, problem_of
from zesty_lark.core.quantities.numbers import Count, InputError, NonNegative, Positive

MOST_WORK = {"custom_plan": WORK_OF_A_PLAN}


@dataclass(frozen=True)
class CustomSettings:
    """A person's settings: downfeed and crossfeed [mm], table [mm/s], chamfer on the leading edge, ``None`` as the
    wheel is [mm], rough dress, finish passes, ``None`` as many as roughing asks for, and their step, ``None`` as usual
    [mm]."""

    downfeed_mm: float
    crossfeed_mm: float
    table_mm_s: float
    leading_chamfer_mm: float | None = None
    rough_dress: DressKind = "rough"
    finish_passes: int | None = None
    finish_step_mm: float | None = None


@dataclass(frozen=True)
class OwnPlan:
    """The plan at these settings."""

    plan: Plan


def custom_plan(
    question: PlanQuestion,
    *,
    downfeed_mm: Positive,
    crossfeed_mm: Positive,
    table_mm_s: Positive,
    leading_chamfer_mm: NonNegative | None = None,
    rough_dress: DressKind = "rough",
    finish_passes: Count | None = None,
    finish_step_mm: Positive | None = None,
) -> OwnPlan:
    """Work out the plan of a face at given settings, and every limit it keeps or breaks.

    As ``pass.optimise`` is asked, and with it: downfeed and crossfeed [mm], rounded down to whole graduations; table
    [mm/s], rounded down to the planner's steps of 10; the leading chamfer [mm]; the rough dress; and the finish passes
    and their step [mm], else the fewest of the usual step that take off the marks of roughing. The finish's crossfeed,
    table and dress are the quickest that keep to the limits.

    Raises
    ------
    InputError
        If the stock or a step is under a graduation, a speed is out of the machine's range, the crossfeed is wider than
        0.9 of the wheel, the wheel may not have that chamfer, or a range is the wrong way round.
    """
    problem = problem_of(question)
    return OwnPlan(
        custom_plan_of(
            problem,
            CustomSettings(
                downfeed_mm, crossfeed_mm, table_mm_s, leading_chamfer_mm, rough_dress, finish_passes, finish_step_mm
            ),
        )
    )


def custom_plan_of(problem: Problem, own: CustomSettings) -> Plan:
    """``custom_plan`` on a question that was asked before."""
    machine, usual = problem.machine, usual_finish(problem)
    if not machine.table_min_mm_s <= own.table_mm_s <= machine.table_max_mm_s:
        raise InputError(
            "table_mm_s", f"table_mm_s must be from {machine.table_min_mm_s:g} to {machine.table_max_mm_s:g}"
        )
    widest = problem.widest_mm
    if own.crossfeed_mm > float(widest) + 1e-9:
        raise InputError(
            "crossfeed_mm",
            f"crossfeed_mm must be at most {widest.normalize():f}: the machine’s most, and 0.9 of the wheel’s width",
        )
    chamfer = problem.wheel.leading_chamfer_mm if own.leading_chamfer_mm is None else own.leading_chamfer_mm
    if chamfer not in problem.chamfers():
        may = ", ".join(f"{each:g}" for each in problem.chamfers())
        raise InputError("leading_chamfer_mm", f"leading_chamfer_mm must be one of {may} on this wheel")
    step = usual.step if own.finish_step_mm is None else _graduations("finish_step_mm", own.finish_step_mm, problem)
    downfeed = _graduations("downfeed_mm", own.downfeed_mm, problem)
    crossfeed, table = problem.snap_crossfeed(own.crossfeed_mm), problem.snap_table(own.table_mm_s)
    if problem.graduations < step:
        kind = usual
    elif own.finish_passes is None:
        kind = fewest_finish(problem, own.rough_dress, downfeed, crossfeed, table=table, chamfer=chamfer, step=step)
    else:
        kind = FinishKind(max(1, min(own.finish_passes, problem.graduations // step)), step)
    return plan_at(problem, own.rough_dress, downfeed, crossfeed, table=table, chamfer=chamfer, kind=kind)


def _graduations(field: str, length_mm: float, problem: Problem) -> int:
    whole = int(length_mm / problem.graduation + 1e-9)
    if whole < 1:
        raise InputError(field, f"{field} must be at least one graduation of the dial ({problem.graduation:g} mm)")
    return whole
