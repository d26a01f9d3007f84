"""Gauges: live readings, five lifts of one point, which way it reads."""

import threading
from collections.abc import Iterator

from flask import Blueprint, abort, current_app, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.measure.typed import in_um
from zesty_lark.core.quantities.units import micrometres, size_text
from zesty_lark.core.things.gauge import check_words
from zesty_lark.core.things.log import ThingError
from zesty_lark.exchange.instruments.gauge_port import Event
from zesty_lark.shopfloor import gauges
from zesty_lark.shopfloor.acts.gauges import check_direction, check_repeat, check_zero
from zesty_lark.shopfloor.units import as_unit
from zesty_lark.store import gauge_checks, shop
from zesty_lark.store.models import InstrumentRow
from zesty_lark.web.gauges.forms import LIFTS, DirectionForm, RepeatForm, ZeroForm
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.acting import in_shop
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.streams import Streams, data
from zesty_lark.web.shared.wording import entry_id, now

MOST_CHECKS = 20
blueprint = Blueprint("gauges", __name__, static_folder="static", static_url_path="/static/gauges")


def _gauge(key: int) -> InstrumentRow:
    return shop.find(database.session(), InstrumentRow, key) or abort(404, "There is no gauge with that number.")


@blueprint.get("/gauges/<int:key>")
@access()
def page(key: int) -> ResponseReturnValue:
    """A gauge: what it reads now, and what it was found to do."""
    return _gauge_page(_gauge(key), _fresh())


def _fresh() -> RepeatForm:
    form = RepeatForm(formdata=None)
    form.entry_id.data, form.back.data = entry_id(), request.args.get("back", "")
    return form


def _gauge_page(
    gauge: InstrumentRow, form: RepeatForm, direction: DirectionForm | None = None, *, zero: ZeroForm | None = None
) -> str:
    if direction is None:
        direction = DirectionForm(formdata=None)
        direction.entry_id.data = entry_id()
    if zero is None:
        zero = ZeroForm(formdata=None)
        zero.entry_id.data = entry_id()
    return render_template(
        "gauges/page.html",
        gauge=gauge,
        form=form,
        lifts=[form[f"lift{number}"] for number in range(1, LIFTS + 1)],
        direction=direction,
        zero=zero,
        checks=gauge_checks.state_of(database.session(), gauge).checks[: -1 - MOST_CHECKS : -1],
        check_words=check_words,
        overdue=now().date() > gauge.due_on,
    )


@blueprint.post("/gauges/<int:key>/repeat")
@access(takes=RepeatForm)
def repeat(key: int) -> ResponseReturnValue:
    """Keep five lifts of the same point."""
    gauge, form = _gauge(key), RepeatForm()
    if not form.validate():
        return _gauge_page(gauge, form), 422
    read = [float(in_um(form[f"lift{number}"].number, form.typed_in.data)) for number in range(1, LIFTS + 1)]
    made = check_repeat(in_shop(), gauge=gauge.name, readings_um=read)
    back = form.back.data or ""
    if made.good and back.startswith("/jobs/"):
        flash(f"{gauge.name} repeats within {made.range_um:.2f} µm.")
        return redirect(back, 303)
    return redirect(url_for("gauges.page", key=key, back=back or None), 303)


@blueprint.post("/gauges/<int:key>/zero")
@access(takes=ZeroForm)
def zero(key: int) -> ResponseReturnValue:
    """Keep what a gauge shows at zero."""
    gauge, form = _gauge(key), ZeroForm()
    if not form.validate():
        return _gauge_page(gauge, _fresh(), zero=form), 422
    check_zero(in_shop(), gauge=gauge.name, shown_um=float(form.shown_um.number or 0))
    return redirect(url_for("gauges.page", key=key), 303)


@blueprint.post("/gauges/<int:key>/direction")
@access(takes=DirectionForm)
def lift(key: int) -> ResponseReturnValue:
    """Keep which way a gauge reads when its probe is lifted."""
    gauge, form = _gauge(key), DirectionForm()
    if not form.validate():
        return _gauge_page(gauge, _fresh(), form), 422
    try:
        before, lifted = float(form.before_um.number or 0), float(form.lifted_um.number or 0)
        check_direction(in_shop(), gauge=gauge.name, before_um=before, lifted_um=lifted)
    except ThingError as error:
        form.lifted_um.errors = [str(error)]
        return _gauge_page(gauge, _fresh(), form), 422
    return redirect(url_for("gauges.page", key=key), 303)


@blueprint.get("/gauges/<int:key>/live")
@access()
def live(key: int) -> ResponseReturnValue:
    """What a gauge says, as it says it: server-sent events."""
    gauge = _gauge(key)
    if gauge.port is None:
        abort(404, "This gauge is not connected: its readings are typed.")
    unit, instrument = as_unit(gauge.unit), gauge.to_core()

    def says(ended: threading.Event) -> Iterator[str]:
        return (_line(event, unit) for event in gauges.live(instrument, ended))

    streams: Streams = current_app.config["LARK_STREAMS"]
    return streams.follow(("gauge", gauge.id), guard.this_sign_in(), source=says)


def _line(event: Event, unit: str) -> str:
    if event.fault is not None:
        return data({"fault": event.fault, "words": event.words})
    if event.value_mm is None:
        return ": \n\n"
    said = {
        "um": f"{micrometres(event.value_mm):.5f}".rstrip("0").rstrip("."),
        "shown": size_text(event.value_mm, as_unit(unit), with_unit=True),
        "line": event.line,
        "pressed": event.pressed,
    }
    return data(said)
