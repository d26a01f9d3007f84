"""Every limit of a plan on random problems: it holds in the best plan, and one thing changed breaks it and is
refused."""

import math
import os
import random
from dataclasses import replace
from functools import cache
from typing import Any

import pytest

from tests.core.test_heat_and_plan import change
from tests.core.test_planner_exact import question_of
from zesty_lark.core.calc import answer
from zesty_lark.core.planning import best
from zesty_lark.core.planning.custom import CustomSettings, custom_plan_of
from zesty_lark.core.planning.cutting import face_of
from zesty_lark.core.planning.finish import most_swelling_um
from zesty_lark.core.planning.plan import BINDINGS, Plan
from zesty_lark.core.planning.problem import Problem
from zesty_lark.core.planning.rough import Rough
from zesty_lark.core.planning.size_lost import rough_lost
from zesty_lark.core.process.heat import heat_crown
from zesty_lark.core.quantities.numbers import InputError

MANY = int(os.environ.get("LARK_PROBLEMS", "24"))
"""How many random problems each property is tried on."""


def drawn(seed: int) -> dict[str, Any]:
    """A face as it may come in, on a machine as there may be one; every second in inches."""
    chance = random.Random(seed)
    inch = seed % 2
    return change(
        part__length_mm=chance.choice([12, 40, 88, 150, 240]),
        part__width_mm=chance.choice([8, 25, 54, 120]),
        part__height_mm=chance.choice([3, 6, 12, 22, 50]),
        part__temper_c=chance.choice([160, 200, 300, 500]),
        stock_mm=f"{chance.choice([0.02, 0.05, 0.1, 0.2, 0.3]):.3f}",
        tolerance_mm=f"{chance.choice([0.004, 0.008, 0.015, 0.03]):.3f}",
        flatness_um=chance.choice([1, 2, 4, 8]),
        ra_um=chance.choice([0.4, 0.8, 1.6]),
        machine__downfeed_graduation_mm=chance.choice(
            ["0.00254", "0.000254"] if inch else ["0.0025", "0.005", "0.001"]
        ),
        machine__crossfeed_graduation_mm="0.0508" if inch else "0.05",
        machine__crossfeed_min_mm="0.5",
        machine__spindle_w=chance.choice([370, 750, 1500, 3000]),
        machine__cut_ratio=chance.choice([0.3, 0.5, 0.7]),
        machine__table_min_mm_s=chance.choice([60, 100]),
        wheel__grit=chance.choice([46, 60]),
        wheel__grade=chance.choice(["H", "K"]),
        wheel__may_chamfer=chance.random() < 0.5,
        coolant=chance.choice(["water", "water", "oil", "mist", "dry"]),
        blocked=chance.random() < 0.3,
    )


def best_or_none(made: dict[str, Any]) -> Plan | None:
    try:
        return best.best_of(question_of(made))
    except InputError:
        return None


@cache
def met() -> list[tuple[int, dict[str, Any], Plan]]:
    """Random problems that some plan meets."""
    tried = ((seed, drawn(seed)) for seed in range(MANY))
    return [(seed, made, plan) for seed, made in tried if (plan := best_or_none(made)) is not None]


def test_most_random_problems_are_met_by_some_plan_and_every_limit_holds_in_it() -> None:
    assert len(met()) > MANY / 3
    for seed, _, plan in met():
        assert plan.within_limits and set(plan.used) == set(BINDINGS) and max(plan.used.values()) <= 1, seed


def test_more_stock_never_takes_less_time() -> None:
    for seed, made, plan in met():
        more = best_or_none(made | {"stock_mm": f"{float(made['stock_mm']) + 0.025:.3f}"})
        assert more is None or more.minutes >= plan.minutes - 1e-9, seed


LOOSER = {
    "tolerance_mm": lambda made: f"{2 * float(made['tolerance_mm']):.4f}",
    "flatness_um": lambda made: 2 * made["flatness_um"],
    "ra_um": lambda made: 1.5 * made["ra_um"],
}


@pytest.mark.parametrize("limit", LOOSER)
def test_a_looser_limit_never_makes_a_plan_worse(limit: str) -> None:
    for seed, made, plan in met():
        looser = best_or_none(made | {limit: LOOSER[limit](made)})
        assert looser is not None and looser.minutes <= plan.minutes + 1e-9, seed


def own_settings(problem: Problem, plan: Plan, chance: random.Random) -> CustomSettings:
    """Settings of one's own, near the best plan's or anywhere."""
    widest = float(problem.crossfeed_range()[1] * problem.machine.crossfeed_graduation_mm)
    near = chance.random() < 0.7
    return CustomSettings(
        max(problem.graduation, plan.downfeed_mm * chance.uniform(0.7, 1.5) if near else chance.uniform(0.001, 0.15)),
        min(widest, max(0.5, plan.crossfeed_mm * chance.uniform(0.7, 1.5) if near else chance.uniform(0.5, widest))),
        min(350.0, max(100.0, plan.table_mm_s * chance.uniform(0.8, 1.4) if near else chance.uniform(100, 350))),
        chance.choice(problem.chamfers()),
        chance.choice(["rough", "general"]),
        max(1, plan.finish_passes + chance.choice([-1, 0, 0, 1])) if near else chance.choice([None, 1, 2, 5]),
        plan.finish_step_mm if near and plan.finish_step_mm < 0.006 else None,
    )


def test_no_plan_of_one_s_own_within_the_limits_beats_the_best() -> None:
    fitting, chance = 0, random.Random(5)
    for seed, made, plan in met():
        problem = question_of(made)
        for _ in range(12):
            own = custom_plan_of(problem, own_settings(problem, plan, chance))
            fitting += own.within_limits
            assert not own.within_limits or own.minutes >= plan.minutes - 1e-9, (seed, own)
    assert fitting > len(met()), "own plans within the limits were met"


TIGHTER: dict[str, dict[str, Any]] = {
    "temperature": {"temperature_margin": 0.7},
    "power": {"machine__spindle_w": 40},
    "hold": {"chuck__pull_n_cm2": 1, "blocked": False},
    "flatness": {"flatness_um": 0.02},
    "finish": {"ra_um": 0.05},
    "size": {"part__length_mm": 900, "part__width_mm": 500},
    "swelling": {"tolerance_mm": "0.0006"},
}


@pytest.mark.parametrize("limit", TIGHTER)
def test_each_limit_is_broken_by_one_thing_changed_and_then_refused(limit: str) -> None:
    made = change(coolant="mist", machine__crossfeed_min_mm="0.5")
    problem = question_of(made)
    plan = best.best_of(problem)
    own = CustomSettings(
        plan.downfeed_mm,
        plan.crossfeed_mm,
        plan.table_mm_s,
        plan.leading_chamfer_mm,
        "rough",
        plan.finish_passes,
        plan.finish_step_mm,
    )
    assert custom_plan_of(problem, own).used[limit] <= 1
    tight = question_of(change(coolant="mist", machine__crossfeed_min_mm="0.5", **TIGHTER[limit]))
    broken = custom_plan_of(tight, own)
    assert broken.used[limit] > 1 and not broken.within_limits
    again = best_or_none(change(coolant="mist", machine__crossfeed_min_mm="0.5", **TIGHTER[limit]))
    assert again is None or again.used[limit] <= 1


def test_a_dry_bar_that_swells_past_its_zone_is_not_within_the_limits() -> None:
    """A bar of 150 × 20 × 25 dry: what was 'within limits' swelled by its whole zone of 5 µm."""
    made = change(
        part__length_mm=150, part__width_mm=20, part__height_mm=25, coolant="dry", tolerance_mm="0.005", stock_mm="0.1"
    )
    problem = question_of(made)
    plan = best.best_of(problem)
    assert plan.swelling_um <= most_swelling_um(0.005) + 1e-9 == pytest.approx(5 / 7 + 1e-9)
    loose = best.best_of(question_of(made | {"tolerance_mm": "0.05"}))
    assert loose.swelling_um > 2 and loose.minutes <= plan.minutes
    assert plan.wait_s > 0, "roughing leaves it warm: it cools before the finish dress"


@pytest.mark.parametrize("coolant", ["water", "mist", "dry"])
def test_swelling_is_what_the_passes_come_to_one_by_one(coolant: str) -> None:
    """With no roughing nothing is carried: the finish's own heat through ``heat.swelling``."""
    problem = question_of(change(coolant=coolant, stock_mm="0.00508", machine__crossfeed_min_mm="0.5"))
    plan = best.best_of(problem)
    seconds = problem.strokes(plan.finish_crossfeed_mm) * (
        problem.stroke / plan.finish_table_mm_s + problem.machine.reversal_s
    )
    each = plan.finish_energy_j_mm * problem.along * problem.feeding(plan.finish_crossfeed_mm)
    through = 1500 if coolant == "water" else 1500 / (1 + 1500 * 0.022 / (2 * 34))
    told = answer(
        "heat.swelling",
        {
            "length_mm": 88,
            "width_mm": 54,
            "height_mm": 22,
            "steps": [{"seconds": seconds, "energy_j": each}] * plan.finish_passes,
            "zone_mm": 0.006,
            "coolant": coolant,
            "chuck_w_m2k": through,
        },
    )
    assert plan.rough_passes == 0 and plan.finish_passes == 1
    assert plan.swelling_um == pytest.approx(told["swelling_um"], rel=1e-6) and plan.swelling_um > 0


def test_the_hollow_has_the_crown_in_it_that_the_magnet_does_not_hold() -> None:
    """A long bar on a weak magnet, dry: what is not pulled flat is ground off, and is hollow when it is cold."""
    made = change(
        part__length_mm=240, part__width_mm=54, part__height_mm=30, coolant="dry", chuck__pull_n_cm2=10, flatness_um=40
    )
    problem = question_of(made | {"tolerance_mm": "0.05", "stock_mm": "0.0508"})
    plan = custom_plan_of(problem, CustomSettings(0.01, 4.0, 300, None, "rough", 10, 0.00508))
    told = heat_crown(
        length_mm=240, height_mm=30, mean_rise_c=plan.rise_c, pull_n_mm2=problem.pull_n_mm2, chuck_w_m2k=1500
    )
    assert plan.crown_um == pytest.approx(told.hollow_um, rel=1e-9) and plan.crown_um > 1
    assert plan.hollow_um > plan.crown_um
    assert plan.used["flatness"] == pytest.approx(plan.hollow_um / 20)


def test_a_thin_plate_that_no_magnet_holds_flat_warps_dry_and_that_is_a_limit() -> None:
    thin = {"part__length_mm": 100, "part__width_mm": 40, "part__height_mm": 3, "tolerance_mm": "0.05"}
    dry = change(**thin, coolant="dry", ra_um=3, chuck={"base_length_mm": 150, "base_width_mm": 100})
    flat, warped = (best.best_of(question_of(dry | {"flatness_um": flatness})) for flatness in (2, 100))
    assert warped.crown_um > 2 > 1 >= flat.hollow_um and warped.minutes < flat.minutes
    on_magnet = best.best_of(question_of(change(**thin, coolant="dry", ra_um=3)))
    assert on_magnet.rise_c > 1 and on_magnet.crown_um == 0, "the magnet holds a thin plate down"


def test_the_finish_takes_off_the_marks_of_roughing_and_what_a_dress_may_be_out_by() -> None:
    """After a rough dress with Ra 2 a finish of 0.1 thou is refused; without roughing it does not apply."""
    problem = question_of(change(machine__downfeed_graduation_mm="0.00254"))
    small = custom_plan_of(problem, CustomSettings(0.03, 3.0, 200, None, "rough", 1, 0.00254))
    assert small.used["finish"] > 1 and not small.within_limits
    assert small.over("marks") and not small.over("finish") and small.ra_um < 0.8, "its roughness is not what is wrong"
    assert small.finish_wanted_mm > small.finish_takes_mm == 0.00254
    assert small.used["finish"] >= 0.00508 / 0.00254 - 1e-9, "what is wanted over what is taken"
    plan = best.best_of(problem)
    taken = sum(plan.finish_steps) * problem.graduation
    assert taken >= max(0.005, 2 * problem.graduation)
    only = best.best_of(question_of(change(stock_mm="0.00254")))
    assert only.rough_passes == 0 and only.within_limits and sum(only.finish_steps) == 1


def test_what_spark_outs_cannot_bring_back_demands_a_stop_and_counts_after_it() -> None:
    problem = question_of(change())
    wide = custom_plan_of(problem, CustomSettings(0.025, 11.4, 120, None, "rough", 2, 0.005))
    assert wide.measure_stop and wide.size_lost_um > 5 > 0.5 > wide.lost_after_stop_um
    light = custom_plan_of(problem, CustomSettings(0.0127, 0.4, 300, 0.0, "general", 2, 0.005))
    assert not light.measure_stop and light.lost_after_stop_um == light.size_lost_um
    assert light.used["size"] == pytest.approx((light.left_um + light.size_lost_um) / 0.6)


def test_roughing_loses_what_the_wear_slice_by_slice_leaves_high() -> None:
    """Against the wear followed slice by slice, where each pass takes all that it is asked."""
    problem = question_of(change(machine__cut_ratio=1, part__width_mm=78))
    rough = Rough(2, 10, 10, 6.0, 300.0, 0.0, "rough")
    face, setting = face_of(problem, bounded=False), rough.setting(problem)
    lost = rough_lost(face, setting)
    grinding_ratio = 8.0 * min(max(math.sqrt(0.15 / (0.0254 * 300 / (math.pi * 180 * 3000 / 60_000))), 0.5), 4)
    told = answer(
        "wheel.wear",
        {
            "wheel_diameter_mm": 180,
            "wheel_width_mm": 12.7,
            "crossfeed_mm": 6.0,
            "work_length_mm": 88,
            "work_width_mm": 78,
            "depth_mm": 0.0254,
            "passes": 2,
            "g_ratio": grinding_ratio,
        },
    )
    assert lost == pytest.approx(told["left_high_mm"], rel=0.25) and lost > 0.001


def test_a_reserve_of_margin_keeps_what_was_worked_out_for_another() -> None:
    problem = question_of(change())
    again = replace(problem, coolant="dry")
    best.best_of(problem)
    assert problem.with_margin(0.23).worked is problem.worked and again.worked is not problem.worked
