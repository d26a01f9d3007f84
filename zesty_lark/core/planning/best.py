"""The best plan of all within every limit, and the shortest minutes for rising temperature margins."""

import math
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from zesty_lark.core.planning.finish import KINDS, FinishKind
from zesty_lark.core.planning.means import DressKind, MethodName, PlanQuestion
from zesty_lark.core.planning.methods import spaces_of
from zesty_lark.core.planning.plan import (
    Binding,
    Plan,
    best_plan,
    every_finish,
    is_deep,
    plan_at,
    plan_of,
    usual_finish,
)
from zesty_lark.core.planning.problem import WORK_OF_A_PLAN, Problem, problem_of
from zesty_lark.core.planning.rough import Learned, Level, Quickest, Space, quickest, split
from zesty_lark.core.quantities.numbers import InputError

MOST_WORK = {"optimise": WORK_OF_A_PLAN}

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
    rest = curve_of(problem) if with_curve else ()
    plan = best_of(problem)
    return Optimum(plan, plan.binding, [CurvePoint(question.temperature_margin, plan.minutes), *rest])


_BEST: OrderedDict[Problem, Plan | None] = OrderedDict()
_CURVES: OrderedDict[Problem, tuple[CurvePoint, ...]] = OrderedDict()
"""The best plans and the curves worked out last, for those who would rather not wait for one."""


def forget() -> None:
    """Forget what was worked out."""
    _BEST.clear()
    _CURVES.clear()


def _keep(kept: OrderedDict[Problem, Any], problem: Problem, what: Any) -> None:
    kept[problem] = what
    kept.move_to_end(problem)
    while len(kept) > KEPT:
        kept.popitem(last=False)


def best_of(problem: Problem) -> Plan:
    """The best plan of a question, kept for the next who asks.

    Raises
    ------
    InputError
        As ``optimise``.
    """
    if problem not in _BEST:
        _keep(_BEST, problem, _bests(problem, [problem.temperature_margin])[0])
    plan = _BEST[problem]
    if plan is None:
        raise _nothing(problem)
    return plan


def curve_of(problem: Problem) -> tuple[CurvePoint, ...]:
    """The curve after its first point, worked out with the best plan where that is not at hand."""
    kept = kept_curve(problem)
    if kept is None:
        own = problem.temperature_margin
        margins = [margin for margin in CURVE_MARGINS if margin > own + 1e-9]
        plan = _BEST.get(problem)
        wanted = [margin for margin in margins if plan is None or plan.temperature_margin < margin]
        found = _bests(problem, [own, *wanted] if plan is None else wanted) if plan is None or wanted else []
        if plan is None:
            plan = found.pop(0)
            _keep(_BEST, problem, plan)
        by_margin = dict(zip(wanted, found, strict=True))
        points = [(margin, by_margin.get(margin, plan)) for margin in margins]
        kept = tuple(CurvePoint(margin, each.minutes if each else None) for margin, each in points)
        _keep(_CURVES, problem, kept)
    return kept


def curve_from_none(problem: Problem) -> list[CurvePoint]:
    """The whole curve of a question, its first point included; nothing when no plan keeps to the limits."""
    curve = curve_of(problem)
    try:
        best = best_of(problem)
    except InputError:
        return []
    return [CurvePoint(problem.temperature_margin, best.minutes), *curve]


def kept_curve(problem: Problem) -> tuple[CurvePoint, ...] | None:
    """The curve after its first point if it is at hand."""
    return _CURVES.get(problem)


def whole_space(problem: Problem, dress: DressKind = "rough") -> Space:
    """Every finish, crossfeed and chamfer with a dress, up to the machine's largest downfeed a pass."""
    return Space(
        every_finish(problem),
        problem.crossfeeds,
        problem.chamfers(),
        dress,
        1,
        problem.most_graduations,
        cooler=KINDS[: KINDS.index(dress)],
    )


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


def _bests(problem: Problem, margins: Sequence[float]) -> list[Plan | None]:
    """The quickest plans of the whole space and of the methods' that leave such temperature margins, from the least;
    each only has to be quicker than what was found."""
    best: list[tuple[Quickest, bool] | None] = [None] * len(margins)
    methods = [space for name in ORDER for space in spaces_of(name, problem)]
    whole, learned = [whole_space(problem, dress) for dress in KINDS], Learned()
    for space in (methods[0], *whole, *methods[1:]):
        levels = [
            Level(1 - margin, math.inf if now is None else now[0].minutes)
            for margin, now in zip(margins, best, strict=True)
        ]
        for number, found in enumerate(quickest(problem, space, levels, learned if space in whole else None)):
            if found is not None:
                best[number] = found, is_deep(problem, space)
    return [
        None if now is None else plan_of(problem.with_margin(margin), now[0], deep=now[1])
        for margin, now in zip(margins, best, strict=True)
    ]


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
        "swelling": "tolerance_mm",
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
