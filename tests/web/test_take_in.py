"""What is typed at take-in, what it is questioned for, and what an answer that is a refusal leaves behind."""

import re
from decimal import Decimal

import pytest
from flask import Flask
from sqlalchemy.orm import Session, sessionmaker

from tests.web.conftest import Browser
from tests.web.test_story import TAKE_IN, measure, selected, take_in
from zesty_lark.store.jobs import by_number
from zesty_lark.web.shared import database


def fields_of(page: str, mark: str = 'id="take-in"') -> dict[str, str]:
    """Every field of the form with that mark as the page shows it, hidden and chosen ones too; of the take-in."""
    form = next(part for part in page.split("<form") if mark in part).split("</form>")[0]
    found = {
        name: re.search(r'value="([^"]*)"', tag)
        for tag, name in re.findall(r'(<input[^>]*name="(\w+)"[^>]*>)', form)
        if 'type="checkbox"' not in tag
    }
    values = {name: value.group(1) if value else "" for name, value in found.items()}
    chosen = {
        name: re.search(r'selected value="([^"]*)"', body)
        for name, body in re.findall(r'<select[^>]*name="(\w+)"[^>]*>(.*?)</select>', form, re.S)
    }
    return values | {name: value.group(1) for name, value in chosen.items() if value}


def test_a_form_opened_before_another_changed_a_size_takes_nothing_back(bryn: Browser) -> None:
    bryn.get("/jobs/TR-120/take-in")
    opened = fields_of(bryn.page)
    theirs = opened | {"width_max": str(Decimal(opened["width_max"]) + Decimal("0.01"))}
    mine = opened | {"remarks": "Edges broken."}
    assert bryn.post("/jobs/TR-120/take-in", theirs).status_code == 303
    assert bryn.post("/jobs/TR-120/take-in", mine).status_code == 422
    assert "Someone changed this job while you had it open. It differs from yours in: " in bryn.page
    assert "width" in bryn.page.split("It differs from yours in: ")[1][:60] and "Edges broken." in bryn.page
    bryn.get("/jobs/TR-120/take-in")
    assert fields_of(bryn.page)["width_max"] == theirs["width_max"]


def test_changing_the_print_s_unit_converts_every_number_and_the_defaults(bryn: Browser) -> None:
    bryn.get("/jobs/take-in")
    sent = fields_of(bryn.page) | {
        "thickness_target": "22",
        "thickness_minus": "0.003",
        "length_target": "3 in",
        "print_unit": "in",
    }
    assert (sent["min_skin_mm"], sent["face3_cleanup"], sent["shown_unit"]) == ("0.005", "0.050", "mm")
    bryn.post("/jobs/convert", dict(sent))
    assert bryn.page, "the form itself"
    shown = fields_of(bryn.page)
    assert shown["shown_unit"] == "in" and shown["thickness_target"].startswith("0.86614")
    assert Decimal(shown["min_skin_mm"]) == pytest.approx(Decimal("0.005") / Decimal("25.4"), abs=Decimal("1e-5"))
    assert Decimal(shown["face3_cleanup"]) == pytest.approx(Decimal("0.05") / Decimal("25.4"), abs=Decimal("1e-4"))
    assert shown["length_target"] == "3 in", "a unit that was typed stays"


def test_a_unit_that_was_changed_without_the_page_knowing_is_asked_about(bryn: Browser) -> None:
    assert take_in(bryn, print_unit="in", shown_unit="mm") == 422
    assert "every number was converted" in bryn.page and 'value="0.7874' in bryn.page
    assert bryn.get("/jobs/TR-150/plan").status_code == 404


@pytest.mark.parametrize(
    ("changes", "field", "other"),
    [
        (
            {"thickness_target": "200", "thickness_max": "20.21", "thickness_min": "20.19"},
            "thickness_target",
            "thickness_max",
        ),
        ({"thickness_max": "201.2", "thickness_min": "20.09"}, "thickness_max", "thickness_target"),
        ({"face1_cleanup": "2"}, "face1_cleanup", "face2_cleanup"),
    ],
)
def test_the_odd_one_is_questioned_and_not_its_neighbour(
    bryn: Browser, changes: dict[str, str], field: str, other: str
) -> None:
    assert take_in(bryn, **changes) == 422
    assert f'id="{field}-wrong"' in bryn.page and f'id="{other}-wrong"' not in bryn.page
    assert f'id="sure_{field}"' in bryn.page or "Did you mean" in bryn.page


def test_a_bow_is_asked_and_not_inferred(bryn: Browser, demo: Session) -> None:
    assert take_in(bryn) == 303
    job = by_number(demo, "TR-150")
    assert job is not None and job.part.bow_mm is None
    assert take_in(bryn, number="TR-151", bow_mm="0.02", bow_shape="ends_up") == 303
    job = by_number(demo, "TR-151")
    assert job is not None and (job.part.bow_mm, job.part.bow_shape) == (Decimal("0.02"), "ends_up")


def test_a_part_as_warm_as_its_room_is_not_warm(bryn: Browser) -> None:
    assert measure(bryn, "TR-101", "22.0001", "22.0000", part_c="23", room_c="23") == 303
    bryn.get("/jobs/TR-101/measure")
    assert "warm" not in bryn.page.split('class="verdict-sentence">')[1].split("</p>")[0]
    assert measure(bryn, "TR-101", "22.0001", "22.0000", part_c="31", room_c="23") == 303
    bryn.get("/jobs/TR-101/measure")
    assert "warm" in bryn.page.split('class="verdict-sentence">')[1].split("</p>")[0]


@pytest.mark.parametrize(("status", "kept"), [(422, False), (404, False), (303, True)])
def test_an_answer_that_refuses_commits_nothing(demo_maker: sessionmaker[Session], status: int, kept: bool) -> None:
    app = Flask(__name__)
    app.config["LARK_SESSIONS"] = demo_maker
    database.install(app)

    @app.post("/")
    def change() -> tuple[str, int]:
        job = by_number(database.session(), "TR-101")
        assert job is not None
        job.part.remarks = "changed on the way"
        database.session().flush()
        return "", status

    assert app.test_client().post("/").status_code == status
    with demo_maker() as after:
        job = by_number(after, "TR-101")
        assert job is not None and (job.part.remarks == "changed on the way") is kept


def test_the_form_keeps_the_choices_it_was_sent(bryn: Browser) -> None:
    bryn.get("/jobs/take-in")
    wheel = selected(bryn.page, "wheel_id", "W3 open white")
    assert take_in(bryn, thickness_target="abc", wheel_id=wheel) == 422
    assert fields_of(bryn.page)["wheel_id"] == wheel and fields_of(bryn.page)["number"] == TAKE_IN["number"]


LEFT: dict[str, object] = {f"face{face}_purpose": "as it is" for face in (3, 4, 5, 6)}


def test_sides_that_stay_as_they_are_are_asked_neither_tolerance_nor_clean_up(bryn: Browser) -> None:
    bryn.get("/jobs/take-in")
    bryn.post("/jobs/convert", fields_of(bryn.page) | {name: str(value) for name, value in LEFT.items()})
    shown = fields_of(bryn.page)
    assert "width_target" in shown and not {"width_minus", "width_max", "face3_cleanup"} & set(shown)
    assert {"thickness_minus", "face1_cleanup"} <= set(shown)
    unasked = {f"{axis}_{part}": "" for axis in ("width", "length") for part in ("minus", "plus", "max", "min")}
    assert take_in(bryn, **LEFT, **unasked, number="TR-160") == 303
    bryn.get("/jobs/TR-160/faces")
    assert bryn.page.count("Both its faces stay as they are.") == 2 and "Face 3 up" not in bryn.page
    bryn.get("/jobs/TR-160/take-in")
    assert fields_of(bryn.page)["face5_purpose"] == "as it is"
    bryn.get("/jobs/TR-160/measure")
    assert "width" not in re.sub(r"<[^>]*>", " ", bryn.page).lower()


def test_a_pair_of_which_one_face_is_ground_keeps_its_tolerance(bryn: Browser) -> None:
    assert take_in(bryn, face5_purpose="as it is", width_minus="", number="TR-160") == 422
    assert take_in(bryn, face5_purpose="as it is", number="TR-160") == 303
    bryn.get("/jobs/TR-160/faces")
    assert "stay as they are" not in bryn.page and "Face 3 up, 5 down" in bryn.page and "Face 5 up" not in bryn.page


def test_a_part_of_which_nothing_is_to_be_ground_is_refused(bryn: Browser) -> None:
    everything = {f"face{face}_purpose": "as it is" for face in range(1, 7)}
    assert take_in(bryn, **everything, number="TR-160") == 422
    assert "there is nothing to grind" in bryn.page
