"""Measure: readings at named places, the uncertainty, the verdict, and what comes next."""

from dataclasses import dataclass

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.measure.next_cut import NextCut
from zesty_lark.core.measure.sentence import sentence
from zesty_lark.core.measure.thickness import Judgement, judge
from zesty_lark.core.plausible import doubt_against
from zesty_lark.core.sizes import Reading, Verdict
from zesty_lark.core.units import micrometres
from zesty_lark.core.work.entries import Entry, Kind, Measured, SurfaceDone
from zesty_lark.core.work.next_act import next_act
from zesty_lark.core.work.prints import Characteristic
from zesty_lark.core.work.rules import LogError
from zesty_lark.core.work.standing import Standing
from zesty_lark.core.work.telling import pieces_words
from zesty_lark.shopfloor.measuring import Taken, characteristic_of, due, measurement, surface_of
from zesty_lark.shopfloor.stock import judged, stock_of
from zesty_lark.store import part_plans, shop, shoplog
from zesty_lark.store.models import Instrument, Job
from zesty_lark.store.shoplog import Draft
from zesty_lark.web.measure.forms import MeasureForm, reading_fields, set_up_for
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.fields import choice_list, question
from zesty_lark.web.shared.forms import EntryForm
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.places import places_map
from zesty_lark.web.shared.svg.zone import zone
from zesty_lark.web.shared.wording import as_unit, entry_id, now, units

__all__ = ["blueprint"]

blueprint = Blueprint("measure", __name__)

WORDS: dict[Verdict, str] = {"in": "✓ In", "not yet": "↓ Not yet", "unsure": "? Unsure", "out": "✗ Out"}


MOST_IN_ROW = 40


@dataclass(frozen=True)
class Subject:
    """What a page or a form is about: a characteristic of a piece, on the surface it is measured on."""

    asked: Characteristic
    piece: int
    surface: int

    @property
    def of(self) -> str:
        """The characteristic's name."""
        return self.asked.name

    @property
    def is_size(self) -> bool:
        """Whether it is a length with two limits."""
        return self.asked.kind in ("size", "position")


@dataclass(frozen=True)
class Result:
    """The last measurement as the page shows it."""

    entry: Measured
    judged: Judgement | None
    words: str
    picture: object


def _subject(standing: Standing, of: str, piece: int | None) -> Subject:
    what = next_act(standing)
    number = piece if piece is not None and piece in standing.pieces else what.piece or 1
    asked = characteristic_of(standing, of or what.characteristic)
    return Subject(asked, number, surface_of(standing, asked))


@blueprint.get("/jobs/<number>/measure")
@access(job="look")
def station(number: str) -> ResponseReturnValue:
    job, standing = guard.job(), guard.standing()
    about = _subject(standing, request.args.get("of", ""), request.args.get("piece", type=int))
    form = _form(job, about)
    form.instrument.data = _usual_gauge(standing, shop.listed(database.session(), Instrument), about)
    return _page(form, job, standing, about)


@dataclass(frozen=True)
class Block:
    """A piece as the batch page shows it: its number, the size in question by the collar or as measured, and a word on it."""

    number: int
    size: str
    word: str
    here: bool
    on_chuck: bool


@blueprint.get("/jobs/<number>/pieces")
@access(job="look")
def pieces(number: str) -> ResponseReturnValue:
    """Show every piece at a glance, and take one size a key press."""
    job, standing = guard.job(), guard.standing()
    of = request.args.get("of", "")
    asked = characteristic_of(standing, of or next_act(standing).characteristic)
    about = _subject(standing, asked.name, request.args.get("piece", type=int) or _next_unmeasured(standing, asked))
    form = _form(job, about)
    form.instrument.data = request.args.get("gauge", type=int) or _usual_gauge(
        standing, shop.listed(database.session(), Instrument), about)
    form.stopped.data = request.args.get("stopped") == "1"
    return _pieces_page(form, job, standing, about)


def _pieces_page(form: MeasureForm, job: Job, standing: Standing, about: Subject) -> str:
    if not form.is_submitted():
        form.entry_id.data, form.seen.data = entry_id(), standing.last_seq
    form.back.data = "pieces"
    run = standing.at
    blocks = [_block(job, standing, about, number, run is not None and number in run.pieces) for number in standing.pieces]
    return render_template(
        "measure/pieces.html", form=form, reading=form["reading3"], about=about, of=about.of, blocks=blocks, words=WORDS,
        asked=standing.brief.wanted.characteristics, next=next_act(standing), wrong=bool(request.form),
        may_measure=guard.may_work_on(guard.person(), job, "inspect"))


def _next_unmeasured(standing: Standing, asked: Characteristic) -> int | None:
    """The first piece that still needs a measurement of a characteristic."""
    run = standing.at
    if run is not None and standing.brief.wanted.surfaces[run.surface].size == asked.name:
        return next((number for number in run.pieces if number not in run.proofs), None)
    return next((number for number in standing.live if asked.name not in standing.pieces[number].verdicts), None)


def _block(job: Job, standing: Standing, about: Subject, number: int, on_chuck: bool) -> Block:
    piece, words = standing.pieces[number], units(job)
    known = piece.sizes.get(about.of)
    word = piece.end or piece.verdicts.get(about.of) or ("waived" if about.of in piece.waived else "")
    return Block(number, "" if known is None else words.size_number(known.by_collar_mm), word, number == about.piece, on_chuck)


@blueprint.post("/jobs/<number>/measure")
@access(job="inspect", takes=MeasureForm)
def take(number: str) -> ResponseReturnValue:
    """Log a measurement with its verdict."""
    job, standing = guard.job(), guard.standing()
    about = _subject(standing, request.form.get("of", ""), request.form.get("piece", type=int))
    form = _form(job, about)
    page = _pieces_page if form.back.data == "pieces" else _page
    if not (form.validate() and _plausible(form, job, standing, about)):
        return page(form, job, standing, about), 422
    gauge = shop.find(database.session(), Instrument, form.instrument.data)
    assert gauge is not None
    readings = tuple(Reading(place, field.data) for place, field in reading_fields(form) if field.data is not None)
    taken = Taken(about.of, about.piece, readings, form.part_c.number, form.gauge_c.number, form.room_c.number,
                  bool(form.warm.data))
    entry = measurement(job, standing, gauge, taken, entry_id=form.entry_id.data or entry_id(), at=now())
    try:
        shoplog.append(database.session(), job, guard.person(), Draft(entry, form.seen.data, gauge))
    except (LogError, shoplog.BehindError) as error:
        form.entry_id.errors = [str(error)]
        return page(form, job, standing, about), 409
    if form.back.data == "pieces":
        return redirect(url_for("measure.pieces", number=number, of=about.of, gauge=gauge.id, stopped=1), 303)
    return redirect(url_for("measure.station", number=number, of=about.of, piece=about.piece), 303)


def _form(job: Job, about: Subject) -> MeasureForm:
    form = MeasureForm()
    form.instrument.choices = choice_list((row.id, row.name) for row in shop.listed(database.session(), Instrument))
    form.of.data, form.piece.data = about.of, about.piece
    set_up_for(form, about.asked.kind, as_unit(job.print_unit))
    return form


def _plausible(form: MeasureForm, job: Job, standing: Standing, about: Subject) -> bool:
    """Check the readings together: at least one, none off by a slip, the gauge reaches that far, temperatures in pairs."""
    given = [(name, field) for name, field in reading_fields(form) if field.data is not None]
    if not given:
        form["reading1"].errors = ["At least one reading is needed."]
    if about.is_size:
        _plausible_sizes(form, job, standing, about)
    if form.part_c.number is not None and form.gauge_c.number is None and form.room_c.number is None:
        form.gauge_c.errors = ["How warm is the gauge, or the room it lies in? Only the difference to the part counts."]
    if not form.stopped.data:
        form.stopped.errors = ["Tick this before hands go in. Coasting counts as running."]
    return not form.errors


def _plausible_sizes(form: MeasureForm, job: Job, standing: Standing, about: Subject) -> None:
    known = standing.pieces[about.piece].sizes.get(about.of)
    came = standing.brief.pieces[about.piece].get(about.of)
    expected = about.asked.limits.upper_mm if came is None or known is None else max(came, about.asked.limits.upper_mm)
    gauge = shop.find(database.session(), Instrument, form.instrument.data)
    for _, field in reading_fields(form):
        if field.data is None:
            continue
        doubt = doubt_against(field.mm, expected)
        if doubt and not form[f"sure_{field.name}"].data:
            question(field, doubt, f"This looks like {doubt.slip}.")
        elif field.mm > expected and not form[f"sure_{field.name}"].data:
            field.errors = [f"The part was taken in at {units(job).size(expected)} at most; it cannot have grown. "
                            "Clean it and read again."]
        elif gauge is not None and not gauge.least_mm <= field.mm <= gauge.most_mm:
            field.errors = [f"{gauge.name} does not reach {units(job).size(field.mm)}."]


def _usual_gauge(standing: Standing, instruments: list[Instrument], about: Subject) -> int | None:
    """Return the gauge used last for this on this job, else the one with the smallest stated error that reaches."""
    used = [entry.instrument for entry in standing.history if isinstance(entry, Measured) and entry.characteristic == about.of]
    size = about.asked.limits.target_mm if about.is_size else about.asked.allowed_mm
    reaching = sorted((row for row in instruments if row.least_mm <= size <= row.most_mm),
                      key=lambda row: row.error_limit_mm)
    for row in instruments:
        if used and row.name == used[-1]:
            return row.id
    return reaching[0].id if reaching else None


def _page(form: MeasureForm, job: Job, standing: Standing, about: Subject) -> str:
    if not form.is_submitted():
        form.entry_id.data, form.seen.data = entry_id(), standing.last_seq
    newest = part_plans.newest(database.session(), job)
    lying, what = job.part.block().lying(about.surface), next_act(standing)
    return render_template(
        "measure/station.html",
        form=form,
        readings=reading_fields(form),
        about=about,
        of=about.of,
        words=WORDS,
        places=places_map(lying.along_mm, lying.across_mm),
        result=_result(job, standing, about),
        next=what,
        run=standing.runs[about.surface],
        near=_row(standing, about),
        piece=standing.pieces[about.piece],
        due=due(standing, about.piece),
        asked=standing.brief.wanted.characteristics,
        stock=stock_of(job, standing, about.surface),
        based_on=newest.number if newest else 0,
        fresh_id=entry_id(),
        may_measure=guard.may_work_on(guard.person(), job, "inspect"),
        may_work=guard.may_work_on(guard.person(), job),
        wrong=bool(request.form),
        which=pieces_words,
    )


def _row(standing: Standing, about: Subject) -> list[int]:
    """The pieces in reach of this one: all, or of a large batch those of the load, else those around it."""
    numbers = list(standing.pieces)
    if len(numbers) <= MOST_IN_ROW:
        return numbers
    load = list(standing.at.pieces) if standing.at is not None and about.piece in standing.at.pieces else numbers
    here = max(0, load.index(about.piece) - MOST_IN_ROW // 2)
    return load[here:here + MOST_IN_ROW]


def _result(job: Job, standing: Standing, about: Subject) -> Result | None:
    """Return the newest measurement in force of this characteristic of this piece, unless the surface has been cut since."""
    last = next((entry for entry in reversed(standing.history) if _tells(entry, standing, about)), None)
    if not isinstance(last, Measured):
        return None
    words, asked = units(job), about.asked
    if not about.is_size:
        worst, allowed = micrometres(last.greatest_mm), micrometres(asked.allowed_mm)
        told = (f"{asked.name.capitalize()}: {words.fine(worst)} ± {words.fine(micrometres(last.uncertainty_mm))}, "
                f"{words.fine(allowed)} allowed.")
        return Result(last, None, told, "")
    return _size_result(job, standing, about, last)


def _tells(entry: Entry, standing: Standing, about: Subject) -> bool:
    """Whether an entry measures what the page is about, or cut it since."""
    if isinstance(entry, Measured):
        return entry.characteristic == about.of and entry.piece == about.piece
    return entry.kind in (Kind.PASS, Kind.SPARK_OUT) and getattr(entry, "surface", None) in about.asked.surfaces


def _size_result(job: Job, standing: Standing, about: Subject, last: Measured) -> Result:
    words, asked, wanted = units(job), about.asked, standing.brief.wanted
    bounded = last.surface is not None and wanted.surfaces[last.surface].size == asked.name
    made = judged(job, last, asked) if bounded else judge(last.true_readings, asked.limits, last.uncertainty_mm)
    picture = zone(last.true_readings, asked.limits, made.uncertainty_mm, words)
    if last.surface is not None and bounded and wanted.surfaces[last.surface].reference:
        return Result(last, made, _reference_words(job, standing, last), picture)
    cut = (
        stock_of(job, standing, last.surface or 0).cut if bounded and last.piece in standing.runs[about.surface].proofs else None
    )
    parallel = job.part.parallel_mm if made.parallel is not None else None
    return Result(last, made, sentence(made, cut or NextCut("nothing"), words, parallel_mm=parallel), picture)


def _reference_words(job: Job, standing: Standing, entry: Measured) -> str:
    words = units(job)
    other = standing.brief.wanted.surfaces[entry.surface or 0].opposite
    left = entry.greatest_mm - stock_of(job, standing, other).goal_mm
    return (f"{words.size(entry.greatest_mm)} ± {words.size(entry.uncertainty_mm)} over the reference; "
            f"{words.small(left)} left for face {other}. If face {entry.surface} is clean all over, it is done.")


@blueprint.post("/jobs/<number>/measure/close")
@access(job="work", takes=EntryForm)
def close(number: str) -> ResponseReturnValue:
    """Declare the surface at work done, on the pieces that are proved."""
    job, standing = guard.job(), guard.standing()
    what = next_act(standing)
    surface = what.surface or standing.surface or job.part.reference_face
    entry = SurfaceDone(entry_id=request.form.get("entry_id", "")[:36] or entry_id(), at=now(), surface=surface,
                        pieces=what.pieces if what.act == "close" else ())
    try:
        done = shoplog.append(database.session(), job, guard.person(),
                              Draft(entry, request.form.get("seen", default=0, type=int)))
    except (LogError, shoplog.BehindError) as error:
        about = _subject(standing, "", None)
        form = _form(job, about)
        form.entry_id.errors = [str(error)]
        return _page(form, job, standing, about), 409
    return redirect(url_for("record.history" if done.standing.at is None else "grind.station", number=number), 303)
