"""What the stations ask the core about the part that is being worked."""

from dataclasses import dataclass, replace
from decimal import Decimal

from markupsafe import Markup

from zesty_lark.core.faces import Condition
from zesty_lark.core.measure.next_cut import NextCut, next_cut
from zesty_lark.core.measure.thickness import Judgement, is_hot, judge
from zesty_lark.core.route.block import Block, PairPlan, PairSize, Sharing, pair_stock
from zesty_lark.core.route.choices import RouteChoices
from zesty_lark.core.shoplog.entries import FEEDS, PART_WARM, Entry
from zesty_lark.core.shoplog.remaining import ends_at, stock_on
from zesty_lark.core.shoplog.standing import FaceStanding, Standing
from zesty_lark.core.units import micrometres
from zesty_lark.store.models import Job
from zesty_lark.web.shared.svg.ladder import LadderPlan, Rung, ladder
from zesty_lark.web.shared.wording import tongue

__all__ = ["Stock", "block_of", "judged", "measured_entry", "pair_of", "plan_ladder", "stock_of", "zone_depths"]

FREE_C = 20.0


@dataclass(frozen=True)
class Stock:
    """What is on a face: the thickness it ends at, what is to be fed off now, what springs still hold back [mm]; and what
    the last measurement asks for."""

    goal_mm: Decimal
    on_mm: Decimal
    held_back_mm: Decimal
    cut: NextCut | None


def block_of(job: Job) -> Block:
    """The part as the print wants it and as it came in."""
    part = job.part
    sides = [int(face) for face in part.mark_corner.split("-")[1:]]
    sizes = {size.axis: PairSize(size.target_mm, size.tol_minus_mm, size.tol_plus_mm, size.measured_max_mm,
                                 size.measured_min_mm, part.leave_mm if size.axis == "thickness" else Decimal(0))
             for size in part.sizes}
    return Block(
        sizes, {face.face: face.cleanup_mm for face in part.faces},  # type: ignore[arg-type]
        (part.reference_face, sides[0], sides[1]),
        parallel_um=_um(part.parallel_mm), square_um=_um(part.square_mm), flat_um=_um(part.flat_mm),
        conditions={face.face: Condition(face.condition) for face in part.faces},
        bow_mm=None if part.bow_mm is None else float(part.bow_mm), bow_shape=part.bow_shape,  # type: ignore[arg-type]
    )


def _um(length: Decimal | None) -> float | None:
    return None if length is None else micrometres(length)


def pair_of(job: Job, sharing: Sharing | None = None) -> PairPlan:
    """Share the stock of the job's thickness, as taken in unless told otherwise."""
    part = job.part
    usual = RouteChoices().sharing(part.min_skin_mm, part.first_share)["thickness"]
    return pair_stock(block_of(job), "thickness", sharing or usual)


def measured_entry(face: FaceStanding, standing: Standing) -> Entry | None:
    """The entry of a face's last measurement, unless it has been cut since."""
    if face.measured is None:
        return None
    return next((entry for entry in reversed(standing.history) if entry.entry_id == face.measured.entry_id), None)


def judged(job: Job, entry: Entry, *, overdue: bool = False) -> Judgement:
    """Judge a thickness as the print has it, and against the size aimed at; what was logged as unsure is never in."""
    size, part = job.part.size("thickness").to_core(), job.part
    hot = entry.note == PART_WARM or _warm(entry, float(size.target_mm), float(size.width_mm))
    made = judge(entry.true_readings, size, entry.uncertainty_mm or Decimal(0), goal_mm=pair_of(job).ends_at_mm,
                 parallel_mm=part.parallel_mm, hot=hot, overdue=overdue)
    return replace(made, overdue=True, verdict="unsure") if made.verdict == "in" and entry.verdict == "unsure" else made


def _warm(entry: Entry, length_mm: float, tolerance_mm: float) -> bool:
    """Whether the part was warmer than its room by more than is allowed; a gauge lies in the room unless it was taken apart."""
    if entry.part_c is None:
        return False
    room = entry.room_c if entry.room_c is not None else entry.gauge_c
    return is_hot(length_mm, float(entry.part_c), FREE_C if room is None else float(room), tolerance_mm)


def stock_of(job: Job, standing: Standing, face: int, pair: PairPlan | None = None) -> Stock:
    """Return what is on a face now: after a measurement the one cut that it asks for, else what the collar has left."""
    reference, where = job.part.reference_face, standing.faces[face]
    goal = ends_at(face, reference, pair or pair_of(job))
    entry = measured_entry(where, standing)
    if entry is None or face == reference or standing.up != face:
        return Stock(goal, stock_on(where, standing, goal), where.held_back_mm, None)
    cut = next_cut(judged(job, entry), job.part.size("thickness").to_core(), goal, job.machine.graduation_mm,
                   where.held_back_mm)
    return Stock(goal, cut.amount_mm, where.held_back_mm, cut)


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
    rungs = [Rung(step.depth_mm, face.offset_mm + step.depth_mm, step.kind) for step in plan.steps if step.kind in FEEDS]
    foot = f"to {words.size(ends_at(face.face, job.part.reference_face, pair_of(job)))}"
    band = zone_depths(job, face.face, plan.stock_mm)
    if not progress:
        return ladder(LadderPlan(rungs, plan.stock_mm, band, Decimal(0), 0, (), (), foot), words, height=height)
    return ladder(LadderPlan(rungs, plan.stock_mm, band, face.depth_mm, face.passes_done, face.dressed_at, face.measured_at,
                             foot),
                  words, height=height)
