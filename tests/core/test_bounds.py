"""The work of every calculation is bounded before it starts; and every line of a batch is answered."""

import io
import json
from copy import deepcopy
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_heat_and_plan import change
from zesty_lark.core import calc, headless
from zesty_lark.core.quantities.numbers import InputError, refuse_work

PLAN: dict[str, Any] = change()
HEAT = {
    "length_mm": 150,
    "width_mm": 60,
    "height_mm": 8,
    "wheel_width_mm": 20,
    "crossfeed_mm": 2,
    "table_mm_s": 200,
    "energy_j_mm": 1,
    "coolant": "dry",
}
DIAL = {
    "stock_mm": "0.2",
    "graduation_mm": "0.002",
    "rough_mm": "0.02",
    "finish_mm": "0.002",
    "finish_passes": 2,
    "per_rev_mm": "1",
}
WEAR = {
    "wheel_diameter_mm": 200,
    "wheel_width_mm": 20,
    "crossfeed_mm": 1,
    "work_length_mm": 100,
    "work_width_mm": 50,
    "depth_mm": 0.01,
    "passes": 5,
    "g_ratio": 15,
}
NEST = {
    "length_mm": 60,
    "width_mm": 30,
    "height_mm": 20,
    "quantity": 12,
    "chuck_length_mm": 450,
    "chuck_width_mm": 150,
    "wheel_width_mm": 20,
    "rough_passes": 5,
    "finish_passes": 2,
    "spark_outs": 1,
    "crossfeed_mm": 3,
    "finish_crossfeed_mm": 2,
    "table_mm_s": 200,
    "finish_table_mm_s": 200,
    "reversal_s": 0.3,
}
USUAL = {"grind.heatmap": HEAT, "dial.plan": DIAL, "wheel.wear": WEAR, "nest.layout": NEST, "pass.schools": PLAN}


def changed(request: dict[str, Any], path: str, value: object) -> dict[str, Any]:
    made = deepcopy(request)
    *way, last = path.split(".")
    at = made
    for each in way:
        at = at[each]
    at[last] = value
    return made


@pytest.mark.parametrize("name", USUAL)
def test_what_is_usual_is_answered(name: str) -> None:
    assert calc.answer(name, USUAL[name])


@pytest.mark.parametrize(
    ("name", "path", "value"),
    [
        ("grind.heatmap", "passes", 1_000_000),
        ("grind.heatmap", "crossfeed_mm", 1e-9),
        ("grind.heatmap", "width_mm", 1e9),
        ("grind.heatmap", "width_mm", 9999.0),
        ("grind.heatmap", "cell_mm", 0.001),
        ("dial.plan", "stock_mm", "9999999"),
        ("dial.plan", "stock_mm", "0.1e-999999"),
        ("dial.plan", "stock_mm", "0." + "1" * 5000),
        ("pass.schools", "machine.table_max_mm_s", 1e11),
        ("pass.schools", "machine.table_max_mm_s", 4999.0),
        ("pass.schools", "machine.crossfeed_graduation_mm", "0.0000001"),
        ("pass.schools", "machine.crossfeed_graduation_mm", "0.0001"),
        ("pass.schools", "machine.crossfeed_min_mm", "11.5"),
        ("pass.schools", "machine.crossfeed_min_mm", "13"),
        ("pass.schools", "machine.downfeed_graduation_mm", "0.0000001"),
        ("pass.schools", "stock_mm", "99999"),
        ("pass.schools", "part.width_mm", 1e11),
        ("nest.layout", "quantity", 1_000_000),
        ("wheel.wear", "passes", 1_000_000),
        ("wheel.wear", "crossfeed_mm", 1e-9),
    ],
)
def test_what_asks_for_too_much_is_refused_by_its_field(name: str, path: str, value: object) -> None:
    request = changed(USUAL[name], path, value)
    if name == "nest.layout":
        request |= {"length_mm": 1, "width_mm": 1, "gap_mm": 0.0}
    with pytest.raises(InputError) as refused:
        calc.answer(name, request)
    assert str(refused.value) and refused.value.field


@pytest.mark.parametrize("name", [*USUAL, "pass.optimise", "pass.plan"])
def test_the_most_work_is_said_in_the_schema(name: str) -> None:
    most = calc.schema(name)["most_work"]
    assert most and all(number > 0 for number in most.values())


def test_a_face_narrower_than_any_stroke_still_wears_the_wheel() -> None:
    assert calc.answer("wheel.wear", WEAR | {"work_width_mm": 1e-12})["strokes"] == 5


@given(count=st.floats(allow_nan=True, allow_infinity=True), most=st.floats(1, 1e9))
def test_work_is_refused_when_it_is_more_or_no_number(count: float, most: float) -> None:
    try:
        refuse_work("passes", count, most, "passes")
    except InputError as error:
        assert not count <= most and "nan" not in str(error).replace("passes", "") or count != count
    else:
        assert count <= most


def test_no_answer_is_beyond_any_number() -> None:
    for value in (float("inf"), float("nan"), [1.0, {"x": float("-inf")}]):
        with pytest.raises(InputError):
            calc._plain({"answer": value})


LINES = st.one_of(
    st.binary(max_size=200),
    st.sampled_from(
        [
            b"[" * 100_000,
            b'{"name": "dial.plan", "input": ' + b"[" * 50_000,
            b'{"name": "edge.break", "input": {"\\ud800": 1}}',
            b'{"name": "\\ud800", "input": {}}',
            b'{"name": ["dial.plan"], "input": {}}',
            b'{"name": "dial.plan", "input": {"stock_mm": ' + b"9" * 10_000 + b"}}",
            b"\xff\xfe{}",
            b"x" * 2_100_000,
        ]
    ),
)


@settings(deadline=None, max_examples=60)
@given(lines=st.lists(LINES, max_size=5))
def test_a_batch_answers_every_line_whatever_is_in_it(lines: list[bytes]) -> None:
    good = json.dumps({"name": "edge.break", "input": {}}).encode()
    asked = [line.replace(b"\n", b" ") for line in lines] + [good]
    answers = list(headless.batch(headless.lines_of(io.BytesIO(b"\n".join(asked)))))
    assert len(answers) == sum(bool(line.strip()) for line in asked)
    assert all(set(json.loads(answer)) <= {"output", "error", "field"} for answer in answers)
