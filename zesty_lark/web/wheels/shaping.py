"""Shaping a wheel: settings, steps and outline of a shape; and the print of its corner."""

from decimal import Decimal

from flask import render_template, request
from flask.typing import ResponseReturnValue

from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.things.rack.entries import ShapedWheel, WheelPrinted
from zesty_lark.core.wheel.grain import grain_size
from zesty_lark.core.wheel.shaping import (
    AngleSetting,
    CornerPrint,
    Relief,
    StepDress,
    angle_setting,
    corner_print,
    ground_by,
    relief,
    shape_profile,
    slot_beside,
    step_dress,
)
from zesty_lark.store.models.people import Role
from zesty_lark.web.shared.fields import plain_decimal, set_units
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.wheel_edge import edge_outline
from zesty_lark.web.shared.wording import entry_id
from zesty_lark.web.wheels.context import About, about, blueprint, logged, said_in
from zesty_lark.web.wheels.forms import SHAPES, PrintForm, ShapeForm

__all__: list[str] = []

Worked = AngleSetting | Relief | StepDress | None
DRAWN_MM = 6.0
"""How much of a wheel's sides is drawn [mm]."""


@blueprint.get("/wheels/<int:key>/shape")
@access()
def shape(key: int) -> ResponseReturnValue:
    """A shape to put on it: what to set, and how it comes out."""
    of = about(key)
    form = ShapeForm(request.args if request.args.get("shape") else None, meta={"csrf": False})
    if not request.args.get("shape"):
        on = of.wheel.stands.shape
        form.shape.data = "angle" if on is None else on.shape
    set_units(form, "mm")
    if request.args.get("shape"):
        form.validate()
    form.entry_id.data = entry_id()
    return _shaping_page(of, form)


@blueprint.post("/wheels/<int:key>/shape")
@access(Role.LEAD, Role.MACHINIST, takes=ShapeForm)
def shaped(key: int) -> ResponseReturnValue:
    """The shape was put on."""
    of, form = about(key), ShapeForm()
    set_units(form, "mm")
    if not form.validate():
        if form.shape.data not in SHAPES:
            form.shape.data = "flat"
        return _shaping_page(of, form)
    try:
        worked = _worked(of, form)
        what = _entry(form, worked)
    except (InputError, ValueError) as error:
        return _shaping_page(of, form, str(error))
    return logged(of, said_in(form, what, of), lambda words: _shaping_page(of, form, words), "sheet")


@blueprint.post("/wheels/<int:key>/print")
@access(Role.LEAD, Role.MACHINIST, takes=PrintForm)
def printed(key: int) -> ResponseReturnValue:
    """Its corner was printed."""
    of, form = about(key), PrintForm()
    fresh = ShapeForm(formdata=None)
    fresh.shape.data = "corner"
    try:
        told = _print(of, form.readings.data or "")
    except InputError as error:
        form.readings.errors = [str(error)]
        return _shaping_page(of, fresh, printing=form)
    what = WheelPrinted(radius_mm=round(told.radius_mm, 5))
    return logged(of, said_in(form, what, of), lambda words: _shaping_page(of, fresh, words, printing=form), "shape")


def _print(of: About, typed: str) -> CornerPrint:
    numbers = [plain_decimal(part) for part in typed.replace(",", " ").split()]
    if not numbers or len(numbers) > 20 or any(each is None or not 0 < each <= 20 for each in numbers):
        raise InputError("readings", "Fillets in millimetres, apart by spaces, up to 20 of them.")
    return corner_print(
        readings_mm=[float(each) for each in numbers if each is not None],
        grain_mm=grain_size(of.row.grit),
        dressed_mm=_dressed_radius(of),
    )


def _dressed_radius(of: About) -> float:
    on = of.wheel.stands.shape
    return on.radius_mm or 0.0 if on is not None and on.shape in ("corner", "full") else 0.0


def _worked(of: About, form: ShapeForm) -> Worked:
    """What a shape needs set or stepped."""
    width, kind = float(of.row.width_mm), form.shape.data
    if kind == "angle":
        return angle_setting(angle_deg=_angle(form))
    if kind == "relief":
        if form.slot_depth_mm.number is None:
            return None
        return relief(
            wheel_width_mm=width,
            slot_depth_mm=float(form.slot_depth_mm.number),
            undercut_mm=float(form.undercut_mm.number or 0),
            corner_mm=of.wheel.stands.corner_mm or grain_size(of.row.grit),
            land_mm=_land(form),
        )
    if kind in ("corner", "full"):
        if kind == "corner" and form.radius_mm.length() is None:
            return None
        radius = form.radius_mm.length()
        return step_dress(
            shape=kind,
            wheel_width_mm=width,
            allow_mm=float(form.allow_um.number or 2) / 1000,
            radius_mm=None if radius is None else float(radius),
        )
    return None


def _angle(form: ShapeForm) -> float:
    angle = form.angle.angle_deg if form.angle.angle_deg is not None else 45.0
    if not 0 < angle < 90:
        raise InputError("angle", "An angle between the face and the flank is over 0° and under 90°.")
    return angle


def _land(form: ShapeForm) -> float:
    land = float(form.land_mm.number or Decimal(1))
    if form.shape.data == "relief" and not 0.5 <= land <= 1.5:
        raise InputError("land_mm", "A land of 0.5 to 1.5 mm is left at the corner.")
    return land


def _entry(form: ShapeForm, worked: Worked) -> ShapedWheel:
    kind = form.shape.data
    if kind == "relief" and not (isinstance(worked, Relief) and worked.may):
        why = worked.why if isinstance(worked, Relief) else "How deep is the slot, and how high its undercut?"
        raise InputError("land_mm", why)
    if kind == "corner" and worked is None:
        raise InputError("radius_mm", "Which radius?")
    return ShapedWheel(
        shape=kind,
        angle_deg=worked.face_deg if isinstance(worked, AngleSetting) else None,
        radius_mm=worked.radius_mm if isinstance(worked, StepDress) else None,
        land_mm=_land(form) if kind in ("relief", "chamfer") else None,
        amount_mm=form.amount_mm.length() or None,
    )


def _shaping_page(
    of: About, form: ShapeForm, wrong: str = "", *, printing: PrintForm | None = None
) -> ResponseReturnValue:
    worked: Worked = None
    said = wrong
    try:
        worked = None if form.errors else _worked(of, form)
        drawn = _drawn(of, form, worked)
    except InputError as error:
        said, drawn = said or str(error), ""
    corner = of.wheel.stands.corner_mm
    told = None
    if corner is not None:
        told = corner_print(readings_mm=[corner], grain_mm=grain_size(of.row.grit), dressed_mm=_dressed_radius(of))
    if printing is None:
        printing = PrintForm(formdata=None)
    printing.entry_id.data = printing.entry_id.data or entry_id()
    form.entry_id.data = form.entry_id.data or entry_id()
    page = render_template(
        "wheels/shape.html",
        about=of,
        form=form,
        kind=form.shape.data,
        worked=worked,
        drawn=drawn,
        wrong=said,
        printing=printing,
        print_told=told,
        shape_names=SHAPES,
    )
    return page, 422 if said or form.errors or printing.errors else 200


def _drawn(of: About, form: ShapeForm, worked: Worked) -> str:
    radius = worked.radius_mm if isinstance(worked, StepDress) else 0.0
    depth = max(DRAWN_MM, radius * 1.2, float(form.slot_depth_mm.number or 0))
    outline = shape_profile(
        shape=form.shape.data,
        wheel_width_mm=float(of.row.width_mm),
        depth_mm=depth,
        angle_deg=_angle(form) if form.shape.data == "angle" else 45.0,
        radius_mm=radius,
        land_mm=_land(form),
    )
    kind = form.shape.data
    part = ground_by(outline, shoulder=kind in ("angle", "corner", "full"), groove=kind == "full")
    if kind == "relief":
        deep, under = form.slot_depth_mm.number, float(form.undercut_mm.number or 0)
        width = float(of.row.width_mm)
        part = slot_beside(wheel_width_mm=width, depth_mm=float(deep), undercut_mm=under) if deep else []
    return edge_outline(outline, f"The wheel's edge: {SHAPES[form.shape.data].lower()}", part=part)
