"""Measure: readings at named places, the uncertainty, the verdict, and what comes next."""

from dataclasses import dataclass, replace
from decimal import Decimal

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.faces import OPPOSITE
from zesty_lark.core.measure.next_cut import NextCut
from zesty_lark.core.measure.sentence import sentence
from zesty_lark.core.measure.thickness import (
    Judgement,
    Reading,
    Verdict,
    expanded_uncertainty,
    judge,
    judge_zone,
    temperature_u,
)
from zesty_lark.core.plausible import doubt_against
from zesty_lark.core.shoplog.entries import PART_WARM, THICKNESS, Entry, Kind
from zesty_lark.core.shoplog.rules import LogError, next_act
from zesty_lark.core.shoplog.standing import Standing
from zesty_lark.core.units import micrometres
from zesty_lark.store import part_plans, shop, shoplog
from zesty_lark.store.models import Instrument, Job
from zesty_lark.store.shoplog import Draft
from zesty_lark.web.measure.forms import MeasureForm, reading_fields, set_up_for
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.fields import picks, question
from zesty_lark.web.shared.forms import EntryForm
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.places import places_map
from zesty_lark.web.shared.svg.zone import zone
from zesty_lark.web.shared.wording import as_unit, entry_id, now, tongue
from zesty_lark.web.shared.work import judged, stock_of

__all__ = ["blueprint"]

blueprint = Blueprint("measure", __name__)

SIZES = (THICKNESS, "width", "length")
SMALL_MM = 1.0
"""A deviation of form is measured over next to no length [mm]."""
WORDS: dict[Verdict, str] = {"in": "✓ In", "not yet": "↓ Not yet", "unsure": "? Unsure", "out": "✗ Out"}


@dataclass(frozen=True)
class Result:
    """The last measurement as the page shows it."""

    entry: Entry
    judged: Judgement | None
    words: str
    picture: object


@blueprint.get("/jobs/<number>/measure")
@access(job="look")
def station(number: str) -> ResponseReturnValue:
    job = guard.job()
    form = _form(job, _asked(job, request.args.get("of", THICKNESS)))
    instruments = shop.listed(database.session(), Instrument)
    form.instrument.data = _usual_gauge(job, guard.standing(), instruments, form.of.data or THICKNESS)
    return _page(form, job, guard.standing())


def _asked(job: Job, of: str) -> str:
    return of if of in job.part.characteristics else THICKNESS


@blueprint.post("/jobs/<number>/measure")
@access(job="inspect", takes=MeasureForm)
def take(number: str) -> ResponseReturnValue:
    """Log a measurement with its verdict."""
    job, standing = guard.job(), guard.standing()
    of = _asked(job, request.form.get("of", THICKNESS))
    form = _form(job, of)
    if not (form.validate() and _plausible(form, job, of)):
        return _page(form, job, standing), 422
    gauge = shop.find(database.session(), Instrument, form.instrument.data)
    assert gauge is not None
    entry = _entry(form, job, standing, gauge, of)
    try:
        shoplog.append(database.session(), job, guard.person(), Draft(entry, form.seen.data, gauge))
    except (LogError, shoplog.BehindError) as error:
        form.entry_id.errors = [str(error)]
        return _page(form, job, standing), 409
    return redirect(url_for("measure.station", number=number, of=of), 303)


def _entry(form: MeasureForm, job: Job, standing: Standing, gauge: Instrument, of: str) -> Entry:
    readings = tuple(Reading(place, field.data) for place, field in reading_fields(form) if field.data is not None)
    face, moment = _face(job, standing), now()
    entry = Entry(0, form.entry_id.data or entry_id(), Kind.MEASURED, moment, "", face=face, readings=readings,
                  characteristic=of, part_c=form.part_c.number, gauge_c=form.gauge_c.number, room_c=form.room_c.number,
                  note=PART_WARM if form.warm.data else "")
    rise = _rise(standing, face) if of == THICKNESS else 0.0
    entry = replace(entry, uncertainty_mm=_uncertainty(gauge, entry, rise))
    return replace(entry, verdict=_verdict(job, entry, overdue=gauge.to_core(moment.date()).overdue))


def _rise(standing: Standing, face: int) -> float:
    """How much warmer the part may still be than its surroundings: what its plan predicts, unless it was left to cool [K]."""
    here = standing.faces[face]
    if here.plan is None or not here.fed or standing.up != face:
        return 0.0
    done = here.plan.steps[: here.done]
    cooled = any(step.kind == "cool" and step.number not in here.skipped for step in done)
    return 0.0 if cooled else float(here.plan.rise_c)


def _uncertainty(gauge: Instrument, entry: Entry, rise_c: float) -> Decimal:
    length = float(max(reading.value_mm for reading in entry.readings)) if entry.characteristic in SIZES else SMALL_MM
    return expanded_uncertainty(gauge.to_core(entry.at.date()), length,
                                temperature_u_c=temperature_u(taken=entry.part_c is not None, rise_c=rise_c))


def _verdict(job: Job, entry: Entry, *, overdue: bool) -> Verdict | None:
    """The verdict on what was measured; the reference's thickness has none."""
    of, uncertainty = entry.characteristic, entry.uncertainty_mm or Decimal(0)
    if of == THICKNESS:
        return None if entry.face == job.part.reference_face else judged(job, entry, overdue=overdue).verdict
    if of in SIZES:
        return judge(entry.true_readings, job.part.size(of).to_core(), uncertainty, overdue=overdue).verdict
    return judge_zone(entry.readings, job.part.allowed_mm(of), uncertainty, overdue=overdue)


def _face(job: Job, standing: Standing) -> int:
    return standing.face or OPPOSITE[job.part.reference_face]


def _form(job: Job, of: str) -> MeasureForm:
    form = MeasureForm()
    form.instrument.choices = picks((row.id, row.name) for row in shop.listed(database.session(), Instrument))
    form.of.data = of
    set_up_for(form, of, as_unit(job.print_unit))
    return form


def _plausible(form: MeasureForm, job: Job, of: str) -> bool:
    """Check the readings together: at least one, none off by a slip, the gauge reaches that far, temperatures in pairs."""
    given = [(name, field) for name, field in reading_fields(form) if field.data is not None]
    if not given:
        form["reading1"].errors = ["At least one reading is needed."]
    if of in SIZES:
        _plausible_sizes(form, job, of)
    if form.part_c.number is not None and form.gauge_c.number is None and form.room_c.number is None:
        form.gauge_c.errors = ["How warm is the gauge, or the room it lies in? Only the difference to the part counts."]
    if not form.stopped.data:
        form.stopped.errors = ["Tick this before hands go in. Coasting counts as running."]
    return not form.errors


def _plausible_sizes(form: MeasureForm, job: Job, of: str) -> None:
    size = job.part.size(of)
    expected = size.measured_max_mm if of == "thickness" else max(size.measured_max_mm, size.to_core().upper_mm)
    gauge = shop.find(database.session(), Instrument, form.instrument.data)
    for _, field in reading_fields(form):
        if field.data is None:
            continue
        doubt = doubt_against(field.mm, expected)
        if doubt and not form[f"sure_{field.name}"].data:
            question(field, doubt, f"This looks like {doubt.slip}.")
        elif field.mm > expected and not form[f"sure_{field.name}"].data:
            field.errors = [f"The part was taken in at {tongue(job).size(expected)} at most; it cannot have grown. "
                            "Clean it and read again."]
        elif gauge is not None and not gauge.least_mm <= field.mm <= gauge.most_mm:
            field.errors = [f"{gauge.name} does not reach {tongue(job).size(field.mm)}."]


def _usual_gauge(job: Job, standing: Standing, instruments: list[Instrument], of: str) -> int | None:
    """Return the gauge used last for this on this job, else the one with the smallest stated error that reaches."""
    used = [entry.instrument for entry in standing.history if entry.instrument and entry.characteristic == of]
    size = job.part.size(of).target_mm if of in SIZES else job.part.allowed_mm(of)
    reaching = sorted((row for row in instruments if row.least_mm <= size <= row.most_mm),
                      key=lambda row: row.error_limit_mm)
    for row in instruments:
        if used and row.name == used[-1]:
            return row.id
    return reaching[0].id if reaching else None


def _page(form: MeasureForm, job: Job, standing: Standing) -> str:
    face, of = standing.faces[_face(job, standing)], form.of.data or THICKNESS
    size = {axis: float(job.part.size(axis).target_mm) for axis in ("length", "width")}
    if not form.is_submitted():
        form.entry_id.data, form.seen.data = entry_id(), standing.last_seq
    newest = part_plans.newest(database.session(), job)
    return render_template(
        "measure/station.html", form=form, readings=reading_fields(form), face=face, of=of, words=WORDS,
        places=places_map(size["length"], size["width"]), result=_result(job, standing, of),
        next=next_act(standing), stock=stock_of(job, standing, face.face), based_on=newest.number if newest else 0,
        fresh_id=entry_id(), may_measure=guard.may_work_on(guard.person(), job, "inspect"),
        may_work=guard.may_work_on(guard.person(), job), wrong=bool(request.form),
    )


def _result(job: Job, standing: Standing, of: str) -> Result | None:
    """Return the newest measurement in force of this characteristic, unless the part has been cut since."""
    kinds = (Kind.MEASURED, Kind.PASS, Kind.SPARK_OUT) if of == THICKNESS else (Kind.MEASURED,)
    last = next((entry for entry in reversed(standing.history) if entry.kind in kinds and (
        entry.kind is not Kind.MEASURED or entry.characteristic == of)), None)
    if last is None or last.kind is not Kind.MEASURED or of not in (*SIZES, *standing.verdicts):
        return None
    words = tongue(job)
    if of not in SIZES:
        worst, allowed = micrometres(last.greatest_mm), micrometres(job.part.allowed_mm(of))
        told = (f"{of.capitalize()}: {words.fine(worst)} ± {words.fine(micrometres(last.uncertainty_mm or Decimal(0)))}, "
                f"{words.fine(allowed)} allowed.")
        return Result(last, None, told, "")
    size = job.part.size(of).to_core()
    made = judged(job, last) if of == THICKNESS else judge(last.true_readings, size, last.uncertainty_mm or Decimal(0))
    picture = zone(last.true_readings, size, made.uncertainty_mm, words)
    if of == THICKNESS and last.face == job.part.reference_face:
        return Result(last, made, _reference_words(job, standing, last), picture)
    cut = stock_of(job, standing, last.face or 0).cut if of == THICKNESS else None
    return Result(last, made, sentence(made, cut or NextCut("nothing"), words, parallel_mm=job.part.parallel_mm), picture)


def _reference_words(job: Job, standing: Standing, entry: Entry) -> str:
    words = tongue(job)
    other = OPPOSITE[job.part.reference_face]
    left = entry.greatest_mm - stock_of(job, standing, other).goal_mm
    return (f"{words.size(entry.greatest_mm)} ± {words.size(entry.uncertainty_mm or Decimal(0))} over the reference; "
            f"{words.small(left)} left for face {other}. If face {entry.face} is clean all over, it is done.")


@blueprint.post("/jobs/<number>/measure/close")
@access(job="work", takes=EntryForm)
def close(number: str) -> ResponseReturnValue:
    """Declare the face done."""
    job, standing = guard.job(), guard.standing()
    entry = Entry(0, request.form.get("entry_id", "")[:36] or entry_id(), Kind.FACE_DONE, now(), "",
                  face=_face(job, standing))
    try:
        shoplog.append(database.session(), job, guard.person(),
                       Draft(entry, request.form.get("seen", default=0, type=int)))
    except (LogError, shoplog.BehindError) as error:
        form = _form(job, THICKNESS)
        form.entry_id.errors = [str(error)]
        return _page(form, job, standing), 409
    return redirect(url_for("grind.station" if standing.face == job.part.reference_face else "record.history", number=number),
                    303)
