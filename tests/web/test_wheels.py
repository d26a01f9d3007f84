"""The station of wheels: rack, life, mounting, balance, dress, shape, face, advice; and chatter."""

import cmath
import math
import re
from datetime import timedelta
from decimal import Decimal
from unittest.mock import patch

import pytest
from flask import Flask
from sqlalchemy.orm import Session

from tests.web.conftest import ENTRY, Browser
from zesty_lark.core.calc import answer
from zesty_lark.core.things.rack import rules
from zesty_lark.core.wheel.balance import ring
from zesty_lark.store import racks, shop
from zesty_lark.store.models import FlangeRow, MachineRow, WheelRow

D = Decimal


def wheel(demo: Session, name: str) -> WheelRow:
    found = shop.by_name(demo, WheelRow, name)
    assert found is not None
    return found


def entry(browser: Browser, form: str = "") -> str:
    """The id that a form of the page would send."""
    found = ENTRY.search(browser.page, browser.page.index(form) if form else 0)
    assert found
    return found.group(1)


class Mounting:
    """A new wheel on its way onto the first machine."""

    def __init__(self, browser: Browser, demo: Session) -> None:
        self.browser, self.demo = browser, demo
        row = wheel(demo, "W6 slots")
        machine, flange = shop.by_name(demo, MachineRow, "No. 1, inch dial"), shop.by_name(demo, FlangeRow, "Flange 1")
        assert machine is not None and flange is not None
        row.flange_id = flange.id
        demo.commit()
        on = wheel(demo, str(machine.spindle))
        browser.get(f"/wheels/{on.id}")
        assert browser.post(f"/wheels/{on.id}/take-down", {"entry_id": entry(browser)}).status_code == 303
        self.key, self.machine, self.flange = row.id, machine, flange

    def at(self, page: str) -> str:
        return f"/wheels/{self.key}/{page}?machine={self.machine.id}"

    def step(self, step: str, **more: object) -> int:
        self.browser.get(self.at("mount"))
        form = {"entry_id": entry(self.browser), "step": step, "good": "yes"}
        return self.browser.post(self.at("mount"), form | more).status_code

    def to(self, last: str) -> None:
        for step in ("speed", "look", "ring", "bore", "blotters", "flanges", "guard", "run_up", "true"):
            if step == "run_up":
                assert self.step(step) == 422 and "minute at full speed is not over" in self.browser.page
            with patch.object(rules, "RUN_UP", timedelta(0)):
                assert self.step(step) == 303, step
            if step == last:
                return


def test_the_rack_draws_every_wheel_and_says_what_is_left(bryn: Browser) -> None:
    assert bryn.get("/wheels").status_code == 200
    assert bryn.page.count('class="rack-wheel"') == 5 and "nearly worn" in bryn.page
    drawn = re.findall(r'viewBox="0 0 ([\d.]+) ([\d.]+)"', bryn.page)
    assert len({high for _, high in drawn[-5:]}) == 1, "all to one scale"


def test_a_wheel_is_mounted_step_by_step_balanced_by_trial_runs_and_dressed(bryn: Browser, demo: Session) -> None:
    mounting = Mounting(bryn, demo)
    assert mounting.step("guard") == 422 and "First: speed" in bryn.page
    mounting.to("true")
    assert mounting.step("balance") == 422
    heavy, size = 77.0, 260.0
    for number in range(5):
        bryn.get(mounting.at("balance"))
        trial = {0: None, 1: 0.0, 2: 120.0, 3: 240.0, 4: None}[number]
        amplitude = 0.01 * _amplitude(size, heavy, trial, number == 4, mounting.flange)
        form = {"entry_id": entry(bryn), "method": "runs", "amplitude": f"{amplitude:.4f}", "trial_g": "8"}
        assert bryn.post(mounting.at("balance"), form).status_code == 303
    row = wheel(demo, "W6 slots")
    stands = racks.state_of(demo, row)
    best = _best(size, heavy, mounting.flange)
    assert stands.balanced and stands.residual_gmm == pytest.approx(best, abs=0.1)
    before = row.diameter_mm
    bryn.get(mounting.at("dress"))
    form = {"entry_id": entry(bryn), "kind": "general", "amount_mm": "0.002 in", "passes": "4"}
    assert bryn.post(mounting.at("dress"), form).status_code == 303
    demo.refresh(row)
    assert row.diameter_mm == before - D("0.1016") and racks.state_of(demo, row).ready
    bryn.get(f"/wheels/{row.id}")
    assert "Dressed, general" in bryn.page and "Bryn Tallow" in bryn.page


def _best(size: float, heavy: float, flange: FlangeRow) -> float:
    masses = flange.to_core().masses_g
    return ring(
        unbalance_gmm=size, heavy_deg=heavy, holes=flange.holes or 1, radius_mm=float(flange.radius_mm), masses_g=masses
    ).residual_gmm


def _amplitude(size: float, heavy: float, trial: float | None, placed: bool, flange: FlangeRow) -> float:
    """What the meter would show, a hundred divisions for a gram-metre."""
    if placed:
        return _best(size, heavy, flange)
    on = cmath.rect(240, math.radians(trial)) if trial is not None else 0
    return abs(cmath.rect(size, math.radians(heavy)) + on)


def test_a_wheel_over_its_speed_is_not_mounted_by_anybody(app: Flask, demo: Session) -> None:
    isa = Browser(app.test_client()).sign_in("isa")
    mounting = Mounting(isa, demo)
    row = wheel(demo, "W6 slots")
    row.max_rpm = 2000
    demo.commit()
    isa.get(mounting.at("mount"))
    assert "nobody can release it" in isa.page and 'name="step"' not in isa.page
    form = {"entry_id": "over-speed-1", "step": "speed", "good": "yes"}
    assert isa.post(mounting.at("mount"), form).status_code == 422
    assert not racks.state_of(demo, row).known
    asked = {
        "material": "tool steel, hardened",
        "wheel_rpm": 3000,
        "wheels": [{"name": "W6", "marking": "A 60 K 8 V", "diameter_mm": 178, "max_rpm": 2000}],
    }
    told = isa.client.post("/api/calc/wheel.rank", json=asked, headers={"X-CSRFToken": isa.token}).get_json()
    assert "over the marked 2000 rpm" in told["wheels"][0]["refused"][0] and not told["wheels"][0]["suits"]


def test_a_dull_ring_puts_it_out_of_use_and_it_shows_everywhere(bryn: Browser, demo: Session) -> None:
    mounting = Mounting(bryn, demo)
    mounting.to("look")
    assert mounting.step("ring", good="no", note="A dull sound.") == 303
    for page in ("/wheels", f"/wheels/{mounting.key}", "/shop"):
        bryn.get(page)
        assert "out of use" in bryn.page.lower()
    next_step = {"entry_id": "after-all-01", "step": "bore", "good": "yes"}
    assert bryn.post(mounting.at("mount"), next_step).status_code == 422 and "out of use" in bryn.page
    assert wheel(demo, "W6 slots").scrapped


def test_what_is_at_work_is_dressed_in_its_job(bryn: Browser, demo: Session) -> None:
    row = wheel(demo, "W3 open white")
    bryn.get(f"/wheels/{row.id}/dress")
    assert "TR-101, so that the collar moves" in bryn.page and 'name="amount_mm"' not in bryn.page
    form = {"entry_id": "not-here-01", "kind": "fine", "amount_mm": "0.01", "passes": "1"}
    answered = bryn.post(f"/wheels/{row.id}/dress", form)
    assert answered.status_code == 303 and answered.headers["Location"].endswith("/jobs/TR-101/grind")


def test_the_dress_screen_says_what_the_calculations_say(bryn: Browser, demo: Session) -> None:
    row = wheel(demo, "W3 open white")
    bryn.get(f"/wheels/{row.id}/dress?kind=fine&diamond=1")
    asked = {
        "kind": "fine",
        "diamond_width_mm": 1.0,
        "wheel_rpm": 3000,
        "wheel_width_mm": 12.7,
        "graduation_mm": "0.00254",
    }
    told = answer("dress.plan", asked)
    assert f"{told['seconds']:.1f} s across" in bryn.page and f"{told['traverse_mm_s']:.1f} mm/s" in bryn.page
    assert "9 mm left of the centre line" in bryn.page and re.search(r'name="diamond"[^>]*value="1"', bryn.page)
    assert bryn.get(f"/wheels/{row.id}/dress?diamond=nonsense").status_code == 200


def test_shapes_are_worked_out_logged_and_refused_where_they_cannot_be(bryn: Browser, demo: Session) -> None:
    mounting = Mounting(bryn, demo)
    mounting.to("true")
    bryn.get(mounting.at("shape") + "&shape=angle&angle=17°30'")
    assert "17°30&#39;00" in bryn.page and "72°30&#39;00" in bryn.page
    bryn.get(mounting.at("shape") + "&shape=relief&slot_depth_mm=9&undercut_mm=0.1&land_mm=1")
    assert "left curved" in bryn.page
    form = {"entry_id": "shape-00001", "shape": "relief", "slot_depth_mm": "9", "undercut_mm": "0.6", "land_mm": "1"}
    assert bryn.post(mounting.at("shape"), form | {"undercut_mm": "0.1"}).status_code == 422
    assert bryn.post(mounting.at("shape"), form | {"amount_mm": "0.2"}).status_code == 303
    assert racks.state_of(demo, wheel(demo, "W6 slots")).shape is not None
    wheel(demo, "W6 slots").side_work = False
    demo.commit()
    bryn.get(mounting.at("shape") + "&shape=relief&slot_depth_mm=9&undercut_mm=0.6&land_mm=1")
    assert "does not allow work on this wheel" in bryn.page
    assert bryn.post(mounting.at("shape"), form | {"entry_id": "shape-00002"}).status_code == 422
    assert bryn.get(mounting.at("shape") + "&shape=corner&radius_mm=99").status_code == 422
    assert bryn.get(mounting.at("shape") + "&shape=angle&angle=ninety").status_code == 422
    bryn.get(mounting.at("shape"))
    printed = {"entry_id": "print-00001", "readings": "0.27 0,29"}
    assert bryn.post(mounting.at("print"), printed).status_code == 422
    assert bryn.post(mounting.at("print"), printed | {"readings": "0.27 0.29"}).status_code == 303
    bryn.get(mounting.at("shape"))
    assert "0.280 mm" in bryn.page


def test_the_face_of_a_wheel_at_work_is_drawn_and_costed(bryn: Browser, demo: Session) -> None:
    bryn.get(f"/wheels/{wheel(demo, 'W3 open white').id}/face")
    assert 'class="worn-drawing"' in bryn.page and "strokes like the next" in bryn.page
    bryn.get(f"/wheels/{wheel(demo, 'W6 slots').id}/face")
    assert "Nothing is known of its face" in bryn.page


def test_advice_names_the_rack_s_own_wheels_and_declines_what_is_not_ground_here(bryn: Browser) -> None:
    bryn.get("/wheels/advice")
    assert "A 46 H-I 8 V" in bryn.page and "W3 open white" in bryn.page
    bryn.get("/wheels/advice?work=slot&material=tool+steel%2C+hardened")
    assert bryn.page.index("W6 slots") < bryn.page.index("W3 open white") and "side of W3" in bryn.page
    bryn.get("/wheels/advice?material=magnesium")
    assert "On this rack" not in bryn.page
    assert bryn.get("/wheels/advice?hardness_hrc=900").status_code == 422


def test_ripples_are_held_against_what_hums_on_the_machine(bryn: Browser) -> None:
    bryn.get("/machines/1/chatter?pitch_mm=6.2&table_mm_s=150")
    assert "24.2 Hz" in bryn.page and "pump" in bryn.page
    assert bryn.get("/machines/1/chatter?pitch_mm=x&table_mm_s=150").status_code == 422


def test_notes_undo_and_taking_down(bryn: Browser, demo: Session) -> None:
    key = wheel(demo, "W5 finishing").id
    bryn.get(f"/wheels/{key}")
    assert bryn.post(f"/wheels/{key}/note", {"entry_id": "note-000001", "note": ""}).status_code == 422
    assert bryn.post(f"/wheels/{key}/note", {"entry_id": "note-000001", "note": "Rings well."}).status_code == 303
    assert bryn.get(f"/wheels/{key}").status_code == 200 and "Rings well." in bryn.page
    assert racks.entries_of(demo, wheel(demo, "W5 finishing"))[-1].machine is None, "it is on the rack"
    undo = {"entry_id": "undo-000001", "supersedes": "note-000001"}
    assert bryn.post(f"/wheels/{key}/undo", undo).status_code == 303
    bryn.get(f"/wheels/{key}")
    assert "Rings well." not in bryn.page
    assert bryn.post(f"/wheels/{key}/take-down", {"entry_id": "down-000001"}).status_code == 422
    assert bryn.get("/wheels/999").status_code == 404
