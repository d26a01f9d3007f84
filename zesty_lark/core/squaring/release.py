"""A face's plan as the log keeps it: everything it rests on as a step, in order, its feeds in whole graduations."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from zesty_lark.core.planning.dresses import dressed_before
from zesty_lark.core.planning.finish import SIZE_SHARE
from zesty_lark.core.planning.plan import Plan, tangential_n
from zesty_lark.core.planning.problem import Problem
from zesty_lark.core.process import springs
from zesty_lark.core.squaring.face_plan import FacePlan
from zesty_lark.core.squaring.handling import HANDLING, Handling, cooling_minutes
from zesty_lark.core.work.plans import MAGNET, ON_END_DEG, PASSES, TO_SIZE, PlanStep, PlanSteps, StepKind

MEASURE_STOP_MM = Decimal("0.025")
"""How far above the goal a plan that ends on a size stops to be measured [mm]."""
AFTER_FIRST = "after the first finish pass"
"""Where a learner, and whoever has a tight tolerance, stops once more to be measured: once a face."""
HERE = "here; the rest is planned again from what is read"
WARM_STOP, WARM_C = 2, 10.0
"""So many times that when the part gets so warm [K]."""
MOST_SPARK_OUTS = 10
SLOW = (Decimal("0.4"), Decimal(200))
"""Crossfeed and table speed that spark-out passes alone are run at [mm] [mm/s]."""
_KEPT = Decimal("0.0000001")


@dataclass(frozen=True)
class Situation:
    """Where a face stands as its plan is released.

    Attributes
    ----------
    graduation_mm : Decimal
        The collar's [mm].
    tolerance_mm : Decimal
        The width of the size's tolerance [mm].
    carries_on : bool
        It goes on from the collar's last reading, without a new touch-off.
    is_up : bool
        The face is up already.
    is_flip : bool
        The part only has to be turned over on the chuck.
    ends_on_size : bool
        It ends on a size of the print, not only on a clean face.
    stops_once_more : bool
        Stop to measure once more after the first finish pass: a learner, or a tight tolerance.
    finish_dressed : bool
        The wheel has only done finish passes since its finish dress.
    rough_dressed : str
        The roughing dress that the wheel has had and hardly been used since; empty where it is due.
    held_back_mm : Decimal
        What the springs still hold back [mm].
    cut_ratio : float
        Share of it that one wipe takes.
    handling : Handling
        Minutes for what hands do.
    plunged : bool
        The whole of it is cut in each stroke: there is no crossfeed.
    blind_mm : Decimal or None
        How deep it may go before it is first measured, where there is no roughing [mm].
    slow : tuple of Decimal
        Crossfeed and table speed of a spark-out pass alone [mm] [mm/s]: ``SLOW``, as near as the machine has them.
    """

    graduation_mm: Decimal
    tolerance_mm: Decimal
    carries_on: bool = False
    is_up: bool = False
    is_flip: bool = False
    ends_on_size: bool = True
    stops_once_more: bool = False
    finish_dressed: bool = False
    rough_dressed: str = ""
    held_back_mm: Decimal = Decimal(0)
    cut_ratio: float = 0.6
    handling: Handling = HANDLING
    plunged: bool = False
    blind_mm: Decimal | None = None
    slow: tuple[Decimal, Decimal] = SLOW


def plan_steps(face_plan: FacePlan, now: Situation, *, reason: str = "") -> PlanSteps:
    """Return a face's plan in exact steps.

    Parameters
    ----------
    made : FacePlan
        Where there is less than a graduation to take it has no plan: then it is spark-out passes only, until what the
        springs hold back has come off.
    now : Situation
    reason : str
        Why it is released although it is on a limit or does not clean up.

    Raises
    ------
    ValueError
        If the face could not be planned and there is more to take than a graduation.
    """
    stock = max(face_plan.stock_mm, Decimal(0))
    if face_plan.plan is None or face_plan.problem is None:
        if stock >= now.graduation_mm or not now.carries_on:
            raise ValueError(face_plan.refused or "this face has no plan")
        return _spark_out_only(face_plan, stock, now)
    made = [*_getting_ready(face_plan, face_plan.plan, now), *_run(face_plan, face_plan.plan, face_plan.problem, now)]
    steps = _numbered(_as_plunged(made, face_plan.problem) if now.plunged else made)
    fed = steps[-1].depth_mm
    return PlanSteps(
        0,
        face_plan.face,
        face_plan.choice.method,
        stock,
        stock - fed,
        steps,
        now.carries_on,
        face_plan.held.holder,
        Decimal(repr(round(min(face_plan.plan.hold_safety, 9999.0), 2))),
        Decimal(repr(round(face_plan.plan.rise_c, 2))),
        reason,
        until_clean=face_plan.choice.until_clean and not now.carries_on,
        push_n=Decimal(repr(round(tangential_n(face_plan.plan, face_plan.problem.wheel), 4))),
    )


def _as_plunged(steps: Sequence[PlanStep], problem: Problem | None) -> list[PlanStep]:
    """Say of each pass that there is no crossfeed, and how many strokes it is."""

    def said(each: PlanStep) -> PlanStep:
        if each.kind not in PASSES or each.crossfeed_mm is None:
            return each
        strokes = 2 if problem is None else problem.strokes(float(each.crossfeed_mm))
        return replace(each, amount=Decimal(strokes))

    return [said(step) for step in steps]


def _run(face_plan: FacePlan, plan: Plan, problem: Problem, now: Situation) -> Iterator[PlanStep]:
    """What is run: with a fixed end, or until the face is clean."""
    if face_plan.choice.until_clean and not now.carries_on:
        return _until_clean(plan, problem, now)
    return _passes(plan, problem, now)


def _until_clean(plan: Plan, problem: Problem, now: Situation) -> Iterator[PlanStep]:
    """One pass that is repeated until the face is clean, spark-outs until the sparks die; then it is measured where
    it ends on a size, else finished."""
    g = now.graduation_mm
    step = plan.rough_steps[0] if plan.rough_passes else plan.finish_steps[0]
    make = _rough_pass if plan.rough_passes else _finish_pass
    yield make(plan, problem, "rough", step * g)
    yield make(plan, problem, "spark-out", Decimal(0))
    yield from _cool(plan.wait_s / 60)
    if now.ends_on_size:
        yield _step("measure", now.handling.measure, HERE)
    yield _step("dress", now.handling.dress, plan.finish_dress)
    for graduations in plan.finish_steps:
        yield _finish_pass(plan, problem, "finish", graduations * g)
    yield _finish_pass(plan, problem, "spark-out", Decimal(0))
    yield from _cool_at_end(plan, problem, now)
    yield _step("measure", now.handling.measure, TO_SIZE if now.ends_on_size else "what it comes to")


def _numbered(steps: Sequence[PlanStep]) -> tuple[PlanStep, ...]:
    """Number the steps and add up the depth."""
    depth, numbered = Decimal(0), []
    for number, step in enumerate(steps, start=1):
        depth += step.step_mm
        numbered.append(replace(step, number=number, depth_mm=depth))
    return tuple(numbered)


def _step(kind: StepKind, minutes: float = 0.0, what: str = "", amount: float | None = None) -> PlanStep:
    return PlanStep(
        0,
        kind,
        Decimal(0),
        Decimal(0),
        what=what,
        minutes=round(minutes, 3),
        amount=None if amount is None else _exact(amount),
    )


def _rough_dress(plan: Plan, now: Situation) -> Iterator[PlanStep]:
    """The roughing dress, and the chamfer that the plan counts on."""
    yield _step("dress", now.handling.dress, plan.rough_dress)
    if plan.leading_chamfer_mm > 0:
        yield _step("chamfer", now.handling.dress, amount=plan.leading_chamfer_mm)


def _getting_ready(face_plan: FacePlan, plan: Plan, now: Situation) -> Iterator[PlanStep]:
    """What has to be done before the first pass: dress, chamfer, place, turn, blocks, touch-off and a pass without
    feed."""
    still_dressed = now.rough_dressed == plan.rough_dress and plan.leading_chamfer_mm == 0
    if plan.rough_passes and not still_dressed:
        yield from _rough_dress(plan, now)
    elif not plan.rough_passes and not now.finish_dressed:
        yield _step("dress", now.handling.dress, plan.finish_dress)
    if now.carries_on:
        return
    held = face_plan.held
    if not now.is_up:
        in_fixture = held.holder != MAGNET
        yield _step(
            "place",
            now.handling.flip
            if held.on_end or (now.is_flip and not in_fixture)
            else now.handling.fixture
            if in_fixture
            else now.handling.place,
            held.holder,
            ON_END_DEG if held.on_end else None,
        )
        if face_plan.choice.skew_deg:
            yield _step("turn", amount=face_plan.choice.skew_deg)
        if held.blocks:
            yield _step(
                "blocks", now.handling.place, "on the side the wheel pushes to and behind, close under the face"
            )
    yield _step("touch off", now.handling.touch_off)
    if face_plan.problem is not None:
        yield (_rough_pass if plan.rough_passes else _finish_pass)(plan, face_plan.problem, "no feed", Decimal(0))


def _passes(plan: Plan, problem: Problem, now: Situation) -> Iterator[PlanStep]:
    """Roughing with its dresses, spark-outs, the measure stop, the wait until it is cool, finish dress, finish,
    spark-outs, and the measurement that ends it."""
    g, again = now.graduation_mm, dressed_before(problem, plan)
    stop_at = _measure_stop(plan, now)
    depth = Decimal(0)
    stopped = stop_at is None
    for number, graduations in enumerate(plan.rough_steps):
        if not stopped and stop_at is not None and depth + graduations * g > stop_at:
            yield from _stop(plan, problem, now)
            stopped = True
        if number in again:
            yield from _rough_dress(plan, now)
        depth += graduations * g
        yield _rough_pass(plan, problem, "rough", graduations * g)
    cooled = not stopped
    if not stopped:
        yield from _stop(plan, problem, now)
    elif stop_at is None:
        for _ in range(plan.spark_outs):
            yield _rough_pass(plan, problem, "spark-out", Decimal(0))
    if plan.rough_passes:
        if not cooled:
            yield from _cool(plan.wait_s / 60)
        yield _step("dress", now.handling.dress, plan.finish_dress)
    blind = None if plan.rough_passes else now.blind_mm
    for number, graduations in enumerate(plan.finish_steps):
        depth += graduations * g
        if blind is not None and depth > blind and number:
            yield _finish_pass(plan, problem, "spark-out", Decimal(0))
            yield _step("measure", now.handling.measure, HERE)
            blind = None
        yield _finish_pass(plan, problem, "finish", graduations * g)
        if number == 0 and now.stops_once_more and now.ends_on_size and len(plan.finish_steps) > 1:
            yield _finish_pass(plan, problem, "spark-out", Decimal(0))
            yield _step("measure", now.handling.measure, AFTER_FIRST)
    for _ in range(plan.finish_spark_outs):
        yield _finish_pass(plan, problem, "spark-out", Decimal(0))
    yield from _cool_at_end(plan, problem, now)
    yield _step("measure", now.handling.measure, TO_SIZE if now.ends_on_size else "what it comes to")


def _measure_stop(plan: Plan, now: Situation) -> Decimal | None:
    """The depth a plan stops at to be measured; ``None`` where it need not: it ends on no size, or is so near
    already and loses no size to the wheel's wear that spark-outs could not bring back."""
    if not now.ends_on_size or not plan.rough_passes:
        return None
    total = (sum(plan.rough_steps) + sum(plan.finish_steps)) * now.graduation_mm
    above = MEASURE_STOP_MM * (WARM_STOP if plan.warmth_c > WARM_C else 1)
    finish = sum(plan.finish_steps) * now.graduation_mm
    first = plan.first_graduations * now.graduation_mm
    at = total - max(above, finish)
    return at if at >= first else total - finish if plan.measure_stop else None


def _stop(plan: Plan, problem: Problem, now: Situation) -> Iterator[PlanStep]:
    """Spark-outs, cool, measure; the finish is planned again from what is read."""
    for _ in range(max(plan.spark_outs, 1)):
        yield _rough_pass(plan, problem, "spark-out", Decimal(0))
    yield from _cool(plan.wait_s / 60)
    yield _step("measure", now.handling.measure, HERE)


def _cool_at_end(plan: Plan, problem: Problem, now: Situation) -> Iterator[PlanStep]:
    """What the finish has warmed is waited for where its size is to be measured."""
    if now.ends_on_size:
        passes = _finish_pass(plan, problem, "spark-out", Decimal(0)).minutes * plan.finish_spark_outs
        yield from _cool(cooling_minutes(problem, plan.rise_c, float(now.tolerance_mm)) - passes)


def _cool(minutes: float) -> Iterator[PlanStep]:
    if minutes > 0:
        yield _step("cool", minutes, amount=round(minutes + 0.05, 1))


def _rough_pass(plan: Plan, problem: Problem, kind: StepKind, step: Decimal) -> PlanStep:
    return _pass(problem, kind, step, plan.crossfeed_mm, table=plan.table_mm_s)


def _finish_pass(plan: Plan, problem: Problem, kind: StepKind, step: Decimal) -> PlanStep:
    return _pass(problem, kind, step, plan.finish_crossfeed_mm, table=plan.finish_table_mm_s)


def _pass(problem: Problem, kind: StepKind, step: Decimal, crossfeed: float, *, table: float) -> PlanStep:
    seconds = problem.strokes(crossfeed) * (problem.stroke / table + problem.machine.reversal_s)
    return PlanStep(0, kind, step, Decimal(0), _exact(crossfeed), _exact(table), minutes=round(seconds / 60, 3))


def _spark_out_only(face_plan: FacePlan, stock: Decimal, now: Situation) -> PlanSteps:
    allow = now.tolerance_mm * Decimal(repr(SIZE_SHARE))
    spark_outs = (
        springs.passes_until(float(now.held_back_mm), now.cut_ratio, float(allow)) if now.held_back_mm > allow else 1
    )
    crossfeed, table = (_exact(float(each)) for each in now.slow)
    spark_out = PlanStep(0, "spark-out", Decimal(0), Decimal(0), crossfeed, table, minutes=1.0)
    made = [*[spark_out] * max(1, min(spark_outs, MOST_SPARK_OUTS)), _step("measure", now.handling.measure, TO_SIZE)]
    steps = _numbered(_as_plunged(made, face_plan.problem) if now.plunged else made)
    return PlanSteps(
        0, face_plan.face, face_plan.choice.method, stock, stock, steps, now.carries_on, face_plan.held.holder
    )


def _exact(length: float) -> Decimal:
    return Decimal(repr(round(length, 7))).quantize(_KEPT).normalize() + 0
