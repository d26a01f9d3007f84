"""A set-up from the suggestion to the touch-off: by the keyboard alone, and by pointing."""

import re

import pytest

from tests.browser.conftest import Person


def version(person: Person) -> int:
    return int(person.page.locator("#setup input[name=version]").first.input_value())


def kept_after(person: Person, before: int) -> None:
    """Wait until the set-up shows what was kept after a version."""
    person.page.wait_for_function(
        "before => Number(document.querySelector('#setup input[name=version]').value) > before", arg=before
    )


def open_set_up(person: Person, job: str, face: str = "") -> None:
    person.page.goto(f"/jobs/{job}/record")
    person.press("4")
    person.page.locator("#setup").wait_for()
    if face:
        person.page.get_by_role("link", name=face, exact=True).press("Enter")
        person.page.locator(f".setup-set-ups [aria-current=page]:text-is('{face}')").wait_for()


@pytest.mark.parametrize(
    ("job", "face"), [("TR-101", "Face 3 and 4"), ("TR-101", "Face 5"), ("TR-114", ""), ("TR-120", ""), ("TR-140", "")]
)
def test_a_set_up_is_laid_out_from_the_suggestion_by_keyboard(machinist: Person, job: str, face: str) -> None:
    machinist.be("isa")
    open_set_up(machinist, job, face)
    machinist.press("s")
    machinist.sees("Suggested, the best first")
    box = machinist.page.get_by_role("button", name="Lay it out so").first.bounding_box()
    assert box and box["y"] + box["height"] <= 730, "the first suggestion’s key is on the screen"
    before = version(machinist)
    machinist.press("Shift+1")
    kept_after(machinist, before)
    machinist.there(".setup-well")
    assert machinist.page.locator(".setup-plan .setup-piece").count() == (6 if job == "TR-140" else 1)
    main = machinist.page.locator(".setup-bar .btn-primary").bounding_box()
    assert main and main["y"] + main["height"] <= 800, "the next action is on the screen"


def test_a_block_is_chosen_moved_turned_and_taken_off_by_keys(machinist: Person) -> None:
    machinist.be("isa")
    open_set_up(machinist, "TR-101", "Face 6")
    before = version(machinist)
    machinist.press("a")
    assert machinist.page.evaluate("document.activeElement.name") == "name", "the key leads to its first field"
    machinist.type("Blocks")
    machinist.press("Tab", "Tab", "Enter")
    kept_after(machinist, before)
    chosen = machinist.page.locator("#setup").get_attribute("data-chosen")
    assert chosen and chosen.startswith("b")
    along = machinist.page.locator(".setup-place input[name=x_mm]").first
    x = float(along.input_value())
    for key, step in (("ArrowRight", 1), ("Shift+ArrowRight", 10)):
        before = version(machinist)
        machinist.press(key)
        kept_after(machinist, before)
        x += step
        assert float(along.input_value()) == pytest.approx(x)
    for key in ("r", "l", "Delete"):
        before = version(machinist)
        machinist.press(key)
        kept_after(machinist, before)
    assert machinist.page.locator(f"[data-thing={chosen}]").count() == 0
    before = version(machinist)
    machinist.press("u")
    kept_after(machinist, before)
    assert machinist.page.locator(f"[data-thing={chosen}]").count() == 1, "taken back"


def test_a_thing_is_dragged_and_snaps_to_the_edge(machinist: Person) -> None:
    machinist.be("isa")
    open_set_up(machinist, "TR-101", "Face 5")
    piece = machinist.page.locator("[data-thing=p1] .setup-outline")
    chuck = machinist.page.locator(".setup-plan .setup-chuck")
    box, edge = piece.bounding_box(), chuck.bounding_box()
    assert box and edge
    mouse, before = machinist.page.mouse, version(machinist)
    mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    mouse.down()
    mouse.move(edge["x"] + box["width"] / 2 + 1.5, box["y"] + box["height"] / 2, steps=8)
    mouse.up()
    kept_after(machinist, before)
    points = piece.get_attribute("points")
    assert points
    assert min(float(part.split(",")[0]) for part in points.split()) == pytest.approx(0.0), "it went to the edge"
    machinist.sees("Fix it")
    before = version(machinist)
    machinist.press("f")
    kept_after(machinist, before)


def test_the_list_before_the_touch_off_by_keyboard(machinist: Person) -> None:
    machinist.be("isa")
    machinist.page.goto("/jobs/TR-133/grind")
    machinist.tick_before_placing()
    machinist.press("d")
    machinist.sees("Look at the set-up")
    machinist.press("d")
    said = machinist.tick_off()
    assert (
        said[0] in ("Warm-up run", "Wiped, stoned, felt")
        and "Wheel stopped" not in said
        and "Magnet on, push it" in said
        and said[-1] == "High side found"
    )
    machinist.sees("Ready to touch off")
    times = machinist.page.locator(".before-state").all_inner_texts()
    assert all(re.fullmatch(r"\d\d:\d\d", time) for time in times), times
