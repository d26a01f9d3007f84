"""Measure: readings at named places, the uncertainty, the verdict, and what comes next."""

from dataclasses import dataclass

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.measure.next_cut import NextCut
from zesty_lark.core.measure.sentence import sentence
from zesty_lark.core.measure.thickness import Judgement, judge
from zesty_lark.core.part.surfaces import lying_of
from zesty_lark.core.quantities.angles import dms_text
from zesty_lark.core.quantities.units import micrometres
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.entry import Entry, Kind
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.next_act import next_act
from zesty_lark.core.work.telling import pieces_words
from zesty_lark.shopfloor.acts import machine, measuring
from zesty_lark.shopfloor.measuring import due
from zesty_lark.shopfloor.rights import may_work_on
from zesty_lark.shopfloor.stock import judged, stock_of
from zesty_lark.store import part_plans, shop, shoplog
from zesty_lark.store.models import BlockSetRow, InstrumentRow, Job
from zesty_lark.web.measure import shapes, square
from zesty_lark.web.measure.beside import beside
from zesty_lark.web.measure.forms import MeasureForm, reading_fields
from zesty_lark.web.measure.pieces import pieces_page
from zesty_lark.web.measure.subject import (
    WORDS,
    Subject,
    blueprint,
    choose_tool,
    form_for,
    readings_of,
    reads_in,
    say_beside,
    subject_of,
    sure_of,
)
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.acting import acting
from zesty_lark.web.shared.fields import plain_decimal
from zesty_lark.web.shared.forms import EntryForm
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.places import places_map
from zesty_lark.web.shared.svg.zone import zone
from zesty_lark.web.shared.wording import entry_id, units

MOST_IN_ROW = 40
WAYS = (shapes, square)
"""The other ways of measuring, which add their pages to this station."""


@dataclass(frozen=True)
class Result:
    """The last measurement as the page shows it."""

    entry: Measured
    judged: Judgement | None
    words: str
    picture: object


@blueprint.get("/jobs/<number>/measure")
@access(job="look")
def station(number: str) -> ResponseReturnValue:
    job, job_state = guard.job(), guard.job_state()
    about = subject_of(job_state, request.args.get("of", ""), request.args.get("piece", type=int))
    if about.asked.kind == "angle" and about.of not in job_state.pieces[about.piece].verdicts:
        to = url_for("measure.shape_page", number=number, shape=about.shape, of=about.of, piece=about.piece)
        return redirect(to, 303)
    form = form_for(job, about)
    choose_tool(form, job_state, about, request.args.get("instrument", type=int))
    return _measure_page(form, job, job_state, about)


@blueprint.post("/jobs/<number>/measure")
@access(job="inspect", takes=MeasureForm)
def take(number: str) -> ResponseReturnValue:
    """Log a measurement with its verdict."""
    job, job_state = guard.job(), guard.job_state()
    about = subject_of(job_state, request.form.get("of", ""), request.form.get("piece", type=int))
    form = form_for(job, about)
    page = pieces_page if form.back.data == "pieces" else _measure_page
    names, readings = readings_of(form) if form.validate() else ([], ())
    gauge = shop.find(database.session(), InstrumentRow, form.instrument.data or 0)
    if form.errors or gauge is None:
        return page(form, job, job_state, about), 422
    chosen = shop.find(database.session(), BlockSetRow, form.blocks.data) if form.blocks.data else None
    try:
        measuring.measure(
            acting(),
            characteristic=about.of,
            gauge=gauge.name,
            readings=readings,
            piece=about.piece,
            blocks=None if chosen is None else chosen.name,
            tip_deg=float(plain_decimal(form.tip_deg.data or "0") or 0),
            part_c=form.part_c.number,
            gauge_c=form.gauge_c.number,
            room_c=form.room_c.number,
            warm=bool(form.warm.data),
            stopped=bool(form.stopped.data),
            sure=sure_of(form, names),
        )
    except measuring.WrongReadings as error:
        say_beside(form, names, error.amiss)
        return page(form, job, job_state, about), 422
    except (LogError, shoplog.BehindError) as error:
        form.entry_id.errors = [str(error)]
        return page(form, job, job_state, about), 409
    if form.back.data == "pieces":
        return redirect(url_for("measure.pieces", number=number, of=about.of, gauge=gauge.id, stopped=1), 303)
    return redirect(url_for("measure.station", number=number, of=about.of, piece=about.piece), 303)


def _measure_page(form: MeasureForm, job: Job, job_state: JobState, about: Subject) -> str:
    if not form.is_submitted():
        form.entry_id.data, form.seen.data = entry_id(), job_state.last_seq
    newest, result = part_plans.newest(database.session(), job), _result(job, job_state, about)
    lying, what = lying_of(job.part.block(), about.surface), next_act(job_state)
    return render_template(
        "measure/station.html",
        form=form,
        readings=reading_fields(form),
        about=about,
        of=about.of,
        words=WORDS,
        reads_in=reads_in(about, job),
        places=places_map(lying.along_mm, lying.across_mm),
        result=result,
        next=what,
        run=job_state.runs[about.surface],
        near=_row(job_state, about),
        piece=job_state.pieces[about.piece],
        due=due(job_state, about.piece),
        asked=job_state.spec.wanted.characteristics,
        stock=stock_of(job, job_state, about.surface),
        based_on=newest.number if newest else 0,
        fresh_id=entry_id(),
        may_measure=may_work_on(guard.person(), job, "inspect"),
        may_work=may_work_on(guard.person(), job),
        wrong=bool(request.form),
        which=pieces_words,
        beside=beside(form, job, job_state, about, result=result),
    )


def _row(job_state: JobState, about: Subject) -> list[int]:
    """The pieces in reach of this one: all, or of a large batch those of the load, else those around it."""
    numbers = list(job_state.pieces)
    if len(numbers) <= MOST_IN_ROW:
        return numbers
    load = list(job_state.at.pieces) if job_state.at is not None and about.piece in job_state.at.pieces else numbers
    here = max(0, load.index(about.piece) - MOST_IN_ROW // 2)
    return load[here : here + MOST_IN_ROW]


def _result(job: Job, job_state: JobState, about: Subject) -> Result | None:
    """Return the newest measurement in force of this characteristic of this piece, unless the surface has been cut
    since."""
    last = next((entry for entry in reversed(job_state.history) if _tells(entry, job_state, about)), None)
    if not isinstance(last, Measured):
        return None
    words, asked = units(job), about.asked
    if asked.kind == "angle":
        told = f"{asked.name.capitalize()}: {dms_text(float(last.greatest_mm))} ± {last.u_arcsec:.1f}″."
        return Result(last, None, told, "")
    if not about.is_size:
        worst, allowed = micrometres(last.greatest_mm), micrometres(asked.allowed_mm)
        told = (
            f"{asked.name.capitalize()}: {words.fine(worst)} ± {words.fine(micrometres(last.uncertainty_mm))}, "
            f"{words.fine(allowed)} allowed."
        )
        return Result(last, None, told, "")
    return _size_result(job, job_state, about, last)


def _tells(entry: Entry, job_state: JobState, about: Subject) -> bool:
    """Whether an entry measures what the page is about, or cut it since."""
    if isinstance(entry, Measured):
        return entry.characteristic == about.of and entry.piece == about.piece
    return entry.kind in (Kind.PASS, Kind.SPARK_OUT) and getattr(entry, "surface", None) in about.asked.surfaces


def _size_result(job: Job, job_state: JobState, about: Subject, last: Measured) -> Result:
    words, asked, wanted = units(job), about.asked, job_state.spec.wanted
    bounded = last.surface is not None and wanted.surfaces[last.surface].size == asked.name
    made = judged(job, last, asked) if bounded else judge(last.true_readings, asked.limits, last.uncertainty_mm)
    picture = zone(last.true_readings, asked.limits, made.uncertainty_mm, words)
    if last.surface is not None and bounded and wanted.surfaces[last.surface].reference:
        return Result(last, made, _reference_words(job, job_state, last), picture)
    cut = (
        stock_of(job, job_state, last.surface or 0).cut
        if bounded and last.piece in job_state.runs[about.surface].proofs
        else None
    )
    parallel = job.part.parallel_mm if made.parallel is not None else None
    return Result(last, made, sentence(made, cut or NextCut("nothing"), words, parallel_mm=parallel), picture)


def _reference_words(job: Job, job_state: JobState, entry: Measured) -> str:
    words = units(job)
    other = job_state.spec.wanted.surfaces[entry.surface or 0].opposite
    left = entry.greatest_mm - stock_of(job, job_state, other).goal_mm
    return (
        f"{words.size(entry.greatest_mm)} ± {words.size(entry.uncertainty_mm)} over the reference; "
        f"{words.small(left)} left for face {other}. If face {entry.surface} is clean all over, it is done."
    )


@blueprint.post("/jobs/<number>/measure/close")
@access(job="work", takes=EntryForm)
def close(number: str) -> ResponseReturnValue:
    """Declare the surface at work done, on the pieces that are proved."""
    job, job_state = guard.job(), guard.job_state()
    what = next_act(job_state)
    surface = what.surface or job_state.surface or job.part.reference_face
    try:
        done = machine.close_surface(acting(), surface=surface, pieces=what.pieces if what.act == "close" else ())
    except (LogError, shoplog.BehindError) as error:
        about = subject_of(job_state, "", None)
        form = form_for(job, about)
        form.entry_id.errors = [str(error)]
        return _measure_page(form, job, job_state, about), 409
    return redirect(url_for("record.history" if done.job_state.at is None else "grind.station", number=number), 303)
