"""Shop: machines, chucks, wheels, fixtures and gauges."""

from flask import Blueprint, abort, flash, redirect, render_template, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.measure.maps import Analysis, map_analyse
from zesty_lark.core.sequence import SQUARENESS_NAMES
from zesty_lark.store import shop
from zesty_lark.store.models import Chuck, Fixture, Instrument, MachineRow, WheelRow
from zesty_lark.store.models.people import Role
from zesty_lark.web.shared import database
from zesty_lark.web.shared.fields import DecimalText, picks, speak
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.wording import as_unit, now
from zesty_lark.web.shop.forms import SHELVES, ChuckForm, ShelfForm, values_of

__all__ = ["blueprint"]

blueprint = Blueprint("shop", __name__)


@blueprint.get("/shop")
@access()
def shelves() -> ResponseReturnValue:
    session = database.session()
    return render_template("shop/shelves.html", machines=shop.listed(session, MachineRow),
                           wheels=shop.listed(session, WheelRow), gauges=shop.listed(session, Instrument),
                           fixtures=shop.listed(session, Fixture), chucks=_chucks(), squareness_names=SQUARENESS_NAMES,
                           today=now().date())


def _chucks() -> list[tuple[Chuck, Analysis | None]]:
    """Every chuck with what its newest map comes to."""
    return [(chuck, map_analyse(points=chuck.newest_map.to_core(), frame="machine") if chuck.newest_map else None)
            for chuck in shop.listed(database.session(), Chuck)]


@blueprint.route("/shop/<any(machine, wheel, gauge, chuck, fixture):kind>/new", methods=["GET", "POST"])
@access(Role.LEAD, Role.MACHINIST)
def add(kind: str) -> ResponseReturnValue:
    return _edit(kind, None)


@blueprint.route("/shop/<any(machine, wheel, gauge, chuck, fixture):kind>/<int:key>", methods=["GET", "POST"])
@access(Role.LEAD, Role.MACHINIST)
def change(kind: str, key: int) -> ResponseReturnValue:
    return _edit(kind, key)


def _edit(kind: str, key: int | None) -> ResponseReturnValue:
    shelf, form_class, title = SHELVES[kind]
    session = database.session()
    row = shop.find(session, shelf, key) if key is not None else None
    if key is not None and row is None:
        abort(404, f"There is no {kind} with that number.")
    form = form_class(obj=row)
    for field in form:
        if isinstance(field, DecimalText) and row is not None and not field.raw_data:
            field.data = f"{getattr(row, field.name).normalize():f}"
    if kind == "chuck":
        form["machine_id"].choices = picks([(each.id, each.name) for each in shop.listed(session, MachineRow)])
    _speak(kind, form)
    if form.validate_on_submit() and _fits_together(form):
        try:
            kept = shop.keep(session, shelf, values_of(form), row)
            if isinstance(form, ChuckForm) and form.points():
                shop.add_map(session, kept, form.points(), now())
        except shop.NameTaken as error:
            form["name"].errors = [str(error)]
        except shop.MachineTaken as error:
            form["machine_id"].errors = [str(error)]
        else:
            flash(f"{kept.name} is kept.")
            return redirect(url_for("shop.shelves"), 303)
    return render_template("shop/edit.html", form=form, title=title, row=row, kind=kind), 422 if form.errors else 200


def _speak(kind: str, form: ShelfForm) -> None:
    unit = {"machine": "dial_unit", "gauge": "unit"}.get(kind)
    speak(form, as_unit(form[unit].data or "mm") if unit else "mm")


def _fits_together(form: ShelfForm) -> bool:
    form.contradictions()
    return not form.errors
