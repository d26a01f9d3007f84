"""What is on a surface now, and how a measurement of it is judged."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from zesty_lark.core.measure.estimated_cut import estimated_cut
from zesty_lark.core.measure.grown import cut_of, judged_as_ground
from zesty_lark.core.measure.next_cut import NextCut
from zesty_lark.core.measure.thickness import Judgement, is_hot, judge
from zesty_lark.core.part.faces import Axis
from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.part.sizes import Reading
from zesty_lark.core.part.surfaces import kind_of
from zesty_lark.core.part.surfaces.part import PairPlan, Sharing
from zesty_lark.core.planning.means import MachineIn
from zesty_lark.core.squaring import feed
from zesty_lark.core.squaring.remaining import ends_at, skin_again, stock_on, turn_of
from zesty_lark.core.work.entries import PART_WARM, Measured, Rerouted
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import PassFed
from zesty_lark.core.work.run import Run
from zesty_lark.shopfloor.landing import landing_run
from zesty_lark.store.models import Job

FREE_C = 20.0


@dataclass(frozen=True)
class Stock:
    """What is on a surface: the size it ends at, what is to be fed off now, what springs still hold back [mm]; and what
    the last measurement asks for."""

    goal_mm: Decimal
    on_mm: Decimal
    held_back_mm: Decimal
    cut: NextCut | None


def pair_of(job: Job, surface: int, sharing: Mapping[Axis, Sharing] | None = None) -> PairPlan:
    """Share the stock of the size that a surface bounds, as taken in and chosen in the route unless told otherwise."""
    part, block = job.part, job.part.block()
    usual = sharing or part.route_choices.sharing(part.min_skin_mm, part.first_share)
    return kind_of(block, surface).stock(block, surface, usual)


def graduation_of(job: Job, surface: int) -> Decimal:
    """Return the graduation of the dial that a surface is fed with [mm]."""
    return feed.graduation_of(job.part.block(), surface, _dials(job))


def depth_graduation(job: Job, surface: int) -> Decimal:
    """Return how deep a graduation of its dial goes under a surface [mm]."""
    return feed.depth_graduation(job.part.block(), surface, _dials(job))


def _dials(job: Job) -> MachineIn:
    machine = job.machine.to_core()
    return MachineIn.of(machine, float(machine.cut_ratio))


def goal_of(job: Job, job_state: JobState, run: Run, pair: PairPlan | None = None) -> Decimal:
    """Return the size at which a run's surface is done, or done for this turn where there are several [mm]."""
    pair = pair or pair_of(job, run.surface)
    turn = turn_of(job_state, run) if pair.turns > 1 else 1
    return ends_at(pair, reference=job_state.spec.wanted.surfaces[run.surface].reference, turn=turn)


def measured_entry(run: Run, job_state: JobState, piece: int | None = None) -> Measured | None:
    """The entry of a piece's last measurement, unless it has been cut since; of the thickest without a piece."""
    proofs = {
        number: proof
        for number, proof in run.proofs.items()
        if number == piece or (piece is None and number in (run.pieces or run.proofs))
    }
    if not proofs:
        return None
    thickest = max(proofs.values(), key=lambda proof: proof.greatest_mm)
    return next(
        (
            entry
            for entry in reversed(job_state.history)
            if isinstance(entry, Measured) and entry.entry_id == thickest.entry_id
        ),
        None,
    )


def judged(job: Job, entry: Measured, size: Characteristic, *, overdue: bool = False) -> Judgement:
    """Judge a size as the print has it, and against the size aimed at; what was logged as unsure is never in."""
    limits, wanted = size.limits, job.part.wanted()
    hot = entry.note == PART_WARM or _warm(entry, float(limits.target_mm), float(limits.width_mm))
    surface = wanted.surfaces[size.surfaces[0]]
    goal = pair_of(job, surface.number).ends_at_mm if surface.size == size.name else limits.goal_mm
    parallel = next(
        (
            characteristic.allowed_mm
            for characteristic in wanted.characteristics
            if characteristic.kind == "parallel" and set(characteristic.surfaces) == set(size.surfaces)
        ),
        None,
    )

    def as_shrinking(readings: Sequence[Reading], goal_mm: Decimal) -> Judgement:
        u = entry.uncertainty_mm
        return judge(readings, limits, u, goal_mm=goal_mm, parallel_mm=parallel, hot=hot, overdue=overdue)

    made = judged_as_ground(surface, entry.true_readings, limits, goal, judge=as_shrinking)
    return replace(made, overdue=True, verdict="unsure") if made.verdict == "in" and entry.verdict == "unsure" else made


def _warm(entry: Measured, length_mm: float, tolerance_mm: float) -> bool:
    """Whether the part was warmer than its room by more than is allowed; a gauge lies in the room unless it was taken
    apart."""
    if entry.part_c is None:
        return False
    room = entry.room_c if entry.room_c is not None else entry.gauge_c
    return is_hot(length_mm, float(entry.part_c), FREE_C if room is None else float(room), tolerance_mm)


def _ground_again(job_state: JobState, surface: int) -> bool:
    """Whether a reference was called back and has not been cut since: a skin is taken off it, at its opposite's
    cost."""
    for entry in reversed(job_state.history):
        if isinstance(entry, PassFed) and entry.surface == surface:
            return False
        if isinstance(entry, Rerouted) and entry.surface == surface:
            return True
    return False


def _skin_again(job: Job, run: Run, job_state: JobState) -> Decimal:
    """What a surface that was called back gives, the thinnest piece of its load deciding; one never measured gives
    none."""
    size = job_state.spec.wanted.ends_on(run.surface)
    skin = job.part.min_skin_mm
    if size is None:
        return skin
    newest = {
        entry.piece: entry
        for entry in job_state.history
        if isinstance(entry, Measured) and entry.characteristic == size.name and entry.piece in run.pieces
    }
    if set(newest) != set(run.pieces):
        return Decimal(0)
    return min(skin_again(each.least_mm, size.limits, each.uncertainty_mm, skin) for each in newest.values())


def stock_of(
    job: Job, job_state: JobState, surface: int, pair: PairPlan | None = None, *, pieces: tuple[int, ...] = ()
) -> Stock:
    """Return what is on a surface now: after a measurement the one cut that it asks for, else what the collar has left.

    Of several pieces the highest counts; of those that are to be put up together, where they are named.
    """
    wanted, run = job_state.spec.wanted, job_state.runs[surface]
    run = replace(run, pieces=tuple(number for number in pieces if number in run.pieces) or run.pieces)
    goal = goal_of(job, job_state, run, pair)
    size = wanted.ends_on(surface)
    entry = measured_entry(run, job_state)
    if entry is None or size is None or not job_state.is_up(run):
        on = stock_on(run, job_state, goal)
        if _ground_again(job_state, surface):
            on = max(on, _skin_again(job, run, job_state))
        return Stock(goal, on, run.held_back_mm, None)
    judgement, dial = judged(job, entry, size), graduation_of(job, surface)
    told = cut_of(
        wanted.surfaces[surface], judgement, size.limits, goal, graduation_mm=dial, held_back_mm=run.held_back_mm
    )
    on = told.amount_mm
    deep = dial * abs(wanted.surfaces[surface].per_feed)
    landing = landing_run(job, job_state, run, goal_mm=goal, graduation_mm=deep)
    if landing is not None and not judgement.under and judgement.verdict != "in":
        told = estimated_cut(landing, judgement, dial)
        on = on if told.what == "read again" else told.amount_mm
    return Stock(goal, on, run.held_back_mm, told)
