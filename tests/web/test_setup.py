"""The set-up: drawn to scale from what is kept, every act kept and checked; stops stop, a lead passes cautions."""

import re
from collections import Counter
from collections.abc import Callable
from itertools import pairwise

import pytest
from sqlalchemy.orm import Session
from werkzeug.test import TestResponse

from tests.web.conftest import ENTRY, SEEN, Browser
from zesty_lark.store import job_states, jobs, set_ups, shop
from zesty_lark.store.models import AccessoryRow, MachineRow

SET_UP = "/jobs/TR-101/set-up"
POLYGON = re.compile(r'<g class="setup-piece setup-thing[^>]*><polygon points="([^"]+)" class="setup-outline"')
CHUCK = re.compile(r'<rect x="0" y="0" width="([\d.]+)" height="([\d.]+)" class="setup-chuck"')


def act(who: Browser, what: str, job: str = "TR-101", **fields: object) -> TestResponse:
    """Do one act at the set-up as it stands now."""
    face = fields.pop("face", "2")
    who.get(f"/jobs/{job}/set-up?face={face}")
    version = re.search(r'name="version"[^>]*value="(\d+)"', who.page)
    assert version, who.page
    return who.post(f"/jobs/{job}/set-up", {"act": what, "version": version.group(1), "face": face} | fields)


def corners(page: str) -> list[tuple[float, float]]:
    found = POLYGON.search(page)
    assert found, page
    return [tuple(map(float, part.split(","))) for part in found.group(1).split()]  # type: ignore[misc]


@pytest.mark.parametrize(
    ("job", "face", "sides", "chuck"),
    [
        ("TR-101", 2, (88, 54), (450, 150)),
        ("TR-101", 3, (88, 22), (450, 150)),
        ("TR-101", 6, (54, 22), (450, 150)),
        ("TR-114", 1, (120, 60), (600, 200)),
        ("TR-120", 1, (240, 38), (600, 200)),
        ("TR-140", 2, (28.575, 15.875), (600, 200)),
    ],
)
def test_it_is_drawn_to_scale_a_millimetre_a_unit(
    bryn: Browser, job: str, face: int, sides: tuple[float, float], chuck: tuple[float, float]
) -> None:
    assert bryn.get(f"/jobs/{job}/set-up?face={face}").status_code == 200
    points = corners(bryn.page)
    lengths = sorted(
        (
            sum((a - b) ** 2 for a, b in zip(one, other, strict=True)) ** 0.5
            for one, other in pairwise([*points, points[0]])
        ),
        reverse=True,
    )
    assert lengths[0] == pytest.approx(sides[0], abs=0.01) and lengths[-1] == pytest.approx(sides[1], abs=0.01)
    drawn = CHUCK.search(bryn.page)
    assert drawn and (float(drawn[1]), float(drawn[2])) == chuck
    good = ("Nothing is wrong as it is laid out", "Every rule is kept.")
    assert any(words in bryn.page for words in good), "the suggestion it opens with is a good one"


def test_every_act_is_kept_and_can_be_taken_back(bryn: Browser, demo: Session) -> None:
    before = corners(bryn.get(SET_UP).get_data(as_text=True))
    assert act(bryn, "nudge", key="p1", by_x="10", by_y="0").status_code == 303
    bryn.get(SET_UP)
    assert corners(bryn.page)[0][0] == pytest.approx(before[0][0] + 10)
    assert act(bryn, "turn", key="p1", by_deg="90").status_code == 303
    bryn.get(SET_UP)
    xs = [x for x, _ in corners(bryn.page)]
    assert max(xs) - min(xs) == pytest.approx(54)
    assert act(bryn, "place", key="p1", x_mm="200", y_mm="70", turn_deg="0").status_code == 303
    for _ in range(2):
        act(bryn, "undo")
    bryn.get(SET_UP)
    assert corners(bryn.page)[0][0] == pytest.approx(before[0][0] + 10), "back to the first move"
    job = jobs.by_number(demo, "TR-101")
    row = job and set_ups.of(demo, job, "2")
    assert row is not None and row.changed_by.sign_in_name == "bryn"
    act(bryn, "undo")
    assert act(bryn, "undo").status_code == 422 and "nothing to take back" in bryn.page


def test_from_a_set_up_that_was_behind_nothing_is_moved(bryn: Browser) -> None:
    act(bryn, "nudge", key="p1", by_x="5", by_y="0")
    stale = {"act": "nudge", "version": "0", "face": "2", "key": "p1", "by_x": "50", "by_y": "0"}
    assert bryn.post(SET_UP, stale).status_code == 409
    assert "Bryn Tallow moved something in this set-up meanwhile" in bryn.page


def test_a_stop_of_the_set_up_stops_the_wheel_on_every_path(bryn: Browser, demo: Session) -> None:
    act(bryn, "add", name="Blocks 80 × 40 × 30", role="backing")
    bryn.get(SET_UP)
    x, y = (sum(each) / 4 for each in zip(*corners(bryn.page), strict=True))
    act(bryn, "place", key="b3", x_mm=f"{x:.0f}", y_mm=f"{150 - y:.0f}", turn_deg="0")
    bryn.get(SET_UP)
    assert "Block too high" in bryn.page or "Two things in one place" in bryn.page
    refused = bryn.press("TR-101", "pass")
    assert refused.status_code == 422 and "The set-up stops" in bryn.page
    assert "Put it right at Set up" in bryn.page
    assert bryn.press("TR-101", "touch_off", reading="0").status_code == 422
    job = jobs.by_number(demo, "TR-101")
    assert job is not None and job_states.state_of(demo, job).spec.set_up_stops["2"]
    assert act(bryn, "off", key="b3").status_code == 303
    assert bryn.press("TR-101", "pass").status_code == 303


def test_fix_it_puts_it_right(bryn: Browser) -> None:
    assert act(bryn, "strokes", left_mm="4", right_mm="25").status_code == 303
    bryn.get(SET_UP)
    assert "The wheel does not clear the part" in bryn.page and "Fix it: lengthen the strokes" in bryn.page
    act(bryn, "fix", fix="lengthen the strokes", keys="")
    bryn.get(SET_UP)
    assert "The wheel does not clear the part" not in bryn.page
    assert act(bryn, "fix", fix="wish harder", keys="").status_code == 422
    assert act(bryn, "fix", fix="turn the vise", keys="").status_code == 422, "there is no vise to turn"


@pytest.mark.parametrize(
    ("what", "fields", "said"),
    [
        ("dance", {}, "not something the set-up does"),
        ("move", {"key": "b99", "x_mm": "1", "y_mm": "1"}, "no longer on the set-up"),
        ("place", {"key": "p1", "x_mm": "far", "y_mm": "1", "turn_deg": "0"}, "A number is wanted"),
        ("place", {"key": "p1", "x_mm": "1e9", "y_mm": "1", "turn_deg": "0"}, "It has to be from"),
        ("add", {"name": "A stone from the yard"}, "nothing of that name"),
        ("off", {"key": "p1"}, "chosen in the plan"),
        ("strokes", {"left_mm": "900"}, "clears the work by"),
        ("strokes", {"left_mm": "x"}, "length"),
        ("suggest", {"way": "77"}, "no such suggestion"),
    ],
)
def test_what_cannot_be_is_said_and_changes_nothing(
    bryn: Browser, what: str, fields: dict[str, object], said: str
) -> None:
    before = bryn.get(SET_UP).get_data(as_text=True)
    assert act(bryn, what, **fields).status_code == 422
    assert said in bryn.page
    assert corners(bryn.get(SET_UP).get_data(as_text=True)) == corners(before)


def test_only_a_lead_releases_a_caution_and_nobody_a_stop(stranger: Browser) -> None:
    bryn = stranger.sign_in("bryn")
    act(bryn, "settings", nozzle="off")
    bryn.get(SET_UP)
    assert "Nozzle" in bryn.page and "Release it" not in bryn.page
    released = {"entry_id": "release-0001", "face": "2", "item": "nozzle", "reason": "Mist today."}
    assert bryn.post(f"{SET_UP}/waive", released).status_code == 403
    bryn.get("/")
    bryn.post("/sign-out")
    isa = stranger.sign_in("isa")
    isa.get(SET_UP)
    assert "Waive it" in isa.page
    assert isa.post(f"{SET_UP}/waive", released | {"reason": " "}).status_code == 422
    assert isa.post(f"{SET_UP}/waive", released | {"item": "magnet hold"}).status_code == 422
    assert isa.post(f"{SET_UP}/waive", released).status_code == 303
    isa.get(SET_UP)
    assert "Waived by isa: Mist today." in isa.page
    isa.get("/jobs/TR-101/record")
    assert "Waived the caution “nozzle” at the set-up of face 2" in isa.page


def test_an_apprentice_waits_for_a_lead_where_there_is_a_caution(stranger: Browser, demo: Session) -> None:
    nim = stranger.sign_in("nim")
    job = jobs.by_number(demo, "TR-133")
    assert job is not None
    face = job_states.state_of(demo, job).surface
    act(nim, "settings", "TR-133", face=str(face), nozzle="exit")
    nim.press("TR-133", "place", stopped="1")
    refused = nim.press("TR-133", "touch_off", reading="0")
    assert refused.status_code == 422 and "A lead waives it at Set up" in nim.page
    act(nim, "settings", "TR-133", face=str(face), nozzle="entry")
    bryn = nim.press("TR-133", "touch_off", reading="0")
    assert "A lead releases it" not in nim.page and bryn.status_code in (303, 422)


def say(who: Browser, item: str, answer: str = "", job: str = "TR-133", **more: object) -> TestResponse:
    who.get(f"/jobs/{job}/set-up/before")
    if "Not on the chuck yet" in who.page:
        who.press(job, "place", stopped="1")
        who.get(f"/jobs/{job}/set-up/before")
    seen, entry = SEEN.search(who.page), ENTRY.findall(who.page)
    assert seen and entry, who.page
    face = re.search(r'name="face"[^>]*value="(\d)"', who.page)
    assert face
    form = {"item": item, "answer": answer, "seen": seen[1], "entry_id": entry[0], "face": face[1]}
    return who.post(f"/jobs/{job}/set-up/before", form | more)


def test_the_list_before_the_touch_off_holds_up_what_was_felt_to_be_wrong(stranger: Browser) -> None:
    nim = stranger.sign_in("nim")
    nim.get("/jobs/TR-133/set-up/before")
    assert "Not on the chuck yet" in nim.page
    nim.get("/jobs/TR-133/grind")
    seen = SEEN.search(nim.page)
    assert seen is not None
    form = {"item": "guard", "face": "4", "seen": seen[1], "entry_id": "guard-before-it-is-up"}
    assert nim.post("/jobs/TR-133/set-up/before", form).status_code == 422 and "Put it up first" in nim.page
    assert "Warm-up run" in nim.page and "Magnet on, push it" in nim.page
    assert say(nim, "warm up").status_code == 303
    assert say(nim, "stopped").status_code == 303
    assert say(nim, "pushed", "moves").status_code == 303
    nim.get("/jobs/TR-133/set-up/before")
    assert "It is not held" in nim.page and "put right" in nim.page
    nim.press("TR-133", "place", stopped="1")
    for _ in range(3):
        nim.press("TR-133", "done", step="0")
    assert nim.press("TR-133", "touch_off", looks=False, reading="0").status_code == 422
    assert say(nim, "pushed", "flies").status_code == 422 and "not on the list" in nim.page
    assert say(nim, "pushed", "holds").status_code == 303
    assert say(nim, "high side", touch_fl="0.012", touch_bl="0.004", touch_fr="0.01").status_code == 303
    nim.get("/jobs/TR-133/record")
    assert "High side found: high at the front. Indicator: fl 0.012" in nim.page
    assert say(nim, "high side", touch_fl="0.012").status_code == 422 and "both sides" in nim.page


def test_a_set_up_starts_from_the_side_that_was_found_high(stranger: Browser) -> None:
    nim = stranger.sign_in("nim")
    for high, low in (("front", "back"), ("back", "front")):
        touches = {f"touch_{high[0]}l": "0.012", f"touch_{low[0]}l": "0.004"}
        assert say(nim, "high side", **touches).status_code == 303
        nim.get("/jobs/TR-133/set-up/sheet")
        assert f"{high}; magnet" in " ".join(nim.page.split())


def test_what_the_log_knows_is_not_asked_again(stranger: Browser) -> None:
    nim = stranger.sign_in("nim")
    nim.press("TR-133", "place", stopped="1")
    nim.get("/jobs/TR-133/set-up/before")
    assert "run on this machine today" in nim.page, "the warm-up was run for another job"
    assert "seen before it was put up" in nim.page and '<p class="now-word">Wheel stopped</p>' not in nim.page


def test_what_was_not_looked_at_holds_the_touch_off_and_what_does_not_hold_it_is_counted(stranger: Browser) -> None:
    nim = stranger.sign_in("nim")
    nim.press("TR-133", "place", stopped="1")
    nim.get("/jobs/TR-133/grind")
    waits = re.search(r"(\d+) to look at", nim.page)
    assert waits and int(waits[1]) >= 4 and "Guard closed" in nim.page and "Touched off" not in nim.page
    assert nim.press("TR-133", "touch_off", looks=False, reading="0").status_code == 422
    assert "Not looked at yet: " in nim.page and "Guard closed" in nim.page
    nim.look("TR-133")
    nim.get("/jobs/TR-133/grind")
    left = re.search(r"(\d+) not looked at", nim.page)
    assert left and "Touched off" in nim.page
    assert nim.press("TR-133", "touch_off", reading="0").status_code == 303
    nim.get("/jobs/TR-133/grind")
    assert f"{left[1]} not looked at before the touch-off" in nim.page
    nim.get("/jobs/TR-133/set-up/before")
    assert "not looked at before the touch-off" in nim.page and "Ready to touch off" not in nim.page


def test_what_is_well_says_since_when_and_by_whom_and_the_rest_was_not_looked_at(stranger: Browser) -> None:
    nim = stranger.sign_in("nim")
    nim.get("/jobs/TR-133/set-up")
    assert "Not looked at yet:" in nim.page and "guard closed" in nim.page and "The guard is closed." not in nim.page
    for item in ("warm up", "stopped", "wiped", "burrs"):
        say(nim, item)
    nim.get("/jobs/TR-133/set-up")
    assert re.search(r"Hands are clear\. ?<small>[^<]+, Nim Sedge</small>", nim.page), nim.page
    assert "No burrs." in nim.page and "The guard is closed." not in nim.page


def test_what_the_set_up_changes_goes_back_into_the_plan(bryn: Browser) -> None:
    act(bryn, "fix", "TR-120", face="1", fix="turn to 20°", keys="p1")
    bryn.get("/jobs/TR-120/set-up?face=1")
    assert "Take into the plan" in bryn.page and "turned otherwise than planned" in bryn.page.lower()
    bryn.get("/jobs/TR-120/set-up/plan?face=1")
    assert "turned, °" in bryn.page and "What moves" in bryn.page
    assert bryn.post("/jobs/TR-120/set-up/plan", {"face": "1"}).status_code == 303
    bryn.get("/jobs/TR-120/set-up?face=1")
    assert "turned otherwise than planned" not in bryn.page.lower() and "Take into the plan" not in bryn.page


def test_it_prints_as_one_sheet_with_what_is_laid_out(bryn: Browser) -> None:
    assert bryn.get(f"{SET_UP}/sheet?face=3").status_code == 200
    assert (
        "Set-up sheet · face 3 up, face 5 down" in bryn.page
        and "Angle plate P1" in bryn.page
        and "Toolmaker’s clamps" in bryn.page
    )
    assert 'data-thing="' not in bryn.page, "nothing is moved on paper"


def test_the_second_face_of_a_clamping_stands_on_its_own_opposite(isa: Browser) -> None:
    isa.get("/jobs/TR-133/set-up?face=4")
    assert "Face 4 up, face 6 down" in isa.page


def test_blocks_are_kept_in_the_shop_and_found_at_the_set_up(bryn: Browser, demo: Session) -> None:
    block = {
        "name": "Blocks 33", "kind": "block", "length_mm": "33", "width_mm": "20", "height_mm": "10", "count": "2",
        "magnetic": "y", "square_mm": "2 um", "checked_on": "2026-11-01",
    }  # fmt: skip
    assert bryn.post("/shop/accessory/new", block).status_code == 303
    assert bryn.post("/shop/accessory/new", block | {"name": "Blocks 34", "length_mm": "0"}).status_code == 422
    kept = shop.by_name(demo, AccessoryRow, "Blocks 33")
    assert kept is not None and kept.to_core().count == 2
    bryn.get(SET_UP)
    assert "Blocks 33 (33" in bryn.page
    bryn.get("/shop")
    assert "Blocks 33" in bryn.page


def test_a_set_up_takes_as_many_statements_for_many_things_as_for_few(
    bryn: Browser, statements: Callable[[], object]
) -> None:
    asked = []
    bryn.get(SET_UP)  # what is worked out of a map once in a process is at hand from here on
    for _ in range(2):
        with statements() as sent:  # type: ignore[attr-defined]
            bryn.get(SET_UP)
        asked.append(Counter(sent))
        for _ in range(3):
            act(bryn, "add", name="Pins 6")
    few, many = (each.total() for each in asked)
    assert few == many <= 24, (asked[0] - asked[1], asked[1] - asked[0])


def test_the_set_up_of_a_shop_with_nothing_to_block_with(isa: Browser, demo: Session) -> None:
    for row in shop.listed(demo, AccessoryRow):
        demo.delete(row)
    machine = shop.by_name(demo, MachineRow, "No. 1, inch dial")
    assert machine is not None
    demo.flush()
    assert act(isa, "fix", fix="back it up", keys="").status_code == 422
    assert "a block less than" in isa.page, "what is missing is said by size"


def test_a_touch_off_is_checked_against_the_shop_as_it_is_then(stranger: Browser, demo: Session) -> None:
    """What was well when it was laid out is looked at again before the wheel touches."""
    nim = stranger.sign_in("nim")
    act(nim, "suggest", "TR-133", face="4", way="0")
    nim.press("TR-133", "place", stopped="1")
    clamps = shop.by_name(demo, AccessoryRow, "Toolmaker’s clamps")
    job = jobs.by_number(demo, "TR-133")
    assert clamps is not None and job is not None
    clamps.name = "Clamps that were lent out"
    demo.flush()
    assert nim.press("TR-133", "touch_off", reading="0").status_code == 422
    assert "Toolmaker’s clamps is no longer in the shop" in nim.page
    clamps.name = "Toolmaker’s clamps"
    demo.flush()
    nim.press("TR-133", "touch_off", reading="0")
    assert "no longer in the shop" not in nim.page


@pytest.mark.parametrize("job", ["TR-101", "TR-114", "TR-120", "TR-133", "TR-140"])
def test_every_set_up_of_every_job_can_be_opened_with_every_page_of_it(isa: Browser, job: str) -> None:
    beyond = {"TR-114": 10, "TR-133": 12}.get(job, 7)
    for face in range(1, beyond + 1):
        for page in ("", "/before", "/sheet", "/plan"):
            answer = isa.get(f"/jobs/{job}/set-up{page}?face={face}&ways=1")
            nothing = face == beyond or (face > 6 and page == "/plan")
            assert answer.status_code == (404 if nothing else 200), (face, page)


def test_the_wheel_touches_for_the_plan_in_force_not_for_one_that_was_only_kept(bryn: Browser, demo: Session) -> None:
    """A turn that was kept as a new version, and not released, is not what the machine runs."""
    act(bryn, "turn", key="p1", by_deg="20")
    bryn.post(f"{SET_UP}/plan", {"face": "2"})
    bryn.get(SET_UP)
    assert "turned otherwise than planned" not in bryn.page.lower(), "the newest version has it so"
    bryn.press("TR-101", "touch_off", reading="0")
    job = jobs.by_number(demo, "TR-101")
    row = job and set_ups.of(demo, job, "2")
    assert row is not None and "turned otherwise than planned" in row.cautions, "the released one has not"


def test_a_side_that_a_fixture_makes_square_is_suggested_in_fixtures_only(bryn: Browser) -> None:
    bryn.get(f"{SET_UP}?face=3&ways=1")
    ways = re.findall(r'class="setup-way-of"><p><strong>([^<]+)</strong>', bryn.page)
    assert ways and not [way for way in ways if way.startswith("Magnet")]
