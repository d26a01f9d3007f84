"""What the stations ask the core about the pair that is being worked."""

from dataclasses import dataclass
from decimal import Decimal

from markupsafe import Markup

from zesty_lark.core.faces import OPPOSITE
from zesty_lark.core.measure.thickness import Size
from zesty_lark.core.shoplog.remaining import goal_thickness, still_to_spark, stock_on
from zesty_lark.core.shoplog.standing import FaceStanding, Standing
from zesty_lark.core.stock import StockSplit, split
from zesty_lark.store.models import Job
from zesty_lark.web.shared.svg.ladder import LadderPlan, Rung, ladder
from zesty_lark.web.shared.wording import tongue

__all__ = ["Stock", "pair_split", "plan_ladder", "stock_of", "zone_depths"]


@dataclass(frozen=True)
class Stock:
    """What is on a face: its goal thickness, what is on now, what springs still hold back [mm]."""

    goal_mm: Decimal
    on_mm: Decimal
    held_back_mm: Decimal


def pair_split(job: Job) -> StockSplit:
    """Share the stock of the job's pair as taken in."""
    part, size = job.part, job.part.size("thickness")
    first, second = part.face(part.reference_face), part.face(OPPOSITE[part.reference_face])
    return split(
        measured_max_mm=size.measured_max_mm, measured_min_mm=size.measured_min_mm, target_mm=size.target_mm,
        tol_minus_mm=size.tol_minus_mm, tol_plus_mm=size.tol_plus_mm, first_cleanup_mm=first.cleanup_mm,
        second_cleanup_mm=second.cleanup_mm, min_skin_mm=part.min_skin_mm,
        first_share=part.first_share,
    )


def stock_of(job: Job, standing: Standing, face: int, shared: StockSplit | None = None) -> Stock:
    """Return what is on a face now."""
    size: Size = job.part.size("thickness").to_core()
    goal = goal_thickness(face, job.part.reference_face, size, shared or pair_split(job))
    where: FaceStanding = standing.faces[face]
    held_back = Decimal(0)
    if where.plan is not None:
        held_back = still_to_spark(where, float(job.machine.cut_ratio), job.wheel.width_mm, where.plan.crossfeed_mm)
    return Stock(goal, stock_on(where, standing, goal, held_back), held_back)


def zone_depths(job: Job, face: int, stock_mm: Decimal) -> tuple[Decimal, Decimal]:
    """Return where the tolerance zone begins and ends below a plan's start; for the reference there is none [mm]."""
    if face == job.part.reference_face:
        return stock_mm, stock_mm
    return job.part.size("thickness").to_core().zone_depths(stock_mm)


def plan_ladder(job: Job, standing: Standing, face: FaceStanding, *, progress: bool = True, height: float = 540) -> Markup:
    """Draw the ladder of a face's released plan, with its progress or as it was planned."""
    plan = face.plan
    assert plan is not None
    words = tongue(job)
    rungs = [Rung(step.depth_mm, face.offset_mm + step.depth_mm, step.kind) for step in plan.steps]
    foot = f"to {words.size(stock_of(job, standing, face.face).goal_mm)}"
    band = zone_depths(job, face.face, plan.stock_mm)
    if not progress:
        return ladder(LadderPlan(rungs, plan.stock_mm, band, Decimal(0), 0, (), (), foot), words, height=height)
    return ladder(LadderPlan(rungs, plan.stock_mm, band, face.depth_mm, face.done, face.dressed_at, face.measured_at, foot),
                  words, height=height)
