"""Dressing a wheel: how fast, how deep, where the diamond stands, a beat to go by; and its face as it is worn."""

from flask import abort, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.things.rack.entries import RackDress
from zesty_lark.core.wheel.dressing import DIAMOND_MM, DRESSES, MARGIN_MM
from zesty_lark.shopfloor import wheels
from zesty_lark.shopfloor.units import as_unit
from zesty_lark.store.models.people import Role
from zesty_lark.web.shared import database
from zesty_lark.web.shared.fields import plain_decimal, set_units
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.wheel_edge import worn_drawing
from zesty_lark.web.shared.svg.wheels import diamond_drawing
from zesty_lark.web.shared.wording import entry_id
from zesty_lark.web.wheels.context import About, about, blueprint, logged, said_in
from zesty_lark.web.wheels.forms import DressForm

__all__: list[str] = []


@blueprint.get("/wheels/<int:key>/dress")
@access()
def dress(key: int) -> ResponseReturnValue:
    """How the next dress is done."""
    return _dressing_page(about(key))


@blueprint.post("/wheels/<int:key>/dress")
@access(Role.LEAD, Role.MACHINIST, takes=DressForm)
def dressed(key: int) -> ResponseReturnValue:
    """It was dressed."""
    of, form = about(key), DressForm()
    set_units(form, as_unit(of.unit))
    if of.wheel.busy is not None:
        return redirect(url_for("grind.station", number=of.wheel.busy.number), 303)
    if not form.validate() or form.kind.data not in DRESSES:
        return _dressing_page(of, form=form)
    try:
        what = RackDress(dress=form.kind.data, amount_mm=form.amount_mm.mm, passes=form.passes.data)
    except ValueError:
        return _dressing_page(of, "A dress takes between 0 and 5 mm off the radius.", form=form)
    return logged(of, said_in(form, what, of), lambda words: _dressing_page(of, words, form=form), "sheet")


def _dressing_page(of: About, wrong: str = "", *, form: DressForm | None = None) -> ResponseReturnValue:
    if of.machine is None:
        abort(404, "There is no machine to dress it on: set one down in the shop first.")
    session = database.session()
    kind = request.args.get("kind") or (form.kind.data if form is not None else None)
    said = wrong
    try:
        asked = plain_decimal(request.args.get("diamond", "")) or 0
        diamond = float(asked) if 0 < asked <= 10 else DIAMOND_MM
        planned = wheels.dressing(session, of.wheel, of.machine, kind, diamond_mm=max(diamond, 0.1))
    except InputError as error:
        abort(422, str(error))
    if form is None:
        form = DressForm(formdata=None)
        form.entry_id.data, form.kind.data = entry_id(), planned.kind
        form.amount_mm.data, form.passes.data = planned.plan.total_mm, planned.plan.passes
        set_units(form, as_unit(of.unit))
    page = render_template(
        "wheels/dress.html",
        about=of,
        planned=planned,
        kinds=DRESSES,
        margin=MARGIN_MM,
        form=form,
        wrong=said,
        drawn=diamond_drawing(float(of.row.diameter_mm), planned.diamond, clockwise=of.clockwise),
    )
    return page, 422 if said or form.errors else 200


@blueprint.get("/wheels/<int:key>/face")
@access()
def face(key: int) -> ResponseReturnValue:
    """Its face as it is worn now, and what that costs."""
    of = about(key)
    feeds = request.args.get("feeds", "to_back")
    now = wheels.face_now(database.session(), of.wheel, feeds)
    drawn = "" if now is None else worn_drawing(now.face, now.depth_mm)
    return render_template("wheels/face.html", about=of, now=now, drawn=drawn, feeds=feeds, ways=wheels.FEEDS_ACROSS)
