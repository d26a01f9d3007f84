"""The grind page as the machine's companion: what is seen, stops, screens, the simulated grinder, wall, learning."""

import re
from collections.abc import Iterator

import pytest
from flask import Flask
from sqlalchemy.orm import Session

from tests.web.conftest import Browser
from zesty_lark.exchange.instruments.simulated_grinder import GrinderServer
from zesty_lark.store import shop
from zesty_lark.store.models import SensorRow

GRIND = "/jobs/TR-101/grind"


def seen_by(browser: Browser) -> str:
    browser.get(GRIND)
    found = re.search(r'data-seen="(\d+)"', browser.page)
    assert found is not None
    return found.group(1)


def send(browser: Browser, act: str, number: int = 1, **more: object) -> int:
    """Press on the grind page, having seen it."""
    seen = seen_by(browser)
    more = {"sure": "quick"} | more if act in ("pass", "spark_out") else more
    given = {"act": act, "entry_id": f"companion-{act.replace('_', '-')}-{number}", "seen": seen, "surface": "2"} | more
    return browser.post(GRIND, given).status_code


@pytest.fixture
def other(app: Flask) -> Browser:
    """A second screen of the same person."""
    return Browser(app.test_client()).sign_in("bryn")


@pytest.fixture
def grinder(demo: Session) -> Iterator[GrinderServer]:
    made = GrinderServer()
    made.listen()
    for name, server in (("Readout R1", made.readout), ("Power meter P1", made.meter)):
        row = shop.by_name(demo, SensorRow, name)
        assert row is not None
        row.port = f"socket://127.0.0.1:{server.port}"
    demo.flush()
    yield made
    made.unplug()


def test_what_is_heard_changes_what_comes_next(bryn: Browser) -> None:
    bryn.get(GRIND)
    assert "pass 6 of" in bryn.page and "Sounds dull" in bryn.page
    assert send(bryn, "observe", what="dull") == 303
    bryn.get(GRIND)
    assert "Dress the wheel" in bryn.page and "Sounds dull." in bryn.page
    assert send(bryn, "observe", 2, what="uneven") == 422 and "on which side" in bryn.page
    assert send(bryn, "observe", 3, what="smoke") == 422


def test_a_stop_freezes_says_the_first_safe_act_and_goes_on_only_with_a_reason(bryn: Browser) -> None:
    assert send(bryn, "halt", what="colour", power_w="812.4") == 303
    bryn.get(GRIND)
    assert "Wheel clear of the work. Coolant on. Table out." in bryn.page and "Colour on the face" in bryn.page
    assert "Pass done" not in bryn.page and 'data-key="shift+1"' not in bryn.page
    assert send(bryn, "pass", reading="6.0") == 422 and "It is stopped" in bryn.page
    assert send(bryn, "go_on") == 422 and "Why may it go on?" in bryn.page
    assert send(bryn, "go_on", 2, reason="Coolant was off.") == 303
    bryn.get(GRIND)
    assert "Dress the wheel" in bryn.page, "colour asks for a dress before the next feed"
    bryn.get("/jobs/TR-101/record")
    assert "Stopped: colour on the face, collar at 5.5 thou, 812 W." in bryn.page
    assert "Goes on: Coolant was off." in bryn.page


def test_a_power_that_is_none_is_refused(bryn: Browser) -> None:
    for number, power in enumerate(("NaN", "-5", "1e9", "much")):
        assert send(bryn, "pass", number, reading="6.0", power_w=power) == 422


def test_two_screens_of_one_person_do_not_work_one_run_unawares(bryn: Browser, other: Browser) -> None:
    assert send(bryn, "pass", reading="6.0") == 303
    other.get(GRIND)
    assert "worked on another screen" in other.page and "Take it over" in other.page and "Pass done" not in other.page
    assert 'data-key="shift+1"' in other.page, "anybody may stop it"
    assert send(other, "pass", 2, reading="6.3") == 409 and "another of your own screens" in other.page
    assert send(other, "take_over") == 303
    assert send(other, "pass", 3, reading="6.3") == 303
    assert send(bryn, "pass", 4, reading="7.2") == 409
    bryn.get("/jobs/TR-101/record")
    assert "Taken over on another screen." in bryn.page


def test_presses_that_waited_go_up_in_their_order_and_never_out_of_it(bryn: Browser, other: Browser) -> None:
    seen = seen_by(bryn)
    first = {"act": "pass", "entry_id": "waited-0001", "seen": seen, "surface": "2", "reading": "6.0"}
    second = first | {"entry_id": "waited-0002", "reading": "6.3", "after": "waited-0001", "seen": ""}
    assert bryn.post(GRIND, second).status_code == 409, "what it came after is not here yet"
    assert bryn.post(GRIND, first, headers={"X-Lark-Waited": "600000"}).status_code == 303
    assert bryn.post(GRIND, first).status_code == 303, "sent again it is logged once"
    assert bryn.post(GRIND, second, headers={"X-Lark-Waited": "540000"}).status_code == 303, bryn.page.split(
        'role="alert"'
    )[1][:200]
    assert bryn.post(GRIND, second | {"entry_id": "waited-0003", "reading": "7.2"}).status_code == 409
    bryn.get("/jobs/TR-101/record")
    assert bryn.page.count("Pass down to 6.0 thou.") == 1 and bryn.page.count("Pass down to 6.3 thou.") == 1


def test_what_comes_is_told_ahead_for_a_screen_that_nobody_answers(bryn: Browser) -> None:
    seen = seen_by(bryn)
    bryn.get("/jobs/TR-101/grind/ahead")
    assert f'data-seen="{seen}"' in bryn.page
    assert len(re.findall(r'data-ahead="\d+"', bryn.page)) > 5 and "pass 7 of" in bryn.page
    assert 'class="grind-ladder"' not in bryn.page, "only what a press changes"


def test_hands_go_in_only_when_the_wheel_was_seen_to_stop(bryn: Browser) -> None:
    assert send(bryn, "leave", reason="Another job.") == 303
    assert send(bryn, "place") == 422 and "seen it stop" in bryn.page
    assert send(bryn, "place", 2, stopped="1") == 303


def test_the_simulated_grinder_does_the_act_and_nothing_is_logged(bryn: Browser, grinder: GrinderServer) -> None:
    seen = seen_by(bryn)
    assert "Let the simulated grinder do it" in bryn.page
    assert bryn.post(f"{GRIND}/simulated").status_code == 422 and "Nothing is up on the chuck" in bryn.page
    assert seen_by(bryn) == seen
    assert send(bryn, "leave", reason="Up anew.") == 303
    assert bryn.post(f"{GRIND}/simulated").status_code == 303
    bryn.get(GRIND)
    assert "The simulated grinder has done it." in bryn.page
    assert grinder.grinder.up == 2 and grinder.grinder.lump is grinder.parts["TR-101"]
    assert send(bryn, "place", stopped="1") == 303
    bryn.get(GRIND)
    assert "Look at the set-up" in bryn.page and "to look at" in bryn.page
    bryn.look("TR-101")
    assert bryn.post(f"{GRIND}/simulated").status_code == 303
    bryn.get(GRIND)
    assert "touched off" in bryn.page


def test_a_grinder_that_is_not_there_is_said_and_a_real_machine_has_none(bryn: Browser, isa: Browser) -> None:
    assert bryn.post(f"{GRIND}/simulated").status_code == 422 and "lark grinder" in bryn.page
    isa.get("/jobs/TR-114/grind")
    assert "Let the simulated grinder" not in isa.page
    assert isa.post("/jobs/TR-114/grind/simulated").status_code == 422, "not the simulated grinder"


def test_readings_come_as_events_and_a_fault_in_words(bryn: Browser, grinder: GrinderServer, demo: Session) -> None:
    for name, shown in (("Readout R1", "thou"), ("Power meter P1", " W")):
        row = shop.by_name(demo, SensorRow, name)
        assert row is not None
        lines = bryn.client.get(f"/sensors/{row.id}/readings").response
        told = ""
        for line in lines:  # type: ignore[union-attr]
            told += line.decode() if isinstance(line, bytes) else line
            if '"shown"' in told:
                break
        assert shown in told, told
        lines.close()  # type: ignore[union-attr]
    grinder.unplug()
    told = bryn.client.get(f"/sensors/{row.id}/readings").get_data(as_text=True)  # type: ignore[union-attr]
    assert "unplugged" in told and "cannot be reached" in told


def test_the_wall_shows_the_job_that_runs_and_a_stop_large(bryn: Browser) -> None:
    key = re.search(r"/machines/(\d+)/wall", bryn.get("/shop").get_data(as_text=True))
    assert key is not None
    wall = f"/machines/{key.group(1)}/wall"
    bryn.get(wall)
    assert "TR-101" in bryn.page and "Face 2, pass 6 of 19" in bryn.page and ">6.0<small>thou" in bryn.page
    assert "min" in bryn.page and "<form" not in bryn.page.split('id="wall"')[1].split("</main>")[0], "read-only"
    newest = re.search(r'data-seen="(\d+)"', bryn.page)
    assert newest is not None and bryn.get(f"{wall}?seen={newest.group(1)}").status_code == 204
    assert send(bryn, "halt", what="squeal") == 303
    bryn.get(wall)
    assert "Stopped: squeal" in bryn.page and "Wheel clear of the work." in bryn.page
    assert bryn.get("/machines/999/wall").status_code == 404


def test_what_a_machine_has_taught_is_shown_with_its_runs(bryn: Browser) -> None:
    key = re.search(r"/machines/(\d+)/learned", bryn.get("/shop").get_data(as_text=True))
    assert key is not None
    bryn.get(f"/machines/{key.group(1)}/learned")
    assert "With W3 open white" in bryn.page and "Why sizes come up short" in bryn.page
    assert "touch off" in bryn.page and "how sure" in bryn.page


def test_what_runs_have_taught_is_thrown_away_by_a_lead_alone(isa: Browser) -> None:
    keys = set(re.findall(r"/machines/(\d+)/learned", isa.get("/shop").get_data(as_text=True)))
    pages = {key: isa.get(f"/machines/{key}/learned").get_data(as_text=True) for key in keys}
    asked = {key: re.findall(r'action="(/machines/\d+/learned/\d+/\w+)"', page) for key, page in pages.items()}
    key = next(key for key, found in asked.items() if found)
    away = asked[key][0]
    isa.be("bryn")
    assert "Throw away" not in isa.get(f"/machines/{key}/learned").get_data(as_text=True)
    assert isa.post(away, {}).status_code == 403
    isa.be("isa")
    isa.get(f"/machines/{key}/learned")
    assert isa.post(away, {}).status_code == 303
    isa.get(f"/machines/{key}/learned")
    assert away not in isa.page
    assert isa.post(away, {}).status_code == 303 and "No run has taught" in isa.get(f"/machines/{key}/learned").text
    assert isa.post(away.replace("magnet", "glue"), {}).status_code == 404


def test_one_readout_reads_one_machine(isa: Browser) -> None:
    isa.get("/shop/sensor/new")
    sent = {
        "name": "Readout R2", "machine_id": "1", "kind": "position", "port": "socket://127.0.0.1:9", "baud": "9600",
        "sends": "mm", "asks": "?", "rises": "y",
    }  # fmt: skip
    machine = re.search(r'name="machine_id".*?value="(\d+)"', isa.page)
    assert machine is not None
    sent["machine_id"] = machine.group(1)
    assert isa.post("/shop/sensor/new", sent).status_code == 422 and "reads that of this machine already" in isa.page
    assert isa.post("/shop/sensor/new", sent | {"kind": "power"}).status_code == 422
    assert "A readout sends a length" in isa.page
    assert isa.post("/shop/sensor/new", sent | {"port": "file:///etc/passwd"}).status_code == 422
