"""The planner's two questions: every school on this part, wheel and machine; and the best plan of all."""

import math
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, fields, replace
from functools import lru_cache
from typing import Annotated, Literal

from annotated_types import Ge, Le

from zesty_lark.core.process.evaluate import Coolant
from zesty_lark.core.process.finishing import FinishKind
from zesty_lark.core.process.plan_input import Asked, ChuckIn, MachineIn, PartIn, WheelIn, asked
from zesty_lark.core.process.planner import Binding, Plan, best_plan, finish_kinds, plan_at
from zesty_lark.core.process.roughing import Space
from zesty_lark.core.quantities import ExactPositive, InputError, NonNegative, Positive

__all__ = ["CurvePoint", "Margin", "Optimum", "SchoolName", "SchoolResult", "Schools", "Skew", "best_of", "curve_of",
           "kept_curve", "optimise", "schools", "schools_of"]

SchoolName = Literal["light", "all_at_once", "peel", "sharp_wide", "auto"]
Margin = Annotated[float, Ge(0), Le(0.7)]
Skew = Annotated[float, Ge(-90), Le(90)]

MOST_MARGIN = 0.74
NEARLY = 1.3
"""The next point of the curve is first looked for within this many times the last one's minutes."""
KEPT = 128
CURVE_MARGINS = (0.1, 0.2, 0.3, 0.4)
LIGHT_MOST_MM, LIGHT_LEAST_MM, LIGHT_CROSSFEED_MM = 0.05, 0.005, 0.5
AT_ONCE_FINISH_MM = (0.010, 0.015)
AT_ONCE_CROSSFEED_MM = 1.0
PEEL_SHARES = (0.25, 0.375)
WIDE_SHARE, WIDE_FINISH_OVERLAP = 0.9, 4
AUTO_DOWNFEED_MM, AUTO_OVERLAP = 0.005, 4
HOMES_MM = {"light": 0.013, "sharp_wide": 0.025, "auto": 0.005}


@dataclass(frozen=True)
class SchoolResult(Plan):
    """A school's fastest plan within the limits, else its home plan with the limits it breaks."""

    school: SchoolName = "light"
    why: str = ""


@dataclass(frozen=True)
class Schools:
    """All five schools, side by side."""

    schools: list[SchoolResult]


@dataclass(frozen=True)
class CurvePoint:
    """The shortest time [min] when this much more temperature margin is asked; ``None`` when nothing has it."""

    temperature_margin: float
    minutes: float | None


@dataclass(frozen=True)
class Optimum:
    """The best plan, the limit that binds it, and minutes against temperature margin."""

    plan: Plan
    binding: Binding
    curve: list[CurvePoint]


def schools(
    *, part: PartIn, stock_mm: ExactPositive, tolerance_mm: ExactPositive, flatness_um: Positive, ra_um: Positive,
    machine: MachineIn, wheel: WheelIn, chuck: ChuckIn, coolant: Coolant, skew_deg: Skew = 0.0,
    dress_minutes: NonNegative = 1.5, blocked: bool = False, temperature_margin: Margin = 0.0,
) -> Schools:
    """Work out all five schools: each its fastest setting inside its ranges, or its home and what it breaks.

    Lengths [mm], flatness and roughness [µm], minutes to dress [min]; ``temperature_margin`` asks for that much more than
    the limits.

    Raises
    ------
    InputError
        If the stock is under a graduation or a range is the wrong way round.
    """
    question = asked(part, stock_mm, tolerance_mm, flatness_um, ra_um, machine, wheel, chuck, coolant, skew_deg,
                     dress_minutes, blocked, temperature_margin)
    return Schools(list(schools_of(question)))


def optimise(
    *, part: PartIn, stock_mm: ExactPositive, tolerance_mm: ExactPositive, flatness_um: Positive, ra_um: Positive,
    machine: MachineIn, wheel: WheelIn, chuck: ChuckIn, coolant: Coolant, skew_deg: Skew = 0.0,
    dress_minutes: NonNegative = 1.5, blocked: bool = False, temperature_margin: Margin = 0.0, with_curve: bool = True,
) -> Optimum:
    """Find the quickest plan within every limit; as ``schools`` asks it.

    Raises
    ------
    InputError
        If no plan is within the limits; it names the limit that nothing meets and the nearest plan.
    """
    question = asked(part, stock_mm, tolerance_mm, flatness_um, ra_um, machine, wheel, chuck, coolant, skew_deg,
                     dress_minutes, blocked, temperature_margin)
    plan = best_of(question)
    curve = [CurvePoint(temperature_margin, plan.minutes)]
    if with_curve:
        curve += curve_of(question)
    return Optimum(plan, plan.binding, curve)


@lru_cache(maxsize=KEPT)
def schools_of(question: Asked) -> tuple[SchoolResult, ...]:
    """``schools`` of a question that was worked out before."""
    return tuple(_school(name, question) for name in _SPACES)


@lru_cache(maxsize=KEPT)
def best_of(question: Asked) -> Plan:
    """The best plan of a question that was worked out before.

    Raises
    ------
    InputError
        As ``optimise``.
    """
    plan = _best(question)
    if plan is None:
        raise _nothing(question)
    return plan


_CURVES: OrderedDict[Asked, tuple[CurvePoint, ...]] = OrderedDict()
"""The curves worked out last, for those who would rather not wait for one."""


def curve_of(question: Asked) -> tuple[CurvePoint, ...]:
    """The curve after its first point, of a question that was worked out before."""
    kept = kept_curve(question)
    if kept is None:
        kept = _CURVES[question] = tuple(_curve(question, best_of(question), question.margin))
        while len(_CURVES) > KEPT:
            _CURVES.popitem(last=False)
    return kept


def kept_curve(question: Asked) -> tuple[CurvePoint, ...] | None:
    """The curve after its first point if it is at hand."""
    return _CURVES.get(question)


def _best(question: Asked) -> Plan | None:
    """The quickest of the schools' spaces and of the whole one; each only has to be quicker than what was found."""
    best: Plan | None = None
    spaces = [space for name in ("sharp_wide", "all_at_once", "light", "auto", "peel") for space in _SPACES[name](question)]
    spaces.append(_whole_space(question))
    for space in spaces:
        found = best_plan(question, space, best.minutes if best is not None else math.inf)
        best = found or best
    return best


def _whole_space(question: Asked) -> Space:
    return Space(finish_kinds(question), question.crossfeeds, question.chamfers(), "rough")


def _curve(question: Asked, plan: Plan, margin: float) -> list[CurvePoint]:
    """The shortest minutes for rising margins."""
    points: list[CurvePoint] = []
    last: Plan | None = plan
    for more in CURVE_MARGINS:
        wanted = round(margin + more, 6)
        if wanted >= MOST_MARGIN:
            break
        if last is not None and last.temperature_margin < wanted:
            wider = replace(question, margin=wanted)
            last = best_plan(wider, _whole_space(wider), last.minutes * NEARLY) or best_plan(wider, _whole_space(wider))
        points.append(CurvePoint(wanted, last.minutes if last is not None else None))
    return points


def _nothing(question: Asked) -> InputError:
    """Say which limit nothing meets, and the plan that comes nearest."""
    kinds = finish_kinds(question)
    tried = [plan_at(question, "rough", downfeed, crossfeed, table, chamfer, kind)
             for crossfeed in (question.crossfeeds[0], question.crossfeeds[len(question.crossfeeds) // 3])
             for table in (question.speeds[0], question.speeds[-1]) for downfeed in (1, 4)
             for chamfer in question.chamfers() for kind in (kinds[0], kinds[-1])]
    nearest = min(tried, key=lambda plan: max(plan.used.values()))
    limit = max(nearest.used, key=lambda name: nearest.used[name])
    field = {"temperature": "temperature_margin", "power": "machine.spindle_w", "hold": "chuck.pull_n_cm2",
             "wear": "wheel.grade", "flatness": "flatness_um", "finish": "ra_um", "size": "tolerance_mm"}[limit]
    return InputError(field, (
        f"{field} must be met by some plan, and the limit on {limit} is met by none; the nearest feeds "
        f"{nearest.downfeed_mm:g} mm down and {nearest.crossfeed_mm:g} mm across at {nearest.table_mm_s:g} mm/s and uses "
        f"{nearest.used[limit]:.2f} times the limit"))


def _school(name: SchoolName, question: Asked) -> SchoolResult:
    spaces = _SPACES[name](question)
    found = [plan for plan in (best_plan(question, space) for space in spaces) if plan is not None]
    if found:
        plan = min(found, key=lambda each: (round(each.minutes, 9), -each.temperature_margin))
    else:
        plan = _home(name, question, spaces[-1])
    return SchoolResult(**{field.name: getattr(plan, field.name) for field in fields(Plan)}, school=name,
                        why=_why(plan))


def _home(name: SchoolName, question: Asked, space: Space) -> Plan:
    """The school's home setting, snapped to graduations, at the fastest table."""
    kind = space.finishes[0]
    rough = question.graduations - kind.passes * kind.step
    downfeed, crossfeed = rough, question.snap_crossfeed(0.3)
    if name in HOMES_MM:
        downfeed = max(1, math.floor(HOMES_MM[name] / question.graduation + 1e-9))
    if name == "light":
        crossfeed = question.snap_crossfeed(0.4)
    elif name == "peel":
        downfeed, crossfeed = min(rough, space.most_downfeed), space.crossfeeds[0]
    elif name in ("sharp_wide", "auto"):
        crossfeed = space.crossfeeds[0]
    chamfer = question.wheel.leading_chamfer_mm
    return plan_at(question, space.dress, max(downfeed, 1), crossfeed, question.speeds[-1], chamfer, kind)


def _why(plan: Plan) -> str:
    if plan.within_limits:
        bound = "no limit is near" if plan.binding == "none" else f"{plan.binding} binds"
        return f"Within the limits in {plan.minutes:.1f} min; {bound}." + (f" {plan.caution}" if plan.caution else "")
    broken = [name for name, share in plan.used.items() if share > 1]
    return f"At home it breaks the limit on {' and '.join(broken)}."


def _light(question: Asked) -> list[Space]:
    g = question.graduation
    return [Space(finish_kinds(question), _up_to(question, LIGHT_CROSSFEED_MM), [question.wheel.leading_chamfer_mm],
                  "general", max(1, math.ceil(LIGHT_LEAST_MM / g - 1e-9)), max(1, math.floor(LIGHT_MOST_MM / g + 1e-9)))]


def _all_at_once(question: Asked) -> list[Space]:
    g = question.graduation
    low, high = (math.ceil(AT_ONCE_FINISH_MM[0] / g - 1e-9), math.floor(AT_ONCE_FINISH_MM[1] / g + 1e-9))
    kinds = [FinishKind(1, step) for step in range(high, max(low, 1) - 1, -1) if step <= question.graduations]
    kinds = kinds or [FinishKind(1, min(max(low, 1), question.graduations))]
    return [Space(kinds, _up_to(question, AT_ONCE_CROSSFEED_MM), [question.wheel.leading_chamfer_mm], "rough",
                  passes=(1, 1))]


def _peel(question: Asked) -> list[Space]:
    """A pass as deep as half a grain; the finish at its own crossfeed."""
    most = max(1, math.floor(question.grain / 2 / question.graduation + 1e-9))
    kind = finish_kinds(question)[0]
    levels = max(1, -(-max(question.graduations - kind.passes * kind.step, 1) // most))
    return [Space([replace(kind, crossfeed=crossfeed)], [crossfeed], [question.wheel.leading_chamfer_mm], "general", 1, most,
                  (levels, levels)) for crossfeed in sorted({question.snap_crossfeed(share * question.grain)
                                                             for share in PEEL_SHARES})]


def _sharp_wide(question: Asked) -> list[Space]:
    wide = question.snap_crossfeed(WIDE_SHARE * question.wheel.width_mm)
    fine = question.snap_crossfeed(question.wheel.width_mm / WIDE_FINISH_OVERLAP)
    kinds = [replace(kind, crossfeed=fine) for kind in finish_kinds(question)]
    return [Space(kinds, [wide], [question.wheel.leading_chamfer_mm], "rough")]


def _auto(question: Asked) -> list[Space]:
    step = max(1, math.floor(AUTO_DOWNFEED_MM / question.graduation + 1e-9))
    crossfeed = question.snap_crossfeed(question.wheel.width_mm / AUTO_OVERLAP)
    return [Space(finish_kinds(question), [crossfeed], [question.wheel.leading_chamfer_mm], "general", step, step)]


def _up_to(question: Asked, most_mm: float) -> list[float]:
    return [each for each in question.crossfeeds if each <= most_mm + 1e-9] or [question.crossfeeds[0]]


_SPACES: dict[SchoolName, Callable[[Asked], list[Space]]] = {
    "light": _light, "all_at_once": _all_at_once, "peel": _peel, "sharp_wide": _sharp_wide, "auto": _auto,
}
