"""Gauges at work: their live readings, the simulated gauge's probe, and checks of what they read."""

import contextlib
import socket
import threading
from collections.abc import Iterator
from datetime import datetime
from decimal import Decimal

from sqlalchemy.orm import Session

from zesty_lark.core.measure.instruments import Instrument
from zesty_lark.core.measure.sensors import Sensor
from zesty_lark.core.measure.signal import SignalError
from zesty_lark.core.things.gauge import GaugeChecked
from zesty_lark.exchange.instruments.addresses import reachable
from zesty_lark.exchange.instruments.gauge_port import Event, GaugePort
from zesty_lark.store import gauge_checks
from zesty_lark.store.models import InstrumentRow

MOVE_SECONDS = 1.0
REPEAT_HOURS = 8


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


def repeat_due(session: Session, gauge: InstrumentRow, width_mm: Decimal, u_mm: Decimal, *, at: datetime) -> bool:
    """Tell whether five lifts come first: where U takes more than a quarter of the tolerance, and this gauge has not
    repeated well within the shift."""
    if 8 * u_mm <= width_mm:
        return False
    last = gauge_checks.state_of(session, gauge).latest("repeat")
    return last is None or not last[1].good or (at - last[0].at).total_seconds() > REPEAT_HOURS * 3600


def doubt_of(session: Session, gauge: InstrumentRow) -> str:
    """Return why nothing that a gauge says proves anything now; empty when it may."""
    if not gauge_checks.state_of(session, gauge).in_doubt:
        return ""
    return f"{gauge.name} did not repeat: until five good lifts of one point nothing it says proves anything."


def direction_of(session: Session, gauge: InstrumentRow) -> GaugeChecked | None:
    """Return the last check of a gauge's direction."""
    last = gauge_checks.state_of(session, gauge).latest("direction")
    return None if last is None else last[1]
