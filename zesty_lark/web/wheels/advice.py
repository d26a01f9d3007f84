"""Which wheel for a job: the advice with its reasons, and the shop's own wheels against it."""

from flask import render_template, request
from flask.typing import ResponseReturnValue
from werkzeug.datastructures import MultiDict

from zesty_lark.core.wheel.fitting import rank_wheels
from zesty_lark.shopfloor.wheels import rack_wheels
from zesty_lark.store import shop
from zesty_lark.store.models import MachineRow, WheelRow
from zesty_lark.web.shared import database
from zesty_lark.web.shared.fields import choice_list
from zesty_lark.web.shared.guard import access
from zesty_lark.web.wheels.context import blueprint
from zesty_lark.web.wheels.forms import AdviceForm

__all__: list[str] = []

USUAL = {"material": "tool steel, hardened", "work": "flat", "contact": "usual", "coolant": ""}


@blueprint.get("/wheels/advice")
@access()
def advice() -> ResponseReturnValue:
    """Which of the shop's wheels, which marking would be better, and why."""
    session = database.session()
    machines = shop.listed(session, MachineRow)
    given = MultiDict(USUAL | {"machine": str(machines[0].id) if machines else "0"} | request.args.to_dict())
    form = AdviceForm(given, meta={"csrf": False})
    form.machine.choices = choice_list([(each.id, each.name) for each in machines])
    ranked = None
    if machines and form.validate():
        machine = next(each for each in machines if each.id == form.machine.data)
        ranked = rank_wheels(
            material=form.material.data,
            wheel_rpm=float(machine.rpm),
            wheels=rack_wheels(session)[:200],
            work=form.work.data,
            contact=form.contact.data,
            hardness_hrc=None if form.hardness_hrc.number is None else float(form.hardness_hrc.number),
            coolant=form.coolant.data or machine.coolant,  # type: ignore[arg-type]
        )
    found = {row.name: row.id for row in shop.listed(session, WheelRow)}
    page = render_template("wheels/advice.html", form=form, ranked=ranked, found=found)
    return page, 422 if form.errors else 200
