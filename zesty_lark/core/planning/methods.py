"""The methods of taking stock off: each its fastest setting inside its ranges, else its home and what that breaks."""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, fields, replace
from functools import lru_cache

from zesty_lark.core.planning.finish import FinishKind
from zesty_lark.core.planning.means import MethodName, PlanQuestion
from zesty_lark.core.planning.plan import Plan, best_plan, plan_at, usual_finish
from zesty_lark.core.planning.problem import WIDEST_SHARE, WORK_OF_A_PLAN, Problem, problem_of
from zesty_lark.core.planning.rough import COVERING_MM, Space
from zesty_lark.core.wheel.grain import PEEL_CROSSFEED_SHARE, PEEL_MOST_SHARE

MOST_WORK = {"methods": WORK_OF_A_PLAN}

LIGHT_MOST_MM, LIGHT_LEAST_MM, LIGHT_CROSSFEED_MM = 0.05, 0.005, 0.5
AT_ONCE_FINISH_MM = (0.010, 0.015)
AT_ONCE_CROSSFEED_MM = 1.0
PEEL_SHARES = (0.25, PEEL_CROSSFEED_SHARE)
WIDE_FINISH_OVERLAP = 4
AUTO_DOWNFEED_MM, AUTO_OVERLAP = 0.005, 4
HOMES_MM = {"light": 0.013, "sharp_wide": 0.025, "auto": 0.005}
HOME_CROSSFEEDS_MM = {"light": 0.4, "all_at_once": 0.3}
DEPTH_METHODS = ("all_at_once", "peel")
"""They live on depth, and may go over the machine's largest downfeed a pass."""
KEPT = 48
WORTH_IT = 1.5
"""A method is worth it that takes no more than so many times the quickest other one."""
NO_LIMIT = 10**9


@dataclass(frozen=True)
class MethodResult(Plan):
    """A method's fastest plan within the limits, else its home plan with the limits it breaks. The method is
    ``school`` here and in ``pass.schools``, whose names stay.

    The automatic downfeed may not be worth it as it is; then ``worth_from_mm`` is the downfeed at each end from which
    it is, and ``worth_minutes`` what it takes then, ``None`` where none makes it so.
    """

    school: MethodName = "light"
    why: str = ""
    worth_it: bool = True
    worth_from_mm: float | None = None
    worth_minutes: float | None = None


@dataclass(frozen=True)
class Methods:
    """All five methods, side by side."""

    schools: list[MethodResult]


def methods(question: PlanQuestion) -> Methods:
    """Work out all five methods: each its fastest setting inside its ranges, or its home and what it breaks.

    Raises
    ------
    InputError
        If the stock is under a graduation, a range is the wrong way round, or nothing holds the part.
    """
    return Methods(list(methods_of(problem_of(question))))


@lru_cache(maxsize=KEPT)
def methods_of(problem: Problem) -> tuple[MethodResult, ...]:
    """``methods`` of a question that was worked out before."""
    made = {name: _method(name, problem) for name in _SPACES}
    made["auto"] = _worth(problem, made)
    return tuple(made.values())


def _worth(problem: Problem, made: Mapping[MethodName, MethodResult]) -> MethodResult:
    """The automatic downfeed with what it would take to be worth it, or that it is not."""
    auto = made["auto"]
    others = [each.minutes for name, each in made.items() if name != "auto" and each.within_limits]
    most = WORTH_IT * min(others, default=math.inf)
    if auto.within_limits and auto.minutes <= most:
        return auto
    told = f"{auto.why} Not worth it as it is: {auto.passes} passes and {auto.dresses} dresses."
    only = _auto(problem)[0]
    for step in range(only.most_downfeed + 1, problem.most_graduations + 1):
        plan = best_plan(problem, replace(only, least_downfeed=step, most_downfeed=step))
        if plan is None:
            break
        if plan.minutes <= most:
            down = round(step * problem.graduation, 9)
            told += f" It would take {down:g} mm of downfeed at each end: {plan.minutes:.0f} min."
            return replace(auto, why=told, worth_it=False, worth_from_mm=down, worth_minutes=plan.minutes)
    return replace(auto, why=f"{told} No larger downfeed at each end makes it so here.", worth_it=False)


def spaces_of(name: MethodName, problem: Problem) -> list[Space]:
    """Return the settings a method chooses from."""
    return _SPACES[name](problem)


def _method(name: MethodName, problem: Problem) -> MethodResult:
    spaces = _SPACES[name](problem)
    found = [plan for plan in (best_plan(problem, space) for space in spaces) if plan is not None]
    if found:
        plan = min(found, key=lambda each: (round(each.minutes, 9), -each.temperature_margin))
    else:
        plan = _home(name, problem, spaces)
    return MethodResult(
        **{field.name: getattr(plan, field.name) for field in fields(Plan)}, school=name, why=_why(plan)
    )


def _home(name: MethodName, problem: Problem, spaces: Sequence[Space]) -> Plan:
    """The method's home setting, snapped to graduations, at the fastest table, with the first finish that takes off the
    marks of its roughing."""
    space = spaces[-1]
    alike = (each for each in spaces if each.crossfeeds == space.crossfeeds)
    plan = None
    for kind in sorted((kind for each in alike for kind in each.finishes), key=lambda kind: (kind.passes, -kind.step)):
        downfeed = min(problem.graduations - kind.total, space.most_downfeed)
        if name in HOMES_MM:
            downfeed = max(1, math.floor(HOMES_MM[name] / problem.graduation + 1e-9))
        crossfeed = space.crossfeeds[0]
        if name in HOME_CROSSFEEDS_MM:
            crossfeed = problem.snap_crossfeed(HOME_CROSSFEEDS_MM[name])
        plan = plan_at(
            problem,
            space.dress,
            max(downfeed, 1),
            crossfeed,
            table=problem.speeds[-1],
            chamfer=problem.wheel.leading_chamfer_mm,
            kind=kind,
            deep=name in DEPTH_METHODS,
        )
        if not plan.over("marks"):
            break
    assert plan is not None, "every method has a finish"
    return plan


def _why(plan: Plan) -> str:
    if plan.within_limits:
        bound = "no limit is near" if plan.binding == "none" else f"{plan.binding} binds"
        return f"Within the limits in {plan.minutes:.1f} min; {bound}." + (f" {plan.caution}" if plan.caution else "")
    broken = [name for name, share in plan.used.items() if share > 1]
    return f"At home it breaks the limit on {' and '.join(broken)}."


def _light(problem: Problem) -> list[Space]:
    g = problem.graduation
    most = min(max(1, math.floor(LIGHT_MOST_MM / g + 1e-9)), problem.most_graduations)
    least = min(max(1, math.ceil(LIGHT_LEAST_MM / g - 1e-9)), most)
    return [
        Space(
            _usual(problem),
            _up_to(problem, LIGHT_CROSSFEED_MM),
            [problem.wheel.leading_chamfer_mm],
            "general",
            least,
            most,
        )
    ]


def _all_at_once(problem: Problem) -> list[Space]:
    """The whole stock in one pass, and as many finish passes as its marks ask for."""
    g = problem.graduation
    low, high = (math.ceil(AT_ONCE_FINISH_MM[0] / g - 1e-9), math.floor(AT_ONCE_FINISH_MM[1] / g + 1e-9))
    kinds = [
        FinishKind(passes, step)
        for step in range(high, max(low, 1) - 1, -1)
        for passes in range(1, math.ceil(COVERING_MM / (step * g) - 1e-9) + 1)
        if passes * step <= problem.graduations
    ]
    kinds = kinds or [FinishKind(1, min(max(low, 1), problem.graduations))]
    return [
        Space(kinds, _up_to(problem, AT_ONCE_CROSSFEED_MM), [problem.wheel.leading_chamfer_mm], "rough", passes=(1, 1))
    ]


def _peel(problem: Problem) -> list[Space]:
    """A pass as deep as half a grain; the finish at its own crossfeed, as deep as the marks ask for."""
    most = max(1, math.floor(problem.grain * PEEL_MOST_SHARE / problem.graduation + 1e-9))
    chamfers = [problem.wheel.leading_chamfer_mm]
    kinds: dict[int, list[FinishKind]] = {}
    for kind in _usual(problem):
        kinds.setdefault(max(1, -(-(problem.graduations - kind.total) // most)), []).append(kind)
    return [
        Space(
            [replace(kind, crossfeed=crossfeed) for kind in listed],
            [crossfeed],
            chamfers,
            "general",
            1,
            most,
            (levels, levels),
        )
        for crossfeed in sorted({problem.snap_crossfeed(share * problem.grain) for share in PEEL_SHARES})
        for levels, listed in sorted(kinds.items())
    ]


def _sharp_wide(problem: Problem) -> list[Space]:
    wide = problem.snap_crossfeed(WIDEST_SHARE * problem.wheel.width_mm)
    fine = problem.snap_crossfeed(problem.wheel.width_mm / WIDE_FINISH_OVERLAP)
    kinds = [replace(kind, crossfeed=fine) for kind in _usual(problem)]
    return [Space(kinds, [wide], [problem.wheel.leading_chamfer_mm], "rough", 1, problem.most_graduations)]


def _auto(problem: Problem) -> list[Space]:
    step = min(max(1, math.floor(AUTO_DOWNFEED_MM / problem.graduation + 1e-9)), problem.most_graduations)
    crossfeed = problem.snap_crossfeed(problem.wheel.width_mm / AUTO_OVERLAP)
    return [Space(_usual(problem), [crossfeed], [problem.wheel.leading_chamfer_mm], "general", step, step)]


def _usual(problem: Problem) -> list[FinishKind]:
    """At the usual step one pass, or any more up to those that cover what roughing may have heated."""
    usual = usual_finish(problem)
    most = math.ceil(COVERING_MM / (usual.step * problem.graduation) - 1e-9)
    return [
        FinishKind(passes, usual.step) for passes in range(1, most + 1) if passes * usual.step <= problem.graduations
    ]


def _up_to(problem: Problem, most_mm: float) -> list[float]:
    return [crossfeed for crossfeed in problem.crossfeeds if crossfeed <= most_mm + 1e-9] or [problem.crossfeeds[0]]


_SPACES: dict[MethodName, Callable[[Problem], list[Space]]] = {
    "light": _light,
    "all_at_once": _all_at_once,
    "peel": _peel,
    "sharp_wide": _sharp_wide,
    "auto": _auto,
}
