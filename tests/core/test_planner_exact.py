"""The planner's search against trying everything, and its answer against the formulas it is made of."""

import json
import math
import random
from collections.abc import Iterator
from decimal import Decimal

import numpy as np
import pytest
from hypothesis import event, given
from hypothesis import strategies as st

from tests.core.test_heat_and_plan import change
from zesty_lark.core.calc import _request, answer
from zesty_lark.core.measure.maps.feather import cleaned
from zesty_lark.core.planning import best, cutting, finish, finishes, passes, wearing
from zesty_lark.core.planning.custom import CustomSettings, custom_plan_of
from zesty_lark.core.planning.dresses import dressed_before
from zesty_lark.core.planning.finish_search import every
from zesty_lark.core.planning.kernel import side_flow_table
from zesty_lark.core.planning.means import PlanQuestion
from zesty_lark.core.planning.methods import methods_of
from zesty_lark.core.planning.plan import Plan, every_finish, plan_at
from zesty_lark.core.planning.problem import Problem, problem_of
from zesty_lark.core.process.evaluate import evaluate, fluid_of, heat_limit
from zesty_lark.core.process.finish import roughness
from zesty_lark.core.process.holding import hold_check, hold_fixture
from zesty_lark.core.process.springs import kept_share, overlaps_of
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.wheel.dressing import DRESSES

SMALL: dict[str, object] = {
    "machine__crossfeed_min_mm": "0.5",
    "machine__crossfeed_graduation_mm": "1.5",
    "machine__crossfeed_max_mm": "8",
    "machine__table_min_mm_s": 340,
    "stock_mm": "0.03048",
    "machine__downfeed_max_mm": "0.02",
}
CASES = [
    {},
    {"coolant": "dry"},
    {"part__temper_c": 500},
    {"wheel__grade": "N"},
    {"stock_mm": "0.02032"},
    {"machine__cut_ratio": 0.35, "dress_minutes": 0},
    {"temperature_margin": 0.23, "power_share": 0.77},
]


def question_of(made: dict[str, object]) -> Problem:
    asks = _request("pass.schools").model_validate_json(json.dumps(made))
    return problem_of(PlanQuestion(**{name: getattr(asks, name) for name in type(asks).model_fields}))


def every_plan(problem: Problem) -> Iterator[Plan]:
    for kind in every_finish(problem):
        rough = problem.graduations - kind.total
        downfeeds = sorted({-(-rough // passes) for passes in range(1, rough + 1)}) or [0]
        for downfeed in downfeeds:
            for crossfeed in problem.crossfeeds:
                for table in problem.speeds:
                    for chamfer in problem.chamfers():
                        yield plan_at(problem, "rough", downfeed, crossfeed, table=table, chamfer=chamfer, kind=kind)


@pytest.mark.parametrize("more", CASES)
def test_the_best_plan_is_the_best_of_all(more: dict[str, object]) -> None:
    problem = question_of(change(**(SMALL | more)))
    fitting = [plan.minutes for plan in every_plan(problem) if plan.within_limits]
    found = best.best_of(problem)
    assert found is not None and found.minutes <= min(fitting) + 1e-9
    alone = best.best_plan(problem, best.whole_space(problem))
    assert alone is not None and alone.minutes == pytest.approx(min(fitting), abs=1e-9)


def test_every_point_of_the_curve_is_the_shortest() -> None:
    made = change(**SMALL)
    for point in answer("pass.optimise", made)["curve"][1:]:
        problem = question_of(made).with_margin(point["temperature_margin"])
        tried = (*every_plan(problem), *methods_of(problem))
        fitting = [plan.minutes for plan in tried if plan.within_limits]
        assert point["minutes"] == (pytest.approx(min(fitting), abs=1e-9) if fitting else None)


@pytest.mark.parametrize(
    "more",
    [
        *CASES[:4],
        {"machine__downfeed_graduation_mm": "0.001", "stock_mm": "0.12"},
        {"part__length_mm": 240, "part__width_mm": 38, "machine__feed_every": "pair"},
    ],
)
def test_no_settings_of_one_s_own_within_the_limits_beat_the_best(more: dict[str, object]) -> None:
    problem, chance = question_of(change(**more)), random.Random(7)
    least = best.best_of(problem).minutes
    widest = float(problem.crossfeed_range()[1] * problem.machine.crossfeed_graduation_mm)
    fitting = 0
    for _ in range(150):
        own = CustomSettings(
            chance.uniform(problem.graduation, 0.15),
            chance.uniform(0.1, widest),
            chance.uniform(80, 350),
            chance.choice(problem.chamfers()),
            chance.choice(["rough", "general"]),
            chance.choice([None, 1, 2, 3, 5, 10]),
            chance.choice([None, problem.graduation]),
        )
        plan = custom_plan_of(problem, own)
        fitting += plan.within_limits
        assert not plan.within_limits or plan.minutes >= least - 1e-9, own
    assert fitting > 3


@pytest.mark.parametrize(
    "more", [*CASES[:4], {"machine__cut_ratio": 0.2}, {"machine__cut_ratio": 0.35, "coolant": "mist"}]
)
@pytest.mark.parametrize("left_um", [0, 3, 20])
def test_the_finish_is_the_quickest_of_all(more: dict[str, object], left_um: float) -> None:
    problem = question_of(change(**(SMALL | more)))
    for kind in every_finish(problem)[:6]:
        grid, found = finish.grid_of(problem, kind), finishes.best_finish(problem, kind, left_um / 1000)
        tried = (finish.described(problem, kind, left_um / 1000, place) for place in range(grid.seconds.size))
        fitting = [each.minutes for each in tried if each.worst <= 1]
        assert (found.worst <= 1) == bool(fitting) and (not fitting or found.minutes == pytest.approx(min(fitting)))


@pytest.mark.parametrize("more", [{}, {"coolant": "dry"}, {"part__temper_c": 500, "machine__cut_ratio": 0.4}])
def test_a_plan_s_figures_are_the_formulas_own(more: dict[str, object]) -> None:
    """The hottest place, its limit, the roughness and the springs, worked out again one by one."""
    problem = question_of(change(**more))
    plan = best.best_of(problem)
    hot = evaluate(
        wheel_diameter_mm=180,
        wheel_rpm=3000,
        table_mm_s=plan.hottest_table_mm_s,
        depth_mm=plan.hottest_depth_mm,
        crossfeed_mm=plan.hottest_crossfeed_mm,
        edge_width_mm=plan.hottest_edge_mm,
        sharpness=plan.hottest_sharpness,
        coolant=problem.coolant,
    )
    limit = heat_limit(
        temper_c=problem.part.temper_c, contact_ms=1000 * hot.contact_length_mm / plan.hottest_table_mm_s
    )
    assert plan.peak_temperature_c == pytest.approx(hot.surface_temperature_c, rel=1e-6)
    assert plan.temperature_limit_c == pytest.approx(limit.limit_c, rel=1e-6)
    assert plan.temperature_margin == pytest.approx(1 - hot.surface_temperature_c / limit.limit_c, rel=1e-6)
    dress = DRESSES[plan.finish_dress]
    ra = roughness(
        lead_mm=0.8 / dress.overlap,
        dress_depth_mm=dress.depth_mm,
        equivalent_chip_um=plan.finish_chip_um,
        wheel_width_mm=12.7,
        crossfeed_mm=plan.finish_crossfeed_mm,
    ).ra_um
    assert plan.ra_um == pytest.approx(ra, rel=1e-9)
    g = problem.graduation
    passes = [{"step_mm": step * g, "crossfeed_mm": plan.crossfeed_mm} for step in plan.rough_steps]
    passes += [{"step_mm": 0, "crossfeed_mm": plan.crossfeed_mm}] * plan.spark_outs
    held = (
        answer("pass.left", {"cut_ratio": problem.machine.cut_ratio, "wheel_width_mm": 12.7, "passes": passes})[
            "left_um"
        ][-1]
        if passes
        else 0.0
    )
    last = [{"step_mm": step * g, "crossfeed_mm": plan.finish_crossfeed_mm} for step in plan.finish_steps]
    last += [{"step_mm": 0, "crossfeed_mm": plan.finish_crossfeed_mm}] * plan.finish_spark_outs
    left = answer(
        "pass.left",
        {
            "cut_ratio": problem.machine.cut_ratio,
            "wheel_width_mm": 12.7,
            "passes": last,
            "left_mm": math.ceil(held / 0.5 - 1e-6) * 0.0005,
        },
    )["left_um"][-1]
    assert plan.left_um == pytest.approx(left, rel=1e-6, abs=1e-9)
    assert sum(plan.rough_steps) + sum(plan.finish_steps) == problem.graduations


@pytest.mark.parametrize(
    ("material", "surface", "gap"), [(1.0, 1.0, 0), (0.8, 1.0, 0), (0.6, 0.8, 0), (0.5, 0.5, 0.05)]
)
def test_the_hold_is_what_the_material_the_face_and_the_gap_let_through(
    material: float, surface: float, gap: float
) -> None:
    chuck = {"pull_n_cm2": 80, "material_factor": material, "surface_factor": surface, "gap_mm": gap}
    made = change(part__length_mm=60, part__width_mm=40, part__height_mm=20, chuck=chuck, machine__spindle_w=600)
    plan = answer("pass.optimise", made | {"with_curve": False})["plan"]
    force = plan["power_w"] / (math.pi * 180 * 3000 / 60_000)
    held = hold_check(
        contact_mm2=2400,
        length_along_mm=60,
        height_mm=20,
        thickness_mm=20,
        span_across_poles_mm=40,
        tangential_n=force,
        normal_n=force / 0.4,
        weight_n=48_000 * 7800e-9 * 9.81,
        material_factor=material,
        surface_factor=surface,
        gap_mm=gap,
        width_across_mm=40,
    )
    assert plan["hold_safety"] == pytest.approx(
        min(held.slide_safety, held.tip_safety, held.tip_safety_across or 99), rel=1e-6
    )
    assert plan["hold_safety"] >= 8


def test_the_figures_of_a_block_at_one_power() -> None:
    """Slide safety of a 60 × 40 × 20 block at 22.45 N: what each material lets the magnet hold."""
    held = {
        factor: hold_check(
            contact_mm2=2400,
            length_along_mm=60,
            height_mm=20,
            thickness_mm=20,
            span_across_poles_mm=40,
            tangential_n=22.45,
            normal_n=22.45 / 0.4,
            weight_n=48_000 * density * 9.81e-9,
            material_factor=factor,
            width_across_mm=40,
        )
        for factor, density in ((1.0, 7800), (0.8, 7800), (0.6, 7200), (0.5, 7750), (0.0, 8000))
    }
    least = {
        factor: round(min(each.slide_safety, each.tip_safety, each.tip_safety_across or 99), 1)
        for factor, each in held.items()
    }
    assert least == {1.0: 13.2, 0.8: 10.7, 0.6: 8.1, 0.5: 6.8, 0.0: 0.3}
    assert [each.advice for each in held.values()] == ["fine", "fine", "fine", "block", "stop"]


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"chuck": {"material_factor": 0}}, "chuck.material_factor"),
        ({"part__length_mm": 38, "part__width_mm": 4.2, "part__height_mm": 240}, "chuck"),
        ({"wheel__width_mm": 0.1}, "machine.crossfeed_min_mm"),
    ],
)
def test_what_cannot_be_held_or_fed_is_no_plan(more: dict[str, object], field: str) -> None:
    for name in ("pass.optimise", "pass.schools"):
        with pytest.raises(InputError) as error:
            answer(name, change(**more))
        assert error.value.field == field


def test_a_tall_strip_is_planned_in_a_fixture_or_between_blocks_and_never_for_hours() -> None:
    tall = {"part__length_mm": 38, "part__width_mm": 4.2, "part__height_mm": 240, "wheel__width_mm": 12.7}
    fixture = {"base_length_mm": 150, "base_width_mm": 100}
    held = answer("pass.optimise", change(**tall, chuck=fixture) | {"with_curve": False})["plan"]
    blocked = answer("pass.optimise", change(**tall, blocked=True) | {"with_curve": False})["plan"]
    assert held["minutes"] < 30 and blocked["minutes"] < 30 and held["hold_safety"] >= 4
    weak = answer(
        "pass.optimise", change(**tall, chuck=fixture | {"clamps": 1, "clamp_n": 60}) | {"with_curve": False}
    )["plan"]
    assert weak["power_w"] < held["power_w"], "a weak clamp is the weakest link"


def test_depth_goes_over_the_machine_s_largest_downfeed_only_where_a_method_lives_on_it() -> None:
    made = change(part__temper_c=500, machine__downfeed_max_mm="0.02")
    methods = {each["school"]: each for each in answer("pass.schools", made)["schools"]}
    assert methods["all_at_once"]["downfeed_mm"] > 0.02 and "lives on depth" in methods["all_at_once"]["caution"]
    assert all(methods[name]["downfeed_mm"] <= 0.02 for name in ("light", "sharp_wide", "auto"))
    own = answer("pass.plan", made | {"downfeed_mm": 0.05, "crossfeed_mm": 2, "table_mm_s": 200})["plan"]
    assert not own["within_limits"] and own["used"]["downfeed"] > 1 and "largest downfeed" in own["caution"]
    assert answer("pass.optimise", change(coolant="dry") | {"with_curve": False})["plan"]["downfeed_mm"] <= 0.05


def test_the_reserve_holds_when_heat_and_power_are_estimated_a_third_low() -> None:
    plan = answer("pass.optimise", change(temperature_margin=0.23, power_share=0.77) | {"with_curve": False})["plan"]
    assert plan["temperature_margin"] >= 0.23 and plan["power_w"] <= 0.77 * 1100 + 1e-6
    whole = answer("pass.optimise", change() | {"with_curve": False})["plan"]
    assert whole["minutes"] <= plan["minutes"]


def test_crossfeeds_stay_under_nine_tenths_of_the_wheel_and_a_finish_under_a_third() -> None:
    problem = question_of(change())
    assert max(problem.crossfeeds) <= 0.9 * 12.7
    plan = best.best_of(problem)
    assert plan.finish_crossfeed_mm <= 12.7 / 3 + 1e-9
    with pytest.raises(InputError, match="0.9 of the wheel"):
        custom_plan_of(problem, CustomSettings(0.01, 11.8, 200))


def test_the_hollow_is_the_heat_map_s_and_within_half_of_the_flatness() -> None:
    for flat in (2.0, 0.3, 0.15):
        problem = question_of(change(flatness_um=flat, coolant="mist"))
        plan = best.best_of(problem)
        drawn = answer(
            "grind.heatmap",
            {
                "length_mm": 88,
                "width_mm": 54,
                "height_mm": 22,
                "wheel_width_mm": 12.7,
                "crossfeed_mm": plan.finish_crossfeed_mm,
                "table_mm_s": plan.finish_table_mm_s,
                "energy_j_mm": plan.finish_energy_j_mm,
                "coolant": "mist",
                "passes": min(plan.finish_passes, 6),
                "reversal_s": 0.3,
                "cell_mm": 3,
            },
        )
        assert plan.hollow_um == pytest.approx(drawn["hollow_um"], rel=1e-6) and plan.hollow_um <= flat / 2


def test_a_wheel_is_dressed_again_as_often_as_the_plan_counts() -> None:
    problem = question_of(change(wheel__grade="F", stock_mm="0.4"))
    for plan in (best.best_of(problem), custom_plan_of(problem, CustomSettings(0.0127, 4.0, 300))):
        assert len(dressed_before(problem, plan)) == plan.dresses - 1 - (1 if plan.rough_passes else 0)
    assert dressed_before(problem, custom_plan_of(problem, CustomSettings(0.0127, 4.0, 300)))


def test_what_is_left_after_a_measurement_is_finished_not_roughed() -> None:
    problem = question_of(change(stock_mm="0.0178"))
    plan = best.finish_only(problem)
    assert plan.rough_passes == 0 and sum(plan.finish_steps) == problem.graduations == 7 and plan.dresses == 1
    assert plan.finish_steps == (1, 2, 2, 2) and plan.within_limits


def test_the_feather_line_is_the_same_however_the_points_are_given() -> None:
    """As a grid, shuffled, and against the share worked out by chance."""
    chance = np.random.default_rng(8)
    x, y = (each.ravel() for each in np.meshgrid(np.arange(30.0), np.arange(20.0)))
    z, depths = 0.3 * x - 0.2 * y, np.linspace(0, 13, 40)
    grid = cleaned(x, y, z, depths)
    order = chance.permutation(x.size)
    shuffled = cleaned(x[order], y[order], z[order], depths)
    assert np.allclose(grid[0], shuffled[0]) and np.allclose(grid[1], shuffled[1])
    px, py = chance.uniform(0, 29, 200_000), chance.uniform(0, 19, 200_000)
    above = z.max() - (0.3 * px - 0.2 * py)
    share = np.array([(above <= depth).mean() for depth in depths])
    assert np.allclose(grid[0], share, atol=0.005)
    assert grid[1][-1] == pytest.approx((z.mean() - (z.max() - 13)) * 29 * 19 / 1000, rel=1e-6)


@pytest.mark.parametrize(
    "more", [{}, {"coolant": "dry"}, {"part__temper_c": 500, "machine__cut_ratio": 0.4}, {"machine__spindle_w": 370}]
)
def test_a_plan_s_time_and_heat_add_up_from_its_passes(more: dict[str, object]) -> None:
    """Strokes at their speed, reversals and dresses are the minutes; the last pass warms the part by its power and
    time."""
    problem = question_of(change(**more))
    plan = best.best_of(problem)

    def minutes(passes: int, crossfeed: float, table: float) -> float:
        return passes * problem.strokes(crossfeed) * (problem.stroke / table + problem.machine.reversal_s) / 60

    grinding = minutes(plan.rough_passes + plan.spark_outs, plan.crossfeed_mm, plan.table_mm_s) + minutes(
        plan.finish_passes + plan.finish_spark_outs, plan.finish_crossfeed_mm, plan.finish_table_mm_s
    )
    assert plan.minutes == pytest.approx(grinding + plan.dresses * problem.dress_minutes, rel=1e-9)
    assert plan.strokes == (plan.rough_passes + plan.spark_outs) * problem.strokes(plan.crossfeed_mm) + (
        plan.finish_passes + plan.finish_spark_outs
    ) * problem.strokes(plan.finish_crossfeed_mm)
    assert plan.worn_share <= 1 and plan.dresses >= (2 if plan.rough_passes else 1)
    last = evaluate(
        wheel_diameter_mm=180,
        wheel_rpm=3000,
        table_mm_s=plan.finish_table_mm_s,
        depth_mm=plan.finish_steps[-1] * problem.graduation,
        crossfeed_mm=plan.finish_crossfeed_mm,
        edge_width_mm=0.0,
        sharpness=DRESSES[plan.finish_dress].sharpness,
        coolant=problem.coolant,
    )
    alone = last.heat_to_work_fraction * last.power_w / plan.finish_table_mm_s
    assert alone * 0.99 <= plan.finish_energy_j_mm <= alone * 1.4, "what springs left and wear add a little"


@pytest.mark.parametrize("force", [5.0, 40.0, 300.0])
@pytest.mark.parametrize("clamp", [50.0, 1500.0])
def test_in_a_fixture_a_plan_s_hold_is_its_weakest_link(force: float, clamp: float) -> None:
    base = {"base_length_mm": 150, "base_width_mm": 100, "clamps": 3, "clamp_n": clamp}
    problem = question_of(change(part__length_mm=38, part__width_mm=20, part__height_mm=60, chuck=base))
    magnet = hold_check(
        contact_mm2=15000,
        length_along_mm=150,
        height_mm=60,
        thickness_mm=60,
        span_across_poles_mm=100,
        tangential_n=force,
        normal_n=force / 0.4,
        width_across_mm=100,
        material_factor=1.0,
        weight_n=38 * 20 * 60 * 7850 * 9.81e-9,
    )
    least = min(magnet.slide_safety, magnet.tip_safety, magnet.tip_safety_across or math.inf)
    told = passes.safety(cutting.face_of(problem, bounded=True), force)
    assert told == pytest.approx(
        hold_fixture(tangential_n=force, clamps=3, clamp_n=clamp, magnet_safety=least).safety, rel=0.02
    )


@pytest.mark.parametrize("passes_", [2, 3])
def test_fewer_blanks_at_a_slower_crossfeed_can_be_the_quicker_finish(passes_: int) -> None:
    """With soft springs the setting with the quickest single pass needs so many spark-outs that another one wins."""
    problem = question_of(change(machine__cut_ratio=0.45, tolerance_mm="0.002", part__height_mm=6))
    kind = next(each for each in every_finish(problem) if (each.passes, each.step) == (passes_, 2))
    grid, found = finish.grid_of(problem, kind), finishes.best_finish(problem, kind, 0.02)
    s, count = finish.searched(problem, 0.75), grid.seconds.size
    seconds, *others = (np.full(count, np.inf) for _ in range(4))
    nothing = np.zeros(count, np.bool_)
    every(s, side_flow_table(), finish.cuts_of(problem, kind, 0.02), grid, nothing, seconds, *others)
    share = others[0]
    fitting = np.flatnonzero(share <= 1)
    assert seconds[fitting[0]] > seconds[fitting].min() + 1, "the first that fits is not the quickest"
    assert found.worst <= 1 and found.minutes * 60 == pytest.approx(seconds[fitting].min())


@pytest.mark.parametrize("seed", range(10))
def test_what_is_carried_from_pass_to_pass_changes_no_answer(seed: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """Beyond heat, power or hold with a pass less, beyond them with one more: the plan is the same as without that."""
    chance = random.Random(seed)
    more = {
        "ra_um": chance.choice([0.1, 0.3, 0.8]),
        "flatness_um": chance.choice([0.3, 1, 4]),
        "coolant": chance.choice(["water", "dry"]),
        "machine__cut_ratio": chance.uniform(0.3, 0.95),
        "machine__spindle_w": chance.choice([100, 300, 1500]),
    }
    request = change(**SMALL | more) | {"with_curve": False}

    def asked() -> str:
        best.forget()
        try:
            return json.dumps(answer("pass.optimise", request)["plan"], sort_keys=True)
        except InputError as error:
            return str(error)

    with_it = asked()
    monkeypatch.setattr(finishes, "_marks", lambda problem, kind, share, grid: finishes._unknown(grid))
    assert asked() == with_it


@given(
    st.sampled_from(CASES),
    st.integers(1, 40),
    st.integers(1, 60),
    st.floats(0.1, 12),
    st.floats(80, 350),
    st.sampled_from((0.3, 1.0, 2.0)),
    st.data(),
)
def test_no_roughing_does_without_the_least_dresses(
    case: dict[str, object], step: int, count: int, crossfeed: float, table: float, edge: float, data: st.DataObject
) -> None:
    """What is passed over for needing a dress too many would have needed it, on an edge as wide or a narrower one."""
    problem = question_of(change(**case))
    face, first = cutting.face_of(problem, bounded=False), data.draw(st.integers(1, step))
    kept = kept_share(problem.machine.cut_ratio, overlaps_of(12.7, crossfeed))
    fed = [each * problem.graduation for each in (first, step)]
    narrow, wide = (
        cutting.Setting(fed[0], fed[1], count, crossfeed, table, each, DRESSES["rough"].sharpness, 0.0, 30.0, kept)
        for each in (edge, edge * data.draw(st.floats(1, 4)))
    )
    done = passes.follow(face, fluid_of(problem.coolant), side_flow_table(), cutting.Bounds(math.inf, math.inf), narrow)
    assert wearing.least_dresses(face, wide) <= wearing.least_dresses(face, narrow) <= done.dresses
    event(f"{min(int(done.dresses), 3)} dresses, {min(int(wearing.least_dresses(face, narrow)), 3)} known at once")


def test_a_machine_that_has_crossfeeds_only_in_steps_is_offered_no_other() -> None:
    steps = ["0.5", "1.27", "2.54", "4", "7.62", "11.9"]
    made = change(machine__crossfeed_steps_mm=steps)
    problem = question_of(made)
    here = {0.5, 1.27, 2.54, 4.0, 7.62}
    assert set(problem.crossfeeds) <= here and problem.widest_mm == Decimal("7.62"), "11.9 is wider than 0.9 of it"
    assert problem.request()["machine"]["crossfeed_steps_mm"] == steps
    best_plan, *others = (best.best_of(problem), *methods_of(problem))
    assert {best_plan.crossfeed_mm, best_plan.finish_crossfeed_mm} <= here
    assert all({each.crossfeed_mm, each.finish_crossfeed_mm} <= here for each in others)
    assert best_plan.minutes >= best.best_of(question_of(change())).minutes
    for asked, snapped in ((3.9, 2.54), (1.25, 1.27), (0.2, 0.5), (7.62, 7.62)):
        assert custom_plan_of(problem, CustomSettings(0.01, asked, 200)).crossfeed_mm == snapped
    with pytest.raises(InputError, match="machine.crossfeed_steps_mm must have one"):
        question_of(change(machine__crossfeed_steps_mm=["11.9"]))
