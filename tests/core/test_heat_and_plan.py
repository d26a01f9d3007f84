"""Heat conserves and converges; a sharper wheel never takes more power; no method beats the best plan."""

import json
import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests import SEARCHES
from zesty_lark.core.calc import answer
from zesty_lark.core.process.evaluate import evaluate
from zesty_lark.core.quantities.numbers import InputError

CONDITION = {
    "wheel_diameter_mm": 180.0,
    "wheel_rpm": 3000.0,
    "table_mm_s": 250.0,
    "depth_mm": 0.02,
    "crossfeed_mm": 1.0,
    "edge_width_mm": 0.5,
    "sharpness": 0.8,
    "coolant": "water",
}
PLATE = {
    "length_mm": 100,
    "width_mm": 50,
    "height_mm": 12,
    "wheel_width_mm": 12.7,
    "crossfeed_mm": 2,
    "table_mm_s": 250,
    "energy_j_mm": 0.8,
    "coolant": "water",
    "cell_mm": 2,
}
ASKED = {
    "part": {"length_mm": 88, "width_mm": 54, "height_mm": 22, "temper_c": 200},
    "stock_mm": "0.2032",
    "tolerance_mm": "0.006",
    "flatness_um": 2,
    "ra_um": 0.8,
    "machine": {
        "downfeed_graduation_mm": "0.00254",
        "crossfeed_graduation_mm": "0.05",
        "crossfeed_min_mm": "0.1",
        "crossfeed_max_mm": "12",
        "table_min_mm_s": 80,
        "table_max_mm_s": 350,
        "reversal_s": 0.3,
        "spindle_w": 1100,
        "cut_ratio": 0.6,
    },
    "wheel": {
        "diameter_mm": 180,
        "width_mm": 12.7,
        "rpm": 3000,
        "grit": 46,
        "grade": "H",
        "leading_chamfer_mm": 0,
        "may_chamfer": True,
    },
    "chuck": {"pull_n_cm2": 80},
    "coolant": "water",
}


def one(**more: object):  # type: ignore[no-untyped-def]
    return evaluate(**(CONDITION | more))  # type: ignore[arg-type]


@given(st.floats(0.3, 3), st.floats(1.01, 3))
def test_a_duller_wheel_takes_more_power_and_runs_hotter(sharpness: float, duller: float) -> None:
    sharp, dull = one(sharpness=sharpness), one(sharpness=sharpness * duller)
    assert dull.power_w > sharp.power_w and dull.surface_temperature_c >= sharp.surface_temperature_c


@given(st.floats(0.002, 0.2), st.floats(0.1, 12), st.floats(50, 400))
def test_more_coolant_is_never_hotter(depth: float, crossfeed: float, table: float) -> None:
    wet, mist, dry = (
        one(depth_mm=depth, crossfeed_mm=crossfeed, table_mm_s=table, coolant=coolant).surface_temperature_c
        for coolant in ("water", "mist", "dry")
    )
    assert wet <= mist <= dry


def test_heat_is_conserved_without_losses_straight_and_skewed() -> None:
    for skew in (0, 25):
        made = answer("grind.heatmap", PLATE | {"chuck_w_m2k": 0, "top_w_m2k": 0, "skew_deg": skew})
        assert made["heat_left_j"] == pytest.approx(made["heat_in_j"], rel=1e-9) and made["heat_in_j"] > 10


def test_the_hollow_converges_and_losses_cool() -> None:
    coarse, fine = (answer("grind.heatmap", PLATE | {"cell_mm": cell, "passes": 2}) for cell in (2, 1))
    assert coarse["hollow_um"] == pytest.approx(fine["hollow_um"], rel=0.1)
    dry = answer("grind.heatmap", PLATE | {"coolant": "dry", "passes": 2, "energy_j_mm": 8})
    assert dry["mean_rise_c"] > 10 * coarse["mean_rise_c"] and dry["wait_s"] > 0
    assert answer("grind.heatmap", PLATE | {"energy_j_mm": 0})["hollow_um"] == 0


def test_a_square_plate_turned_by_a_right_angle_is_the_same_plate() -> None:
    square = PLATE | {"length_mm": 60, "width_mm": 60, "stroke_s": 0.5, "passes": 2, "coolant": "mist"}
    straight, turned, left, right = (
        answer("grind.heatmap", square | {"skew_deg": degrees}) for degrees in (0, 90, 30, -30)
    )
    for figure in ("hollow_um", "mean_rise_c", "heat_in_j", "strokes"):
        assert turned[figure] == pytest.approx(straight[figure], rel=0.05), figure
        assert left[figure] == pytest.approx(right[figure], rel=1e-6), figure
    assert left["strokes"] > straight["strokes"] and left["hollow_um"] > 0


def test_every_stroke_that_touches_the_plate_is_counted() -> None:
    made = answer("grind.heatmap", PLATE | {"passes": 3})
    wheel, crossfeed = PLATE["wheel_width_mm"], PLATE["crossfeed_mm"]
    assert made["strokes"] == 3 * math.ceil((PLATE["width_mm"] + wheel) / crossfeed)  # type: ignore[operator]


def test_a_part_that_is_not_warm_has_no_crown() -> None:
    made = answer("heat.crown", {"length_mm": 200, "height_mm": 20, "mean_rise_c": 0, "pull_n_mm2": 0.5})
    assert made["hollow_um"] == 0 and made["free_crown_um"] == 0


def test_a_crown_is_held_by_a_strong_magnet() -> None:
    weak, strong = (
        answer("heat.crown", {"length_mm": 200, "height_mm": 20, "mean_rise_c": 10, "pull_n_mm2": pull})
        for pull in (0, 5)
    )
    assert weak["hollow_um"] == pytest.approx(weak["free_crown_um"]) and strong["hollow_um"] == 0


def change(**more: object) -> dict[str, object]:
    made = json.loads(json.dumps(ASKED))
    for name, value in more.items():
        group, _, field = name.partition("__")
        if field:
            made[group][field] = value
        else:
            made[group] = value
    return made


@pytest.mark.parametrize(
    "more",
    [
        {},
        {"machine__spindle_w": 370},
        {"coolant": "dry"},
        {"part__temper_c": 500},
        {"stock_mm": "0.05"},
        {"wheel__may_chamfer": False},
        {"wheel__grit": 60, "skew_deg": 20},
        {"temperature_margin": 0.2},
        {"machine__downfeed_graduation_mm": "0.005"},
    ],
)
def test_no_method_within_the_limits_beats_the_best_plan(more: dict[str, object]) -> None:
    question = change(**more)
    plan = answer("pass.optimise", question | {"with_curve": False})["plan"]
    assert plan["within_limits"] and max(plan["used"].values()) <= 1
    graduation = float(question["machine"]["downfeed_graduation_mm"])  # type: ignore[index]
    assert round(plan["downfeed_mm"] / graduation, 9) == round(plan["downfeed_mm"] / graduation)
    assert plan["power_w"] <= question["machine"]["spindle_w"] and plan["hold_safety"] >= 8  # type: ignore[index]
    assert plan["ra_um"] <= 0.8 and plan["hollow_um"] <= 1
    for method in answer("pass.schools", question)["schools"]:
        if method["within_limits"]:
            assert plan["minutes"] <= method["minutes"] + 1e-9, method["method"]
        else:
            assert max(method["used"].values()) > 1 and "breaks" in method["why"]


OTHERS = [{"coolant": "dry"}] if SEARCHES else []


@pytest.mark.parametrize("more", [{}, {"wheel__grit": 60, "skew_deg": 20}, *OTHERS])
def test_more_reserve_never_takes_less_time(more: dict[str, object]) -> None:
    question = change(**more)
    made = answer("pass.optimise", question)
    minutes = [point["minutes"] for point in made["curve"] if point["minutes"] is not None]
    assert minutes == sorted(minutes) and minutes[0] == made["plan"]["minutes"]
    assert answer("pass.optimise", question | {"with_curve": False})["plan"] == made["plan"], (
        "the same question, the same answer"
    )


def test_the_worked_example_stays_where_trials_put_it() -> None:
    times = {each["school"]: each for each in answer("pass.schools", ASKED)["schools"]}
    assert 10 <= times["light"]["minutes"] <= 12 and 7 <= times["all_at_once"]["minutes"] <= 12
    assert 5 <= times["sharp_wide"]["minutes"] <= 11
    assert times["peel"]["minutes"] > 20 and times["auto"]["minutes"] > 20
    assert 4 <= answer("pass.optimise", ASKED | {"with_curve": False})["plan"]["minutes"] <= 7
    soft = {each["school"]: each for each in answer("pass.schools", change(part__temper_c=500))["schools"]}
    assert soft["all_at_once"]["minutes"] < 6


COARSE: dict[str, object] = {
    "machine__crossfeed_graduation_mm": "1",
    "machine__crossfeed_min_mm": "1",
    "machine__table_min_mm_s": 200,
    "machine__table_max_mm_s": 240,
    "stock_mm": "0.05",
}
"""Less to choose from, so that all of it is tried in a moment."""


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"ra_um": 0.01}, "ra_um"),
        ({"machine__spindle_w": 1}, "machine.spindle_w"),
        ({"chuck__pull_n_cm2": 0}, "chuck.pull_n_cm2"),
        ({"stock_mm": "0.001"}, "stock_mm"),
        ({"wheel__grade": "HH"}, "wheel.grade"),
        ({"wheel__grit": 47}, "grit"),
    ],
)
def test_what_nothing_can_meet_is_named(more: dict[str, object], field: str) -> None:
    with pytest.raises(InputError) as error:
        answer("pass.optimise", change(**COARSE | more))
    assert error.value.field == field


@settings(deadline=None, max_examples=5)
@given(st.integers(300, 1500))
def test_more_power_never_takes_longer(watts: int) -> None:
    less, more = (
        answer("pass.optimise", change(machine__spindle_w=power) | {"with_curve": False})["plan"]["minutes"]
        for power in (watts, watts + 200)
    )
    assert more <= less + 1e-9
