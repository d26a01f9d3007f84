"""What eyes and ears know at the machine, and what each changes in the plan that is being run.

The plan that was released stays as it is; the run's own copy gets steps put in before the next one, or taken out of
what is left. What changes follows from the log alone.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from zesty_lark.core.work.plans import FEEDS, PlanStep, PlanSteps, StepKind

SIDES: Mapping[str, str] = {
    "front": "at the front",
    "back": "at the back",
    "left": "on the left",
    "right": "on the right",
    "middle": "in the middle",
}
MOST_SPARK_OUTS_OPEN = 10
"""Where spark-outs are run until the sparks die, there are no more than this."""
DRESS_MINUTES = 1.5
NOT_CLEAN = "not clean yet, and its stop is reached"
NOTHING = Decimal(0)


@dataclass(frozen=True)
class Observation:
    """Something to be seen or heard: its key, in words, and the sides it may be on."""

    key: str
    words: str
    sides: tuple[str, ...] = ()


OBSERVATIONS: Mapping[str, Observation] = {
    each.key: each
    for each in (
        Observation("uneven", "Sparks uneven", ("front", "back", "left", "right")),
        Observation("died", "Sparks died"),
        Observation("clean", "Clean all over"),
        Observation("patch", "Still a patch", tuple(SIDES)),
        Observation("dull", "Sounds dull"),
    )
}


def numbered(steps: Sequence[PlanStep]) -> tuple[PlanStep, ...]:
    """Return steps numbered from 1, their depth added up anew."""
    depth, made = NOTHING, []
    for number, step in enumerate(steps, start=1):
        depth += step.step_mm
        made.append(replace(step, number=number, depth_mm=depth))
    return tuple(made)


def put_in(plan: PlanSteps, at: int, *steps: PlanStep) -> PlanSteps:
    """Return a plan with steps put in after its first ``at``."""
    return replace(plan, steps=numbered((*plan.steps[:at], *steps, *plan.steps[at:])))


def _without(plan: PlanSteps, places: set[int]) -> PlanSteps:
    return replace(plan, steps=numbered([step for at, step in enumerate(plan.steps) if at not in places]))


def _step(kind: StepKind, like: PlanStep | None = None, *, what: str = "", minutes: float = 0.0) -> PlanStep:
    """A step put in, at the settings of another where it is a pass."""
    settings = (None, None) if like is None else (like.crossfeed_mm, like.table_mm_s)
    return PlanStep(0, kind, NOTHING, NOTHING, *settings, what=what, minutes=minutes if like is None else like.minutes)


def _pass_at(plan: PlanSteps, done: int) -> PlanStep | None:
    """The pass that is being run, for its settings: the last one done, else the next."""
    passes = [step for step in (*reversed(plan.steps[:done]), *plan.steps[done:]) if step.crossfeed_mm is not None]
    return passes[0] if passes else None


def observed(
    plan: PlanSteps, done: int, seen: str, side: str = "", *, fed: bool, before: int, only_clean: bool, most_mm: Decimal
) -> PlanSteps:
    """Return what is left of a plan after something was seen or heard.

    Parameters
    ----------
    plan : PlanSteps
        As it is being run; its first ``done`` steps are done.
    seen, side : str
        The observation, and where.
    fed : bool
        Whether it has been fed down since it was put up.
    before : int
        How often the same was seen since this plan was begun.
    only_clean : bool
        The face ends on no size: it is to be clean, or is ground until it is.
    most_mm : Decimal
        The deepest it may go below the plan's start, whatever is seen [mm].
    """
    following = plan.steps[done].kind if done < len(plan.steps) else None
    if seen == "dull":
        return plan if following == "dress" else put_in(plan, done, dress_like(plan, done))
    if seen == "uneven":
        return _uneven(plan, done, side, fed=fed, before=before)
    if seen == "died":
        return _died(plan, done, following)
    if seen == "clean" and only_clean:
        return _clean(plan, done)
    if seen == "patch" and only_clean:
        return _patch(plan, done, most_mm)
    return plan


def dress_like(plan: PlanSteps, done: int) -> PlanStep:
    """Return another dress, like the last there was or the next there is."""
    dresses = [step for step in (*reversed(plan.steps[:done]), *plan.steps[done:]) if step.kind == "dress"]
    return _step("dress", what=dresses[0].what if dresses else "general", minutes=DRESS_MINUTES)


def _uneven(plan: PlanSteps, done: int, side: str, *, fed: bool, before: int) -> PlanSteps:
    where = SIDES.get(side, "")
    like = _pass_at(plan, done)
    if like is None:
        return plan
    if not fed:
        return put_in(plan, done, _step("touch off", what=f"high {where}"), _step("no feed", like))
    if before:
        return put_in(plan, done, _step("measure", what=f"high {where}: it leans, or dirt is under it", minutes=3.0))
    return put_in(plan, done, _step("spark-out", like))


def _died(plan: PlanSteps, done: int, following: StepKind | None) -> PlanSteps:
    last = plan.steps[done - 1].kind if done else None
    if "spark-out" in (last, following) and last not in FEEDS:
        end = done
        while end < len(plan.steps) and plan.steps[end].kind == "spark-out":
            end += 1
        return _without(plan, set(range(done, end)))
    if last in FEEDS and following in FEEDS:
        return put_in(plan, done, _step("measure", what="the sparks died: less is cut than was fed", minutes=3.0))
    return plan


def _clean(plan: PlanSteps, done: int) -> PlanSteps:
    """Roughing is over: what is left of it goes, with the dresses in it."""
    if done < len(plan.steps) and plan.steps[done].what == NOT_CLEAN:
        plan = _without(plan, {done})
    rough = [at for at in range(done, len(plan.steps)) if plan.steps[at].kind == "rough"]
    if not rough:
        return plan
    inner = {at for at in range(done, rough[-1]) if plan.steps[at].kind == "dress"}
    return _without(plan, set(rough) | inner)


def _patch(plan: PlanSteps, done: int, most_mm: Decimal) -> PlanSteps:
    """No pass with feed is left: one more like the last, if there is stock for it."""
    if any(step.kind in FEEDS for step in plan.steps[done:]):
        return plan
    feeds = [step for step in plan.steps[:done] if step.kind in FEEDS]
    depth = plan.steps[-1].depth_mm if plan.steps else NOTHING
    if not feeds or depth + feeds[-1].step_mm > most_mm:
        return plan
    return put_in(plan, done, replace(feeds[-1]), _step("spark-out", feeds[-1]))


def after_step(plan: PlanSteps, done: int, *, clean: bool, died: bool, most_mm: Decimal) -> PlanSteps:
    """Return a plan that runs until clean after one more of its steps: another pass while a patch is left and there is
    stock, another spark-out while there are sparks."""
    if not plan.until_clean or not done:
        return plan
    last, following = plan.steps[done - 1], plan.steps[done] if done < len(plan.steps) else None
    if last.kind == "rough" and not clean and (following is None or following.kind != "rough"):
        if last.depth_mm + last.step_mm + _finish_mm(plan, done) <= most_mm:
            return put_in(plan, done, last)
        return put_in(plan, done, _step("measure", what=NOT_CLEAN, minutes=3.0))
    if last.kind == "spark-out" and not died and (following is None or following.kind != "spark-out"):
        spark_outs = 0
        while spark_outs < done and plan.steps[done - 1 - spark_outs].kind == "spark-out":
            spark_outs += 1
        if spark_outs < MOST_SPARK_OUTS_OPEN:
            return put_in(plan, done, last)
    return plan


def _finish_mm(plan: PlanSteps, done: int) -> Decimal:
    return sum((step.step_mm for step in plan.steps[done:]), NOTHING)
