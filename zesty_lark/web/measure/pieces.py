"""All pieces at a glance, and one size a key press."""

from dataclasses import dataclass

from flask import render_template, request
from flask.typing import ResponseReturnValue

from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.next_act import next_act
from zesty_lark.shopfloor.measuring import characteristic_of
from zesty_lark.shopfloor.rights import may_work_on
from zesty_lark.store import shop
from zesty_lark.store.models import InstrumentRow, Job
from zesty_lark.web.measure.forms import MeasureForm
from zesty_lark.web.measure.subject import WORDS, Subject, blueprint, form_for, reads_in, subject_of, usual_gauge
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.wording import entry_id, units


@dataclass(frozen=True)
class Block:
    """A piece as the batch page shows it: its number, the size in question by the collar or as measured, and a word on
    it."""

    number: int
    size: str
    word: str
    here: bool
    on_chuck: bool


@blueprint.get("/jobs/<number>/pieces")
@access(job="look")
def pieces(number: str) -> ResponseReturnValue:
    """Show every piece at a glance, and take one size a key press."""
    job, job_state = guard.job(), guard.job_state()
    of = request.args.get("of", "")
    asked = characteristic_of(job_state, of or next_act(job_state).characteristic)
    about = subject_of(job_state, asked.name, request.args.get("piece", type=int) or _next_unmeasured(job_state, asked))
    form = form_for(job, about)
    form.instrument.data = request.args.get("gauge", type=int) or usual_gauge(
        job_state, shop.listed(database.session(), InstrumentRow), about
    )
    form.stopped.data = request.args.get("stopped") == "1"
    return pieces_page(form, job, job_state, about)


def pieces_page(form: MeasureForm, job: Job, job_state: JobState, about: Subject) -> str:
    if not form.is_submitted():
        form.entry_id.data, form.seen.data = entry_id(), job_state.last_seq
    form.back.data = "pieces"
    run = job_state.at
    blocks = [
        _block(job, job_state, about, number, on_chuck=run is not None and number in run.pieces)
        for number in job_state.pieces
    ]
    return render_template(
        "measure/pieces.html",
        form=form,
        reading=form["reading3"],
        about=about,
        of=about.of,
        blocks=blocks,
        words=WORDS,
        reads_in=reads_in(about, job),
        asked=job_state.spec.wanted.characteristics,
        next=next_act(job_state),
        wrong=bool(request.form),
        may_measure=may_work_on(guard.person(), job, "inspect"),
    )


def _next_unmeasured(job_state: JobState, asked: Characteristic) -> int | None:
    """The first piece that still needs a measurement of a characteristic."""
    run = job_state.at
    if run is not None and job_state.spec.wanted.surfaces[run.surface].size == asked.name:
        return next((number for number in run.pieces if number not in run.proofs), None)
    return next((number for number in job_state.live if asked.name not in job_state.pieces[number].verdicts), None)


def _block(job: Job, job_state: JobState, about: Subject, number: int, *, on_chuck: bool) -> Block:
    piece, words = job_state.pieces[number], units(job)
    known = piece.sizes.get(about.of)
    word = piece.end or piece.verdicts.get(about.of) or ("waived" if about.of in piece.waived else "")
    return Block(
        number, "" if known is None else words.size_number(known.by_collar_mm), word, number == about.piece, on_chuck
    )
