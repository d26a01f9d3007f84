"""A whole block and a batch, by keyboard: every face, every characteristic, a face ground again, pieces one a press."""

import re

from tests.browser.conftest import Person
from tests.browser.test_journeys import follow

MOST_TURNS = 80


def main_button(person: Person) -> str:
    return " ".join(person.page.locator(".bar .btn-primary").last.inner_text().split())


def by_collar(person: Person) -> str:
    """What the grind page says the size is by the collar, without its unit."""
    found = re.search(r"([\d.]+)", person.page.locator(".now-left dd").last.inner_text())
    assert found is not None
    return found.group(1)


def read(person: Person, value: str) -> None:
    """Type a reading, tick that the wheel stands, log it."""
    person.fill("reading1", value)
    person.press("Escape", "v", "l")
    person.page.locator(".verdict").wait_for()


def grind_on(person: Person, sizes: dict[str, str]) -> None:
    """Do what the page asks for, whatever it is, until nothing is left but the record; sizes are what the gauge will
    read."""
    for _ in range(MOST_TURNS):
        person.page.goto(f"/jobs/{JOB}/grind")
        asked = main_button(person)
        face = re.search(r"Face (\d)", person.page.locator(".grind-now").inner_text())
        if asked.startswith("P Plan face"):
            person.press("p")
            person.page.wait_for_url("**/plan")
            person.press_once_there("r")
            person.page.wait_for_url("**/grind")
        elif asked.endswith("is done"):
            person.press("d")
            person.page.wait_for_url("**/grind")
        elif asked == "M Measure":
            assert face is not None
            value = sizes.get(face.group(1), by_collar(person) if person.page.locator(".now-left").count() else "")
            person.press("m")
            person.page.wait_for_url("**/measure*")
            if value and not person.page.locator(".verdict").count():
                read(person, value)
            person.press("t" if person.page.locator("button[data-key=t]").count() else "d")
            person.page.wait_for_url(re.compile("/(grind|record)$"))
        elif asked.startswith("M Measure "):
            person.press("m")
            person.page.wait_for_url("**of=*")
            read(person, "0.001")
        elif asked.endswith("To the record"):
            return
        else:
            follow(person)
    raise AssertionError("it asks for ever")


JOB = "TR-170"
PRINT = (
    ("number", JOB),
    ("title", "Spacer"),
    ("length_target", "60"),
    ("length_minus", "0.05"),
    ("length_plus", "0.05"),
    ("length_max", "60.16"),
    ("width_target", "40"),
    ("width_minus", "0.05"),
    ("width_plus", "0.05"),
    ("width_max", "40.16"),
    ("thickness_target", "20"),
    ("thickness_minus", "0.01"),
    ("thickness_plus", "0.01"),
    ("thickness_max", "20.12"),
    ("thickness_min", "20.09"),
    ("parallel_mm", "0.01"),
    ("square_mm", "0.02"),
)


def test_a_block_with_all_six_faces_from_print_to_sign_off_and_one_ground_again(machinist: Person) -> None:
    machinist.sign_in("bryn")
    machinist.press("n")
    machinist.page.wait_for_url("**/take-in")
    for name, words in PRINT:
        machinist.fill(name, words)
    machinist.press("Escape", "s")
    machinist.page.wait_for_url(f"**/{JOB}/plan")
    grind_on(machinist, {"2": "20.006"})
    machinist.page.goto(f"/jobs/{JOB}/faces")
    machinist.press("l")
    machinist.tab_to("what")
    machinist.type("grind face 2")
    machinist.fill("reason", "Burnt at one end.")
    machinist.press("Enter")
    machinist.sees("Face 2 is to be ground again: Burnt at one end.")
    grind_on(machinist, {"2": "20.001"})
    machinist.page.goto(f"/jobs/{JOB}/record")
    told = machinist.page.locator(".story").inner_text()
    for face in range(1, 7):
        assert f"Face {face} done." in told
    lines = machinist.page.locator(".characteristics-list tr").all_inner_texts()
    assert len(lines) == 5 and all("✓ in" in line for line in lines), lines
    inspector = Person(machinist.context.browser, machinist.page.url.split("/jobs")[0], 1280, 800)  # type: ignore[arg-type]
    inspector.sign_in("pell")
    inspector.page.goto(f"/jobs/{JOB}/record")
    inspector.press("s")
    inspector.sees("Signed the part off.")
    inspector.close()


def test_a_batch_takes_a_size_a_press_and_lets_the_good_ones_go(machinist: Person) -> None:
    machinist.sign_in("bryn")
    machinist.page.goto("/jobs/TR-140/measure")
    machinist.press("Escape", "i")
    machinist.page.wait_for_url("**/pieces*")
    machinist.sees("Piece 6: thickness")
    machinist.tab_to("reading3")
    machinist.type("0.50001")
    machinist.press("Escape", "v", "l")
    machinist.page.wait_for_url("**stopped=1*")
    assert (
        machinist.page.locator(".piece-block.in").count() == 5
        and machinist.page.locator(".piece-block.not-yet").count() == 1
    )
    machinist.press("Escape", "b")
    machinist.page.wait_for_url("**/grind")
    machinist.sees("pieces 1–3, 5–6")
    machinist.press("m")
    machinist.page.wait_for_url("**/measure*")
    machinist.press("d")
    machinist.page.wait_for_url("**/grind")
    machinist.sees("Plan what is left")
    machinist.press("p")
    machinist.page.wait_for_url("**/plan")
    machinist.sees("Pieces put up together")
    assert machinist.page.locator("input[name=pieces]").count() == 1
