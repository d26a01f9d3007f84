"""Grind: everything the plan asks for, one act at a time. Every press is one entry of the log, once."""

from collections.abc import Callable
from decimal import Decimal

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.dial import next_shown, on_collar
from zesty_lark.core.units import LengthError, dial_text, parse_length
from zesty_lark.core.work.behind import behind
from zesty_lark.core.work.entries import (
    AtMachine,
    Dressed,
    Entry,
    Kind,
    LeftMachine,
    Noted,
    PassFed,
    Placed,
    SparkedOut,
    StepDone,
    StepSkipped,
    SurfaceDone,
    TouchedOff,
    Undone,
)
from zesty_lark.core.work.next_act import Next, next_act
from zesty_lark.core.work.plans import PlanStep
from zesty_lark.core.work.rules import LogError
from zesty_lark.core.work.standing import Run, Standing
from zesty_lark.core.work.telling import pieces_words, step_words, tell
from zesty_lark.shopfloor.benching import open_cautions, recheck
from zesty_lark.store import shoplog
from zesty_lark.store.models import Job
from zesty_lark.store.models.people import Role
from zesty_lark.store.shoplog import Draft
from zesty_lark.web.grind.forms import GrindForm
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.frame import next_url
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.plan_ladder import plan_ladder
from zesty_lark.web.shared.wording import as_unit, now, units

__all__ = ["blueprint"]

blueprint = Blueprint("grind", __name__, static_folder="static", static_url_path="/static/grind")

LAST_SHOWN = 3
COMING_SHOWN = 3
LONGEST_NOTE = 1000
COME_DOWN_MM = Decimal("0.05")
"""How far above a predicted reading the wheel is come down from [mm]."""


class WrongEntry(ValueError):
    """What was typed cannot be logged; the message is for beside the field."""


@blueprint.get("/jobs/<number>/grind")
@access(job="look")
def station(number: str) -> ResponseReturnValue:
    """Show where the face stands; asked with the newest entry already seen, answers that nothing is new."""
    seen = request.args.get("seen", type=int)
    if seen is not None and seen == guard.standing().last_seq:
        return "", 204
    return _page(guard.job(), guard.standing())


@blueprint.post("/jobs/<number>/grind")
@access(job="work", takes=GrindForm)
def log(number: str) -> ResponseReturnValue:
    """Log one act. Sent twice, it is logged once; sent from a screen that was behind, it is refused and shown why."""
    job = guard.job()
    act = request.form.get("act", "")
    try:
        entry = _entry(act, job, guard.standing())
        seen = None if entry.kind is Kind.NOTE else request.form.get("seen", type=int)
        if entry.kind is not Kind.NOTE and seen is None:
            raise WrongEntry("This press did not say what it had seen; look and press again.")
        appended = shoplog.append(database.session(), job, guard.person(), Draft(entry, seen))
    except (WrongEntry, LogError) as error:
        return _page(job, guard.standing(), wrong=str(error), act=act), 422
    except shoplog.BehindError as error:
        return _page(job, guard.standing(), wrong=str(error)), 409
    if request.headers.get("X-Lark-Outbox"):
        guard.now_standing(appended.standing)
        return _page(job, appended.standing)
    return redirect(url_for("grind.station", number=number), 303)


_Fields = dict[str, object]
_Maker = Callable[[Job, Standing], _Fields]


def _entry(act: str, job: Job, standing: Standing) -> Entry:
    """Make the entry a press asks for."""
    if act not in _MAKERS:
        raise WrongEntry("That is not something this page logs.")
    given = request.form.get("entry_id", "")
    if not given:
        raise WrongEntry("This press came without its id; open the page again and press once more.")
    kind, maker = _MAKERS[act]
    more = maker(job, standing)
    if issubclass(kind, AtMachine):
        more["surface"] = request.form.get("surface", 0, type=int)
    return kind(entry_id=given, at=now(), by=guard.person().sign_in_name, **more)  # type: ignore[arg-type]


def _place(job: Job, standing: Standing) -> _Fields:
    if not request.form.get("stopped"):
        raise WrongEntry("Tick that the wheel is stopped and that you have seen it stop, before hands go in.")
    return {}


def _touch_off(job: Job, standing: Standing) -> _Fields:
    run = _run(standing)
    if run is not None:
        recheck(database.session(), job, standing, run, now=now())
    if run is not None and guard.person().role == Role.APPRENTICE:
        held_up = open_cautions(job, standing, run.setup)
        if held_up:
            raise WrongEntry(f"The set-up has a caution: {held_up[0]}. A lead releases it at Set up, or put it right.")
    return {"reading_mm": _length("reading", job, empty="0")}


def _run(standing: Standing) -> Run | None:
    """The run that this press is about."""
    return standing.runs.get(request.form.get("surface", 0, type=int))


def _pass(job: Job, standing: Standing) -> _Fields:
    if not request.form.get("other_reading", "").strip():
        return {"reading_mm": _length("reading", job)}
    shown, run = _length("other_reading", job), _run(standing)
    if run is None or shown >= job.machine.per_rev_mm:
        return {"reading_mm": shown}
    return {"reading_mm": next_shown(shown, run.reading_mm, job.machine.per_rev_mm)}


def _spark_out(job: Job, standing: Standing) -> _Fields:
    return {"count": 1}


def _dressed(job: Job, standing: Standing) -> _Fields:
    amount = _length("amount", job) if request.form.get("amount", "").strip() else None
    return {"amount_mm": amount}


def _next_step(standing: Standing) -> tuple[int, str]:
    """The step that this press is about, and what it asks for."""
    run = _run(standing)
    step = run.next_step if run is not None else None
    return request.form.get("step", 0, type=int), step_words(step, units(guard.job())) if step is not None else ""


def _done(job: Job, standing: Standing) -> _Fields:
    number, words = _next_step(standing)
    return {"step": number, "note": words}


def _reason(asks: str) -> str:
    reason = request.form.get("reason", "").strip()[:LONGEST_NOTE]
    if not reason:
        raise WrongEntry(f"{asks} The reason goes into the record.")
    return reason


def _skip(job: Job, standing: Standing) -> _Fields:
    reason = _reason("Why is it skipped?")
    number, words = _next_step(standing)
    if words.startswith("Measure") and guard.person().role == Role.APPRENTICE:
        raise WrongEntry("A measure stop is waived by a machinist or a lead, not while learning. Measure.")
    return {"step": number, "note": f"{words}. {reason}"}


def _leave(job: Job, standing: Standing) -> _Fields:
    return {"note": _reason("Why is it taken off before it is done?")}


def _close(job: Job, standing: Standing) -> _Fields:
    return {}


def _note(job: Job, standing: Standing) -> _Fields:
    words = request.form.get("note", "").strip()
    if len(words) > LONGEST_NOTE:
        raise WrongEntry(f"A note has at most {LONGEST_NOTE} characters.")
    return {"note": words}


def _undo(job: Job, standing: Standing) -> _Fields:
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


def _page(job: Job, standing: Standing, *, wrong: str = "", act: str = "") -> str:
    what, words = next_act(standing), units(job)
    run = standing.runs[what.surface] if what.surface else None
    step = run.next_step if run is not None else None
    revs, collar = (0, Decimal(0))
    if run is not None and run.next_reading_mm is not None:
        revs, collar = on_collar(run.next_reading_mm, job.machine.per_rev_mm)
    told = [(entry, tell(entry, words, len(standing.pieces))) for entry in standing.history[-LAST_SHOWN:]]
    touch = standing.touch_reading_mm(run) if run is not None else None
    return render_template(
        "grind/station.html",
        next=what,
        run=run,
        standing=standing,
        step=step,
        next_url=next_url(job.number, what),
        load=_load(standing, what),
        step_told=step_words(step, words) if step is not None else "",
        coming=behind(standing, words)[:COMING_SHOWN],
        down=_down(standing, what),
        touch=touch if touch is not None and touch >= 0 else None,
        come_down=COME_DOWN_MM,
        entry_form=GrindForm(formdata=None),
        wrong=wrong,
        wrong_act=act,
        revs=revs,
        collar=collar,
        told=told[::-1],
        whats_next=what,
        count=_count(run, step),
        ladder=plan_ladder(job, standing, run) if run is not None and run.plan is not None else "",
        may_log=guard.may_work_on(guard.person(), job),
        units=words,
        own=_own(job),
        own_collar=_own_collar(job),
        typed=request.form,
    )


def _load(standing: Standing, what: Next) -> str:
    """Which pieces are meant, where there are several."""
    return f", {pieces_words(what.pieces)}" if what.pieces and len(standing.pieces) > 1 else ""


def _down(standing: Standing, what: Next) -> int | None:
    """The surface that is down."""
    return standing.brief.wanted.surfaces[what.surface].opposite if what.surface else None


def _own(job: Job) -> str:
    """The words of the machine's own dial, whatever is shown: what is typed is read in them."""
    return "thou" if job.machine.dial_unit == "in" else "mm"


def _own_collar(job: Job) -> Callable[[Decimal], str]:
    """Write a reading as the machine's own dial has it."""
    return lambda mm: dial_text(mm, as_unit(job.machine.dial_unit), job.machine.graduation_mm)


def _count(face: Run | None, step: PlanStep | None) -> tuple[int, int]:
    """Which blank of its run a blank pass is, and of how many."""
    if face is None or face.plan is None or step is None:
        return 1, 1
    first = last = face.done
    while first > 0 and face.plan.steps[first - 1].kind == "blank":
        first -= 1
    while last + 1 < len(face.plan.steps) and face.plan.steps[last + 1].kind == "blank":
        last += 1
    return face.done - first + 1, last - first + 1
