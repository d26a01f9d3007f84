"""Squareness: four ways of measuring it, drawn leaning, with the shim for it; of a part or of a fixture."""

from dataclasses import dataclass
from decimal import Decimal
from typing import get_args

from flask import abort, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.measure.square import WAYS, Lean, Light, SquareWay
from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.shopfloor.acts import measuring
from zesty_lark.shopfloor.squaring import (
    READ,
    foils_of,
    height_of,
    keep_in_fixture,
    lean_of,
    shim_for,
    sides_of,
    usual_height,
)
from zesty_lark.store import shop, shoplog
from zesty_lark.store.models import FixtureRow, InstrumentRow
from zesty_lark.store.models.people import Role
from zesty_lark.web.measure.square_forms import SquareForm
from zesty_lark.web.measure.subject import blueprint
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.acting import acting
from zesty_lark.web.shared.fields import choice_list
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.lean import lean_drawing
from zesty_lark.web.shared.wording import entry_id, now

FIELDS: dict[SquareWay, tuple[str, ...]] = READ | {"light": ("light", *READ["light"])}
"""The fields of each way."""


@dataclass(frozen=True)
class Target:
    """What is measured: a characteristic of a piece, over the height the print asks it over [mm]; or a fixture."""

    asked: Characteristic | None = None
    piece: int = 1
    height_mm: float | None = None
    fixture: FixtureRow | None = None
    sides: tuple[int, ...] = ()

    @property
    def name(self) -> str:
        """In words."""
        return self.fixture.name if self.fixture is not None else self.asked.name if self.asked else ""


def _of_job() -> Target:
    job, job_state = guard.job(), guard.job_state()
    square = [
        characteristic for characteristic in job_state.spec.wanted.characteristics if characteristic.kind == "square"
    ]
    wanted = request.values.get("of", "")
    asked = next((each for each in square if each.name == wanted), square[0] if square else None)
    piece = request.values.get("piece", default=1, type=int)
    number = piece if piece in job_state.pieces else 1
    if asked is None:
        return Target(None, number)
    return Target(asked, number, height_of(job, asked), sides=sides_of(asked))


def _of_fixture(key: int) -> Target:
    row = shop.find(database.session(), FixtureRow, key) or abort(404, "There is no fixture with that number.")
    return Target(fixture=row)


@blueprint.get("/jobs/<number>/measure/square")
@access(job="look")
def square(number: str) -> ResponseReturnValue:
    """Squareness of the job's part."""
    return _square_page(_of_job(), _fresh())


@blueprint.get("/shop/fixtures/<int:key>/square")
@access()
def fixture_square(key: int) -> ResponseReturnValue:
    """Squareness of a fixture."""
    return _square_page(_of_fixture(key), _fresh())


def _fresh() -> SquareForm:
    form = SquareForm(formdata=None)
    form.way.data = request.args.get("way", "reversal")
    form.entry_id.data = entry_id()
    return form


def _square_page(target: Target, form: SquareForm, lean: Lean | None = None) -> str:
    session = database.session()
    gauges = sorted(
        shop.listed(session, InstrumentRow), key=lambda row: (row.reads != "deviations", row.simulated, row.name)
    )
    form.instrument.choices = choice_list((row.id, row.name) for row in gauges)
    form.side.choices = choice_list((side, f"Face {side}") for side in target.sides)
    way: SquareWay = next((each for each in WAYS if each == form.way.data), "reversal")
    if not form.is_submitted() and target.height_mm is not None and not form.over_mm.data:
        form.over_mm.data = f"{usual_height(target.height_mm):g}"
    base = form.base_mm.number
    return render_template(
        "measure/square.html",
        form=form,
        target=target,
        way=way,
        ways=[(key, words, _url(target, key)) for key, words in WAYS.items()],
        fields=[form[name] for name in FIELDS[way]],
        lean=lean,
        drawing="" if lean is None else lean_drawing(lean),
        shim=None if lean is None or base is None else shim_for(lean, float(base), foils_of(session)),
        seen=guard.job_state().last_seq if target.fixture is None else 0,
    )


def _url(target: Target, way: str) -> str:
    """Where a target is measured in a way."""
    if target.fixture is not None:
        return url_for("measure.fixture_square", key=target.fixture.id, way=way)
    of = None if target.asked is None else target.asked.name
    return url_for("measure.square", number=guard.job().number, way=way, of=of, piece=target.piece)


def _way(form: SquareForm) -> SquareWay:
    return next((way for way in WAYS if way == form.way.data), "reversal")


def _light(form: SquareForm) -> Light:
    return next((each for each in get_args(Light) if each == form.light.data), "none")


def _read(form: SquareForm) -> dict[str, Decimal]:
    """What was filled in, by its field."""
    return {name: form[name].number for name in READ[_way(form)] if form[name].number is not None}


def _lean(form: SquareForm, gauge: InstrumentRow) -> Lean | None:
    """What the readings come to; ``None`` with a sentence beside the field."""
    if form.over_mm.number is None:
        return None
    try:
        over, today = float(form.over_mm.number), now().date()
        return lean_of(gauge, _way(form), over, _read(form), light=_light(form), today=today)
    except InputError as error:
        (form[error.field] if error.field in form else form.over_mm).errors = [str(error)]
        return None


def _judged(target: Target) -> tuple[SquareForm, InstrumentRow | None, Lean | None]:
    form = SquareForm()
    gauges = shop.listed(database.session(), InstrumentRow)
    form.instrument.choices = choice_list((row.id, row.name) for row in gauges)
    if not form.validate():
        return form, None, None
    gauge = shop.find(database.session(), InstrumentRow, form.instrument.data)
    return form, gauge, None if gauge is None else _lean(form, gauge)


@blueprint.post("/jobs/<number>/measure/square")
@access(job="inspect", takes=SquareForm)
def square_of_part(number: str) -> ResponseReturnValue:
    """Show what the readings come to; log it when that is asked for."""
    target = _of_job()
    form, gauge, lean = _judged(target)
    if lean is None or gauge is None:
        return _square_page(target, form), 422
    if not form.keep.data:
        return _square_page(target, form, lean)
    if target.asked is None or target.height_mm is None:
        form.over_mm.errors = ["The print asks for no squareness: there is nothing to log."]
        return _square_page(target, form, lean), 422
    try:
        entry = measuring.measure_square(
            acting(),
            characteristic=target.asked.name,
            gauge=gauge.name,
            way=_way(form),
            over_mm=form.over_mm.number or Decimal(0),
            read=_read(form),
            piece=target.piece,
            side=form.side.data,
            light=_light(form),
        )
    except (LogError, shoplog.BehindError) as error:
        form.entry_id.errors = [str(error)]
        return _square_page(target, form, lean), 409
    flash(f"{target.asked.name.capitalize()} of piece {target.piece}: {entry.verdict}. It is in the log.")
    return redirect(url_for("measure.station", number=number, of=target.asked.name, piece=target.piece), 303)


@blueprint.post("/shop/fixtures/<int:key>/square")
@access(Role.LEAD, Role.MACHINIST, Role.INSPECTOR, takes=SquareForm)
def square_of_fixture(key: int) -> ResponseReturnValue:
    """Show what the readings come to; keep it in the fixture's record when that is asked for."""
    target = _of_fixture(key)
    form, gauge, lean = _judged(target)
    if lean is None or gauge is None or target.fixture is None:
        return _square_page(target, form), 422
    if not form.keep.data:
        return _square_page(target, form, lean)
    if now().date() > gauge.due_on:
        form.instrument.errors = [f"{gauge.name} is past its date: a fixture’s record is not made with it."]
        return _square_page(target, form, lean), 422
    keep_in_fixture(database.session(), target.fixture, lean, now().date())
    flash(
        f"{target.fixture.name} is kept: out of square by {abs(lean.error_um):.2f} µm and U over {lean.over_mm:g} mm."
    )
    return redirect(url_for("shop.shelves"), 303)
