"""Every act is one function: what it refuses, it refuses by page and by name alike; and there is no other way to
log."""

import ast
import json
import random
from datetime import date
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest
from flask import Flask
from pydantic import RootModel
from sqlalchemy.orm import Session
from werkzeug.test import TestResponse

import zesty_lark
from tests.web.conftest import Browser
from tests.web.test_story import release, sliders, take_in
from zesty_lark.core.part.taken_in import TakeIn
from zesty_lark.shopfloor import acts
from zesty_lark.store import gauge_checks, job_states, jobs, log_rows, people, shop
from zesty_lark.store.models import InstrumentRow, Job, MachineRow, WheelRow
from zesty_lark.store.models.people import Role

ROOT = Path(zesty_lark.__file__).parent
LOGGED = ("shoplog.append", "shoplog.release_plan", "told_jobs.tell_job",
          "log_rows.insert", "racks.append", "chucks.append",
          "gauge_checks.append", "thing_logs.append", "known_logs.append",
          "part_plans.save", "part_plans.release", "jobs.take_in", "jobs.amend", "set_ups.keep",
          "maps.begin", "maps.read", "maps.add_whole", "maps.withdraw", "maps.mark_seen")  # fmt: skip
"""What writes into a log, or keeps what is worked by."""


def job_of(demo: Session, number: str = "TR-101") -> Job:
    found = jobs.by_number(demo, number)
    assert found is not None
    return found


def seq(demo: Session, number: str = "TR-101") -> int:
    return job_states.state_of(demo, job_of(demo, number)).last_seq


def ask(browser: Browser, act: str, number: str = "TR-101", **given: Any) -> TestResponse:
    of = "" if act in acts.SHOP_ACTS else f"/jobs/{number}"
    return browser.client.post(f"/api{of}/acts/{act}", json=given, headers={"X-CSRFToken": browser.token})


def calls(path: Path) -> set[str]:
    """What a module calls of a module of the store."""
    tree = ast.parse(path.read_text("utf-8"))
    of_store = {
        name.asname or name.name: name.name
        for node in ast.walk(tree)
        if isinstance(node, ast.ImportFrom) and node.module == "zesty_lark.store"
        for name in node.names
    }
    return {
        f"{of_store[node.value.id]}.{node.attr}"
        for node in ast.walk(tree)
        if isinstance(node, ast.Attribute) and isinstance(node.value, ast.Name) and node.value.id in of_store
    }


def test_nothing_but_the_work_floor_writes_into_a_log() -> None:
    writers = {
        path.relative_to(ROOT).as_posix(): sorted(calls(path) & set(LOGGED))
        for floor in ("web", "demo", "running", "exchange", "core")
        for path in (ROOT / floor).rglob("*.py")
    }
    assert {name: found for name, found in writers.items() if found} == {}


def test_no_page_keeps_what_the_shop_has_or_who_works_there_by_itself() -> None:
    """But for the first account, which nobody is there to make, and a person's own password and sign-ins."""
    kept = {
        *("shop.keep", "people.add_person", "people.change", "people.set_password", "people.shut_out"),
        *("people.let_in", "sign_ins.end", "sign_ins.end_all"),
    }
    found = {
        path.relative_to(ROOT).as_posix(): sorted(calls(path) & kept)
        for floor in ("web", "running", "exchange")
        for path in (ROOT / floor).rglob("*.py")
    }
    assert {name: calls_ for name, calls_ in found.items() if calls_} == {
        "web/account/views.py": ["people.add_person", "people.set_password", "sign_ins.end"],
        "web/shared/guard.py": ["sign_ins.end"],
    }


def test_every_act_says_what_it_does_and_who_may(bryn: Browser) -> None:
    told = bryn.client.get("/api/acts").json
    assert set(told) == set(acts.EVERY_ACT) and len(told) >= 30
    for name, each in told.items():
        assert each["does"].endswith("."), name
        assert set(each["who"]) <= {str(role) for role in Role} and each["to_the_job"] in (
            (None,) if name in acts.SHOP_ACTS else ("look", "work", "inspect")
        )
        assert bryn.client.get(f"/api/acts/{name}").json["input"]["type"] == "object"
    assert bryn.client.get("/api/acts/abracadabra").status_code == 404
    assert ask(bryn, "abracadabra").status_code == 404


def test_a_pass_by_its_name_is_the_pass_of_the_page(bryn: Browser, demo: Session) -> None:
    seen = seq(demo)
    state = job_states.state_of(demo, job_of(demo))
    assert state.at is not None
    given: dict[str, Any] = {"surface": state.at.surface, "reading_mm": str(state.at.next_reading_mm)}
    given |= {"entry_id": "by-its-name-1", "seen": seen}
    first = ask(bryn, "feed", **given)
    assert first.status_code == 200 and first.json == {"job": "TR-101", "newest": seq(demo)}
    assert seq(demo) > seen
    again = ask(bryn, "feed", **given)
    assert again.status_code == 200 and again.json == first.json, "sent twice it is done once"
    other = ask(bryn, "feed", **given | {"reading_mm": "9"})
    assert other.status_code == 422 and "used for" in other.json["error"]
    behind = ask(bryn, "spark_out", surface=2, entry_id="by-its-name-2", seen=seen)
    assert behind.status_code == 409 and "Something was logged" in behind.json["error"]


@pytest.mark.parametrize(
    ("act", "given", "status", "says"),
    [
        ("feed", {"surface": 2}, 422, "Which collar reading"),
        ("feed", {"surface": 2, "reading_mm": "-1"}, 422, ""),
        ("feed", {"surface": "two"}, 422, "surface"),
        ("feed", {"surface": 2, "colour": 1}, 422, "colour is not a field"),
        ("put_up", {"surface": 2}, 422, "the wheel has stopped"),
        ("skip_step", {"surface": 2, "step": 12}, 422, "Why is it skipped?"),
        ("take_off", {"surface": 2, "reason": "  "}, 422, "Why is it taken off"),
        ("go_on", {"surface": 2}, 422, "Why may it go on?"),
        ("take_job_over", {}, 422, "yours already"),
        ("halt", {"surface": 2, "what": "colour", "power_w": "-1"}, 422, "no power"),
        ("note", {"note": "x" * 1001}, 422, "at most 1000"),
        ("sign_off", {}, 403, "an inspector or a lead"),
        ("waive", {"characteristic": "width", "reason": "no"}, 403, "a lead"),
        ("end_piece", {"piece": 1, "end": "scrapped"}, 403, "a lead"),
        ("waive_caution", {"face": 2, "caution": "nozzle", "reason": "no"}, 403, "a lead"),
        ("take_in_turns", {"face": 2, "turns": 99}, 422, "Each side is taken 1 to"),
        ("turn_over", {"face": 2}, 422, "Only the face at work of a thin part"),
        ("choose_reference", {"face": 2}, 422, "has been ground since"),
        ("release_face", {"face": 6}, 422, "not the one that is ground now"),
        ("measure", {"characteristic": "thickness", "gauge": "none", "readings": []}, 422, "no gauge"),
        ("measure", {"characteristic": "colour", "gauge": "Micrometer M1", "readings": []}, 422, "has no"),
        ("measure_square", {"characteristic": "flat", "gauge": "x", "way": "light", "over_mm": "10", "read": {}}, 422,
         "asks for no squareness"),
        ("measure_by_map", {"map_key": "none", "characteristic": "flat"}, 422, "proves nothing"),
    ],
)  # fmt: skip
def test_what_a_page_refuses_is_refused_by_name_too(
    bryn: Browser, demo: Session, act: str, given: dict[str, Any], status: int, says: str
) -> None:
    before = seq(demo)
    answer = ask(bryn, act, **given | {"entry_id": "refused-by-name", "seen": before})
    assert answer.status_code == status, answer.json
    assert says in answer.json["error"]
    assert seq(demo) == before


def test_who_may_not_log_on_a_job_may_not_by_name(stranger: Browser, demo: Session) -> None:
    before = seq(demo)
    for name, act in acts.ACTS.items():
        for who in ("nim", "odo", "pell"):
            if (act.use, who) in (("inspect", "pell"), ("look", "odo")):
                continue
            answer = ask(stranger.be(who), name, **_least(name), entry_id="not-theirs-1", seen=before)
            assert answer.status_code == 403, (name, who, answer.json)
            assert "error" in answer.json
    assert seq(demo) == before


def test_whose_role_an_act_on_the_shop_is_not_may_not_by_name(stranger: Browser, demo: Session) -> None:
    roles = {"nim": Role.APPRENTICE, "pell": Role.INSPECTOR, "odo": Role.MACHINIST}
    asked = 0
    for name, act in acts.SHOP_ACTS.items():
        for who in [who for who, role in roles.items() if role not in act.roles]:
            answer = ask(stranger.be(who), name, **_least(name), entry_id="not-theirs-1")
            assert answer.status_code == 403 and answer.json["error"] == act.refusal, (name, who, answer.json)
            asked += 1
    assert asked > 20


def part_of(demo: Session, number: str, **other: Any) -> dict[str, Any]:
    """What TR-101 was taken in with, as data, under another number."""
    what: dict[str, Any] = json.loads(RootModel[TakeIn](jobs.take_in_of(job_of(demo))).model_dump_json())
    return what | {"number": number} | other


def test_a_part_is_taken_in_and_changed_by_name_with_the_rules_of_its_page(stranger: Browser, demo: Session) -> None:
    bryn = stranger.be("bryn")
    what = part_of(demo, "TR-970")
    for _ in range(2):
        answer = ask(bryn, "take_in", what=what, note="from the office", entry_id="taken-in-by-name")
        assert answer.status_code == 200, answer.json
    made = jobs.by_number(demo, "TR-970")
    assert made is not None and [each.kind.value for each in log_rows.entries_of(demo, made)] == ["taken in"]
    again = ask(bryn, "take_in", what=what, entry_id="taken-in-by-another")
    assert again.status_code == 422 and "TR-970 already" in again.json["error"]
    after = part_of(demo, "TR-970", title="Another pad", quantity=2)
    given = {"after": after, "version": made.version, "entry_id": "changed-by-name-1"}
    assert ask(bryn, "change_job", "TR-970", **given).status_code == 200
    demo.refresh(made)
    assert (made.title, made.part.quantity) == ("Another pad", 2)
    late = ask(bryn, "change_job", "TR-970", **given | {"after": after | {"title": "Late"}})
    assert late.status_code == 409 and "Someone changed this job" in late.json["error"]


@pytest.mark.parametrize(
    ("other", "field", "says"),
    [
        ({"machine_id": 99999}, "machine_id", "no machine"),
        ({"wheel_id": 99999}, "wheel_id", "no wheel"),
        ({"owner_id": 99999}, "owner_id", "Nobody who works here"),
        ({"material": "cheese"}, "material", "not known here"),
        ({"mark_corner": "1-2-3"}, "mark_corner", "no corner"),
        ({"route": "[]"}, "route", "route cannot be read"),
        ({"features": "{}"}, "features", "cannot be read"),
        ({"faces": {}}, "faces", "six faces"),
        ({"pieces": {"2": {"thickness": "22.2"}}}, "pieces", "no piece 2"),
    ],
)
def test_a_part_that_cannot_be_is_taken_in_by_no_name(
    bryn: Browser, demo: Session, other: dict[str, Any], field: str, says: str
) -> None:
    answer = ask(bryn, "take_in", what=part_of(demo, "TR-971", **other), entry_id="taken-in-wrong-1")
    assert answer.status_code == 422 and says in answer.json["fields"][field], answer.json
    assert jobs.by_number(demo, "TR-971") is None


SHAPE = {"name": "M9", "unit": "mm", "least_mm": "0", "most_mm": "25", "resolution_mm": "0.001",
         "error_limit_mm": "0.002", "calibration_u_mm": "0.001", "repeatability_mm": "0.0004",
         "calibrated_on": "2026-01-01",
         "due_on": "2027-01-01"}  # fmt: skip


def test_a_thing_is_kept_by_name_with_the_rules_of_its_page(stranger: Browser, demo: Session) -> None:
    bryn = stranger.be("bryn")
    assert ask(bryn, "keep_thing", shelf="gauge", values=SHAPE).status_code == 200
    row = shop.by_name(demo, InstrumentRow, "M9")
    assert row is not None and row.resolution_mm == Decimal("0.001") and row.due_on == date(2027, 1, 1)
    for wrong, field, says in (
        ({"most_mm": "-1"}, "most_mm", ""),
        ({"port": "socket://127.0.0.1:9"}, "port", "Only a lead"),
        ({"id": 3}, "id", "nothing that is kept of a gauge"),
        ({"due_on": "2025-01-01"}, "due_on", "before it was calibrated"),
    ):
        answer = ask(bryn, "keep_thing", shelf="gauge", values=SHAPE | wrong, key=row.id)
        assert answer.status_code == 422 and says in answer.json["fields"][field], answer.json
    assert ask(bryn, "keep_thing", shelf="gauge", values=SHAPE, key=10**6).status_code == 422
    assert ask(bryn, "keep_thing", shelf="gauge", values=SHAPE).status_code == 422, "its name is taken"
    behind = {
        "shelf": "gauge",
        "values": SHAPE | {"error_limit_mm": "0.003"},
        "key": row.id,
        "version": row.version - 1,
    }
    assert ask(bryn, "keep_thing", **behind).status_code == 409
    wheel = shop.by_name(demo, WheelRow, "W6 slots")
    assert wheel is not None
    bare = {"shelf": "wheel", "values": {"name": wheel.name, "max_rpm": None, "unmarked": True}, "key": wheel.id}
    assert "Only a lead answers" in ask(bryn, "keep_thing", **bare).json["fields"]["unmarked"]
    said = bare | {"values": {"name": wheel.name, "answered_by": "Somebody"}}
    assert "answered_by" in ask(bryn, "keep_thing", **said).json["fields"]
    assert ask(stranger.be("isa"), "keep_thing", **bare).status_code == 200
    demo.expire_all()
    assert wheel.answered_by == "Isa Quillon" and wheel.max_rpm is None


def test_what_is_on_a_machine_keeps_its_name(bryn: Browser, demo: Session) -> None:
    machine, wheel = shop.by_name(demo, MachineRow, "No. 1, inch dial"), shop.by_name(demo, WheelRow, "W3 open white")
    assert machine is not None and wheel is not None
    for shelf, row in (("machine", machine), ("wheel", wheel)):
        answer = ask(bryn, "keep_thing", shelf=shelf, values={"name": "Another"}, key=row.id)
        assert answer.status_code == 422 and "know each other by name" in answer.json["fields"]["name"]


def test_gauges_wheels_and_chucks_are_logged_by_name_once(bryn: Browser, demo: Session) -> None:
    gauge = shop.listed(demo, InstrumentRow)[0]
    zero = {"gauge": gauge.name, "shown_um": 1.0, "entry_id": "zero-by-name-1"}
    for _ in range(2):
        assert ask(bryn, "check_zero", **zero).status_code == 200
    assert [check.entry_id for check in gauge_checks.state_of(demo, gauge).checks].count("zero-by-name-1") == 1
    step = {"chuck": "Chuck B", "step": "pass", "entry_id": "chuck-by-name-1"}
    assert "Take the fence off" in ask(bryn, "grind_chuck", **step).json["error"]
    note = {"wheel": "W6 slots", "kind": "note", "said": {}, "note": "Rings well.", "entry_id": "wheel-by-name-1"}
    assert ask(bryn, "log_on_wheel", **note).status_code == 200
    for wrong, says in (
        ({"kind": "polished"}, "no such entry"),
        ({"wheel": "W0"}, "no wheel"),
        ({"kind": "dressed", "said": {"dress": "hard"}}, "dress"),
        ({"machine": "x"}, "no machine"),
    ):
        answer = ask(bryn, "log_on_wheel", **note | wrong | {"entry_id": "wheel-by-name-2"})
        assert answer.status_code == 422 and says in answer.json["error"], answer.json


def test_people_are_looked_after_by_name(isa: Browser, demo: Session) -> None:
    new = {"sign_in_name": "tamsin", "name": "Tamsin Reave", "role": "machinist", "password": "wet hands no patience"}
    assert ask(isa, "add_person", **new).status_code == 200
    assert "signs in as" in ask(isa, "add_person", **new).json["error"]
    assert ask(isa, "add_person", **new | {"sign_in_name": "short", "password": "short"}).status_code == 422
    assert ask(isa, "change_person", sign_in_name="tamsin", name="Tamsin Reave", role="inspector").status_code == 200
    assert "yourself" in ask(isa, "shut_out", sign_in_name="isa").json["error"]
    assert "Nobody signs in" in ask(isa, "let_in", sign_in_name="nobody").json["error"]
    assert ask(isa, "shut_out", sign_in_name="tamsin").status_code == 200
    who = people.by_sign_in_name(demo, "tamsin")
    assert who is not None and (who.role, who.active) == ("inspector", False)


def _least(name: str) -> dict[str, Any]:
    """The least that an act needs, of each kind."""
    usual = {"integer": 1, "string": "x", "boolean": True, "array": [], "object": {}, "number": 1.0}
    made: dict[str, Any] = {}
    schema = acts.schema(name)
    for field in schema.get("required", []):
        about = schema["properties"][field]
        if "$ref" in about:
            about = schema["$defs"][about["$ref"].rpartition("/")[2]]
        made[field] = about["enum"][0] if "enum" in about else usual.get(about.get("type", "string"), "1")
    if name == "lay_out":
        made["layout"] = {"pieces": [], "things": []}
    return made


def test_an_act_without_what_it_needs_says_so_and_strangers_are_nobody(bryn: Browser, app: Flask) -> None:
    assert ask(bryn, "note", note="x", seen=1).status_code == 422
    assert (
        bryn.client.post("/api/jobs/TR-101/acts/note", data=b"[1", headers={"X-CSRFToken": bryn.token}).status_code
        == 422
    )
    assert ask(bryn, "note", note="x", entry_id=7).status_code == 422
    assert Browser(app.test_client()).client.post("/api/jobs/TR-101/acts/note").status_code in (302, 400, 401)


def test_more_pieces_than_fit_are_released_by_no_door(bryn: Browser, demo: Session) -> None:
    """From the plan of a face, from the route, and by name: the same sentence, and nothing is logged."""
    long = {"length_target": "120", "length_max": "120.3", "width_target": "60", "width_max": "60.3"}
    assert take_in(bryn, quantity="60", face1_condition="ground", face1_cleanup="0", **long) == 303
    job, before = job_of(demo, "TR-150"), seq(demo, "TR-150")
    face, every = job_states.state_of(demo, job).surface, list(range(1, 61))
    said = "untick some, they make the next load"
    bryn.get("/jobs/TR-150/plan")
    pieces = [str(piece) for piece in every]
    sent = sliders(bryn.page) | {"method": "light", "pieces": pieces}
    assert release(bryn, "TR-150", **sent) == 422 and said in bryn.page
    for act, more in (("release_route", {}), ("release_face", {"face": face})):
        given = {"pieces": every, "entry_id": f"many-{act.replace('_', '-')}", "seen": before}
        answer = ask(bryn, act, "TR-150", **given, **more)
        assert answer.status_code == 422 and said in answer.json["error"], answer.json
    assert seq(demo, "TR-150") == before
    bryn.get("/jobs/TR-150/faces")
    route = {"based_on": "0", "seen": str(before), "squareness": "angle_plate", "gap": "60"}
    assert bryn.post("/jobs/TR-150/route/release", route).status_code == 303
    at = job_states.state_of(demo, job).at
    assert at is not None and 1 <= len(at.pieces) < 8, "from the route as many go up as lie on the chuck so far apart"


LEAVES: tuple[Any, ...] = (
    0, 1, 2, -1, 99, "x", "1", "-5", "9" * 30, "NaN", True, None, [], {}, [1, 2], {"front_um": "1"}, 1e300, 10**400,
    [{"place": "middle", "value_mm": "22.01"}], "thickness", "Micrometer M1", "grind", "died", "light", "corner",
    {"pieces": [{"number": 1, "x_mm": 100.0, "y_mm": 50.0}], "things": []},
)  # fmt: skip
QUICK = sorted(set(acts.EVERY_ACT) - {"release_face", "release_route", "keep_plan"})


@pytest.mark.parametrize("seed", range(4))
def test_whatever_an_act_is_asked_is_answered(isa: Browser, demo: Session, seed: int) -> None:
    draw = random.Random(seed)
    for number in range(50):
        name, job = draw.choice(QUICK), draw.choice(("TR-101", "TR-114", "TR-120", "TR-133", "TR-140"))
        given = _least(name)
        given |= {field: draw.choice(LEAVES) for field in acts.schema(name)["properties"] if draw.random() < 0.5}
        undone = demo.begin_nested()
        answer = ask(isa, name, job, **given, entry_id=f"whatever-{seed}-{number}", seen=seq(demo, job))
        undone.rollback()
        assert answer.status_code in (200, 403, 409, 422), (name, given)
