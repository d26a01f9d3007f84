"""Grind: touch-off, then one pass at a time. Every press is one entry of the log, once."""

from collections.abc import Callable
from decimal import Decimal

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.dial import on_collar
from zesty_lark.core.faces import OPPOSITE
from zesty_lark.core.shoplog.entries import Entry, Kind
from zesty_lark.core.shoplog.rules import LogError, next_act
from zesty_lark.core.shoplog.standing import Standing
from zesty_lark.core.shoplog.telling import tell
from zesty_lark.core.units import LengthError, parse_length
from zesty_lark.store import shoplog
from zesty_lark.store.models import Job
from zesty_lark.store.shoplog import Draft
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.wording import as_unit, now, tongue
from zesty_lark.web.shared.work import plan_ladder, stock_of

__all__ = ["blueprint"]

blueprint = Blueprint("grind", __name__)

LAST_SHOWN = 3
LONGEST_NOTE = 1000


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
@access(job="work")
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


def _entry(act: str, job: Job, standing: Standing) -> Entry:
    """Make the entry a press asks for."""
    makers: dict[str, Callable[[Job, Standing], dict[str, object]]] = {
        "place": _place, "touch_off": _touch_off, "pass": _pass, "spark_out": _spark_out, "dressed": _dressed,
        "note": _note, "undo": _undo,
    }
    if act not in makers:
        raise WrongEntry("That is not something this page logs.")
    given = request.form.get("entry_id", "")
    if not 8 <= len(given) <= 36:
        raise WrongEntry("This press came without its id; open the page again and press once more.")
    kinds = {"place": Kind.PLACED, "touch_off": Kind.TOUCHED_OFF, "pass": Kind.PASS, "spark_out": Kind.SPARK_OUT,
             "dressed": Kind.DRESSED, "note": Kind.NOTE, "undo": Kind.UNDONE}
    fields: dict[str, object] = {"face": request.form.get("face", type=int)} | makers[act](job, standing)
    return Entry(0, given, kinds[act], now(), guard.person().sign_in_name, **fields)  # type: ignore[arg-type]


def _place(job: Job, standing: Standing) -> dict[str, object]:
    if not request.form.get("stopped"):
        raise WrongEntry("Tick that the wheel is stopped and that you have seen it stop, before hands go in.")
    return {}


def _touch_off(job: Job, standing: Standing) -> dict[str, object]:
    return {"reading_mm": _length("reading", job, empty="0")}


def _pass(job: Job, standing: Standing) -> dict[str, object]:
    typed = request.form.get("other_reading", "").strip()
    if typed:
        return {"reading_mm": _length("other_reading", job)}
    return {"reading_mm": _length("reading", job)}


def _spark_out(job: Job, standing: Standing) -> dict[str, object]:
    return {"count": 1}


def _dressed(job: Job, standing: Standing) -> dict[str, object]:
    amount = _length("amount", job) if request.form.get("amount", "").strip() else None
    return {"amount_mm": amount}


def _note(job: Job, standing: Standing) -> dict[str, object]:
    words = request.form.get("note", "").strip()
    if len(words) > LONGEST_NOTE:
        raise WrongEntry(f"A note has at most {LONGEST_NOTE} characters.")
    return {"note": words}


def _undo(job: Job, standing: Standing) -> dict[str, object]:
    return {"supersedes": request.form.get("supersedes", "")}


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
    what = next_act(standing, job.part.reference_face)
    face = standing.faces[what.face] if what.face else None
    words = tongue(job)
    revs, collar = (0, Decimal(0))
    if face is not None and face.next_reading_mm is not None:
        revs, collar = on_collar(face.next_reading_mm, job.machine.per_rev_mm)
    told = [(entry, tell(entry, words)) for entry in standing.history[-LAST_SHOWN:]]
    return render_template(
        "grind/station.html", next=what, face=face, standing=standing,
        down=OPPOSITE[what.face] if what.face else None,
        wrong=wrong, wrong_act=act, revs=revs, collar=collar, told=told[::-1], whats_next=what,
        stock=stock_of(job, standing, what.face) if what.face else None,
        ladder=plan_ladder(job, standing, face) if face is not None and face.plan is not None else "",
        may_log=guard.may_work_on(guard.person(), job), tongue=words, typed=request.form,
    )
