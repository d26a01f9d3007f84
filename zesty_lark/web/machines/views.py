"""A machine by itself: what runs on it, for the wall; what its runs have taught; what its instruments say."""

import threading
from collections.abc import Iterator

from flask import Blueprint, abort, current_app, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.measure.sensors import Sensor
from zesty_lark.core.quantities.units import small_text
from zesty_lark.core.things.log import ThingError
from zesty_lark.core.trouble.chatter import identify, sources_of
from zesty_lark.core.work.learned import WORK_KINDS
from zesty_lark.exchange.instruments.gauge_port import Event
from zesty_lark.shopfloor import gauges, taught
from zesty_lark.shopfloor.acts.learned import forget_cut_ratio
from zesty_lark.shopfloor.machine_card import card_of
from zesty_lark.shopfloor.units import as_unit
from zesty_lark.shopfloor.wall import wall_of
from zesty_lark.store import log_rows, shop
from zesty_lark.store.models import MachineRow, SensorRow, WheelRow
from zesty_lark.store.models.people import Role
from zesty_lark.web.machines.forms import ChatterForm
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.acting import in_shop
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.streams import Streams, data
from zesty_lark.web.shared.svg.machine import machine_front
from zesty_lark.web.shared.wording import units

blueprint = Blueprint("machines", __name__, static_folder="static", static_url_path="/static/machines")


def _machine(key: int) -> MachineRow:
    return shop.find(database.session(), MachineRow, key) or abort(404, "There is no machine with that number.")


@blueprint.get("/machines/<int:key>")
@access()
def card(key: int) -> ResponseReturnValue:
    """A machine as it stands: its wheel, its load, its zero, and what was done at it."""
    machine = _machine(key)
    found = card_of(database.session(), machine)
    run = found.run
    touching = run is not None and run.touched_off and found.state.zero is not None
    drawn = machine_front(
        float(machine.chuck.length_mm if machine.chuck is not None else machine.travel_long_mm),
        None if found.wheel is None else float(found.wheel.diameter_mm),
        found.piece_mm,
        many=len(run.pieces) if run is not None else 0,
        touching=touching,
        title=f"{machine.name}: {found.words}",
    )
    reading = run.reading_mm if run is not None and touching else None
    words = None if found.job is None else units(found.job)
    return render_template("machines/card.html", card=found, drawn=drawn, reading=reading, units=words)


@blueprint.get("/machines/<int:key>/wall")
@access()
def wall(key: int) -> ResponseReturnValue:
    """What runs on a machine, to be read from four metres; asked with the newest entry already seen, answers that
    nothing is new."""
    machine = _machine(key)
    newest = log_rows.newest_entries(database.session(), [], [machine.id])["machine"].get(machine.id, 0)
    if request.args.get("seen", type=int) == newest:
        return "", 204
    shown = wall_of(database.session(), machine)
    words = None if shown is None else units(shown.job)
    return render_template("machines/wall.html", machine=machine, shown=shown, units=words, newest=newest)


@blueprint.get("/machines/<int:key>/live")
@access()
def live(key: int) -> ResponseReturnValue:
    """Tell, as it happens, that something was logged on a machine: server-sent events."""
    streams: Streams = current_app.config["LARK_STREAMS"]
    return streams.follow(("machine", _machine(key).id), guard.this_sign_in(), request.args.get("seen", 0, type=int))


@blueprint.get("/machines/<int:key>/learned")
@access()
def learned(key: int) -> ResponseReturnValue:
    """What a machine's runs have taught, on how many runs it rests, and how sure it is."""
    machine = _machine(key)
    return render_template(
        "machines/learned.html",
        machine=machine,
        told=taught.taught_of(database.session(), machine),
        may_forget=guard.person().role == Role.LEAD,
    )


@blueprint.post("/machines/<int:key>/learned/<int:wheel>/<work>")
@access(Role.LEAD)
def forget(key: int, wheel: int, work: str) -> ResponseReturnValue:
    """Throw away what runs have taught of the cut ratio with a wheel, held so."""
    machine, on = _machine(key), shop.find(database.session(), WheelRow, wheel)
    kind = next((each for each in WORK_KINDS if each == work), None)
    if on is None or kind is None:
        abort(404, "There is no such wheel, or way of holding.")
    try:
        forget_cut_ratio(in_shop(), machine=machine.name, wheel=on.name, work=kind)
    except ThingError as error:
        flash(str(error))
    return redirect(url_for("machines.learned", key=key), 303)


@blueprint.get("/machines/<int:key>/chatter")
@access()
def chatter(key: int) -> ResponseReturnValue:
    """What ripples on the work come from: their pitch against what turns or hums here."""
    machine = _machine(key)
    form = ChatterForm(request.args or None, meta={"csrf": False})
    told = None
    if request.args and form.validate():
        pitch, table = form.pitch_mm.number, form.table_mm_s.number
        assert pitch is not None and table is not None
        told = identify(
            pitch_mm=float(pitch),
            table_mm_s=float(table),
            wheel_rpm=float(machine.rpm),
            sources=sources_of(machine.hums),
        )
    page = render_template(
        "machines/chatter.html", machine=machine, form=form, told=told, sources=sources_of(machine.hums)
    )
    return page, 422 if form.errors else 200


@blueprint.get("/sensors/<int:key>/readings")
@access()
def readings(key: int) -> ResponseReturnValue:
    """What a machine's readout or power meter says, as it says it: server-sent events."""
    row = shop.find(database.session(), SensorRow, key) or abort(404, "There is no sensor with that number.")
    sensor, unit = row.to_core(), as_unit(row.machine.dial_unit)

    def says(ended: threading.Event) -> Iterator[str]:
        return (_line(event, sensor, unit) for event in gauges.live(sensor, ended))

    streams: Streams = current_app.config["LARK_STREAMS"]
    return streams.follow(("sensor", row.id), guard.this_sign_in(), source=says)


def _line(event: Event, sensor: Sensor, unit: str) -> str:
    if event.fault is not None:
        return data({"fault": event.fault, "words": event.words})
    if event.value_mm is None:
        return ": \n\n"
    if sensor.kind == "power":
        return data({"value": f"{event.value_mm:.1f}", "shown": f"{event.value_mm:.0f} W"})
    return data({"value": f"{event.value_mm.normalize():f}", "shown": small_text(event.value_mm, as_unit(unit))})
