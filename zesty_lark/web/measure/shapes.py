"""Angles, radii and slots as they are measured: rolls, the sine plate, chord and height, blocks that go."""

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from flask import abort, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.measure.angles import (
    MeasuredAngle,
    MeasuredRadius,
    SlotWidths,
    angle_by_rolls,
    angle_on_sine_plate,
    radius_by_chord,
    radius_by_leaves,
    radius_by_rolls,
    slot_widths,
)
from zesty_lark.core.measure.thickness import Gauge, reading_u_um
from zesty_lark.core.part.prints import SIZES, Characteristic
from zesty_lark.core.quantities.angles import dms_text
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.shopfloor.forming import Found, Shaped, left_wall_mm, shape_entry
from zesty_lark.store import shop, shoplog
from zesty_lark.store.models import FixtureRow, InstrumentRow
from zesty_lark.store.shoplog import Draft
from zesty_lark.web.measure.square_forms import AngleForm, RadiusForm, SlotForm
from zesty_lark.web.measure.subject import blueprint
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.fields import DecimalText, choice_list
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.wording import entry_id, now

__all__: list[str] = []

Form = AngleForm | RadiusForm | SlotForm
MAY_BE_EMPTY = ("stack_u_um",)
USUAL_STACK_U_UM = 0.2
"""U of a stack that nobody gave [µm]: own estimate."""


@dataclass(frozen=True)
class Shape:
    """A kind of shape: its form, what of the print it can prove, which fields each way reads, how it is said."""

    form: type[Any]
    title: str
    kinds: tuple[str, ...]
    ways: dict[str, tuple[str, ...]]
    work_out: Callable[[Any, InstrumentRow], Found]


def _number(form: Form, name: str) -> float:
    return float(form[name].number or Decimal(0))


def _reading_u(gauge: InstrumentRow) -> float:
    return reading_u_um(Gauge.of(gauge.to_core(), now().date()))


def _angle(form: AngleForm, gauge: InstrumentRow) -> MeasuredAngle:
    u = _reading_u(gauge)
    if form.way.data == "sine":
        return angle_on_sine_plate(
            set_deg=_number(form, "set_deg"),
            rise_um=_number(form, "rise_um"),
            over_mm=_number(form, "over_mm"),
            centres_mm=_number(form, "centres_mm"),
            stack_u_um=_number(form, "stack_u_um") or USUAL_STACK_U_UM,
            u_um=u,
        )
    return angle_by_rolls(
        small_mm=_number(form, "small_mm"),
        large_mm=_number(form, "large_mm"),
        over_small_mm=_number(form, "over_small_mm"),
        over_large_mm=_number(form, "over_large_mm"),
        shape="vee" if form.way.data == "vee" else "corner",
        u_um=u,
    )


def _radius(form: RadiusForm, gauge: InstrumentRow) -> MeasuredRadius:
    u = _reading_u(gauge)
    if form.way.data == "chord":
        return radius_by_chord(chord_mm=_number(form, "chord_mm"), height_mm=_number(form, "height_mm"), u_um=u)
    if form.way.data == "leaves":
        return radius_by_leaves(
            under_mm=_number(form, "under_mm"), over_mm=_number(form, "over_mm"), leaf_um=_number(form, "leaf_um")
        )
    return radius_by_rolls(roll_mm=_number(form, "roll_mm"), over_rolls_mm=_number(form, "over_rolls_mm"), u_um=u)


def _slot(form: SlotForm, gauge: InstrumentRow) -> SlotWidths:
    goes = {
        "front top": form.front_top_mm.number,
        "front bottom": form.front_bottom_mm.number,
        "back top": form.back_top_mm.number,
        "back bottom": form.back_bottom_mm.number,
    }
    return slot_widths(
        goes_mm={place: goes_in for place, goes_in in goes.items() if goes_in is not None},
        step_mm=form.step_mm.number or Decimal("0.001"),
        block_u_mm=(form.block_u_um.number or Decimal(0)) / 1000,
    )


ROLLS = ("small_mm", "large_mm", "over_small_mm", "over_large_mm")
SLOT = ("front_top_mm", "front_bottom_mm", "back_top_mm", "back_bottom_mm", "step_mm", "block_u_um")
SHAPES: dict[str, Shape] = {
    "angle": Shape(
        AngleForm,
        "Angle",
        ("angle",),
        {"corner": ROLLS, "vee": ROLLS, "sine": ("set_deg", "rise_um", "over_mm", "centres_mm", "stack_u_um")},
        _angle,
    ),
    "radius": Shape(
        RadiusForm,
        "Radius",
        ("size", "position"),
        {
            "rolls": ("roll_mm", "over_rolls_mm"),
            "chord": ("chord_mm", "height_mm"),
            "leaves": ("under_mm", "over_mm", "leaf_um"),
        },
        _radius,
    ),
    "slot": Shape(SlotForm, "Slot", ("size", "position"), {"": SLOT}, _slot),
}
ANY = f"any({', '.join(SHAPES)})"


def _asked(shape: Shape) -> list[Characteristic]:
    """What of the print a shape can prove: angles; sizes beside the block's own three."""
    wanted = guard.job_state().spec.wanted
    return [
        each
        for each in wanted.characteristics
        if each.kind in shape.kinds and (each.kind != "size" or each.name not in SIZES)
    ]


def _page(kind: str, form: Form, found: Found | None = None) -> str:
    shape = SHAPES[kind]
    ways = list(shape.ways)
    way = form.way.data if hasattr(form, "way") and form.way.data in ways else ways[0]
    asked = _asked(shape)
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
        fields=[form[name] for name in shape.ways[way]],
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


def _usual_way(kind: str) -> str:
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
def shape_page(number: str, shape: str) -> ResponseReturnValue:
    """An angle, a radius or a slot: what to read."""
    form = _with_gauges(SHAPES[shape].form(formdata=None))
    if hasattr(form, "way"):
        form.way.data = request.args.get("way") or _usual_way(shape)
    _fill(shape, form)
    form.entry_id.data = entry_id()
    return _page(shape, form)


@blueprint.post(f"/jobs/<number>/measure/<{ANY}:shape>")
@access(job="inspect", takes=(AngleForm, RadiusForm, SlotForm))
def shape_measured(number: str, shape: str) -> ResponseReturnValue:
    """Work it out; log it when that is asked for."""
    about = SHAPES[shape]
    form = _with_gauges(about.form())
    gauge = shop.find(database.session(), InstrumentRow, form.instrument.data or 0) or abort(404, "Which gauge?")
    found = _found(about, form, gauge) if form.validate() else None
    if found is None:
        return _page(shape, form), 422
    if not form.keep.data:
        return _page(shape, form, found)
    asked = next((each for each in _asked(about) if each.name == form.of.data), None)
    if asked is None:
        form.instrument.errors = [f"The print asks for no {about.title.lower()}: there is nothing to log."]
        return _page(shape, form, found), 422
    left = left_wall_mm(guard.job_state(), asked) if shape == "slot" and asked.kind == "position" else None
    if shape == "slot" and asked.kind == "position" and left is None:
        form.instrument.errors = ["Measure the left wall from its datum first: the middle is told by both."]
        return _page(shape, form, found), 422
    how = _way_words(form) + (f", left wall at {left:f} mm" if left is not None else "")
    shaped = Shaped(asked, found, gauge, form.piece.data or 1, how, left)
    entry = shape_entry(guard.job(), shaped, entry_id=form.entry_id.data or entry_id(), at=now())
    try:
        shoplog.append(database.session(), guard.job(), guard.person(), Draft(entry, form.seen.data, gauge))
    except (LogError, shoplog.BehindError) as error:
        form.instrument.errors = [str(error)]
        return _page(shape, form, found), 409
    flash(f"{asked.name.capitalize()}: {entry.verdict}. It is in the log.")
    return redirect(url_for("measure.station", number=number, of=asked.name, piece=entry.piece), 303)


def _found(shape: Shape, form: Form, gauge: InstrumentRow) -> Found | None:
    ways = shape.ways
    way = form.way.data if hasattr(form, "way") else ""
    for name in ways.get(way, ()):
        field = form[name]
        if isinstance(field, DecimalText) and name not in MAY_BE_EMPTY and field.number is None:
            field.errors = ["Which reading?"]
    if form.errors:
        return None
    try:
        return shape.work_out(form, gauge)
    except InputError as error:
        field = form[error.field] if error.field in form else form[ways[way][0]]
        field.errors = [str(error)]
        return None


def _way_words(form: Form) -> str:
    if not hasattr(form, "way"):
        return "blocks that go at four places"
    return next(str(each.label) for each in form.way.choices if each.value == form.way.data)
