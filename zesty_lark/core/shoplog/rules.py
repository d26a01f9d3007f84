"""What may be logged now, and what comes next."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from zesty_lark.core.faces import FaceError, may_grind
from zesty_lark.core.holding import STOP_SAFETY
from zesty_lark.core.measure.thickness import Verdict
from zesty_lark.core.shoplog.entries import DONE_KINDS, FEEDS, MAGNET, THICKNESS, Entry, Kind, StepKind
from zesty_lark.core.shoplog.standing import FaceStanding, Standing

__all__ = ["LogError", "Next", "NextAct", "check_entry", "next_act"]

NextAct = Literal["plan", "dress", "chamfer", "place", "turn", "blocks", "touch_off", "no_feed", "pass", "blank", "cool",
                  "measure",
                  "measure_again", "close", "stopped", "lead", "sign_off", "finished"]
_ACTS: dict[StepKind, NextAct] = {"touch off": "touch_off", "no feed": "no_feed", "rough": "pass", "finish": "pass"}
BEFORE_PLACING: tuple[StepKind, ...] = ("dress", "chamfer")
MOST_TRIES = 3
"""Measured so often without an answer, the lead decides."""
MOST_BLANKS = 50
MOST_DRESS_MM = Decimal(5)


class LogError(ValueError):
    """An entry that would make the log say what cannot be; the message is for the person who sent it."""


@dataclass(frozen=True)
class Next:
    """What comes next on a job, and on which face."""

    act: NextAct
    face: int | None


def next_act(standing: Standing) -> Next:
    """Tell what comes next."""
    if standing.face is None:
        return Next("finished" if standing.signed_off else "sign_off", None)
    face = standing.faces[standing.face]
    if face.plan is None:
        return Next("plan", face.face)
    if face.measured is not None:
        return Next(_after_measuring(face, standing), face.face)
    return Next(_of_plan(face, standing), face.face)


def _of_plan(face: FaceStanding, standing: Standing) -> NextAct:
    """What the plan asks for next; a part that is not up goes up first, a collar that is not known is zeroed first."""
    step = face.next_step
    kind = step.kind if step is not None else "measure"
    if kind in BEFORE_PLACING:
        return _ACTS.get(kind, kind)  # type: ignore[arg-type]
    if standing.up != face.face and kind not in ("measure", "cool"):
        return "place"
    if kind in (*FEEDS, "no feed", "blank") and not face.touched_off:
        return "touch_off"
    return _ACTS.get(kind, kind)  # type: ignore[arg-type]


def _after_measuring(face: FaceStanding, standing: Standing) -> NextAct:
    """A size that is in closes the face, one under it stops it, one that is surely over goes on to the next plan.

    An unsure one asks for a better measurement, and after a few without an answer for the lead.
    """
    measured = face.measured
    assert measured is not None
    if measured.under:
        return "stopped"
    if face.face == standing.brief.reference:
        return "close" if face.cutting_over else "plan"
    if measured.verdict == "in":
        return "close"
    if measured.verdict == "not yet" or (measured.verdict == "out" and measured.greatest_mm > standing.brief.size.upper_mm):
        return "plan"
    return "lead" if measured.verdict == "out" or measured.tries >= MOST_TRIES else "measure_again"


_NEEDS_FACE = frozenset({Kind.PLANNED, Kind.PLACED, Kind.TOUCHED_OFF, Kind.PASS, Kind.SPARK_OUT, Kind.DRESSED, Kind.DONE,
                         Kind.SKIPPED, Kind.MEASURED, Kind.FACE_DONE})
_TURNS_THE_WHEEL = frozenset({Kind.PLANNED, Kind.PLACED, Kind.TOUCHED_OFF, Kind.PASS, Kind.SPARK_OUT})


def check_entry(entry: Entry, standing: Standing) -> None:
    """Pass silently when ``entry`` may be logged as things stand.

    Raises
    ------
    LogError
        If it may not; the message is a plain sentence.
    """
    if standing.signed_off and entry.kind is not Kind.NOTE:
        raise LogError("This part is signed off; its record is closed. A note can still be added.")
    if entry.kind in _TURNS_THE_WHEEL and standing.brief.stops:
        raise LogError(standing.brief.stops[0])
    if entry.kind in _NEEDS_FACE:
        if entry.face is None or entry.face not in standing.faces:
            raise LogError("Which face is meant? A block has faces 1 to 6.")
        _CHECKS[entry.kind](entry, standing, standing.faces[entry.face])
    elif entry.kind is Kind.NOTE and not entry.note.strip():
        raise LogError("There is nothing in the note yet.")
    elif entry.kind is Kind.UNDONE:
        _check_undo(entry, standing)
    elif entry.kind is Kind.WAIVED:
        _check_waived(entry, standing)
    elif entry.kind is Kind.SIGNED_OFF:
        _check_sign_off(standing)


def _check_sign_off(standing: Standing) -> None:
    if standing.face is not None and THICKNESS not in standing.waived:
        raise LogError(f"Face {standing.face} is not done yet; the part cannot be signed off.")
    for name in standing.unproved:
        word: Verdict | str = standing.verdicts.get(name, "not measured")
        raise LogError(f"{name.capitalize()}: {word}. Every characteristic on the print needs an “in”, or a lead waives it by "
                       "name.")


def _check_waived(entry: Entry, standing: Standing) -> None:
    if entry.characteristic not in standing.brief.characteristics:
        raise LogError(f"The print does not ask for “{entry.characteristic}”.")
    if not entry.note.strip():
        raise LogError(f"Why is {entry.characteristic} waived? The reason goes into the record.")


def _check_undo(entry: Entry, standing: Standing) -> None:
    if standing.undoable is None or entry.supersedes != standing.undoable.entry_id:
        raise LogError("That entry is no longer the last one, so it cannot be undone from here.")


def _check_plan(entry: Entry, standing: Standing, face: FaceStanding) -> None:
    _guard(face, standing)
    plan = entry.plan
    if plan is None or not plan.of_kind("rough", "finish", "blank"):
        raise LogError("A plan needs at least one pass.")
    if plan.holder == MAGNET and not standing.brief.pulled:
        raise LogError("A magnet does not hold this material: plan it in a fixture.")
    if plan.hold_safety is not None and plan.hold_safety < Decimal(str(STOP_SAFETY)):
        raise LogError(f"The hold is {plan.hold_safety:.1f} of the {STOP_SAFETY:g} that it must have. There is no release for "
                       "that: blocks, a fixture, or a lighter cut.")


def _check_placed(entry: Entry, standing: Standing, face: FaceStanding) -> None:
    _guard(face, standing)


def _guard(face: FaceStanding, standing: Standing) -> None:
    try:
        may_grind(face.face, standing.brief.reference, standing.states)
    except FaceError as error:
        raise LogError(str(error)) from error


def _check_touch_off(entry: Entry, standing: Standing, face: FaceStanding) -> None:
    _on_machine(face, standing)
    if entry.reading_mm is None or entry.reading_mm < 0:
        raise LogError("What does the collar read at touch-off? 0 when it was zeroed there.")
    _nothing_pending(face, "dress", "chamfer", "place", "turn", "blocks")


def _check_pass(entry: Entry, standing: Standing, face: FaceStanding) -> None:
    _on_machine(face, standing)
    if not face.touched_off:
        raise LogError("Touch off first: without it the collar's reading means nothing on this face.")
    if entry.reading_mm is None or entry.reading_mm <= face.reading_mm:
        raise LogError("The collar has to go down from where it stands; for a pass without feed log a spark-out.")
    _nothing_pending(face, *_SAID)
    last = face.last_reading_mm
    if last is None or entry.reading_mm > last:
        raise LogError(_too_deep(face))


_SAID: dict[StepKind, str] = {
    "dress": "a dress", "chamfer": "a chamfer on the wheel’s leading edge", "place": "the part to be put up",
    "turn": "the part to be turned", "blocks": "the blocks to be placed", "touch off": "a touch-off",
    "no feed": "a first pass without feed", "blank": "a blank pass", "cool": "the part to cool", "measure": "a measurement",
}


def _nothing_pending(face: FaceStanding, *kinds: StepKind) -> None:
    """Nothing a figure of the plan rests on is passed over in silence."""
    step = face.next_step
    if step is not None and step.kind in kinds:
        raise LogError(f"The plan asks for {_SAID[step.kind]} first: do it, or skip it with a reason.")


def _too_deep(face: FaceStanding) -> str:
    after = next((step for step in (face.plan.steps[face.done:] if face.plan else ()) if step.kind not in FEEDS), None)
    if face.last_reading_mm is not None and after is not None and after.kind not in ("blank", "measure", "cool"):
        return f"That is past where the plan asks for {_SAID[after.kind]}: go down to there, do it, or skip it with a reason."
    return ("That is past the plan's last reading before it is measured, and would cut into the size. Measure and plan again if "
            "there is more to take.")


def _check_spark_out(entry: Entry, standing: Standing, face: FaceStanding) -> None:
    _on_machine(face, standing)
    if not face.touched_off:
        raise LogError("Touch off first: without it nobody knows where the wheel stands.")
    if entry.count is None or not 1 <= entry.count <= MOST_BLANKS:
        raise LogError("A spark-out is between 1 and 50 passes.")


def _check_dressed(entry: Entry, standing: Standing, face: FaceStanding) -> None:
    if entry.amount_mm is not None and not 0 <= entry.amount_mm <= MOST_DRESS_MM:
        raise LogError("A dress takes between 0 and 5 mm off the wheel.")


def _check_done(entry: Entry, standing: Standing, face: FaceStanding) -> None:
    step = face.next_step
    if step is None or entry.step != step.number or step.kind not in DONE_KINDS:
        raise LogError("That is not what the plan asks for now.")
    if step.kind in ("turn", "blocks"):
        _on_machine(face, standing)


def _check_skipped(entry: Entry, standing: Standing, face: FaceStanding) -> None:
    step = face.next_step
    if step is None or entry.step != step.number:
        raise LogError("That is not what the plan asks for now.")
    if step.kind in (*FEEDS, "place", "touch off"):
        raise LogError(f"A {step.kind} cannot be skipped: plan again instead.")
    if not entry.note.strip():
        raise LogError("Why is it skipped? The reason goes into the record.")


def _check_measured(entry: Entry, standing: Standing, face: FaceStanding) -> None:
    if not entry.readings:
        raise LogError("At least one reading is needed.")
    if entry.characteristic not in (THICKNESS, *standing.brief.characteristics):
        raise LogError(f"The print does not ask for “{entry.characteristic}”.")
    if any(reading.value_mm < 0 or (reading.value_mm == 0 and entry.characteristic in ("thickness", "width", "length"))
           for reading in entry.readings):
        raise LogError("A size is more than 0.")


def _check_face_done(entry: Entry, standing: Standing, face: FaceStanding) -> None:
    if face.measured is None:
        raise LogError(f"Measure face {face.face} first: it has been cut since it was last measured.")
    if face.face != standing.brief.reference and face.measured.verdict != "in" and THICKNESS not in standing.waived:
        raise LogError(f"Face {face.face} is not proved to size: its last verdict is {face.measured.verdict}.")
    if face.ended:
        raise LogError(f"Face {face.face} is done already.")


def _on_machine(face: FaceStanding, standing: Standing) -> None:
    if face.plan is None:
        raise LogError(f"Face {face.face} has no plan yet.")
    if standing.up != face.face:
        raise LogError(f"Face {face.face} is not up: put it on the chuck and say so first.")


_CHECKS = {
    Kind.PLANNED: _check_plan, Kind.PLACED: _check_placed, Kind.TOUCHED_OFF: _check_touch_off,
    Kind.PASS: _check_pass, Kind.SPARK_OUT: _check_spark_out, Kind.DRESSED: _check_dressed, Kind.DONE: _check_done,
    Kind.SKIPPED: _check_skipped, Kind.MEASURED: _check_measured, Kind.FACE_DONE: _check_face_done,
}
