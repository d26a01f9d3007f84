"""Shop: machines, chucks, wheels, fixtures and gauges."""

from decimal import Decimal

from flask import Blueprint, abort, flash, redirect, render_template, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.angles_slots.block_sets import BLOCK_SETS
from zesty_lark.core.measure.maps.chuck import Outlook
from zesty_lark.core.measure.sensors import SENSOR_KINDS
from zesty_lark.core.part.sequence import SQUARENESS_NAMES
from zesty_lark.core.quantities.units import size_text
from zesty_lark.core.things.shop import ACCESSORY_KINDS, FIXTURE_FORMS
from zesty_lark.core.wheel.flanges import FLANGE_KINDS
from zesty_lark.shopfloor.acts.shelves import keep_thing
from zesty_lark.shopfloor.mapping import chuck_outlook
from zesty_lark.shopfloor.units import as_unit
from zesty_lark.store import shop
from zesty_lark.store.models import (
    AccessoryRow,
    BlockSetRow,
    ChuckRow,
    FixtureRow,
    FlangeRow,
    InstrumentRow,
    MachineRow,
    SensorRow,
    WheelRow,
)
from zesty_lark.store.models.base import KeptInError
from zesty_lark.store.models.people import Role
from zesty_lark.web.shared import database, errors
from zesty_lark.web.shared.acting import in_shop
from zesty_lark.web.shared.fields import DecimalText, LengthField, choice_list, set_units
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.wording import now
from zesty_lark.web.shop.forms import SHELVES, ShelfForm, WheelForm, values_of

blueprint = Blueprint("shop", __name__)

ANY_SHELF = f"any({', '.join(SHELVES)})"
EVERY_SHELF = tuple(form for _, form, _ in SHELVES.values())


@blueprint.get("/shop")
@access()
def shelves() -> ResponseReturnValue:
    session = database.session()
    return render_template(
        "shop/shelves.html",
        machines=shop.listed(session, MachineRow),
        wheels=shop.listed(session, WheelRow),
        flanges=shop.listed(session, FlangeRow),
        flange_kinds=FLANGE_KINDS,
        gauges=shop.listed(session, InstrumentRow),
        sensors=shop.listed(session, SensorRow),
        sensor_kinds=SENSOR_KINDS,
        block_sets=shop.listed(session, BlockSetRow),
        set_names=BLOCK_SETS,
        fixtures=shop.listed(session, FixtureRow),
        accessories=shop.listed(session, AccessoryRow),
        accessory_kinds=ACCESSORY_KINDS,
        fixture_forms=FIXTURE_FORMS,
        chucks=_chucks(),
        squareness_names=SQUARENESS_NAMES,
        today=now().date(),
    )


def _chucks() -> list[tuple[ChuckRow, Outlook | None]]:
    """Every chuck with what its maps say of it."""
    session = database.session()
    return [(chuck, chuck_outlook(session, chuck, now())) for chuck in shop.listed(session, ChuckRow)]


@blueprint.route(f"/shop/<{ANY_SHELF}:kind>/new", methods=["GET", "POST"])
@access(Role.LEAD, Role.MACHINIST, takes=EVERY_SHELF)
def add(kind: str) -> ResponseReturnValue:
    return _edit(kind, None)


@blueprint.route(f"/shop/<{ANY_SHELF}:kind>/<int:key>", methods=["GET", "POST"])
@access(Role.LEAD, Role.MACHINIST, takes=EVERY_SHELF)
def change(kind: str, key: int) -> ResponseReturnValue:
    return _edit(kind, key)


def _edit(kind: str, key: int | None) -> ResponseReturnValue:
    name = next(each for each in SHELVES if each == kind)
    shelf, form_class, title = SHELVES[name]
    session = database.session()
    row = shop.find(session, shelf, key) if key is not None else None
    if key is not None and row is None:
        abort(404, f"There is no {kind} with that number.")
    form = form_class(obj=row)
    for field in form:
        if isinstance(field, DecimalText) and row is not None and not field.raw_data:
            kept = getattr(row, field.name, None)
            field.data = "" if kept is None else f"{kept.normalize():f}"
    if kind in ("chuck", "sensor"):
        form["machine_id"].choices = choice_list([(each.id, each.name) for each in shop.listed(session, MachineRow)])
    if isinstance(form, WheelForm):
        flanges = [(each.id, each.name) for each in shop.listed(session, FlangeRow)]
        form.flange_id.choices = choice_list([("", "none set down"), *flanges])
    if isinstance(form, WheelForm) and row is not None and not form.is_submitted():
        form.unmarked.data = bool(row.answered_by)
    _set_unit(kind, form)
    if form.validate_on_submit() and _fits_together(form):
        try:
            kept = keep_thing(in_shop(), shelf=name, values=values_of(form), key=key, version=form.version.data)
        except shop.ChangedMeanwhile as error:
            return _both(form, row, kind, error)
        except shop.NameTaken as error:
            form["name"].errors = [str(error)]
        except shop.MachineTaken as error:
            form["machine_id"].errors = [str(error)]
        except shop.DoesNotFit as error:
            for field, words in error.said.items():
                form[field].errors = [words]
        else:
            flash(f"{kept.name} is kept.")
            return redirect(url_for("shop.shelves"), 303)
    return render_template(
        "shop/edit.html", form=form, title=title, row=row, kind=kind, now_kept=[]
    ), 422 if form.errors else 200


def _both(form: ShelfForm, row: object, kind: str, error: shop.ChangedMeanwhile) -> ResponseReturnValue:
    """Show what someone else made of it beside what this person entered; sent again, theirs is kept."""
    form.version.raw_data, form.version.data = None, error.version
    now_kept = [(form[name].label.text, _shown(form[name], value)) for name, value in error.now.items() if name in form]
    title = next(title for shelf, (_, _, title) in SHELVES.items() if shelf == kind)
    return render_template("shop/edit.html", form=form, title=title, row=row, kind=kind, now_kept=now_kept), 409


def _shown(field: object, value: object) -> object:
    """A value as its form shows it."""
    if isinstance(field, LengthField) and isinstance(value, Decimal):
        return size_text(value, field.unit, with_unit=True)
    return f"{value.normalize():f}" if isinstance(value, Decimal) else value


@blueprint.app_errorhandler(KeptInError)
def to_mend(error: KeptInError) -> ResponseReturnValue:
    """Something of the shop was kept that cannot be: say what, and where it is mended."""
    kind = next(kind for kind, (shelf, _, _) in SHELVES.items() if isinstance(error.row, shelf))
    mend = url_for("shop.change", kind=kind, key=error.row.id)
    return errors.page(422, "Something in the shop has to be mended", str(error), back=mend)


def _set_unit(kind: str, form: ShelfForm) -> None:
    unit = {"machine": "dial_unit", "gauge": "unit"}.get(kind)
    set_units(form, as_unit(form[unit].data or "mm") if unit else "mm")


def _fits_together(form: ShelfForm) -> bool:
    form.contradictions()
    return not form.errors
