"""Gauges at work: their live readings, the simulated gauge's probe, and checks of what they read."""

import contextlib
import socket
import threading
from collections.abc import Iterator
from datetime import datetime
from decimal import Decimal

from sqlalchemy.orm import Session

from zesty_lark.core.measure.instruments import Instrument
from zesty_lark.core.measure.repeat import Repeatability, repeatability
from zesty_lark.core.measure.sensors import Sensor
from zesty_lark.core.measure.signal import SignalError
from zesty_lark.core.quantities.units import micrometres
from zesty_lark.exchange.instruments.addresses import reachable
from zesty_lark.exchange.instruments.gauge_port import Event, GaugePort
from zesty_lark.store import gauging
from zesty_lark.store.gauging import Check
from zesty_lark.store.models import GaugeCheckRow, InstrumentRow, Person

MOVE_SECONDS = 1.0
REPEAT_HOURS = 8
LIFTED_UM = 1.0
"""A lift has to move the reading by this much to tell its direction [µm]."""


def live(gauge: Instrument | Sensor, stopping: threading.Event) -> Iterator[Event]:
    """Yield what a gauge says until it is unplugged, or the server stops."""
    try:
        with GaugePort(gauge) as port:
            for event in port.events():
                yield event
                if stopping.is_set():
                    return
    except SignalError as error:
        yield Event(fault=error.fault, words=str(error))


def move_probe(gauge: Instrument, x_mm: float, y_mm: float) -> None:
    """Tell the simulated gauge where its probe stands; a real one is moved by hand."""
    if not gauge.simulated or gauge.port is None:
        return
    with contextlib.suppress(OSError, ValueError):
        place = reachable(gauge.port)
        with socket.create_connection((place.host, place.port), MOVE_SECONDS) as line:
            line.sendall(f"at {x_mm:g} {y_mm:g}\r\n".encode())


def check_repeat(
    session: Session, gauge: InstrumentRow, readings_um: list[float], by: Person, *, entry_id: str, at: datetime
) -> Repeatability:
    """Keep five lifts of the same point, and return what they tell."""
    made = repeatability(
        readings_um=readings_um,
        resolution_um=micrometres(gauge.resolution_mm),
        stated_um=micrometres(gauge.repeatability_mm),
    )
    words = (
        f"Range {made.range_um:.2f} µm of {made.allowed_um:.2f} allowed: it can be measured."
        if made.good
        else f"Range {made.range_um:.2f} µm, {made.allowed_um:.2f} allowed: clean granite, part and anvils, check the "
        "stand, and try again. Nothing measured means anything yet."
    )
    gauging.keep_check(session, gauge, Check(entry_id, "repeat", readings_um, made.good, words), by, at=at)
    return made


def repeat_due(session: Session, gauge: InstrumentRow, width_mm: Decimal, u_mm: Decimal, *, at: datetime) -> bool:
    """Tell whether five lifts come first: where U takes more than a quarter of the tolerance, and this gauge has not
    repeated well within the shift."""
    if 8 * u_mm <= width_mm:
        return False
    last = gauging.latest_check(session, gauge, "repeat")
    return last is None or not last.good or (at - last.at).total_seconds() > REPEAT_HOURS * 3600


def check_direction(
    session: Session,
    gauge: InstrumentRow,
    before_um: float,
    lifted_um: float,
    *,
    by: Person,
    entry_id: str,
    at: datetime,
) -> bool:
    """Keep a lift of the probe: the reading has to rise. Returns whether it did.

    Raises
    ------
    ValueError
        If it hardly moved: that tells nothing.
    """
    if abs(lifted_um - before_um) < LIFTED_UM:
        raise ValueError("The reading hardly moved: lift the probe further.")
    good = lifted_um > before_um
    words = (
        "It rises when the probe is lifted."
        if good
        else "It falls when the probe is lifted: turn “falls” over where the gauge is kept."
    )
    gauging.keep_check(session, gauge, Check(entry_id, "direction", [before_um, lifted_um], good, words), by, at=at)
    return good


def check_zero(
    session: Session, gauge: InstrumentRow, shown_um: float, *, by: Person, entry_id: str, at: datetime
) -> bool:
    """Keep what a gauge shows where it has to show nothing: at its setting master, or with its anvils closed. Returns
    whether that is within a step and its stated error."""
    allowed = micrometres(gauge.resolution_mm) + micrometres(gauge.error_limit_mm)
    good = abs(shown_um) <= allowed * (1 + 1e-9)
    words = (
        f"Zero within {shown_um:+.2f} µm, {allowed:.2f} allowed."
        if good
        else f"It shows {shown_um:+.2f} µm at zero, {allowed:.2f} allowed: clean it, set it again, and try again."
    )
    gauging.keep_check(session, gauge, Check(entry_id, "zero", [shown_um], good, words), by, at=at)
    return good


def direction_of(session: Session, gauge: InstrumentRow) -> GaugeCheckRow | None:
    """Return the last check of a gauge's direction."""
    return gauging.latest_check(session, gauge, "direction")
