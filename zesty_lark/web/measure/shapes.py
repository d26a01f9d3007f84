"""Angles, radii and slots as they are measured: rolls, the sine plate, chord and height, blocks that go."""

from decimal import Decimal
from typing import Any

from flask import abort, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.measure.angles import MeasuredAngle, MeasuredRadius
from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.quantities.angles import dms_text
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.shopfloor.acts import measuring
from zesty_lark.shopfloor.forming import SHAPES, Found, ShapeName, provable, shape_found
from zesty_lark.store import shop, shoplog
from zesty_lark.store.models import FixtureRow, InstrumentRow
from zesty_lark.web.measure.square_forms import AngleForm, RadiusForm, SlotForm
from zesty_lark.web.measure.subject import blueprint
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.acting import acting
from zesty_lark.web.shared.fields import choice_list
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.wording import entry_id, now

Form = AngleForm | RadiusForm | SlotForm
FORMS: dict[ShapeName, type[Any]] = {"angle": AngleForm, "radius": RadiusForm, "slot": SlotForm}
ANY = f"any({', '.join(SHAPES)})"


def _asked(shape: ShapeName) -> list[Characteristic]:
    return provable(guard.job_state(), shape)


def _way(form: Form) -> str:
    return (form.way.data or "") if hasattr(form, "way") else ""


def _read(shape: ShapeName, form: Form) -> dict[str, Decimal]:
    """What was filled in, by its field."""
    way = SHAPES[shape].ways.get(_way(form))
    return {} if way is None else {name: form[name].number for name in way.reads if form[name].number is not None}


def _shapes_page(kind: ShapeName, form: Form, found: Found | None = None) -> str:
    shape = SHAPES[kind]
    ways = list(shape.ways)
    way = form.way.data if hasattr(form, "way") and form.way.data in ways else ways[0]
    asked = _asked(kind)
    wanted = request.values.get("of", "")
    number, of, piece = guard.job().number, wanted or None, request.values.get("piece", default=1, type=int)

    def where(shape: str, **more: Any) -> str:
        return url_for("measure.shape_page", number=number, shape=shape, piece=piece, **more)

    return render_template(
        "measure/shape.html",
        kind=kind,
        title=shape.title,
        form=form,
        ways=[
            (each.value, each.label, where(kind, way=each.value, of=of))
            for each in (form.way.choices if hasattr(form, "way") else [])
        ],
        way=way,
        fields=[form[name] for name in shape.ways[way].reads],
        found=found,
        shown=None if found is None else _shown(found),
        asked=next((each for each in asked if each.name == wanted), asked[0] if asked else None),
        shapes=[(key, each.title, where(key)) for key, each in SHAPES.items()],
        seen=guard.job_state().last_seq,
        piece=piece,
    )


def _shown(found: Found) -> list[tuple[str, str]]:
    """What was found, in words and figures."""
    if isinstance(found, MeasuredAngle):
        return [
            ("Angle", f"{dms_text(found.angle_deg)} ± {found.u_arcsec:.1f}″"),
            ("In degrees", f"{found.angle_deg:.5f}°"),
        ]
    if isinstance(found, MeasuredRadius):
        return [("Radius", f"{found.radius_mm:.4f} mm ± {found.u_mm:.4f}")]
    return [
        ("Mean width", f"{found.mean_mm:.4f} mm ± {found.u_mm:.4f}"),
        ("Wider at the back by", f"{found.along_mm * 1000:+.1f} µm"),
        ("Wider at the top by", f"{found.up_mm * 1000:+.1f} µm"),
        ("So", found.words),
    ]


def _usual_way(kind: ShapeName) -> str:
    """An inclined face or a chamfer is measured on the plate that it was ground on."""
    return "sine" if _angle_asked(kind) is not None else next(iter(SHAPES[kind].ways))


def _angle_asked(kind: str) -> Characteristic | None:
    """The angle of the print that a page of angles is about."""
    asked = guard.job_state().spec.wanted.named(request.values.get("of", ""))
    return asked if kind == "angle" and asked is not None and asked.kind == "angle" else None


def _fill(kind: str, form: Form) -> None:
    """What is known already stands in the form: what the plate is set to, how far its rolls are apart."""
    asked = _angle_asked(kind)
    if asked is None:
        return
    plates = (row.to_core() for row in shop.listed(database.session(), FixtureRow))
    plate = next((each for each in plates if each.centres_mm is not None), None)
    form.set_deg.data = f"{asked.limits.target_mm.normalize():f}"
    form.centres_mm.data = "" if plate is None else f"{plate.centres_mm:f}"


def _with_gauges(form: Form) -> Form:
    gauges = shop.listed(database.session(), InstrumentRow)
    form.instrument.choices = choice_list((row.id, row.name) for row in gauges)
    return form


@blueprint.get(f"/jobs/<number>/measure/<{ANY}:shape>")
@access(job="look")
def shape_page(number: str, shape: ShapeName) -> ResponseReturnValue:
    """An angle, a radius or a slot: what to read."""
    form = _with_gauges(FORMS[shape](formdata=None))
    if hasattr(form, "way"):
        form.way.data = request.args.get("way") or _usual_way(shape)
    _fill(shape, form)
    form.entry_id.data = entry_id()
    return _shapes_page(shape, form)


@blueprint.post(f"/jobs/<number>/measure/<{ANY}:shape>")
@access(job="inspect", takes=(AngleForm, RadiusForm, SlotForm))
def shape_measured(number: str, shape: ShapeName) -> ResponseReturnValue:
    """Work it out; log it when that is asked for."""
    form = _with_gauges(FORMS[shape]())
    gauge = shop.find(database.session(), InstrumentRow, form.instrument.data or 0) or abort(404, "Which gauge?")
    found = _found(shape, form, gauge) if form.validate() else None
    if found is None:
        return _shapes_page(shape, form), 422
    if not form.keep.data:
        return _shapes_page(shape, form, found)
    try:
        entry = measuring.measure_shape(
            acting(),
            shape=shape,
            characteristic=form.of.data or "",
            gauge=gauge.name,
            read=_read(shape, form),
            way=_way(form),
            piece=form.piece.data or 1,
        )
    except shoplog.BehindError as error:
        form.instrument.errors = [str(error)]
        return _shapes_page(shape, form, found), 409
    except LogError as error:
        form.instrument.errors = [str(error)]
        return _shapes_page(shape, form, found), 422
    flash(f"{entry.characteristic.capitalize()}: {entry.verdict}. It is in the log.")
    return redirect(url_for("measure.station", number=number, of=entry.characteristic, piece=entry.piece), 303)


def _found(shape: ShapeName, form: Form, gauge: InstrumentRow) -> Found | None:
    ways, way = SHAPES[shape].ways, _way(form)
    try:
        return shape_found(shape, way, _read(shape, form), gauge, today=now().date())
    except InputError as error:
        field = form[error.field] if error.field in form else form[ways.get(way, next(iter(ways.values()))).reads[0]]
        field.errors = [str(error)]
        return None
