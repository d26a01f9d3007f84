"""The part's plan through the pages: versions, two people at once, release, and what moves when the shop changes."""

import io
import re
from datetime import UTC, datetime

import pytest
from flask import Flask
from sqlalchemy.orm import Session

from tests.web.conftest import Browser
from zesty_lark.store import maps, part_plans, shop
from zesty_lark.store.jobs import by_number
from zesty_lark.store.models import ChuckRow, WheelRow

USUAL = {"squareness": "angle_plate", "was_squareness": "angle_plate"}


def based_on(browser: Browser, job: str) -> str:
    browser.get(f"/jobs/{job}/faces")
    found = re.search(r'name="based_on"[^>]*value="(\d+)"', browser.page)
    assert found
    return found.group(1)


def order(page: str) -> list[str]:
    return re.findall(r'name="step" value="([^"]+)"', page)


def test_the_route_is_six_faces_in_order_with_their_plans_and_chains(bryn: Browser) -> None:
    bryn.get("/jobs/TR-120/faces")
    assert order(bryn.page) == ["1", "2", "3+4", "5", "6"]
    for relation in ("2 ∥ 1", "3 ⊥ 1", "4 ⊥ 1", "4 ⊥ 3", "5 ∥ 3", "6 ∥ 4"):
        assert relation in bryn.page
    assert "Chuck B’s map" in bryn.page and bryn.page.count(" passes") >= 5
    bryn.post("/jobs/TR-120/route/preview", USUAL | {"squareness": "square_block"})
    assert order(bryn.page) == ["1", "2", "3", "4", "5", "6"] and "<html" not in bryn.page


def test_a_set_up_is_moved_skipped_and_given_another_fixture(bryn: Browser) -> None:
    steps = ["1", "2", "3+4", "5", "6"]
    bryn.get("/jobs/TR-120/faces")
    bryn.post("/jobs/TR-120/route/preview", USUAL | {"step": steps, "move": "up:2"})
    assert (
        order(bryn.page) == ["2", "1", "3+4", "5", "6"] and "is a reference and face 2 was made parallel" in bryn.page
    )
    bryn.post("/jobs/TR-120/route/preview", USUAL | {"step": steps, "skip-5": "yes", "fixture-3+4": "Square block S2"})
    assert "not made: 5 parallel to 3" in bryn.page and "selected>Square block S2" in bryn.page
    bryn.get("/jobs/TR-120/faces")
    assert bryn.post("/jobs/TR-120/route/release", USUAL | {"step": ["2", "1", "3+4", "5", "6"]}).status_code == 422
    assert "Not released." in bryn.page


def test_a_face_is_not_released_from_a_route_that_would_spoil_a_reference(bryn: Browser) -> None:
    bad = USUAL | {"based_on": based_on(bryn, "TR-120"), "step": ["2", "1", "3+4", "5", "6"]}
    assert bryn.post("/jobs/TR-120/route", bad).status_code == 303, "it may be kept"
    bryn.get("/jobs/TR-120/plan")
    entry = re.search(r'name="entry_id"[^>]*value="([^"]+)"', bryn.page)
    assert entry
    sent = {"based_on": "1", "face": "1", "seen": "0", "entry_id": entry.group(1), "method": "light"}
    assert bryn.post("/jobs/TR-120/plan", sent).status_code == 422
    assert "Face 1 is a reference and face 2 was made parallel" in bryn.page
    bryn.get("/jobs/TR-120/grind")
    assert "No plan yet" in bryn.page


def test_two_people_who_edit_at_once_lose_nothing(app: Flask, bryn: Browser, demo: Session) -> None:
    isa = Browser(app.test_client()).sign_in("isa")
    both = based_on(bryn, "TR-120")
    assert both == based_on(isa, "TR-120") == "0"
    assert isa.post("/jobs/TR-120/route", USUAL | {"squareness": "shim", "based_on": both}).status_code == 303
    mine = USUAL | {"based_on": both, "width_share": "50"}
    assert bryn.post("/jobs/TR-120/route", mine).status_code == 409
    assert "Isa Quillon saved version 1 while you were working." in bryn.page and 'value="50"' in bryn.page
    assert "not checked" in bryn.page or "10 ⊥" in bryn.page or "4 ⊥ 3" in bryn.page, "what differs is shown"
    assert bryn.post("/jobs/TR-120/route", mine | {"over": "yes"}).status_code == 303
    job = by_number(demo, "TR-120")
    assert job is not None
    rows = part_plans.versions(demo, job)
    assert [(row.number, row.made_by.sign_in_name, row.based_on) for row in rows] == [(2, "bryn", 0), (1, "isa", 0)]
    assert [part_plans.choices_of(row).squareness for row in rows] == ["angle_plate", "shim"]
    bryn.get("/jobs/TR-120/plan/versions/2?against=1")
    assert "What changed from version 1" in bryn.page and "held by" in bryn.page


def test_keeping_the_same_again_makes_no_new_version(bryn: Browser) -> None:
    for expected in ("1", "1"):
        assert bryn.post("/jobs/TR-120/route", USUAL | {"based_on": based_on(bryn, "TR-120")}).status_code == 303
        assert based_on(bryn, "TR-120") == expected


def test_releasing_the_plan_logs_the_face_that_is_next(bryn: Browser) -> None:
    bryn.get("/jobs/TR-120/faces")
    assert bryn.post("/jobs/TR-120/route/release", USUAL | {"based_on": "0"}).status_code == 303
    bryn.get("/jobs/TR-120/faces")
    assert "Versions (1, 1 released)" in bryn.page and "is released to No. 2, metric dial. Face 1 is next" in bryn.page
    bryn.get("/jobs/TR-120/record")
    assert "Planned face 1, quickest" in bryn.page


def test_an_apprentice_keeps_a_plan_and_a_lead_releases_it(app: Flask, isa: Browser) -> None:
    nim = Browser(app.test_client()).sign_in("nim")
    assert nim.post("/jobs/TR-133/route", USUAL | {"based_on": based_on(nim, "TR-133")}).status_code == 303
    nim.get("/jobs/TR-133/plan?again=1")
    assert "A lead releases an apprentice’s plan" in nim.page and "Release to" not in nim.page
    assert nim.post("/jobs/TR-133/route/release", USUAL | {"based_on": "1"}).status_code == 403
    assert nim.post("/jobs/TR-133/plan", {"based_on": "1", "method": "light"}).status_code == 403
    assert isa.post("/jobs/TR-133/route/release", USUAL | {"based_on": based_on(isa, "TR-133")}).status_code == 303


@pytest.mark.parametrize("what", ["map", "wheel"])
def test_what_moves_when_the_shop_changes_is_said(bryn: Browser, demo: Session, what: str) -> None:
    bryn.post("/jobs/TR-120/route", USUAL | {"based_on": based_on(bryn, "TR-120")})
    bryn.get("/jobs/TR-120/faces")
    assert "has changed" not in bryn.page
    if what == "map":
        chuck = shop.by_name(demo, ChuckRow, "Chuck B")
        assert chuck is not None
        maps.add(demo, chuck, [[0, 0, 0], [600, 0, 14.0], [0, 200, 3.0], [600, 200, 9.0]], datetime.now(UTC))
    else:
        wheel = shop.by_name(demo, WheelRow, "W5 finishing")
        assert wheel is not None
        wheel.diameter_mm -= 20
    demo.commit()
    bryn.get("/jobs/TR-120/faces")
    assert "Since version 1 was kept, what it stands on has changed" in bryn.page
    assert ("map&#39;s range" in bryn.page and "5 ∥ 3" in bryn.page) if what == "map" else "diameter" in bryn.page
    assert based_on(bryn, "TR-120") == "1"
    assert bryn.post("/jobs/TR-120/route", USUAL | {"based_on": "1"}).status_code == 303
    bryn.get("/jobs/TR-120/faces")
    assert based_on(bryn, "TR-120") == "2" and "has changed" not in bryn.page, "kept again as it comes out now"


def test_an_older_version_can_be_gone_on_from(bryn: Browser) -> None:
    bryn.get("/jobs/TR-101/faces?version=2")
    assert 'selected value="square_block"' in bryn.page and 'name="based_on" type="hidden" value="2"' in bryn.page
    assert bryn.get("/jobs/TR-101/plan/versions/9").status_code == 404
    bryn.get("/jobs/TR-101/plan/versions/3")
    assert "What changed from version 2" in bryn.page and "released by Bryn Tallow" in bryn.page


def test_a_share_for_the_first_pair_is_kept_with_the_part(bryn: Browser) -> None:
    sent = USUAL | {"based_on": based_on(bryn, "TR-120"), "thickness_skin": "0.008", "thickness_share": "60"}
    assert bryn.post("/jobs/TR-120/route", sent).status_code == 303
    bryn.get("/jobs/TR-120/take-in")
    assert 'value="0.008"' in bryn.page and 'value="60"' in bryn.page
    assert bryn.post("/jobs/TR-120/route", USUAL | {"thickness_share": "140"}).status_code == 422
    assert "from 0 to 100" in bryn.page


def test_a_chuck_is_mapped_and_a_fixture_checked_in_the_shop(bryn: Browser) -> None:
    bryn.get("/shop")
    path = re.search(r'/shop/chuck/(\d+)">Chuck A', bryn.page)
    assert path and "Angle plate P1" in bryn.page
    bryn.get(f"/shop/chuck/{path.group(1)}")
    machine = re.search(r'<option selected value="(\d+)"', bryn.page)
    assert machine
    chuck = {
        "name": "Chuck A",
        "machine_id": machine.group(1),
        "length_mm": "450",
        "width_mm": "150",
        "pull_n_cm2": "80",
    }
    maps_of, sent = f"/shop/chucks/{path.group(1)}/maps", {"frame": "machine"}
    for wrong, says in (
        ("0 0 1\n1 2", "Line 2 is not three numbers"),
        ("0 0 a", "Line 1"),
        ("0 0 1\n5 5 1\n9 9 2", "line"),
        ("0 0 1\n1 0 2", "three"),
    ):
        assert bryn.post(f"{maps_of}/bring-in", sent | {"pasted": wrong}).status_code == 422
        assert says in bryn.page and wrong.splitlines()[0] in bryn.page
    mapped = sent | {"pasted": "0, 0, 0\n450; 0; 9\n0\t150\t1\n450 150 12"}
    assert bryn.post(f"{maps_of}/bring-in", mapped).status_code == 422 and "Read the first point again" in bryn.page
    assert bryn.post(f"{maps_of}/bring-in", mapped | {"closing_um": "1.4"}).status_code == 303
    bryn.get(maps_of)
    assert "the map is refused" in bryn.page and "+1.4 µm" in bryn.page
    bryn.get("/shop")
    assert "12.0 µm" not in bryn.page, "its readings are kept, and count for nothing"
    wild = mapped | {"pasted": "0 0 0\n450 0 90\n0 150 10\n450 150 120", "closing_um": "0"}
    assert bryn.post(f"{maps_of}/bring-in", wild).status_code == 422 and "slip of ten" in bryn.page
    mapped["closing_um"] = "0"
    assert bryn.post(f"{maps_of}/bring-in", mapped).status_code == 303
    bryn.get("/shop")
    assert "12.0 µm" in bryn.page and "3 maps" in bryn.page
    assert bryn.post("/shop/chuck/new", chuck | {"name": "Chuck C"}).status_code == 422
    assert "Chuck A is on that machine" in bryn.page
    fixture = {
        "name": "Angle plate P9",
        "kind": "angle_plate",
        "square_mm": "1 um",
        "over_mm": "100",
        "seating_mm": "0.5 um",
        "base_length_mm": "150",
        "base_width_mm": "90",
        "clamps": "2",
        "clamp_n": "1500",
        "checked_on": "2026-11-01",
        "form": "angle_plate",
        "height_mm": "80",
        "seat_mm": "0",
    }
    assert bryn.post("/shop/fixture/new", fixture).status_code == 303
    bryn.get("/jobs/TR-101/faces")
    assert "Angle plate P9" in bryn.page, "the truest of its kind is taken from now on"
    assert "Chuck A" in bryn.page and "what it stands on has changed" in bryn.page


def test_a_hole_that_has_to_be_in_its_place_moves_the_stock(bryn: Browser) -> None:
    number = based_on(bryn, "TR-120")
    sent = USUAL | {"based_on": number, "width_now": "12.15", "width_wanted": "12"}
    bryn.post("/jobs/TR-120/route/preview", sent)
    assert "0.150 mm" in bryn.page and "too far from" not in bryn.page
    bryn.post("/jobs/TR-120/route/preview", sent | {"width_now": "12.9"})
    assert "too far from the reference" in bryn.page
    assert bryn.post("/jobs/TR-120/route", sent).status_code == 303
    bryn.get("/jobs/TR-120/faces")
    assert re.search(r'name="width_now"[^>]*value="12.150"', bryn.page)


def test_a_map_kept_in_error_is_withdrawn_and_stays(bryn: Browser, demo: Session) -> None:
    chuck = shop.by_name(demo, ChuckRow, "Chuck B")
    assert chuck is not None and chuck.newest_map is not None and len(chuck.maps) == 3
    newest, path = chuck.newest_map, f"/shop/chucks/{chuck.id}/maps"
    bryn.get(path)
    assert bryn.post(f"{path}/{newest.key}/withdraw", {"reason": " "}).status_code == 303
    assert chuck.newest_map is newest, "it stays in use until the reason is said"
    assert bryn.post(f"{path}/{newest.key}/withdraw", {"reason": "chuck was not wiped"}).status_code == 303
    demo.expire_all()
    assert len(chuck.maps) == 3 and chuck.newest_map is not None and chuck.newest_map.id != newest.id
    bryn.get(path)
    assert "withdrawn: chuck was not wiped (Bryn Tallow)" in bryn.page
    assert bryn.post(f"{path}/{newest.key}/withdraw", {"reason": "again"}).status_code == 303
    bryn.get(path)
    assert "not in use any more" in bryn.page


def test_a_plan_on_the_limit_or_that_does_not_clean_up_is_released_with_its_reason(app: Flask, bryn: Browser) -> None:
    bryn.get("/jobs/TR-120/plan?face=1&margin=0&method=quickest&again=1")
    seen = re.search(r'name="seen"[^>]*value="(\d+)"', bryn.page)
    assert seen
    sent = {
        "based_on": "0",
        "face": "1",
        "seen": seen.group(1),
        "entry_id": "plan-000001",
        "method": "quickest",
        "margin": "0",
    }
    assert "on the limit" in bryn.page
    assert bryn.post("/jobs/TR-120/plan", sent).status_code == 422 and "Write the reason" in bryn.page
    assert bryn.post("/jobs/TR-120/plan", sent | {"reason": "the lamp is wanted tonight"}).status_code == 303
    bryn.get("/jobs/TR-120/record")
    assert "Released because: the lamp is wanted tonight" in bryn.page


def test_what_does_not_clean_up_wants_a_lead_s_reason(app: Flask, bryn: Browser, demo: Session) -> None:
    job = by_number(demo, "TR-120")
    assert job is not None
    job.part.face(1).cleanup_mm = job.part.face(2).cleanup_mm = job.part.size("thickness").measured_max_mm
    demo.commit()
    sent = USUAL | {"based_on": "0", "reason": "only the ends matter"}
    bryn.get("/jobs/TR-120/faces")
    assert bryn.post("/jobs/TR-120/route/release", sent).status_code == 422 and "Ask a lead" in bryn.page
    isa = Browser(app.test_client()).sign_in("isa")
    isa.get("/jobs/TR-120/faces")
    assert isa.post("/jobs/TR-120/route/release", sent | {"reason": ""}).status_code == 422
    assert isa.post("/jobs/TR-120/route/release", sent).status_code == 303
    rows = part_plans.versions(demo, job)
    assert rows[0].reason == "only the ends matter"


@pytest.mark.parametrize("what", ["speed", "unmarked", "carbide", "scrapped"])
def test_a_wheel_that_must_not_run_is_stopped_by_every_path(
    app: Flask, bryn: Browser, demo: Session, what: str
) -> None:
    """Plan, release, mounting, touch-off, pass and a job file: none gets by; only a missing mark is answered for, by a
    lead."""
    job = by_number(demo, "TR-101")
    assert job is not None
    says = {
        "speed": "over the marked 2000 rpm",
        "unmarked": "bears no marked speed",
        "carbide": "needs a diamond wheel",
        "scrapped": "was put out of use",
    }[what]
    isa = Browser(app.test_client()).sign_in("isa")
    isa.get("/jobs/TR-101/record")
    file = isa.get("/jobs/TR-101/record/job.json").get_data()
    if what == "speed":
        job.wheel.max_rpm = 2000
    elif what == "unmarked":
        job.wheel.max_rpm = None
    elif what == "scrapped":
        isa.get(f"/wheels/{job.wheel_id}")
        entry = {"entry_id": "put-out-0001", "note": "Dropped."}
        assert isa.post(f"/wheels/{job.wheel_id}/put-out", entry).status_code == 303
    else:
        job.part.material = "carbide"
    demo.commit()
    assert bryn.press("TR-101", "pass").status_code == 422 and says in bryn.page
    assert bryn.press("TR-101", "touch_off", reading="0").status_code == 422 and says in bryn.page
    assert bryn.get("/jobs/TR-101/plan?again=1").status_code == 200 and says in bryn.page
    sent = {
        "based_on": based_on(bryn, "TR-101"),
        "face": "2",
        "seen": "99",
        "entry_id": "plan-000001",
        "method": "quickest",
    }
    assert bryn.post("/jobs/TR-101/plan", sent).status_code == 422 and says in bryn.page
    assert bryn.post("/jobs/TR-101/route/release", USUAL | {"based_on": sent["based_on"]}).status_code == 422
    assert says in bryn.page
    if what in ("speed", "scrapped"):
        isa.get("/jobs/read-in")
        assert (
            isa.post("/jobs/read-in", {"file": (io.BytesIO(file), "job.json")}).status_code == 422 and says in isa.page
        )
    if what == "unmarked":
        shelf = f"/shop/wheel/{job.wheel.id}"
        wheel = {
            "name": job.wheel.name,
            "marking": job.wheel.marking,
            "grit": "46",
            "grade": "H",
            "diameter_mm": "180",
            "width_mm": "12.7",
            "bore_mm": "31.75",
            "max_rpm": "",
            "max_m_s": "",
        }
        bryn.get(shelf)
        assert bryn.post(shelf, wheel).status_code == 422 and "What is it marked with" in bryn.page
        assert bryn.post(shelf, wheel | {"unmarked": "y"}).status_code == 422 and "Only a lead answers" in bryn.page
        isa.get(shelf)
        assert isa.post(shelf, wheel | {"unmarked": "y"}).status_code == 303
        isa.get("/shop")
        assert "Isa Quillon answers for it" in isa.page
        assert bryn.press("TR-101", "pass").status_code == 303


def test_the_running_plan_is_shown_and_no_other_one_is_armed(bryn: Browser) -> None:
    bryn.get("/jobs/TR-101/plan")
    assert "the plan that runs" in bryn.page and "5 of 19 passes" in bryn.page and "Release to" not in bryn.page
    assert bryn.page.count("✓</span>") == 9 and "Dress the wheel, rough" in bryn.page
    bryn.get("/jobs/TR-101/plan?again=1")
    assert "Release to No. 1" in bryn.page
