"""A map taken with the simulated gauge, end to end: by its key and its button, with drift, noise and a pulled plug."""

from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.browser.conftest import Person, until
from zesty_lark.core.measure.maps.analysis import map_analyse
from zesty_lark.core.measure.maps.layout import grid
from zesty_lark.core.simulated.hidden import HiddenSurface
from zesty_lark.exchange.instruments.simulated import SimulatedGauge, Trim
from zesty_lark.exchange.maps.files import read_map

SURFACE = HiddenSurface(88, 54, hollow_um=6.0, along_um=5.0, across_um=-3.0, wave_um=0.4)
PLACES = grid(length_mm=88, width_mm=54, columns=5, rows=5).places


class Bench:
    """The simulated gauge on the bench, and its port."""

    def __init__(self) -> None:
        self.gauge = SimulatedGauge(SURFACE, Trim(resolution_um=0.1, noise_um=0.05, drift_um=0.002), seed=9)
        self.port = self.gauge.listen()


@pytest.fixture
def bench() -> Iterator[Bench]:
    made = Bench()
    yield made
    made.gauge.unplug()


def at_place(person: Person, number: int) -> None:
    """Wait until that place is asked for."""
    person.there(".taking-place", f"Place {number} of")


def shows(person: Person) -> float:
    """What the page shows of the gauge [µm]."""
    words = person.page.locator(".live-value").inner_text()
    return float(words.split()[0]) * 1000 if "mm" in words else float("inf")


def connect(person: Person, port: int) -> None:
    """Set the gauge down with its port, as one does in the shop."""
    person.page.goto("/shop")
    person.page.get_by_role("link", name="Simulated gauge").press("Enter")
    person.fill("port", f"socket://127.0.0.1:{port}")
    person.press("Escape", "s")
    person.sees("Simulated gauge is kept")


def lay_out(person: Person) -> None:
    person.page.goto("/jobs/TR-101/maps")
    person.fill("surface", "2")
    person.press("Escape", "l")
    at_place(person, 1)
    person.there(".live-value", "mm")


def test_a_map_of_five_by_five_is_taken_by_key_and_by_button_through_a_pulled_plug(
    machinist: Person, bench: Bench, tmp_path: Path
) -> None:
    machinist.be("isa")  # a lead sets where readings come from
    connect(machinist, bench.port)
    machinist.be("bryn")
    lay_out(machinist)
    page = machinist.page
    for number in range(1, 11):
        here = PLACES[number - 1]
        until(lambda here=here: abs(shows(machinist) - SURFACE.height_um(here.x_mm, here.y_mm)) < 0.5)
        machinist.press("k")
        at_place(machinist, number + 1)

    bench.gauge.unplug()
    machinist.sees("was unplugged")
    machinist.press("k")
    machinist.sees("There is nothing to take")
    at_place(machinist, 11)
    bench.gauge.listen(port=bench.port)
    machinist.there(".live-value", "mm")

    bench.gauge.answer("garble")
    bench.gauge.answer("unit in")
    machinist.sees("Switch it over; nothing was taken.")
    bench.gauge.answer("unit mm")
    machinist.there(".live-value", "mm")

    for number in range(11, 26):
        until(lambda number=number: bench.gauge.at == (PLACES[number - 1].x_mm, PLACES[number - 1].y_mm))
        bench.gauge.press()
        if number < 25:
            at_place(machinist, number + 1)
    machinist.sees("Closing: place 1 again")
    until(lambda: bench.gauge.at == (PLACES[0].x_mm, PLACES[0].y_mm))
    bench.gauge.press()
    machinist.sees("Flatness, minimum zone")
    page.locator(".plate-flag").first.wait_for()
    until(lambda: not bench.gauge.listened_to)
    machinist.sees("A stock map: it shares the machine's way errors")

    file = page.context.request.get(page.get_by_role("link", name="JSON").get_attribute("href") or "")
    taken = read_map("map.json", file.body()).whole
    assert [(x, y) for x, y, _ in taken.points] == [(place.x_mm, place.y_mm) for place in PLACES]
    for (x, y, z), order in zip(taken.points, range(25), strict=True):
        assert abs(z - SURFACE.height_um(x, y)) < 0.6 + 0.02 * order, "each reading is of its own place"
    true = map_analyse(points=[[x, y, SURFACE.height_um(x, y)] for x, y, _ in taken.points], frame="machine")
    assert taken.analysis.minzone_flatness_um == pytest.approx(true.minzone_flatness_um, abs=0.6)
    assert taken.closing_um is not None and taken.drift is not None and taken.drift.accepted
    page.locator("#depth").evaluate(
        "each => { each.value = each.max / 2; each.dispatchEvent(new Event('change', {bubbles: true})); }"
    )
    page.locator(".feather").wait_for()


def test_a_map_is_typed_by_keyboard_alone_and_a_slip_is_asked_about(machinist: Person) -> None:
    machinist.be("bryn")
    page = machinist.page
    page.goto("/jobs/TR-101/maps")
    machinist.fill("surface", "2")
    machinist.tab_to("instrument")
    machinist.type("Lever")
    machinist.fill("columns", "3")
    machinist.fill("rows", "3")
    machinist.press("Enter")
    at_place(machinist, 1)
    for number, value in enumerate(("0", "1.2", "2", "1.4", "0.3", "-0.5", "0", "0.9", "1.8"), start=1):
        at_place(machinist, number)
        machinist.page.wait_for_function("() => document.activeElement.name === 'value'")
        if number == 4:
            machinist.type("140")
            machinist.press("Enter")
            machinist.sees("Nothing is kept yet")
            machinist.fill("value", "")
        machinist.type(value)
        machinist.press("Enter")
    machinist.sees("Closing: place 1 again")
    machinist.page.wait_for_function("() => document.activeElement.name === 'value'")
    machinist.type("0.2")
    machinist.press("Enter")
    machinist.sees("Cleaned, pass by pass")
    assert page.locator(".map-drawing .plate-point").count() >= 7
