"""The best plan of all within every limit, and the shortest minutes for rising temperature margins."""

import math
from collections import OrderedDict
from dataclasses import dataclass, replace
from functools import lru_cache

from zesty_lark.core.planning.finish import FINISH_HEAT_SHARE, FinishKind
from zesty_lark.core.planning.means import MethodName, PlanQuestion
from zesty_lark.core.planning.methods import spaces_of
from zesty_lark.core.planning.plan import Binding, Plan, best_plan, every_finish, plan_at, usual_finish
from zesty_lark.core.planning.problem import WORK_OF_A_PLAN, Problem, problem_of
from zesty_lark.core.planning.rough import Space, split
from zesty_lark.core.quantities.numbers import InputError

MOST_WORK = {"optimise": WORK_OF_A_PLAN}

NEARLY = 1.3
"""The next point of the curve is first looked for within this many times the last one's minutes."""
KEPT = 48
CURVE_MARGINS = (0.0, 0.1, 0.23, 0.35, 0.5)
ORDER: tuple[MethodName, ...] = ("sharp_wide", "light", "auto", "all_at_once", "peel")


@dataclass(frozen=True)
class CurvePoint:
    """The shortest time [min] when this temperature margin is asked; ``None`` when nothing has it."""

    temperature_margin: float
    minutes: float | None


@dataclass(frozen=True)
class Optimum:
    """The best plan, the limit that binds it, and minutes against temperature margin."""

    plan: Plan
    binding: Binding
    curve: list[CurvePoint]


def optimise(question: PlanQuestion, *, with_curve: bool = True) -> Optimum:
    """Find the quickest plan within every limit; as ``pass.schools`` asks it. The curve rises from the margin asked
    for.

    Raises
    ------
    InputError
        If no plan is within the limits; it names the limit that nothing meets and the nearest plan.
    """
    problem = problem_of(question)
    plan = best_of(problem)
    curve = [CurvePoint(question.temperature_margin, plan.minutes)]
    if with_curve:
        curve += curve_of(problem)
    return Optimum(plan, plan.binding, curve)


@lru_cache(maxsize=KEPT)
def best_of(problem: Problem) -> Plan:
    """The best plan of a question that was worked out before.

    Raises
    ------
    InputError
        As ``optimise``.
    """
    plan = _best(problem)
    if plan is None:
        raise _nothing(problem)
    return plan


_CURVES: OrderedDict[Problem, tuple[CurvePoint, ...]] = OrderedDict()
"""The curves worked out last, for those who would rather not wait for one."""


def curve_of(problem: Problem) -> tuple[CurvePoint, ...]:
    """The curve after its first point, of a question that was worked out before."""
    kept = kept_curve(problem)
    if kept is None:
        kept = _CURVES[problem] = tuple(_curve(problem, best_of(problem)))
        while len(_CURVES) > KEPT:
            _CURVES.popitem(last=False)
    return kept


def curve_from_none(problem: Problem) -> list[CurvePoint]:
    """The whole curve of a question, its first point included; nothing when no plan keeps to the limits."""
    try:
        best = best_of(problem)
    except InputError:
        return []
    return [CurvePoint(problem.temperature_margin, best.minutes), *curve_of(problem)]


def kept_curve(problem: Problem) -> tuple[CurvePoint, ...] | None:
    """The curve after its first point if it is at hand."""
    return _CURVES.get(problem)


def whole_space(problem: Problem) -> Space:
    """Every finish, crossfeed and chamfer, up to the machine's largest downfeed a pass."""
    return Space(every_finish(problem), problem.crossfeeds, problem.chamfers(), "rough", 1, problem.most_graduations)


def finish_only(problem: Problem) -> Plan:
    """The quickest way to take off what is left with finish passes alone, on a wheel dressed for them; where nothing is
    within the limits, the one that breaks them least.
    """
    steps = {kind.step for kind in every_finish(problem)}
    kinds = []
    for step in sorted(steps, reverse=True):
        passes, first, _ = split(problem.graduations, step)
        kinds.append(FinishKind(passes, step, odd=None if first == step else first))
    found = best_plan(problem, Space(kinds, problem.crossfeeds, problem.chamfers(), "general"))
    if found is not None:
        return found
    tried = [
        plan_at(
            problem,
            "general",
            1,
            problem.crossfeeds[0],
            table=problem.speeds[0],
            chamfer=problem.wheel.leading_chamfer_mm,
            kind=kind,
        )
        for kind in kinds
    ]
    return min(tried, key=lambda plan: max(plan.used.values()))


def _best(problem: Problem, quicker_than: float = math.inf) -> Plan | None:
    """The quickest of the whole space and of the methods'; each only has to be quicker than what was found."""
    best: Plan | None = None
    methods = [space for name in ORDER for space in spaces_of(name, problem)]
    for space in (methods[0], whole_space(problem), *methods[1:]):
        found = best_plan(problem, space, best.minutes if best is not None else quicker_than)
        best = found or best
    return best


def _curve(problem: Problem, plan: Plan) -> list[CurvePoint]:
    """The shortest minutes for rising margins."""
    points: list[CurvePoint] = []
    last: Plan | None = plan
    for wanted in (margin for margin in CURVE_MARGINS if margin > problem.temperature_margin + 1e-9):
        if last is not None and last.temperature_margin < wanted:
            wider = replace(problem, temperature_margin=wanted)
            if wanted <= 1 - FINISH_HEAT_SHARE:
                wider.finishes.update(problem.finishes)
                wider.unfit.update(problem.unfit)
            last = _best(wider, last.minutes * NEARLY) or _best(wider)
        points.append(CurvePoint(wanted, last.minutes if last is not None else None))
    return points


def _nothing(problem: Problem) -> InputError:
    """Say which limit nothing meets, and the plan that comes nearest."""
    finishes = every_finish(problem)
    tried = [
        plan_at(problem, "rough", downfeed, crossfeed, table=table, chamfer=chamfer, kind=kind)
        for crossfeed in (problem.crossfeeds[0], problem.crossfeeds[len(problem.crossfeeds) // 3])
        for table in (problem.speeds[0], problem.speeds[-1])
        for downfeed in (1, 4)
        for chamfer in problem.chamfers()
        for kind in (usual_finish(problem), finishes[-1])
    ]
    nearest = min(tried, key=lambda plan: max(plan.used.values()))
    limit = max(nearest.used, key=lambda name: nearest.used[name])
    field = {
        "temperature": "temperature_margin",
        "power": "machine.spindle_w",
        "hold": "chuck.pull_n_cm2",
        "wear": "wheel.grade",
        "flatness": "flatness_um",
        "finish": "ra_um",
        "size": "tolerance_mm",
        "downfeed": "machine.downfeed_max_mm",
    }[limit]
    return InputError(
        field,
        (
            f"{field} must be met by some plan, and the limit on {limit} is met by none; the nearest feeds "
            f"{nearest.downfeed_mm:g} mm down and {nearest.crossfeed_mm:g} mm across at {nearest.table_mm_s:g} mm/s "
            f"and uses {nearest.used[limit]:.2f} times the limit"
        ),
    )
