"""What may be logged at the machine now, and why not."""

from collections.abc import Callable
from decimal import Decimal
from typing import Any

from zesty_lark.core.part.faces import FINISHED, FaceState
from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.process.holding import STOP_SAFETY
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.halting import CRASH, STOPS
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.looking import felt_stop, open_stop
from zesty_lark.core.work.machine_acts import (
    Dressed,
    Halted,
    LeftMachine,
    Observed,
    PassFed,
    Placed,
    Planned,
    Prepared,
    SparkedOut,
    StepDone,
    StepSkipped,
    SurfaceDone,
    TakenOver,
    TouchedOff,
    WentOn,
)
from zesty_lark.core.work.next_act import needs_measuring, unseen_pieces
from zesty_lark.core.work.observing import OBSERVATIONS
from zesty_lark.core.work.plans import DONE_KINDS, FEEDS, MAGNET, StepKind
from zesty_lark.core.work.preparing import not_on_the_list, set_up_stop
from zesty_lark.core.work.run import Run

MOST_SPARK_OUTS = 50
MOST_DRESS_MM = Decimal(5)


class LogError(ValueError):
    """An entry that would make the log say what cannot be; the message is for the person who sent it."""


def may_grind(surface: int, job_state: JobState, pieces: tuple[int, ...] = ()) -> None:
    """Pass silently when a surface may be ground now.

    Raises
    ------
    LogError
        If it is a finished reference, is done, or would stand on or be square to something that is not ready.
    """
    asked = job_state.spec.wanted.surfaces[surface]
    numbers = pieces or job_state.live
    states = [job_state.pieces[number].states for number in numbers if number in job_state.pieces]
    if any(each[surface] is FaceState.AS_IT_IS for each in states):
        raise LogError(f"{job_state.titled(surface)} stays as it is, by its take-in.")
    if asked.reference and any(each[surface] in FINISHED for each in states):
        raise LogError(
            f"{job_state.titled(surface)} is a finished reference: it stays down on the magnet and is never ground "
            "again."
        )
    if any(state[surface] in (FaceState.TO_SIZE, FaceState.PROVEN) for state in states):
        raise LogError(f"{job_state.titled(surface)} is to size already.")
    if asked.reference and asked.square_to is None and any(each[asked.opposite] is FaceState.RAW for each in states):
        raise LogError(
            f"{job_state.titled(asked.opposite)} must be stable before anything stands on it: "
            "take scale and burrs off and see that it does not rock."
        )
    if not asked.reference and any(each[asked.opposite] not in FINISHED for each in states):
        raise LogError(
            f"{job_state.titled(asked.opposite)} is the reference and comes first; "
            f"{job_state.named(surface)} is ground standing on it."
        )
    if asked.square_to is not None and any(each[asked.square_to] not in FINISHED for each in states):
        raise LogError(
            f"{job_state.titled(asked.square_to)} comes first: {job_state.named(surface)} is to be square to it."
        )
    for before in asked.after:
        if any(each[before] not in FINISHED for each in states if before in each):
            raise LogError(f"{job_state.titled(before)} comes first: {job_state.named(surface)} is ground after it.")


def _check_plan(entry: Planned, job_state: JobState, run: Run) -> None:
    plan, at = entry.plan, job_state.at
    may_grind(entry.surface, job_state, entry.pieces)
    if any(number not in job_state.live for number in entry.pieces) or not entry.pieces:
        raise LogError("Which pieces are meant? Only those that are still under way can be put up.")
    if at is None or entry.place != at.place or not set(entry.pieces) <= set(at.pieces):
        raise LogError(
            f"{job_state.titled(entry.surface)} is not what comes next. Take its set-up first, with a reason, or plan "
            "what is next."
        )
    if not plan.of_kind("rough", "finish", "spark-out"):
        raise LogError("A plan needs at least one pass.")
    if plan.holder == MAGNET and not job_state.spec.pulled:
        raise LogError("A magnet does not hold this material: plan it in a fixture.")
    if plan.hold_safety is not None and plan.hold_safety < Decimal(str(STOP_SAFETY)):
        raise LogError(
            f"The hold is {plan.hold_safety:.1f} of the {STOP_SAFETY:g} that it must have. There is no release for "
            "that: blocks, a fixture, or a lighter cut."
        )


def _check_placed(entry: Placed, job_state: JobState, run: Run) -> None:
    may_grind(entry.surface, job_state, run.pieces)


def _check_touch_off(entry: TouchedOff, job_state: JobState, run: Run) -> None:
    _on_machine(run, job_state)
    if entry.reading_mm < 0:
        raise LogError("What does the collar read at touch-off? 0 when it was zeroed there.")
    _nothing_pending(run, "dress", "chamfer", "place", "turn", "blocks")
    refuse(set_up_stop(run, job_state) or felt_stop(run, job_state) or open_stop(run, job_state))


def _check_prepared(entry: Prepared, job_state: JobState, run: Run) -> None:
    refuse(not_on_the_list(entry, run))
    if not job_state.is_up(run):
        raise LogError("Put it up first: what is felt and seen before the touch-off is said of what is on the chuck.")


def refuse(why: str) -> None:
    """Refuse an entry where there is a why.

    Raises
    ------
    LogError
    """
    if why:
        raise LogError(why)


def _check_pass(entry: PassFed, job_state: JobState, run: Run) -> None:
    _on_machine(run, job_state)
    if not run.touched_off:
        raise LogError("Touch off first: without it the collar's reading means nothing on this face.")
    if entry.reading_mm <= run.reading_mm:
        raise LogError("The collar has to go down from where it stands; for a pass without feed log a spark-out.")
    _nothing_pending(run, *_SAID)
    refuse(set_up_stop(run, job_state))
    last = run.last_reading_mm
    if last is None or entry.reading_mm > last:
        raise LogError(_too_deep(run))


def _too_deep(run: Run) -> str:
    after = next((step for step in (run.plan.steps[run.done :] if run.plan else ()) if step.kind not in FEEDS), None)
    if run.last_reading_mm is not None and after is not None and after.kind not in ("spark-out", "measure", "cool"):
        return (
            f"That is past where the plan asks for {_SAID[after.kind]}: go down to there, do it, or skip it with "
            "a reason."
        )
    return (
        "That is past the plan's last reading before it is measured, and would cut into the size. Measure and plan "
        "again if there is more to take."
    )


def _check_spark_out(entry: SparkedOut, job_state: JobState, run: Run) -> None:
    _on_machine(run, job_state)
    if not run.touched_off:
        raise LogError("Touch off first: without it nobody knows where the wheel stands.")
    if not 1 <= entry.count <= MOST_SPARK_OUTS:
        raise LogError("A spark-out is between 1 and 50 passes.")


def _check_dressed(entry: Dressed, job_state: JobState, run: Run) -> None:
    if entry.amount_mm is not None and not 0 <= entry.amount_mm <= MOST_DRESS_MM:
        raise LogError("A dress takes between 0 and 5 mm off the wheel.")


def _check_done(entry: StepDone, job_state: JobState, run: Run) -> None:
    step = run.next_step
    if step is None or entry.step != step.number or step.kind not in DONE_KINDS:
        raise LogError("That is not what the plan asks for now.")
    if step.kind in ("turn", "blocks"):
        _on_machine(run, job_state)


def _check_skipped(entry: StepSkipped, job_state: JobState, run: Run) -> None:
    step = run.next_step
    if step is None or entry.step != step.number:
        raise LogError("That is not what the plan asks for now.")
    if step.kind in (*FEEDS, "place", "touch off"):
        raise LogError(f"A {step.kind} cannot be skipped: plan again instead.")
    reason(entry, "Why is it skipped?")


def _check_surface_done(entry: SurfaceDone, job_state: JobState, run: Run) -> None:
    size = job_state.spec.wanted.ends_on(entry.surface)
    pieces = entry.pieces or run.pieces
    if not run.pieces or not set(pieces) <= set(run.pieces):
        raise LogError(f"{job_state.titled(entry.surface)} is done already.")
    if size is None:
        unseen = unseen_pieces(run, pieces)
        if not run.proofs:
            _ground_out(run, job_state)
        elif unseen:
            raise LogError(
                f"Measure piece {unseen[0]} too, or say that the load is clean all over: nothing says that "
                f"{job_state.named(run.surface)} of it is done."
            )
        return
    for number in pieces:
        _proved(number, run, job_state, size)


def _ground_out(run: Run, job_state: JobState) -> None:
    """A surface that ends on no size is done when it was measured, or needs no measuring and its plan is run out."""
    if needs_measuring(run, job_state):
        raise _unmeasured(run, job_state)
    if run.plan is None:
        raise LogError(f"{job_state.titled(run.surface)} has no plan yet.")
    if not run.cutting_over:
        raise LogError(f"The plan of {job_state.named(run.surface)} has passes left: run them, or plan again.")


def _unmeasured(run: Run, job_state: JobState, which: str = "") -> LogError:
    why = "it has been cut since it was last measured" if run.fed else "nothing that was measured says that it is done"
    return LogError(f"Measure {job_state.named(run.surface)}{which} first: {why}.")


def _proved(number: int, run: Run, job_state: JobState, size: Characteristic) -> None:
    which = f" of piece {number}" if len(job_state.pieces) > 1 else ""
    proof = run.proofs.get(number)
    if proof is None:
        raise _unmeasured(run, job_state, which)
    if proof.verdict != "in" and size.name not in job_state.pieces[number].waived:
        raise LogError(
            f"{job_state.titled(run.surface)}{which} is not proved to size: its last verdict is {proof.verdict}."
        )


def _check_left(entry: LeftMachine, job_state: JobState, run: Run) -> None:
    if not job_state.is_up(run):
        raise LogError("It is not up on the machine.")
    reason(entry, "Why is it taken off before it is done?")


def _on_machine(run: Run, job_state: JobState) -> None:
    if run.plan is None:
        raise LogError(f"{job_state.titled(run.surface)} has no plan yet.")
    if not job_state.is_up(run):
        raise LogError(f"{job_state.titled(run.surface)} is not up: put it on the chuck and say so first.")


_SAID: dict[StepKind, str] = {
    "dress": "a dress",
    "chamfer": "a chamfer on the wheel’s leading edge",
    "place": "the part to be put up",
    "turn": "the part to be turned",
    "blocks": "the blocks to be placed",
    "touch off": "a touch-off",
    "no feed": "a first pass without feed",
    "spark-out": "a spark-out pass",
    "cool": "the part to cool",
    "measure": "a measurement",
}


def _nothing_pending(run: Run, *kinds: StepKind) -> None:
    """Nothing a figure of the plan rests on is passed over in silence."""
    step = run.next_step
    if step is not None and step.kind in kinds:
        raise LogError(f"The plan asks for {_SAID[step.kind]} first: do it, or skip it with a reason.")


def reason(entry: Entry, asks: str) -> None:
    """Refuse an entry that says no reason; ``asks`` is the question.

    Raises
    ------
    LogError
    """
    if not entry.note.strip():
        raise LogError(f"{asks} The reason goes into the record.")


def _check_observed(entry: Observed, job_state: JobState, run: Run) -> None:
    _on_machine(run, job_state)
    what = OBSERVATIONS.get(entry.seen)
    if what is None:
        raise LogError("What was seen or heard? That is not among what this page knows.")
    if entry.side not in (what.sides or ("",)):
        raise LogError(
            f"{what.words}: on which side? One of {', '.join(what.sides)}."
            if what.sides
            else f"{what.words} has no side."
        )


def _check_halted(entry: Halted, job_state: JobState, run: Run) -> None:
    if entry.seen not in STOPS:
        raise LogError(f"What is it stopped for? One of {', '.join(STOPS)}.")
    if job_state.halted is not None and (entry.seen != CRASH or job_state.halted.seen == CRASH):
        raise LogError("It is stopped already.")


def _check_went_on(entry: WentOn, job_state: JobState, run: Run) -> None:
    if job_state.halted is None:
        raise LogError("It is not stopped.")
    reason(entry, "Why may it go on?")


def _check_taken_over(entry: TakenOver, job_state: JobState, run: Run) -> None:
    """Anyone who may work on the job takes it over; that is said by whoever lets them in."""


AT_MACHINE: dict[type[Entry], Callable[[Any, JobState, Run], None]] = {
    Planned: _check_plan,
    Placed: _check_placed,
    Prepared: _check_prepared,
    TouchedOff: _check_touch_off,
    PassFed: _check_pass,
    SparkedOut: _check_spark_out,
    Dressed: _check_dressed,
    StepDone: _check_done,
    StepSkipped: _check_skipped,
    SurfaceDone: _check_surface_done,
    LeftMachine: _check_left,
    Observed: _check_observed,
    Halted: _check_halted,
    WentOn: _check_went_on,
    TakenOver: _check_taken_over,
}
