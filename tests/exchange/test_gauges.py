"""The simulated gauge over its own wire: readings, its button, and everything that goes wrong with a gauge."""

import itertools
import math
import socket
import time
from collections.abc import Iterator
from datetime import date
from decimal import Decimal
from statistics import fmean, stdev

import pytest

from zesty_lark.core.measure.instruments import Instrument
from zesty_lark.core.measure.signal import SignalError
from zesty_lark.core.simulated.hidden import SHAPES, HiddenSurface
from zesty_lark.exchange.instruments.addresses import allow
from zesty_lark.exchange.instruments.gauge_port import AT_ONCE, MOST_A_SECOND, Event, GaugePort
from zesty_lark.exchange.instruments.simulated import SimulatedGauge, Trim

D = Decimal
QUIET = Trim(resolution_um=0.01, noise_um=0.0)


def instrument(port: int, **more: object) -> Instrument:
    given: dict[str, object] = {
        "name": "Simulated",
        "unit": "mm",
        "least_mm": D(0),
        "most_mm": D("0.2"),
        "resolution_mm": D("0.0001"),
        "error_limit_mm": D("0.0002"),
        "calibration_u_mm": D("0.0002"),
        "repeatability_mm": D("0.0001"),
        "calibrated_on": date(2026, 1, 1),
        "due_on": date(2027, 1, 1),
        "reads": "deviations",
        "port": f"socket://127.0.0.1:{port}",
        "asks": "?",
        "simulated": True,
    }
    return Instrument(**(given | more))  # type: ignore[arg-type]


@pytest.fixture
def gauge() -> Iterator[SimulatedGauge]:
    made = SimulatedGauge(HiddenSurface(), Trim(resolution_um=0.01, noise_um=0.0))
    made.port = made.listen()  # type: ignore[attr-defined]
    yield made
    made.unplug()


def until(events: Iterator[Event], wanted: str) -> Event:
    """The first event that has a value, was pressed, or has a fault."""
    for event in events:
        if {"value": event.value_mm is not None, "pressed": event.pressed, "fault": event.fault is not None}[wanted]:
            return event
    raise AssertionError(f"no event with a {wanted}")


def test_it_reads_the_hidden_surface_where_its_probe_stands(gauge: SimulatedGauge) -> None:
    with GaugePort(instrument(gauge.port)) as port:  # type: ignore[attr-defined]
        for x, y in ((0.0, 0.0), (44.0, 27.0), (88.0, 54.0)):
            gauge.answer(f"at {x} {y}")
            events = port.events()
            until(events, "value")  # one that was asked for before the probe moved
            said = until(events, "value")
            assert float(said.value_mm or 0) * 1000 == pytest.approx(HiddenSurface().height_um(x, y), abs=0.011)
            assert not said.pressed and said.line.endswith("mm")


def test_each_press_of_its_button_is_one_reading_to_take(gauge: SimulatedGauge) -> None:
    with GaugePort(instrument(gauge.port)) as port:  # type: ignore[attr-defined]
        events = port.events()
        until(events, "value")
        for _ in range(3):
            gauge.press()
        pressed = [until(events, "pressed") for _ in range(3)]
        later = [next(events) for _ in range(6)]
    assert len(pressed) == 3 and not any(event.pressed for event in later)


def test_a_gauge_that_only_sends_on_its_button_is_never_asked(gauge: SimulatedGauge) -> None:
    with GaugePort(instrument(gauge.port, asks="")) as port:  # type: ignore[attr-defined]
        events = port.events()
        assert next(events).value_mm is None and gauge.sent == 0
        gauge.press()
        assert until(events, "pressed").value_mm is not None


@pytest.mark.parametrize(
    ("spoil", "fault"),
    [
        (lambda gauge: gauge.answer("garble"), "garbled"),
        (lambda gauge: gauge.answer("unit in"), "wrong unit"),
        (lambda gauge: gauge.answer("silent on"), "silent"),
        (lambda gauge: gauge.unplug(), "unplugged"),
    ],
)
def test_what_goes_wrong_is_told_and_gives_no_reading(gauge: SimulatedGauge, spoil: object, fault: str) -> None:
    with GaugePort(instrument(gauge.port)) as port:  # type: ignore[attr-defined]
        events = port.events()
        until(events, "value")
        spoil(gauge)  # type: ignore[operator]
        said = until(events, "fault")
    assert said.fault == fault and said.value_mm is None and "Simulated" in said.words


def test_out_of_range_is_told(gauge: SimulatedGauge) -> None:
    gauge.surface = HiddenSurface(hollow_um=900.0)
    gauge.answer("at 0 0")
    with GaugePort(instrument(gauge.port)) as port:  # type: ignore[attr-defined]
        assert until(port.events(), "fault").fault == "out of range"


def test_a_gauge_that_is_not_there_is_unplugged() -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        port = taken.getsockname()[1]
    with pytest.raises(SignalError) as told, GaugePort(instrument(port)):
        pass
    assert told.value.fault == "unplugged"


def test_half_a_line_is_waited_for_and_never_read_as_a_number() -> None:
    with socket.create_server(("127.0.0.1", 0)) as server:
        port = server.getsockname()[1]
        with GaugePort(instrument(port, asks="")) as line:
            wire, _ = server.accept()
            events = line.events()
            wire.sendall(b"+0.01")
            assert next(events) == Event() and next(events) == Event()
            wire.sendall(b"23 mm\r\n")
            assert until(events, "value").value_mm == D("0.0123")
            wire.sendall(b"x" * 1000)
            assert until(events, "fault").fault == "garbled"
            wire.close()


def test_noise_drift_and_dirt_are_what_they_were_set_to() -> None:
    def read(trim: Trim, count: int = 400) -> list[float]:
        gauge = SimulatedGauge(HiddenSurface(), trim, seed=3)
        gauge.at = (44.0, 27.0)
        return [float(gauge.reading().split()[0]) for _ in range(count)]

    noisy = read(Trim(0.01, 0.2, 0.0, "um"))
    assert stdev(noisy) == pytest.approx(0.2, rel=0.15)
    drifting = read(Trim(0.01, 0.0, 0.05, "um"))
    assert drifting[-1] - drifting[0] == pytest.approx(0.05 * 399, abs=0.02)
    dirty = read(Trim(0.01, 0.0, 0.0, "um", dirty=True))
    assert fmean(dirty) - HiddenSurface().height_um(44.0, 27.0) == pytest.approx(6.0 * math.sqrt(2 / math.pi), rel=0.15)
    coarse = read(Trim(0.5, 0.2, 0.0, "um"))
    assert all(math.isclose(each / 0.5, round(each / 0.5), abs_tol=1e-6) for each in coarse)
    assert read(Trim(0.01, 0.2, 0.0, "um")) == noisy, "the same seed gives the same readings"
    assert set(SHAPES) == {"hollow", "tapered", "flat", "crowned"}


def test_a_gauge_that_chatters_is_passed_on_some_times_a_second_and_shown_as_it_is_by_then() -> None:
    """Ten thousand lines in one go: a few are passed on, and none is put together from two."""
    with socket.create_server(("127.0.0.1", 0)) as server:
        talks = instrument(server.getsockname()[1], asks="", streams=True, simulated=False)
        with GaugePort(talks) as port:
            wire, _ = server.accept()
            with wire:
                events = port.events()
                wire.sendall(b"".join(b"%+.4f mm\r\n" % (number / 1e5) for number in range(2_000)))
                ended = time.monotonic() + 0.5
                passed = list(itertools.takewhile(lambda _: time.monotonic() < ended, events))
                values = [event.value_mm for event in passed if event.value_mm is not None]
                assert AT_ONCE <= len(values) <= AT_ONCE + 2 + MOST_A_SECOND * (time.monotonic() - ended + 0.5)
                wire.sendall(b"garbage cut\r\n+0.1234 mm\r\n")
                assert until(events, "value").value_mm == D("0.1234")


def test_what_somebody_else_answers_is_never_shown(gauge: SimulatedGauge) -> None:
    """An address that is no gauge's, and one where nothing listens: a sentence, and nothing of what was sent."""
    with socket.create_server(("127.0.0.1", 0)) as server:
        with GaugePort(instrument(server.getsockname()[1], asks="", simulated=False)) as port:
            wire, _ = server.accept()
            with wire:
                wire.sendall(b"5.5.5-10.11.11-MariaDB\r\n")
                event = until(port.events(), "fault")
        assert event.fault == "garbled" and "MariaDB" not in event.words and "10.11" not in event.words
        taken = server.getsockname()[1]
    with pytest.raises(SignalError) as told, GaugePort(instrument(taken)):
        pass
    assert str(taken) not in str(told.value) and "nothing answers" in str(told.value)


def test_an_address_that_is_not_named_is_not_opened_whatever_set_it_down() -> None:
    allow("127.0.0.1:8421")
    with socket.create_server(("127.0.0.1", 0)) as server:
        server.settimeout(0.2)
        with pytest.raises(SignalError, match="LARK_GAUGE_HOSTS"), GaugePort(instrument(server.getsockname()[1])):
            pass
        with pytest.raises(TimeoutError):
            server.accept()
