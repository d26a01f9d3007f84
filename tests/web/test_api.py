"""The calculations over HTTP: the same answers as the headless door, signed in."""

import pytest

from tests.web.conftest import Browser
from zesty_lark.core.calc import CALCULATIONS, answer


def ask(browser: Browser, name: str, body: object):  # type: ignore[no-untyped-def]
    browser.get("/")
    return browser.client.post(f"/api/calc/{name}", json=body, headers={"X-CSRFToken": browser.token})


def test_the_list_and_a_description(bryn: Browser) -> None:
    assert set(bryn.get("/api/calc").get_json()) == set(CALCULATIONS)
    made = bryn.get("/api/calc/sine.stack").get_json()
    assert made["input"]["properties"]["centres_mm"]["unit"] == "mm" and made["output"]["properties"]["height_mm"]


def test_an_answer_is_the_headless_one(bryn: Browser) -> None:
    given = {"centres_mm": 127, "angle_deg": "17°30'"}
    made = ask(bryn, "sine.stack", given)
    assert made.status_code == 200 and made.get_json() == answer("sine.stack", given)


@pytest.mark.parametrize(
    ("name", "body", "code", "field"),
    [
        ("sine.stack", {"centres_mm": -1, "angle_deg": 5}, 422, "centres_mm"),
        ("sine.stack", [1], 422, "input"),
        ("sine.stack", {"angle_deg": 5}, 422, "centres_mm"),
        ("no.such", {}, 404, "name"),
    ],
)
def test_bad_input_names_the_field(bryn: Browser, name: str, body: object, code: int, field: str) -> None:
    made = ask(bryn, name, body)
    assert made.status_code == code and made.get_json()["field"] == field and made.get_json()["error"]


def test_without_the_token_nothing_is_answered(bryn: Browser) -> None:
    assert bryn.client.post("/api/calc/edge.break", json={"downfeed_mm": 1}).status_code == 400
