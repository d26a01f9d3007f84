"""The headless door: plain answers, and one line naming what is wrong."""

import json
import subprocess
import sys

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zesty_lark.core import headless
from zesty_lark.core.calc import CALCULATIONS, answer, schema
from zesty_lark.core.quantities.angles import dms_text, parse_angle
from zesty_lark.core.quantities.numbers import InputError


@pytest.mark.parametrize("name", CALCULATIONS)
def test_every_calculation_has_a_schema_with_units_and_refuses_an_empty_question(name: str) -> None:
    made = schema(name)
    assert made["input"]["additionalProperties"] is False and made["output"]["properties"]
    for field, content in made["input"]["properties"].items():
        if field.endswith("_mm") and not field.endswith("j_mm"):
            assert content["unit"] == "mm"
    if made["input"].get("required"):
        with pytest.raises(InputError, match="missing"):
            answer(name, {})


@pytest.mark.parametrize(
    ("name", "text", "field"),
    [
        ("edge.break", '{"downfeed_mm": -1}', "downfeed_mm"),
        ("edge.break", '{"downfeed_mm": "x"}', "downfeed_mm"),
        ("edge.break", '{"downfeed_mm": NaN}', "downfeed_mm"),
        ("edge.break", '{"downfeed_mm": 1e999}', "downfeed_mm"),
        ("edge.break", '{"downfeed_mm": true}', "downfeed_mm"),
        ("edge.break", '{"downfeed_mm": 1, "more": 2}', "more"),
        ("edge.break", "[1]", "input"),
        ("edge.break", "{", "input"),
        ("no.such", "{}", "name"),
        ("sine.stack", '{"centres_mm": 100, "angle_deg": "17°75\'"}', "angle_deg"),
        ("sine.stack", '{"centres_mm": 100, "angle_deg": 61}', "angle_deg"),
        ("gauge.stack", '{"target": "1", "unit": "mm"}', "set"),
        ("map.analyse", '{"points": [[0,0,0],[1,1,1],[2,2,2]], "frame": "plate"}', "points"),
        ("map.analyse", '{"points": [[0,0,0],[1,1,1]], "frame": "plate"}', "points"),
        ("wheel.speed", '{"wheel_diameter_mm": 180, "wheel_rpm": 3000}', "marked_max_rpm"),
        ("wheel.marking", '{"text": "hello!"}', "text"),
        (
            "tolerance.chain",
            '{"need_over_mm": 1, "links": [{"name": "a", "limit_um": 1, "kind": "angle"}]}',
            "links.0.over_mm",
        ),
        ("trouble.rank", '{"seen": ["ghosts"]}', "seen"),
        (
            "dial.plan",
            '{"stock_mm": "0.1", "graduation_mm": "0.002", "rough_mm": "0.001", "finish_mm": "0.002", '
            '"finish_passes": 0, "per_rev_mm": "0.5"}',
            "rough_mm",
        ),
    ],
)
def test_bad_input_is_one_line_that_names_the_field(name: str, text: str, field: str) -> None:
    line, wrong = headless.one(name, text.encode())
    assert wrong and line.startswith(f"{field}: ") and "\n" not in line


def test_exact_numbers_travel_as_plain_decimal_text() -> None:
    made = answer("gauge.stack", {"target": "0.00000001", "unit": "mm", "blocks": ["0.00000001"]})
    assert made["sum"] == "0.00000001" and made["exact"] is True


def test_the_batch_answers_each_line_and_goes_on() -> None:
    lines = [
        b'{"name": "edge.break", "input": {"downfeed_mm": 1}}',
        b"nonsense",
        b'{"name": "x", "input": {}}',
        b"",
        b'{"name": "edge.break", "input": {}}',
        b'{"name": "edge.break"}',
    ]
    made = [json.loads(line) for line in headless.batch(lines)]
    assert [("output" in each, each.get("field")) for each in made] == [
        (True, None),
        (False, "input"),
        (False, "name"),
        (False, "downfeed_mm"),
        (False, "input"),
    ]


def test_the_command_answers_and_exits_2_on_bad_input_without_loading_the_web() -> None:
    run = [sys.executable, "-X", "importtime", "-m", "zesty_lark.cli", "calc", "edge.break"]
    good = subprocess.run(run, input='{"downfeed_mm": 0.5}', capture_output=True, text=True)
    assert good.returncode == 0 and json.loads(good.stdout)["flat_mm"] == 1.0
    assert not [name for name in ("flask", "sqlalchemy", "scipy", "weasyprint") if f" {name}\n" in good.stderr]
    bad = subprocess.run(
        [sys.executable, "-m", "zesty_lark.cli", "calc", "edge.break"], input="{}", capture_output=True, text=True
    )
    assert bad.returncode == 2 and bad.stdout == "" and bad.stderr == "downfeed_mm: downfeed_mm is missing\n"


@given(st.integers(-360 * 3600, 360 * 3600))
def test_degrees_minutes_seconds_come_back(seconds: int) -> None:
    text = dms_text(seconds / 3600)
    assert parse_angle(text) == pytest.approx(seconds / 3600, abs=1e-9)


@pytest.mark.parametrize(
    ("text", "degrees"),
    [("17°30'", 17.5), ("17 30 00", 17.5), ("17.5", 17.5), ("85°01'04\"", 85.01777777777778), ("-3°30′", -3.5)],
)
def test_angles_as_people_write_them(text: str, degrees: float) -> None:
    assert parse_angle(text) == pytest.approx(degrees)


def test_seconds_carry() -> None:
    assert dms_text(59.99999999) == "60°00'00\"" and dms_text(11.3133333) == "11°18'48\""
