"""What a press at the machine logs: from what was posted to an entry, each act in its own way."""

from collections.abc import Callable
from decimal import Decimal, InvalidOperation

from flask import request

from zesty_lark.core.part.dial import next_shown
from zesty_lark.core.quantities.units import LengthError, parse_length
from zesty_lark.core.work.cautions import HANDS_IN
from zesty_lark.core.work.entries import Noted, Undone
from zesty_lark.core.work.entry import AtMachine, Entry
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import (
    Dressed,
    Halted,
    LeftMachine,
    Observed,
    PassFed,
    Placed,
    SparkedOut,
    StepDone,
    StepSkipped,
    SurfaceDone,
    TakenOver,
    TouchedOff,
    WentOn,
)
from zesty_lark.core.work.run import Run
from zesty_lark.core.work.telling import step_words
from zesty_lark.shopfloor.setting_up import open_cautions, recheck
from zesty_lark.store.models import Job
from zesty_lark.store.models.people import Role
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.presses import pressed_at
from zesty_lark.web.shared.wording import as_unit, now, units

LONGEST_NOTE = 1000
MOST_W = Decimal(1_000_000)
ANY_TIME = ("note", "halt", "take_over")
"""What is logged whatever the screen had seen: a note, a stop, a takeover."""


class WrongEntry(ValueError):
    """What was typed cannot be logged; the message is for beside the field."""


_Fields = dict[str, object]
_Maker = Callable[[Job, JobState], _Fields]


def entry_of(act: str, job: Job, job_state: JobState) -> Entry:
    """Make the entry that a press asks for.

    Raises
    ------
    WrongEntry
        If it is nothing this page logs, or what was typed cannot be.
    """
    if act not in _MAKERS:
        raise WrongEntry("That is not something this page logs.")
    given = request.form.get("entry_id", "")
    if not given:
        raise WrongEntry("This press came without its id; open the page again and press once more.")
    kind, maker = _MAKERS[act]
    more = maker(job, job_state)
    if issubclass(kind, AtMachine):
        more["surface"] = request.form.get("surface", 0, type=int)
    more |= {"by": guard.person().sign_in_name, "screen": guard.screen(), "at": pressed_at()}
    return kind(entry_id=given, **more)  # type: ignore[arg-type]


def _place(job: Job, job_state: JobState) -> _Fields:
    _seen_stopped()
    return {}


def _seen_stopped() -> None:
    if not request.form.get("stopped"):
        raise WrongEntry("Tick that the wheel has stopped and that you have seen it stop, before hands go in.")


def _touch_off(job: Job, job_state: JobState) -> _Fields:
    run = _run(job_state)
    if run is not None:
        recheck(database.session(), job, job_state, run, now=now())
    if run is not None and guard.person().role == Role.APPRENTICE:
        held_up = open_cautions(job, job_state, run.setup)
        if held_up:
            raise WrongEntry(f"The set-up has a caution: {held_up[0]}. A lead waives it at Set up, or put it right.")
    return {"reading_mm": _length("reading", job, empty="0")}


def _run(job_state: JobState) -> Run | None:
    """The run that this press is about."""
    return job_state.runs.get(request.form.get("surface", 0, type=int))


def _pass(job: Job, job_state: JobState) -> _Fields:
    if not request.form.get("other_reading", "").strip():
        return {"reading_mm": _length("reading", job), "power_w": _power()}
    shown, run = _length("other_reading", job), _run(job_state)
    if run is None or shown >= job.machine.per_rev_mm:
        return {"reading_mm": shown, "power_w": _power()}
    return {"reading_mm": next_shown(shown, run.reading_mm, job.machine.per_rev_mm), "power_w": _power()}


def _spark_out(job: Job, job_state: JobState) -> _Fields:
    return {"count": 1, "power_w": _power()}


def _power() -> Decimal | None:
    """The most that the power meter showed since the last press, as the page heard it [W]."""
    typed = request.form.get("power_w", "").strip()
    try:
        power = Decimal(typed) if typed else None
    except InvalidOperation as error:
        raise WrongEntry("That is no power.") from error
    if power is not None and not (power.is_finite() and 0 <= power <= MOST_W):
        raise WrongEntry("That is no power.")
    return None if power is None else round(power, 1)


def _dressed(job: Job, job_state: JobState) -> _Fields:
    amount = _length("amount", job) if request.form.get("amount", "").strip() else None
    return {"amount_mm": amount}


def _next_step(job_state: JobState) -> tuple[int, str]:
    """The step that this press is about, and what it asks for."""
    run = _run(job_state)
    step = run.next_step if run is not None else None
    return request.form.get("step", 0, type=int), step_words(step, units(guard.job())) if step is not None else ""


def _done(job: Job, job_state: JobState) -> _Fields:
    number, words = _next_step(job_state)
    run = _run(job_state)
    if run is not None and run.next_step is not None and run.next_step.kind in HANDS_IN:
        _seen_stopped()
    return {"step": number, "note": words}


def _observe(job: Job, job_state: JobState) -> _Fields:
    return {"seen": request.form.get("what", ""), "side": request.form.get("side", "")}


def _halt(job: Job, job_state: JobState) -> _Fields:
    run = _run(job_state)
    reading = run.reading_mm if run is not None and run.touched_off else None
    note = request.form.get("note", "").strip()[:LONGEST_NOTE]
    return {"seen": request.form.get("what", ""), "reading_mm": reading, "power_w": _power(), "note": note}


def _go_on(job: Job, job_state: JobState) -> _Fields:
    return {"note": _reason("Why may it go on?")}


def _take_over(job: Job, job_state: JobState) -> _Fields:
    return {}


def _reason(asks: str) -> str:
    reason = request.form.get("reason", "").strip()[:LONGEST_NOTE]
    if not reason:
        raise WrongEntry(f"{asks} The reason goes into the record.")
    return reason


def _skip(job: Job, job_state: JobState) -> _Fields:
    reason = _reason("Why is it skipped?")
    number, words = _next_step(job_state)
    if words.startswith("Measure") and guard.person().role == Role.APPRENTICE:
        raise WrongEntry("A measure stop is waived by a machinist or a lead, not while learning. Measure.")
    return {"step": number, "note": f"{words}. {reason}"}


def _leave(job: Job, job_state: JobState) -> _Fields:
    return {"note": _reason("Why is it taken off before it is done?")}


def _close(job: Job, job_state: JobState) -> _Fields:
    return {}


def _note(job: Job, job_state: JobState) -> _Fields:
    words = request.form.get("note", "").strip()
    if len(words) > LONGEST_NOTE:
        raise WrongEntry(f"A note has at most {LONGEST_NOTE} characters.")
    return {"note": words}


def _undo(job: Job, job_state: JobState) -> _Fields:
    return {"supersedes": request.form.get("supersedes", "")}


_MAKERS: dict[str, tuple[type[Entry], _Maker]] = {
    "place": (Placed, _place),
    "touch_off": (TouchedOff, _touch_off),
    "pass": (PassFed, _pass),
    "spark_out": (SparkedOut, _spark_out),
    "dressed": (Dressed, _dressed),
    "done": (StepDone, _done),
    "skip": (StepSkipped, _skip),
    "leave": (LeftMachine, _leave),
    "close": (SurfaceDone, _close),
    "note": (Noted, _note),
    "undo": (Undone, _undo),
    "observe": (Observed, _observe),
    "halt": (Halted, _halt),
    "go_on": (WentOn, _go_on),
    "take_over": (TakenOver, _take_over),
}


def _length(name: str, job: Job, empty: str = "") -> Decimal:
    """Read a collar length: a bare number is thou on an inch dial, mm on a metric one."""
    typed = request.form.get(name, "").strip() or empty
    bare = typed.replace(".", "", 1).isdigit()
    unit = as_unit(job.machine.dial_unit)
    try:
        return parse_length(f"{typed} thou" if bare and unit == "in" else typed, unit)
    except LengthError as error:
        raise WrongEntry(str(error)) from error
