"""Measure: readings at named places, the uncertainty, the verdict, and what comes next."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.faces import OPPOSITE
from zesty_lark.core.measure.sentence import sentence
from zesty_lark.core.measure.thickness import (
    Judgement,
    Reading,
    expanded_uncertainty,
    is_hot,
    judge,
)
from zesty_lark.core.plausible import doubt_against
from zesty_lark.core.shoplog.entries import PART_WARM, Entry, Kind
from zesty_lark.core.shoplog.rules import LogError, next_act
from zesty_lark.core.shoplog.standing import Standing
from zesty_lark.store import shop, shoplog
from zesty_lark.store.models import Instrument, Job
from zesty_lark.store.shoplog import Draft
from zesty_lark.web.measure.forms import MeasureForm, reading_fields
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.fields import picks, question, speak
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.places import places_map
from zesty_lark.web.shared.svg.zone import zone
from zesty_lark.web.shared.wording import as_unit, entry_id, now, tongue
from zesty_lark.web.shared.work import stock_of

__all__ = ["blueprint"]

blueprint = Blueprint("measure", __name__)

TAKEN_TEMPERATURE_U_C = 0.3
"""Standard uncertainty of a part's temperature that was taken [K]."""


@dataclass(frozen=True)
class Result:
    """The last measurement as the page shows it."""

    entry: Entry
    judged: Judgement
    words: str
    picture: object


@blueprint.get("/jobs/<number>/measure")
@access(job="look")
def station(number: str) -> ResponseReturnValue:
    form = _form(guard.job())
    instruments = shop.listed(database.session(), Instrument)
    form.instrument.data = _usual_gauge(guard.job(), guard.standing(), instruments)
    return _page(form, guard.job(), guard.standing())


@blueprint.post("/jobs/<number>/measure")
@access(job="inspect")
def take(number: str) -> ResponseReturnValue:
    """Log a measurement with its verdict."""
    job, standing = guard.job(), guard.standing()
    form = _form(job)
    if not (form.validate() and _plausible(form, job)):
        return _page(form, job, standing), 422
    gauge = shop.find(database.session(), Instrument, form.instrument.data)
    assert gauge is not None
    readings = tuple(Reading(place, field.data) for place, field in reading_fields(form) if field.data is not None)
    entry = _entry(form, job, standing, gauge, readings)
    try:
        shoplog.append(database.session(), job, guard.person(), Draft(entry, form.seen.data, gauge))
    except (LogError, shoplog.BehindError) as error:
        form.entry_id.errors = [str(error)]
        return _page(form, job, standing), 409
    return redirect(url_for("measure.station", number=number), 303)


def _entry(form: MeasureForm, job: Job, standing: Standing, gauge: Instrument,
           readings: tuple[Reading, ...]) -> Entry:
    face = _face(job, standing)
    part_c, moment = form.part_c.number, now()
    uncertainty = _uncertainty(gauge, readings, part_c, moment.date())
    entry = Entry(0, form.entry_id.data or entry_id(), Kind.MEASURED, moment, "", face=face, readings=readings,
                  part_c=part_c, uncertainty_mm=uncertainty, note=PART_WARM if form.warm.data else "")
    judged = None
    if face != job.part.reference_face:
        judged = _judge(job, entry, overdue=gauge.to_core(moment.date()).overdue)
    return Entry(**{**entry.__dict__, "verdict": judged.verdict if judged else None})


def _uncertainty(gauge: Instrument, readings: tuple[Reading, ...], part_c: Decimal | None, today: date) -> Decimal:
    length = float(max(reading.value_mm for reading in readings))
    if part_c is None:
        return expanded_uncertainty(gauge.to_core(today), length)
    return expanded_uncertainty(gauge.to_core(today), length, temperature_u_c=TAKEN_TEMPERATURE_U_C)


def _judge(job: Job, entry: Entry, *, overdue: bool) -> Judgement:
    size = job.part.size("thickness").to_core()
    hot = entry.note == PART_WARM or (entry.part_c is not None and is_hot(
        float(size.target_mm), float(entry.part_c), float(size.width_mm)))
    return judge(entry.true_readings, size, entry.uncertainty_mm or Decimal(0), parallel_mm=job.part.parallel_mm,
                 hot=hot, overdue=overdue)


def _face(job: Job, standing: Standing) -> int:
    return standing.face or OPPOSITE[job.part.reference_face]


def _form(job: Job) -> MeasureForm:
    form = MeasureForm()
    form.instrument.choices = picks((row.id, row.name) for row in shop.listed(database.session(), Instrument))
    speak(form, as_unit(job.print_unit))
    return form


def _plausible(form: MeasureForm, job: Job) -> bool:
    """Check the readings together: at least one, none off by a slip, the gauge reaches that far."""
    given = [(name, field) for name, field in reading_fields(form) if field.data is not None]
    if not given:
        form["reading1"].errors = ["At least one reading is needed."]
    expected = job.part.size("thickness").measured_max_mm
    gauge = shop.find(database.session(), Instrument, form.instrument.data)
    for _, field in given:
        doubt = doubt_against(field.mm, expected)
        if doubt and not form[f"sure_{field.name}"].data:
            question(field, doubt, f"This looks like {doubt.slip}.")
        elif field.mm > expected and not form[f"sure_{field.name}"].data:
            field.errors = [f"The part was taken in at {tongue(job).size(expected)} at most; it cannot have grown. "
                            "Clean it and read again."]
        elif gauge is not None and not gauge.least_mm <= field.mm <= gauge.most_mm:
            field.errors = [f"{gauge.name} does not reach {tongue(job).size(field.mm)}."]
    if not form.stopped.data:
        form.stopped.errors = ["Tick this before hands go in. Coasting counts as running."]
    return not form.errors


def _usual_gauge(job: Job, standing: Standing, instruments: list[Instrument]) -> int | None:
    """Return the gauge used last on this job, else the one with the smallest stated error that reaches."""
    used = [entry.instrument for entry in standing.history if entry.instrument]
    size = job.part.size("thickness").target_mm
    reaching = sorted((row for row in instruments if row.least_mm <= size <= row.most_mm),
                      key=lambda row: row.error_limit_mm)
    for row in instruments:
        if used and row.name == used[-1]:
            return row.id
    return reaching[0].id if reaching else None


def _page(form: MeasureForm, job: Job, standing: Standing) -> str:
    face = standing.faces[_face(job, standing)]
    size = {axis: float(job.part.size(axis).target_mm) for axis in ("length", "width")}
    return render_template(
        "measure/station.html", form=form, readings=reading_fields(form), face=face,
        places=places_map(size["length"], size["width"]), result=_result(job, standing),
        next=next_act(standing, job.part.reference_face), stock=stock_of(job, standing, face.face),
        may_measure=guard.may_work_on(guard.person(), job, "inspect"),
        may_work=guard.may_work_on(guard.person(), job), wrong=bool(request.form),
    )


def _result(job: Job, standing: Standing) -> Result | None:
    """Return the newest measurement in force, unless the part has been cut since."""
    last = next((entry for entry in reversed(standing.history) if entry.kind in (Kind.MEASURED, Kind.PASS,
                                                                                 Kind.SPARK_OUT)), None)
    if last is None or last.kind is not Kind.MEASURED:
        return None
    words = tongue(job)
    judged = _judge(job, last, overdue=_overdue(last))
    picture = zone(last.true_readings, job.part.size("thickness").to_core(), judged.uncertainty_mm, words)
    if last.face == job.part.reference_face:
        return Result(last, judged, _reference_words(job, standing, last), picture)
    return Result(last, judged, sentence(judged, words, parallel_mm=job.part.parallel_mm), picture)


def _overdue(entry: Entry) -> bool:
    gauge = shop.by_name(database.session(), Instrument, entry.instrument or "")
    return gauge is not None and gauge.to_core(entry.at.date()).overdue


def _reference_words(job: Job, standing: Standing, entry: Entry) -> str:
    words = tongue(job)
    other = OPPOSITE[job.part.reference_face]
    left = entry.greatest_mm - job.part.size("thickness").target_mm
    return (f"{words.size(entry.greatest_mm)} ± {words.size(entry.uncertainty_mm or Decimal(0))} over the reference; "
            f"{words.small(left)} left for face {other}. If face {entry.face} is clean all over, it is done.")


@blueprint.post("/jobs/<number>/measure/close")
@access(job="work")
def close(number: str) -> ResponseReturnValue:
    """Declare the face done."""
    job, standing = guard.job(), guard.standing()
    entry = Entry(0, request.form.get("entry_id", "")[:36] or entry_id(), Kind.FACE_DONE, now(), "",
                  face=_face(job, standing))
    try:
        shoplog.append(database.session(), job, guard.person(),
                       Draft(entry, request.form.get("seen", default=0, type=int)))
    except (LogError, shoplog.BehindError) as error:
        form = _form(job)
        form.entry_id.errors = [str(error)]
        return _page(form, job, standing), 409
    return redirect(url_for("plan.faces", number=number), 303)
