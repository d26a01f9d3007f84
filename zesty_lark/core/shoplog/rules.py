"""What may be logged now, and what comes next."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from zesty_lark.core.faces import FaceError, may_grind
from zesty_lark.core.shoplog.entries import Entry, Kind
from zesty_lark.core.shoplog.standing import FaceStanding, Standing

__all__ = ["LogError", "Next", "NextAct", "check_entry", "next_act"]

NextAct = Literal["plan", "place", "touch_off", "pass", "spark_out", "measure", "measure_again", "close", "stopped",
                  "sign_off", "finished"]


class LogError(ValueError):
    """An entry that would make the log say what cannot be; the message is for the person who sent it."""


@dataclass(frozen=True)
class Next:
    """What comes next on a job, and on which face."""

    act: NextAct
    face: int | None


def next_act(standing: Standing, reference: int) -> Next:
    """Tell what comes next.

    Parameters
    ----------
    standing : Standing
        Where the job stands.
    reference : int
        The pair's reference face.
    """
    if standing.face is None:
        return Next("finished" if standing.signed_off else "sign_off", None)
    face = standing.faces[standing.face]
    if face.plan is None:
        return Next("plan", face.face)
    if face.measured is not None:
        return Next(_after_measuring(face, reference), face.face)
    if standing.up != face.face:
        return Next("place", face.face)
    if not face.touched_off and not face.cutting_over:
        return Next("touch_off", face.face)
    if face.next_step is not None:
        return Next("pass", face.face)
    return Next("measure" if face.cutting_over else "spark_out", face.face)


def _after_measuring(face: FaceStanding, reference: int) -> NextAct:
    """A size that is in closes the face, one under it stops it, an unsure one asks for a better measurement.

    Only a size that is surely over goes on to the next plan.
    """
    measured = face.measured
    assert measured is not None
    if measured.under:
        return "stopped"
    if face.face == reference:
        return "close" if face.cutting_over else "plan"
    if measured.verdict == "in":
        return "close"
    return "plan" if measured.verdict == "out" else "measure_again"


_NEEDS_FACE = frozenset({Kind.PLANNED, Kind.PLACED, Kind.TOUCHED_OFF, Kind.PASS, Kind.SPARK_OUT, Kind.DRESSED,
                         Kind.MEASURED, Kind.FACE_DONE})


def check_entry(entry: Entry, standing: Standing, reference: int) -> None:
    """Pass silently when ``entry`` may be logged as things stand.

    Raises
    ------
    LogError
        If it may not; the message is a plain sentence.
    """
    if standing.signed_off and entry.kind is not Kind.NOTE:
        raise LogError("This part is signed off; its record is closed. A note can still be added.")
    if entry.kind in _NEEDS_FACE:
        if entry.face is None or entry.face not in standing.faces:
            raise LogError("Which face is meant? A block has faces 1 to 6.")
        _CHECKS[entry.kind](entry, standing, standing.faces[entry.face], reference)
    elif entry.kind is Kind.NOTE and not entry.note.strip():
        raise LogError("There is nothing in the note yet.")
    elif entry.kind is Kind.UNDONE:
        _check_undo(entry, standing)
    elif entry.kind is Kind.SIGNED_OFF:
        _check_sign_off(standing)


def _check_sign_off(standing: Standing) -> None:
    if standing.face is not None:
        raise LogError(f"Face {standing.face} is not done yet; the part cannot be signed off.")
    verdicts = [entry.verdict for entry in standing.history if entry.kind is Kind.MEASURED and entry.verdict]
    if not verdicts or verdicts[-1] != "in":
        raise LogError("The last measurement does not say “in”; the part cannot be signed off on it.")


def _check_undo(entry: Entry, standing: Standing) -> None:
    if standing.undoable is None or entry.supersedes != standing.undoable.entry_id:
        raise LogError("That entry is no longer the last one, so it cannot be undone from here.")


def _check_plan(entry: Entry, standing: Standing, face: FaceStanding, reference: int) -> None:
    _guard(face, standing, reference)
    if entry.plan is None or (not entry.plan.steps and not entry.plan.spark_passes):
        raise LogError("A plan needs at least one pass.")


def _check_placed(entry: Entry, standing: Standing, face: FaceStanding, reference: int) -> None:
    _guard(face, standing, reference)


def _guard(face: FaceStanding, standing: Standing, reference: int) -> None:
    try:
        may_grind(face.face, reference, standing.states)
    except FaceError as error:
        raise LogError(str(error)) from error


def _check_touch_off(entry: Entry, standing: Standing, face: FaceStanding, reference: int) -> None:
    _on_machine(face, standing)
    if entry.reading_mm is None or entry.reading_mm < 0:
        raise LogError("What does the collar read at touch-off? 0 when it was zeroed there.")


def _check_pass(entry: Entry, standing: Standing, face: FaceStanding, reference: int) -> None:
    _on_machine(face, standing)
    if not face.touched_off:
        raise LogError("Touch off first: without it the collar's reading means nothing on this face.")
    if entry.reading_mm is None or entry.reading_mm <= face.reading_mm:
        raise LogError("The collar has to go down from where it stands; for a pass without feed log a spark-out.")
    last = face.last_reading_mm
    if last is None or entry.reading_mm > last:
        raise LogError("That is past the plan's last reading and would cut into the size. "
                       "Measure and plan again if there is more to take.")


def _check_spark_out(entry: Entry, standing: Standing, face: FaceStanding, reference: int) -> None:
    _on_machine(face, standing)
    if entry.count is None or not 1 <= entry.count <= 50:
        raise LogError("A spark-out is between 1 and 50 passes.")


def _check_dressed(entry: Entry, standing: Standing, face: FaceStanding, reference: int) -> None:
    if entry.amount_mm is not None and not 0 <= entry.amount_mm <= Decimal(5):
        raise LogError("A dress takes between 0 and 5 mm off the wheel.")


def _check_measured(entry: Entry, standing: Standing, face: FaceStanding, reference: int) -> None:
    if not entry.readings:
        raise LogError("At least one reading is needed.")
    if any(reading.value_mm <= 0 for reading in entry.readings):
        raise LogError("A thickness is more than 0.")


def _check_face_done(entry: Entry, standing: Standing, face: FaceStanding, reference: int) -> None:
    if face.measured is None:
        raise LogError(f"Measure face {face.face} first: it has been cut since it was last measured.")
    if face.face != reference and face.measured.verdict != "in":
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
    Kind.PASS: _check_pass, Kind.SPARK_OUT: _check_spark_out, Kind.DRESSED: _check_dressed,
    Kind.MEASURED: _check_measured, Kind.FACE_DONE: _check_face_done,
}
