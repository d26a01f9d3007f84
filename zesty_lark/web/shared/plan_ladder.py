"""The ladder of a plan, as every station draws it."""

from decimal import Decimal

from markupsafe import Markup

from zesty_lark.core.measure.grown import fed_zone
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.plans import FEEDS
from zesty_lark.core.work.run import Run
from zesty_lark.shopfloor.stock import goal_of
from zesty_lark.store.models import Job
from zesty_lark.web.shared.svg.ladder import LadderPlan, Rung, ladder
from zesty_lark.web.shared.wording import units


def zone_depths(job_state: JobState, surface: int, stock_mm: Decimal) -> tuple[Decimal, Decimal]:
    """Return where the tolerance zone begins and ends below a plan's start; for a reference there is none [mm]."""
    size, bounds = job_state.spec.wanted.ends_on(surface), job_state.spec.wanted.surfaces[surface]
    if size is None:
        return stock_mm, stock_mm
    if bounds.is_height:
        return size.limits.zone_depths(stock_mm)
    return fed_zone(bounds, size.limits, stock_mm)


def plan_ladder(job: Job, job_state: JobState, run: Run, *, progress: bool = True, height: float = 540) -> Markup:
    """Draw the ladder of a released plan, with its progress or as it was planned."""
    plan = run.plan
    assert plan is not None
    words = units(job)
    rungs = [Rung(step.depth_mm, run.offset_mm + step.depth_mm, step.kind) for step in plan.steps if step.kind in FEEDS]
    foot = f"to {words.size(goal_of(job, job_state, run))}"
    band = zone_depths(job_state, run.surface, plan.stock_mm)
    if not progress:
        return ladder(LadderPlan(rungs, plan.stock_mm, band, Decimal(0), 0, (), (), foot), words, height=height)
    return ladder(
        LadderPlan(rungs, plan.stock_mm, band, run.depth_mm, run.passes_done, run.dressed_at, run.measured_at, foot),
        words,
        height=height,
    )
