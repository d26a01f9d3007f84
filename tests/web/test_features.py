"""Slots, angles and edges on the screens: taken in, said beside their fields, drawn, set up, ticked off, measured."""

import math
import re
from dataclasses import replace

import pytest
from sqlalchemy.orm import Session

from tests.web.conftest import ENTRY, Browser
from tests.web.test_answers import points
from tests.web.test_story import take_in
from tests.web.test_take_in import fields_of
from zesty_lark.core.calc import answer
from zesty_lark.exchange.job_json import read_job, write_job
from zesty_lark.shopfloor.acts.jobs import _features_stay
from zesty_lark.store import jobs
from zesty_lark.store.job_files import ReadInError, read_in, write_out
from zesty_lark.store.jobs import by_number
from zesty_lark.store.models import Person
from zesty_lark.store.read_in import ReadIn

SLOT = {
    "feature1_kind": "slot",
    "feature1_name": "keyway",
    "feature1_on_face": "1",
    "feature1_datum": "3",
    "feature1_centre_mm": "20",
    "feature1_position_tol_mm": "0.02",
    "feature1_width_mm": "12",
    "feature1_width_minus_mm": "0",
    "feature1_width_plus_mm": "0.018",
    "feature1_left_now_mm": "14.06",
    "feature1_right_now_mm": "25.97",
    "feature1_depth_mm": "5",
    "feature1_depth_tol_mm": "0.05",
    "feature1_depth_now_mm": "4.9",
    "feature1_keep": "",
    "feature1_way": "tilted",
}


def test_a_slot_is_taken_in_on_the_same_screen_drawn_and_kept(bryn: Browser, demo: Session) -> None:
    bryn.get("/jobs/take-in")
    assert "feature1_kind" in bryn.page and "feature1_centre_mm" not in bryn.page, "asked for once it has a kind"
    bryn.post("/jobs/convert", fields_of(bryn.page) | {"feature1_kind": "slot"})  # type: ignore[arg-type]
    assert "feature1_centre_mm" in bryn.page and "feature2_kind" in bryn.page
    assert take_in(bryn, **SLOT) == 303, bryn.page
    job = by_number(demo, "TR-150")
    assert job is not None and [shape.name for shape in job.part.shapes] == ["keyway"]
    names = [characteristic.name for characteristic in job.part.wanted().characteristics]
    assert {"keyway depth", "keyway left", "keyway width", "keyway position"} <= set(names)
    bryn.get("/jobs/TR-150/take-in")
    assert fields_of(bryn.page)["feature1_left_now_mm"] == "14.060" and "block-feature" in bryn.page
    bryn.get("/jobs/TR-150/faces")
    assert "Keyway, left wall up" in bryn.page and "net-feature" in bryn.page


@pytest.mark.parametrize(
    ("changes", "field", "says"),
    [
        ({"feature1_depth_mm": ""}, "depth_mm", "This is needed."),
        ({"feature1_name": "Key/way"}, "name", "A short name"),
        ({"feature1_right_now_mm": "14"}, "right_now_mm", "beyond the left one"),
        ({"feature1_datum": "2"}, "datum", "no side of face 1"),
        ({"feature1_centre_mm": "200"}, "centre_mm", "break out"),
        ({"feature1_centre_mm": "twenty"}, "centre_mm", "is not a length"),
        ({"feature1_width_plus_mm": "0"}, "width_plus_mm", "How much"),
    ],
)
def test_what_is_wrong_with_a_slot_is_said_beside_its_field_and_nothing_is_lost(
    bryn: Browser, changes: dict[str, str], field: str, says: str
) -> None:
    assert take_in(bryn, **(SLOT | changes)) == 422
    wrong = re.search(rf'id="feature1_{field}-wrong".*?</div>', bryn.page, re.S)
    assert wrong and says in wrong.group(0), bryn.page
    assert fields_of(bryn.page)["feature1_left_now_mm"] == "14.06"


def test_two_features_of_one_name_are_refused(bryn: Browser) -> None:
    edge = {"feature2_kind": "edge", "feature2_name": "keyway", "feature2_on_face": "1", "feature2_to_face": "5"}
    sizes = {"feature2_flat_mm": "0.5", "feature2_flat_tol_mm": "0.05"}
    assert take_in(bryn, **SLOT, **edge, **sizes) == 422
    assert "Another goes by this name." in bryn.page


def test_a_conflict_of_width_and_position_is_shown_both_ways_and_stops_until_it_is_decided(bryn: Browser) -> None:
    assert take_in(bryn, **(SLOT | {"feature1_left_now_mm": "13.98"})) == 303
    bryn.get("/jobs/TR-150/set-up?face=8")
    assert "Decide" in bryn.page and "Kept in width" in bryn.page and "Kept in position" in bryn.page
    bryn.get("/jobs/TR-150/faces")
    assert "Decide at take-in before cutting" in bryn.page
    bryn.get("/jobs/TR-150/take-in")
    kept = fields_of(bryn.page) | {"feature1_keep": "width"}
    assert bryn.post("/jobs/TR-150/take-in", kept).status_code == 303  # type: ignore[arg-type]
    bryn.get("/jobs/TR-150/set-up?face=9")
    assert "Decided: kept in width" in bryn.page and "Decide at take-in" not in bryn.page


def test_the_set_up_of_a_wedge_is_drawn_at_its_angle_with_its_stack(bryn: Browser) -> None:
    bryn.get("/jobs/TR-133/set-up?face=7")
    told = answer("sine.setting", {"centres_mm": 127, "angle_deg": 17.5, "set": "metric88"})
    assert f"{told['height_mm']:.5f} mm" in bryn.page
    (x0, y0), (x1, y1), *_ = points(bryn.page, "tool")
    assert math.degrees(math.atan2(y1 - y0, x1 - x0)) == pytest.approx(17.5, abs=0.05)
    face = points(bryn.page, "face")
    assert face[0][1] == pytest.approx(face[1][1], abs=0.01), "level"
    bryn.get("/jobs/TR-133/set-up/sheet?face=7")
    assert "Set-up sheet" in bryn.page and "wrung" in bryn.page.lower()


def test_the_corner_is_drawn_before_and_after_it_is_tilted_and_turned(bryn: Browser) -> None:
    bryn.get("/jobs/TR-133/set-up?face=8")
    mitre = answer("compound.mitre", {"floor_deg": 22.0, "wall_deg": 14.0})
    assert mitre["wheel_dms"].replace('"', "&#34;").replace("'", "&#39;") in bryn.page
    assert "The corner as it is" in bryn.page and "Turned in plan" in bryn.page
    assert "Walk off along the floor" in bryn.page and "Plunge to just above the floor" in bryn.page


def test_the_list_before_the_touch_off_has_what_this_set_up_needs(isa: Browser) -> None:
    isa.get("/jobs/TR-114/set-up/before?face=8")
    assert "has no plan yet" in isa.page
    isa.get("/jobs/TR-114/set-up?face=8")
    assert "Plan it" in isa.page


def test_angles_are_measured_on_the_plate_they_were_ground_on(isa: Browser) -> None:
    answer_ = isa.get("/jobs/TR-133/measure?of=wedge+angle")
    assert answer_.status_code == 303 and "/measure/angle" in answer_.location
    isa.get(answer_.location)
    assert 'name="set_deg"' in isa.page and 'value="17.5"' in isa.page and 'value="127' in isa.page
    seen = re.search(r'name="seen" value="(\d+)"', isa.page)
    assert seen
    entry = ENTRY.findall(isa.page)[-1]
    form = {"entry_id": entry, "seen": seen.group(1), "of": "wedge angle", "piece": "1", "way": "sine"}
    gauge = re.search(r'<select[^>]*name="instrument".*?value="(\d+)"', isa.page, re.S)
    assert gauge
    form |= {"set_deg": "17.5", "rise_um": "0.5", "over_mm": "60", "centres_mm": "127", "instrument": gauge.group(1)}
    assert isa.post("/jobs/TR-133/measure/angle", form | {"keep": "1"}).status_code == 303  # type: ignore[arg-type]
    isa.get("/jobs/TR-133/measure?of=wedge+angle")
    assert "17°30" in isa.page and "″" in isa.page


def test_a_slots_middle_is_told_by_its_left_wall_and_its_width(isa: Browser) -> None:
    isa.get("/jobs/TR-114/measure/slot?of=keyway+position")
    seen, entry = re.search(r'name="seen" value="(\d+)"', isa.page), ENTRY.findall(isa.page)[-1]
    gauge = re.search(r'<select[^>]*name="instrument".*?value="(\d+)"', isa.page, re.S)
    assert seen and gauge
    goes = {f"{place}_mm": "18.008" for place in ("front_top", "front_bottom", "back_top", "back_bottom")}
    form = {"entry_id": entry, "seen": seen.group(1), "of": "keyway position", "piece": "1", "keep": "1"}
    sent = form | goes | {"instrument": gauge.group(1), "step_mm": "0.001", "block_u_um": "0.3"}
    assert isa.post("/jobs/TR-114/measure/slot", sent).status_code == 422  # type: ignore[arg-type]
    assert "left wall from its datum first" in isa.page


def test_a_job_file_carries_its_features_and_refuses_what_cannot_be(demo: Session, isa: Browser) -> None:
    job = by_number(demo, "TR-133")
    lead = demo.query(Person).filter_by(sign_in_name="isa").one()
    assert job is not None
    written = write_job(write_out(demo, job))
    again = read_job(written)
    assert again.part["features"] == job.part.features
    record = read_job(written.replace("TR-133", "TR-833"))
    read, _ = read_in(demo, replace(record, entries=[], maps=[]), ReadIn(lead, job.created_at))
    assert read.part.shapes == job.part.shapes
    part = record.part
    for features, says in (
        (part["features"].replace('"24.58"', '"99"'), "only"),
        (part["features"].replace("features 1", "features 0"), "cannot be read"),
    ):
        other = replace(record, part=part | {"features": features}, job=record.job | {"number": "TR-834"}, entries=[])
        with pytest.raises(ReadInError, match=says):
            read_in(demo, other, ReadIn(lead, job.created_at))


def test_what_was_ground_of_a_feature_stays_as_it_was_taken_in(demo: Session) -> None:
    job = by_number(demo, "TR-133")
    assert job is not None
    before = jobs.take_in_of(job)
    assert _features_stay(before, before)
    assert not _features_stay(before, replace(before, features=None))
