"""Mounting a wheel, step by step."""

from flask import abort, render_template
from flask.typing import ResponseReturnValue

from zesty_lark.core.things.rack.entries import Checked, FoundOn
from zesty_lark.core.things.rack.rules import run_up_left_s
from zesty_lark.core.wheel.mounting import speed_stops
from zesty_lark.core.wheel.speed import WheelSpeed, wheel_speed
from zesty_lark.store import shop
from zesty_lark.store.models import MachineRow
from zesty_lark.store.models.people import Role
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.wording import entry_id, now
from zesty_lark.web.wheels.context import About, about, blueprint, logged, said_in
from zesty_lark.web.wheels.forms import StepForm


@blueprint.get("/wheels/<int:key>/mount")
@access()
def mount(key: int) -> ResponseReturnValue:
    """The steps of mounting, and the one that comes next."""
    return _mounting_page(about(key))


@blueprint.post("/wheels/<int:key>/mount")
@access(Role.LEAD, Role.MACHINIST, takes=StepForm)
def step(key: int) -> ResponseReturnValue:
    """A step was done, or found bad."""
    of, form = about(key), StepForm()
    if of.machine is None:
        abort(404, "There is no machine to mount it on: set one down in the shop first.")
    if form.step.data == FoundOn.kind:
        found = said_in(form, FoundOn(), of, form.note.data or "")
        return logged(of, found, lambda words: _mounting_page(of, words), "mount")
    what = Checked(step=form.step.data or "", good=form.good.data != "no")
    return logged(of, said_in(form, what, of, form.note.data or ""), lambda words: _mounting_page(of, words), "mount")


def _mounting_page(of: About, wrong: str = "") -> ResponseReturnValue:
    form = StepForm(formdata=None)
    form.entry_id.data = entry_id()
    stops = [] if of.machine is None else speed_stops(of.row.mounted(), float(of.machine.rpm))
    page = render_template(
        "wheels/mount.html",
        about=of,
        form=form,
        wrong=wrong,
        stops=stops,
        speed=_speed(of),
        machines=shop.listed(database.session(), MachineRow),
        due=of.wheel.stands.next_step,
        left_s=run_up_left_s(of.wheel.stands, now()),
        may_find=guard.person().role == Role.LEAD and not of.wheel.stands.history,
    )
    return page, 422 if wrong else 200


def _speed(of: About) -> WheelSpeed | None:
    """Its speed on this machine against its mark; ``None`` without a mark or a machine."""
    row = of.row
    if of.machine is None or (row.max_rpm is None and row.max_m_s is None):
        return None
    return wheel_speed(
        wheel_diameter_mm=float(row.diameter_mm),
        wheel_rpm=float(of.machine.rpm),
        marked_max_rpm=row.max_rpm,
        marked_max_m_s=None if row.max_m_s is None else float(row.max_m_s),
        new_diameter_mm=None if row.new_diameter_mm is None else float(row.new_diameter_mm),
    )
