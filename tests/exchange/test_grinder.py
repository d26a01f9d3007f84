"""The simulated grinder over the wire, and what it is made of held against closed forms."""

import random
import socket
from collections.abc import Iterator
from decimal import Decimal

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zesty_lark.core.measure.sensors import Sensor
from zesty_lark.core.measure.signal import SignalError, read_sensor
from zesty_lark.core.process.springs import spark_out
from zesty_lark.core.simulated.block import Lump
from zesty_lark.core.simulated.machine import GrinderError, SimulatedGrinder
from zesty_lark.core.simulated.truth import Truth, seeded
from zesty_lark.core.simulated.wheel import SimulatedWheel
from zesty_lark.core.wheel.dressing import DRESSES, dress_plan
from zesty_lark.core.wheel.wear import wear
from zesty_lark.exchange.instruments.gauge_port import GaugePort
from zesty_lark.exchange.instruments.simulated_grinder import GrinderServer, GrinderSettings

D = Decimal
SIZES = {"length": 88.3, "width": 54.25, "thickness": 22.26}
EVEN = Truth(surface_um=0.0, chuck_lean_um=0.0, seats_um=0.0, gauge_um=0.0, g_ratio=1e9)


def grinder(truth: Truth = EVEN, seed: int = 1) -> SimulatedGrinder:
    lump = Lump.of(dict(SIZES), random.Random(seed), truth.surface_um, truth.bow_um)  # type: ignore[arg-type]
    return SimulatedGrinder(truth, lump, SimulatedWheel(180, 12.7, truth.g_ratio, truth.dulls_mm3_mm), seed=seed)


@given(eta=st.floats(0.2, 0.95), step=st.floats(0.005, 0.05), steps=st.integers(1, 6))
@settings(max_examples=40)
def test_its_springs_are_those_of_the_handed_down_law(eta: float, step: float, steps: int) -> None:
    made = grinder(Truth(**{**EVEN.__dict__, "eta": eta}))
    made.place(1)
    top = float(made.lump.heights_mm(1).max())
    made.turn_to(made.collar_mm + made.contact_mm - top)
    begin = made.collar_mm
    for number in range(1, steps + 1):
        made.turn_to(begin + number * step)
        made.run_pass(12.0, 200.0)
        made.lump.warm_c = 0.0
    law = spark_out(step_mm=step, steps=steps, cut_ratio=eta, spark_passes=0)
    took = top - float(made.lump.heights_mm(1).max())
    assert took == pytest.approx(sum(law.removed_mm), abs=2e-6)


@given(st.lists(st.floats(-0.5, 0.5), min_size=1, max_size=20), st.floats(0.001, 0.05))
def test_backlash_is_lost_once_a_reversal_and_never_more(turns: list[float], backlash: float) -> None:
    made = grinder(Truth(**{**EVEN.__dict__, "backlash_mm": backlash}))
    for by in turns:
        made.turn_to(made.collar_mm + by)
        assert (
            -1e-12 <= made.collar_mm - made.axis_mm <= backlash + 1e-12
            or -backlash - 1e-12 <= made.collar_mm - made.axis_mm <= 1e-12
        )
    before, collar = made.axis_mm, made.collar_mm
    made.turn_to(collar + 1.0)
    down = made.axis_mm - before
    made.turn_to(made.collar_mm + 0.25)
    assert 1.0 - backlash - 1e-9 <= down <= 1.0 + 1e-9
    assert made.axis_mm - before - down == pytest.approx(0.25), "without a reversal nothing is lost"


def test_its_wheel_wears_across_as_the_wear_model_says() -> None:
    wheel = SimulatedWheel(180.0, 12.7, 8.0, 500.0)
    wheel.cut_in_slices(1.27)
    for _ in range(3):
        for _ in range(40):
            wheel.stroke_over(0.01, 0.15, 88.0, share=1.0)
    told = wear(
        wheel_diameter_mm=180, wheel_width_mm=12.7, crossfeed_mm=1.27, work_length_mm=88, work_width_mm=50.8,
        depth_mm=0.01, passes=3, g_ratio=8.0,
    )  # fmt: skip
    assert wheel.worn_width_mm(0.01) == pytest.approx(told.worn_width_mm, abs=1.28)
    before = wheel.diameter_mm
    wheel.dress(0.05, "fine")
    assert wheel.diameter_mm < before and wheel.dullness == pytest.approx(1.1)


@given(seed=st.integers(0, 500))
@settings(max_examples=30)
def test_a_part_keeps_its_sizes_through_flips_and_a_bow_comes_back(seed: int) -> None:
    truth = seeded(seed, bow_um=40.0)
    made = grinder(truth, seed)
    before = made.lump.thickness_mm(1)
    for face in (1, 2, 1):
        made.place(face)
    made.lift()
    assert np.allclose(made.lump.thickness_mm(1), before, atol=1e-9)
    assert all(float(one_map.max()) == pytest.approx(0.0, abs=1e-9) for one_map in made.lump.maps.values())


def test_a_dull_wheel_takes_more_power_and_heats_the_part() -> None:
    def run(loads: float) -> tuple[float, float]:
        made = grinder()
        made.faults.loads = loads
        made.place(1)
        made.touch_off()
        for _ in range(8):
            made.turn_to(made.collar_mm + 0.01)
            seen = made.run_pass(1.0, 300.0)
        return seen.power_w, seen.contact_c

    (usual, cool), (dull, hot) = run(1.0), run(10.0)
    assert dull > 1.3 * usual and hot > cool + 20


def test_what_cannot_be_done_is_said() -> None:
    made = grinder()
    with pytest.raises(GrinderError, match="Nothing is up"):
        made.run_pass(1.0, 200.0)
    with pytest.raises(GrinderError, match="no face 7"):
        made.place(7)


@pytest.fixture
def server() -> Iterator[GrinderServer]:
    made = GrinderServer(GrinderSettings(seed=4))
    made.listen()
    yield made
    made.unplug()


def ask(port: int, *lines: str) -> list[str]:
    with socket.create_connection(("127.0.0.1", port), 10) as wire, wire.makefile("rwb") as talk:
        answers = []
        for line in lines:
            talk.write(f"{line}\n".encode())
            talk.flush()
            answers.append(talk.readline(400).decode().strip())
    return answers


@pytest.mark.parametrize("kind", ["rough", "general", "fine"])
def test_a_dress_as_its_screen_tells_it_is_as_sharp_as_the_plan_counts_on(server: GrinderServer, kind: str) -> None:
    plan = dress_plan(
        kind=kind,  # type: ignore[arg-type]
        diamond_width_mm=0.8,
        wheel_rpm=server.grinder.rpm,
        wheel_width_mm=12.7,
        graduation_mm=D("0.00254"),
    )
    before = server.grinder.wheel.diameter_mm
    said = ask(server.readout.port, f"dress {plan.total_mm} other {plan.traverse_mm_s} 0.8", "dress 0.01 x 0 0.8")
    assert said[0] == "ok" and said[1].startswith("no ")
    assert server.grinder.wheel.dullness == pytest.approx(DRESSES[kind].sharpness)  # type: ignore[index]
    assert server.grinder.wheel.diameter_mm == pytest.approx(before - 2 * float(plan.total_mm))


def test_a_run_over_the_wire_and_words_for_what_cannot_be(server: GrinderServer) -> None:
    said = ask(
        server.readout.port, "part TR-1 88.3 54.2 22.26", "place 1", "touch", "ring 0", "?", "collar 0.0254",
        "pass 3 300", "dress 0.05 fine", "wait 5", "clear", "lift",
    )  # fmt: skip
    assert all(each.startswith("ok") for each in said if not each.startswith("Z")) and said[4] == "Z +0.0000 mm"
    assert "clean=" in said[6] and "power=" in said[6]
    wrong = ask(
        server.readout.port, "fly", "place 9", "place", "collar 1e99", "collar nan", "pass x y", "part A 9999 1 1"
    )
    assert all(each.startswith("no ") for each in wrong), wrong
    assert ask(server.meter.port, "?")[0].endswith(" W")
    assert float(ask(server.gauge.port, "?")[0].split()[0]) == pytest.approx(22.2, abs=0.1)


def test_its_readout_and_its_meter_come_through_the_instruments_own_seam(server: GrinderServer) -> None:
    for kind, sends, lines in (("position", "mm", server.readout), ("power", "W", server.meter)):
        sensor = Sensor("S", kind, f"socket://127.0.0.1:{lines.port}", sends, asks="?", simulated=True)  # type: ignore[arg-type]
        with GaugePort(sensor) as port:
            event = next(each for each in port.events() if each.value_mm is not None or each.fault)
        assert event.fault is None and event.value_mm is not None and event.value_mm >= 0


@pytest.mark.parametrize(
    ("line", "kind", "sends", "value"),
    [
        (b"Z +0.1234 mm", "position", "mm", "0.1234"),
        (b"0.01", "position", "in", "0.254"),
        (b"P 1.25 kW", "power", "kW", "1250"),
        (b"812.5", "power", "W", "812.5"),
    ],
)
def test_a_sensor_is_read_in_its_unit(line: bytes, kind: str, sends: str, value: str) -> None:
    assert read_sensor(line, Sensor("S", kind, "socket://h:1", sends)) == D(value)  # type: ignore[arg-type]
    if kind == "position":
        down = Sensor("S", kind, "socket://h:1", sends, rises=False)  # type: ignore[arg-type]
        assert read_sensor(line, down) == -D(value)


@pytest.mark.parametrize(
    ("line", "kind", "sends", "fault"),
    [
        (b"#.#", "power", "W", "garbled"),
        (b"5 mm", "power", "W", "wrong unit"),
        (b"5 W", "position", "mm", "wrong unit"),
        (b"-5", "power", "W", "out of range"),
        (b"1" * 90, "power", "W", "garbled"),
    ],
)
def test_what_is_no_reading_is_told(line: bytes, kind: str, sends: str, fault: str) -> None:
    with pytest.raises(SignalError) as told:
        read_sensor(line, Sensor("S", kind, "socket://h:1", sends))  # type: ignore[arg-type]
    assert told.value.fault == fault
