"""Each method of taking stock off against its own sentence: ranges, dress, finish, and the home it falls back to."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_heat_and_plan import change
from tests.core.test_planner_exact import question_of
from zesty_lark.core.calc import answer
from zesty_lark.core.planning import reasons
from zesty_lark.core.planning import rough as rough_search
from zesty_lark.core.planning.best import best_of, whole_space
from zesty_lark.core.planning.custom import CustomSettings, custom_plan_of
from zesty_lark.core.planning.finish import FinishKind
from zesty_lark.core.planning.methods import MethodResult, methods_of
from zesty_lark.core.planning.plan import every_finish, plan_at
from zesty_lark.core.planning.problem import Problem
from zesty_lark.core.planning.rough import split
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.quantities.units import known_text

GRAIN_46 = 0.370
NEAR = 1e-6


def made(**more: object) -> tuple[Problem, dict[str, MethodResult]]:
    problem = question_of(change(**more))
    return problem, {method.school: method for method in methods_of(problem)}


def whole(mm: float, graduation: float) -> bool:
    return abs(mm / graduation - round(mm / graduation)) < 1e-4


@given(
    st.sampled_from(["0.00254", "0.002", "0.001", "0.005"]),
    st.sampled_from(["0.06", "0.12", "0.2654"]),
    st.sampled_from(["water", "dry"]),
)
def test_every_method_keeps_to_its_own_ranges(graduation: str, stock: str, coolant: str) -> None:
    problem, by = made(machine__downfeed_graduation_mm=graduation, stock_mm=stock, coolant=coolant)
    g, width = float(graduation), problem.wheel.width_mm
    light, once, peel, wide, auto = (by[name] for name in ("light", "all_at_once", "peel", "sharp_wide", "auto"))
    assert all(whole(each.downfeed_mm, g) and each.crossfeed_mm <= 0.9 * width + NEAR for each in by.values())
    assert light.rough_dress == peel.rough_dress == auto.rough_dress == "general"
    assert once.rough_dress == wide.rough_dress == "rough"
    assert light.downfeed_mm <= 0.05 + NEAR and light.crossfeed_mm <= 0.5 + NEAR
    assert light.downfeed_mm >= 0.005 - NEAR or light.downfeed_mm < 0.005 <= light.downfeed_mm + g
    assert once.passes - once.finish_passes == 1 and once.crossfeed_mm <= 1 + NEAR
    assert 0.010 - g < once.finish_step_mm <= 0.015 + NEAR and once.used["finish"] < once.finish_step_mm / 0.0051
    assert peel.downfeed_mm <= max(GRAIN_46 / 2, g) + NEAR and peel.crossfeed_mm <= 3 / 8 * GRAIN_46 + NEAR
    assert peel.finish_crossfeed_mm == pytest.approx(peel.crossfeed_mm)
    assert wide.crossfeed_mm == pytest.approx(problem.snap_crossfeed(0.9 * width))
    assert wide.finish_crossfeed_mm == pytest.approx(problem.snap_crossfeed(width / 4))
    assert auto.crossfeed_mm == pytest.approx(problem.snap_crossfeed(width / 4))
    assert auto.downfeed_mm == pytest.approx(max(1, math.floor(0.005 / g + NEAR)) * g)
    for each in by.values():
        assert each.finish_step_mm <= 0.0051 + NEAR or each is once or each.finish_step_mm <= g + NEAR


@pytest.mark.parametrize(
    ("graduation", "light", "wide", "auto"),
    [("0.00254", 5, 9, 1), ("0.002", 6, 12, 2), ("0.001", 13, 25, 5), ("0.005", 2, 5, 1), ("0.02", 1, 1, 1)],
)
def test_a_method_that_cannot_meet_the_limits_goes_home(graduation: str, light: int, wide: int, auto: int) -> None:
    """With 60 W: 13, 25 and 5 µm in whole graduations, never under one, at the fastest table."""
    problem, by = made(machine__downfeed_graduation_mm=graduation, machine__spindle_w=60, stock_mm="0.2")
    wrong = {name for name, plan in by.items() if not plan.within_limits}
    assert wrong >= {"sharp_wide"}
    for name, graduations in (("light", light), ("sharp_wide", wide), ("auto", auto)):
        if name in wrong:
            assert by[name].downfeed_mm == pytest.approx(graduations * float(graduation)), name
            assert by[name].table_mm_s == problem.speeds[-1]
            assert by[name].why.startswith("At home it breaks the limit on ")
    for name, crossfeed in (("light", 0.4), ("all_at_once", 0.3)):
        if name in wrong:
            assert by[name].crossfeed_mm == pytest.approx(problem.snap_crossfeed(crossfeed)), name


def test_on_a_coarse_dial_a_finish_step_is_one_graduation_and_that_is_said() -> None:
    problem, by = made(machine__downfeed_graduation_mm="0.01", stock_mm="0.2")
    best = best_of(problem)
    assert best.within_limits and best.finish_step_mm == pytest.approx(0.01) and "coarser" in best.caution
    for name in ("light", "auto"):
        assert by[name].used["finish"] <= 1 and "coarser" in by[name].caution
    assert "coarser" not in best_of(made()[0]).caution
    own = custom_plan_of(problem, CustomSettings(0.02, 0.5, 300, 0.0, "general", 1, 0.02))
    assert own.used["finish"] >= 2, "two graduations are too much"


def test_all_at_once_leaves_a_whole_finish_and_only_what_there_is() -> None:
    _, thin = made(stock_mm="0.01016", machine__downfeed_graduation_mm="0.00254")
    assert thin["all_at_once"].finish_step_mm == pytest.approx(0.01016), (
        "four tenths are the finish, nothing is roughed"
    )
    _, five = made(stock_mm="0.0127", machine__downfeed_graduation_mm="0.00254")
    assert five["all_at_once"].finish_step_mm == pytest.approx(0.0127), "one cut of five is quicker than one and four"
    _, thinner = made(stock_mm="0.00508", machine__downfeed_graduation_mm="0.00254")
    assert thinner["all_at_once"].finish_step_mm == pytest.approx(0.00508)


@pytest.mark.parametrize(("grade", "known"), [("A", True), ("Z", True), ("a", True), ("AB", False), ("5", False)])
def test_a_grade_is_one_letter(grade: str, known: bool) -> None:
    if known:
        assert question_of(change(wheel__grade=grade)).wheel.grade == grade
        return
    with pytest.raises(InputError, match="one letter"):
        question_of(change(wheel__grade=grade))


def test_a_machine_with_one_crossfeed_only_has_that() -> None:
    one = {"machine__crossfeed_min_mm": "2", "machine__crossfeed_max_mm": "2", "machine__crossfeed_graduation_mm": "2"}
    assert question_of(change(**one)).crossfeeds == (2.0,)
    with pytest.raises(InputError, match=r"whole graduations up to 0.9 of the wheel.s width \(11.43 mm\)"):
        question_of(change(**one | {"machine__crossfeed_min_mm": "12", "machine__crossfeed_max_mm": "13"}))


def test_a_plan_of_a_finish_alone_has_the_finish_s_margin() -> None:
    """Nothing is roughed, so nothing but the finish is hot."""
    _, by = made(stock_mm="0.00508", machine__downfeed_graduation_mm="0.00254")
    light = by["light"]
    assert light.passes == light.finish_passes and light.within_limits
    assert light.temperature_margin == pytest.approx(1 - light.peak_temperature_c / light.temperature_limit_c, abs=0.02)
    assert light.temperature_margin > 0.3


def test_a_curve_ends_where_no_plan_keeps_so_much_in_hand() -> None:
    dull = {"coolant": "dry", "part__temper_c": 150, "wheel__grade": "N", "wheel__may_chamfer": False}
    coarse = {"machine__downfeed_graduation_mm": "0.01", "machine__crossfeed_min_mm": "1"}
    curve = answer("pass.optimise", change(**dull, **coarse, tolerance_mm="0.03"))["curve"]
    minutes = [point["minutes"] for point in curve]
    assert minutes[-2:] == [None, None] and None not in minutes[:-2] and minutes[:-2] == sorted(minutes[:-2])


def test_why_names_the_one_setting_that_would_change_a_figure_most() -> None:
    problem, by = made()
    light = by["light"]
    settings = CustomSettings(
        max(problem.graduation, light.downfeed_mm * 0.8),
        light.crossfeed_mm,
        light.table_mm_s,
        light.leading_chamfer_mm,
        light.rough_dress,
        light.finish_passes,
        light.finish_step_mm,
    )
    less = custom_plan_of(problem, settings)
    told = reasons.reason(problem, light, "power").changes_most
    assert told.startswith(f"A fifth less downfeed: {known_text(less.power_w, 0.25)} instead of "), told
    assert reasons.reason(problem, light, "temperature").changes_most.startswith("A rough dress: ")
    told = reasons.reason(problem, by["sharp_wide"], "minutes").changes_most
    assert "but then temperature and power would be over the limit" in told


@given(st.integers(0, 60), st.integers(1, 70))
def test_graduations_are_shared_out_whole_and_the_odd_ones_come_first(rough: int, downfeed: int) -> None:
    passes, first, step = split(rough, downfeed)
    assert first + step * (passes - 1) == rough if passes else rough == 0
    assert step <= downfeed and (passes == 0 or 1 <= first <= step)
    assert passes == -(-rough // downfeed), "as few passes as that downfeed allows"


def test_no_plan_is_quicker_than_the_time_that_none_can_beat() -> None:
    problem = question_of(change(stock_mm="0.0254", machine__table_min_mm_s=330))
    space = whole_space(problem)
    kinds = every_finish(problem)
    for kind in (*kinds[:4], *(each for each in kinds if each.total == problem.graduations)):
        least = rough_search._least_minutes(problem, space, kind)
        for crossfeed in (problem.crossfeeds[0], problem.crossfeeds[-1]):
            for downfeed in (1, problem.graduations):
                plan = plan_at(problem, "rough", downfeed, crossfeed, table=problem.speeds[-1], chamfer=0.0, kind=kind)
                assert least <= plan.minutes + 1e-9
        assert least > 0


@pytest.mark.parametrize(("ratio", "words"), [(0.9, "1 spark-out pass after"), (0.3, " spark-out passes after")])
def test_blanks_are_counted_in_words(ratio: float, words: str) -> None:
    problem, by = made(machine__cut_ratio=ratio, tolerance_mm="0.004", part__height_mm=6)
    assert words in reasons.reason(problem, by["light"], "left").numbers


def test_a_finish_that_takes_more_than_there_is_has_no_roughing() -> None:
    problem = question_of(change(stock_mm="0.00508"))
    space = whole_space(problem)
    assert len(rough_search._steps(problem, space, FinishKind(3, 1))) == 0
    assert rough_search._steps(problem, space, FinishKind(2, 1)).tolist() == [[0, 0, 0]]
