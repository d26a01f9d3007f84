"""Blocks, balance, marking, order of faces, set-up and trouble: by their properties."""

import cmath
import itertools
import math
from decimal import Decimal

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zesty_lark.core.angles_slots.block_sets import block_set
from zesty_lark.core.angles_slots.blocks import gauge_stack
from zesty_lark.core.calc import answer
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.trouble.ranking import knowledge
from zesty_lark.core.wheel.balance import ring


def test_the_built_in_sets_have_their_count() -> None:
    assert [len(block_set(name)) for name in ("inch81", "metric47", "metric88")] == [81, 47, 88]


@settings(deadline=None, max_examples=40)
@given(st.lists(st.integers(0, 87), min_size=1, max_size=4, unique=True))
def test_what_blocks_make_is_found_again_with_no_more_blocks(chosen: list[int]) -> None:
    sizes = block_set("metric88")
    target = sum((sizes[index] for index in chosen), Decimal(0))
    found = gauge_stack(target=target, unit="mm", set="metric88")
    assert found.exact and found.sum == target and found.count <= len(chosen)
    assert found.blocks == sorted(set(found.blocks), reverse=True) and set(found.blocks) <= set(sizes)


@settings(deadline=None, max_examples=40)
@given(st.lists(st.integers(1, 60), min_size=2, max_size=7, unique=True), st.integers(1, 200))
def test_a_small_set_gives_the_nearest_then_the_fewest(blocks: list[int], target: int) -> None:
    found = gauge_stack(target=Decimal(target), unit="mm", blocks=[Decimal(block) for block in blocks])
    every = [subset for count in range(1, len(blocks) + 1) for subset in itertools.combinations(blocks, count)]
    best = min((abs(sum(subset) - target), len(subset)) for subset in every)
    assert (abs(found.sum - target), found.count) == best


def test_a_missing_block_is_not_used_and_the_error_is_said() -> None:
    whole = gauge_stack(target=Decimal("1.0005"), unit="mm", set="metric88")
    lacking = gauge_stack(target=Decimal("1.0005"), unit="mm", set="metric88", missing=[Decimal("1.0005")])
    assert whole.count == 1 and not lacking.exact and lacking.error_um == pytest.approx(-0.5) or lacking.error_um == 0.5


@settings(deadline=None, max_examples=20)
@given(
    st.lists(st.sampled_from([0.8, 1.6, 2.4]), min_size=1, max_size=3),
    st.floats(0, 300),
    st.integers(0, 359),
    st.integers(4, 8),
)
def test_the_ring_is_as_good_as_trying_everything(
    masses: list[float], unbalance: float, heavy: int, holes: int
) -> None:
    target = cmath.rect(unbalance, math.radians(heavy))
    arms = [cmath.rect(38.0, 2 * math.pi * hole / holes) for hole in range(holes)]
    best = min(
        abs(target + sum(mass * arms[hole] for mass, hole in zip(masses, places, strict=True) if hole < holes))
        for places in itertools.product(range(holes + 1), repeat=len(masses))
        if len({place for place in places if place < holes}) == sum(place < holes for place in places)
    )
    found = ring(unbalance_gmm=unbalance, heavy_deg=heavy, holes=holes, radius_mm=38.0, masses_g=masses)
    assert found.residual_gmm == pytest.approx(best, abs=1e-6)
    left = abs(target + sum(mass * arms[hole] for hole, mass in found.placed.items()))
    assert left == pytest.approx(found.residual_gmm, abs=1e-6)


def test_trial_runs_that_contradict_each_other_are_said() -> None:
    with pytest.raises(InputError, match="contradict"):
        answer("balance.trial_runs", {"a0": 9, "a1": 1, "a2": 1, "a3": 1, "trial_gmm": 30})


@pytest.mark.parametrize(
    ("text", "found", "missing"),
    [
        ("9A60-J8V", ("A", 60, "J", 8, "V"), []),
        ("A 46 H 8 V", ("A", 46, "H", 8, "V"), []),
        ("C80 K V", ("C", 80, "K", None, "V"), ["structure"]),
        ("A46", ("A", 46, None, None, None), ["grade", "structure", "bond"]),
        ("WA 46 H", None, None),
    ],
)
def test_a_marking_is_read_as_far_as_it_goes(
    text: str, found: tuple[object, ...] | None, missing: list[str] | None
) -> None:
    if found is None:
        with pytest.raises(InputError):
            answer("wheel.marking", {"text": text})
        return
    made = answer("wheel.marking", {"text": text})
    assert (made["abrasive"], made["grit"], made["grade"], made["structure"], made["bond"]) == found
    assert made["missing"] == missing


def test_a_wheel_never_runs_over_its_marking() -> None:
    made = answer(
        "wheel.speed", {"wheel_diameter_mm": 180, "wheel_rpm": 3700, "marked_max_rpm": 3600, "marked_max_m_s": 40}
    )
    assert made["may_run"] is False and "nobody can release it" in made["why"]
    worn = answer(
        "wheel.speed", {"wheel_diameter_mm": 150, "wheel_rpm": 3000, "marked_max_m_s": 40, "new_diameter_mm": 180}
    )
    assert worn["may_run"] and worn["speed_m_s"] < worn["new_speed_m_s"]


@given(st.lists(st.floats(-5, 5), min_size=2, max_size=20))
def test_repeated_readings_mean_something_only_within_twice_the_resolution(readings: list[float]) -> None:
    made = answer("repeatability", {"readings_um": readings, "resolution_um": 1, "stated_um": 0.5})
    assert made["good"] == (made["range_um"] <= 2.5 * (1 + 1e-12)) and made["sd_um"] >= 0


@pytest.mark.parametrize(
    "method", ["angle_plate", "square_block", "vee_or_vise", "small_part_fixture", "shim", "assembly"]
)
def test_every_method_reaches_every_face_once_and_never_grinds_a_reference_again(method: str) -> None:
    made = answer(
        "face.sequence",
        {
            "method": method,
            "length_mm": 88,
            "width_mm": 54,
            "height_mm": 22,
            "primary_reference": 2,
            "secondary_reference": 5,
        },
    )
    order = [face for step in made["steps"] for face in step["up"]]
    assert sorted(order) == [1, 2, 3, 4, 5, 6] and order[:2] == [2, 1] and made["references"] == [2, 5, 4]
    assert all(step["why"] and step["makes"] and step["fixture"] for step in made["steps"])
    rest = answer("face.sequence", {"method": method, "length_mm": 88, "width_mm": 54, "height_mm": 22, "done": [1, 2]})
    assert {1, 2}.isdisjoint(face for step in rest["steps"] for face in step["up"])


SETUP = {
    "part": {"length_mm": 88, "width_mm": 54, "height_mm": 22},
    "wheel": {"diameter_mm": 180, "width_mm": 12.7, "rpm": 3000, "marked_max_rpm": 3600},
    "feeds": {"downfeed_mm": 0.0127, "crossfeed_mm": 0.4, "table_mm_s": 300},
    "coolant": "water",
    "slide_safety": 12.0,
    "tip_safety": 15.0,
    "pull_calibrated": True,
}


def check(group: str = "", **more: object) -> dict[str, str]:
    setup = SETUP | (more if not group else {group: SETUP[group] | more})  # type: ignore[operator]
    return {
        each["check"]: each["level"]
        for each in answer("setup.check", {"setup": setup})["findings"]
        if each["level"] != "pass"
    }


def test_a_good_set_up_passes_everything() -> None:
    assert check() == {}


@pytest.mark.parametrize(
    ("group", "more", "says", "level"),
    [
        ("wheel", {"rpm": 4000}, "wheel over speed", "stop"),
        ("wheel", {"guard_closed": False}, "guard open", "stop"),
        ("", {"hands_clear": False}, "hand near the wheel", "stop"),
        ("wheel", {"dull": True}, "dull wheel", "caution"),
        ("wheel", {"side_work": True}, "side work", "stop"),
        ("wheel", {"diamond_beyond_centre_mm": -8}, "diamond on the wrong side", "stop"),
        ("", {"slide_safety": 3.0}, "magnet hold", "stop"),
        ("", {"slide_safety": 6.0}, "magnet hold", "caution"),
        ("part", {"magnetic": False}, "magnet hold", "stop"),
        ("part", {"height_mm": 90}, "tall part unsupported", "stop"),
        ("part", {"burrs": True}, "burr under the part", "stop"),
        ("part", {"reference_up": True}, "reference face up", "stop"),
        ("part", {"starts_from_high": False}, "starts on the low side", "stop"),
        ("part", {"rocks": True}, "part rocks", "stop"),
        ("part", {"height_mm": 4, "bow_mm": 0.1, "length_mm": 240}, "thin bowed part on full magnet", "caution"),
        ("", {"blocks": [{"kind": "lead_in", "side": "left", "top_mm": 23}]}, "lead-in block too high", "stop"),
        ("", {"blocks": [{"kind": "lead_in", "side": "left", "top_mm": 15}]}, "lead-in block", "caution"),
        (
            "",
            {"blocks": [{"kind": "parallel", "side": "left", "top_mm": 10, "overhangs_edge": False}]},
            "parallel flush with the edge",
            "caution",
        ),
        (
            "",
            {"clamps": [{"overhang_mm": 20, "block_moment_nmm": 100, "clamp_moment_nmm": 50}]},
            "clamp overhang",
            "stop",
        ),
        ("feeds", {"end_clearance_mm": 2}, "stroke too short to clear", "caution"),
        ("", {"travel": {"along_mm": 120, "across_mm": 300}}, "table travel too short", "stop"),
        ("", {"travel": {"along_mm": 400, "across_mm": 60}}, "saddle travel too short", "stop"),
        ("", {"travel": {"along_mm": 400, "across_mm": 300, "height_mm": 20}}, "no room under the wheel", "stop"),
        ("", {"fence": {}}, "fence not checked", "caution"),
        ("", {"fence": {"out_of_parallel_um": 6, "allowed_um": 4}}, "fence out of line", "stop"),
        ("", {"fence": {"out_of_parallel_um": 2, "ground_in_place": False}}, "fence not ground in place", "caution"),
        (
            "",
            {"vise": True, "feeds": SETUP["feeds"] | {"towards_solid_jaw": False}},
            "vise the wrong way round",
            "stop",
        ),  # type: ignore[operator]
        ("", {"nozzle_on": False, "feeds": SETUP["feeds"] | {"downfeed_mm": 0.1}}, "no coolant", "caution"),  # type: ignore[operator]
        ("part", {"contact_mm2": 300}, "small contact", "caution"),
        ("", {"chuck_clean": False}, "chuck not clean", "caution"),
    ],
)
def test_each_fault_is_found_alone(group: str, more: dict[str, object], says: str, level: str) -> None:
    found = check(group, **more)
    assert found.get(says) == level and len(found) <= 2


def test_evidence_moves_belief_and_the_shop_learns() -> None:
    before = answer("trouble.rank", {"seen": []})
    after = answer("trouble.rank", {"seen": ["hollow_middle", "long_side_along_travel"]})
    assert after["causes"][0]["cause"] == "heat_along_travel"
    assert sum(cause["share"] for cause in after["causes"]) == pytest.approx(1)
    share = {cause["cause"]: cause["share"] for cause in after["causes"]}
    learned = answer(
        "trouble.rank", {"seen": ["hollow_middle", "long_side_along_travel"], "shop_counts": {"too_few_spark_outs": 30}}
    )
    assert {cause["cause"]: cause["share"] for cause in learned["causes"]}["too_few_spark_outs"] > share[
        "too_few_spark_outs"
    ]
    without = answer("trouble.rank", {"seen": ["hollow_middle"], "not_seen": ["long_side_along_travel"]})
    assert {cause["cause"]: cause["share"] for cause in without["causes"]}["heat_along_travel"] < share[
        "heat_along_travel"
    ]
    assert len(before["causes"]) == len(knowledge()["causes"])
    rates = [test["per_minute"] for test in after["tests"]]
    assert rates == sorted(rates, reverse=True) and all(test["narrowing_bits"] >= 0 for test in after["tests"])


def test_every_test_in_the_knowledge_can_tell_something() -> None:
    assert all(any(yes > test["background"] for yes in test["yes"].values()) for test in knowledge()["tests"].values())
    assert np.isfinite([cause["prior"] for cause in knowledge()["causes"].values()]).all()


def test_a_slot_too_wide_or_off_to_one_side_says_the_best_that_can_be_done() -> None:
    off = answer(
        "slot.plan", {"datum_to_left_mm": "10", "datum_to_right_mm": "19.9", "centre_mm": "15.1", "width_mm": "10"}
    )
    assert off["possible"] is False and off["best_position_error_mm"] == "0.1" and off["best_width_error_mm"] == "0.2"
    wide = answer(
        "slot.plan", {"datum_to_left_mm": "10", "datum_to_right_mm": "20.5", "centre_mm": "15", "width_mm": "10"}
    )
    assert "too wide already" in wide["why"]


def test_an_edge_break_and_a_magnet_that_holds_nothing() -> None:
    made = answer("edge.break", {"downfeed_mm": 0.5})
    assert made["flat_mm"] == 1 and made["off_each_face_mm"] == pytest.approx(math.sqrt(0.5))
    hold = answer(
        "hold.check",
        {
            "contact_mm2": 4000,
            "length_along_mm": 88,
            "height_mm": 22,
            "thickness_mm": 22,
            "span_across_poles_mm": 54,
            "tangential_n": 10,
            "material_factor": 0,
        },
    )
    assert hold["pull_n"] == 0 and hold["advice"] == "stop"


def test_a_turned_part_can_need_more_travel_than_a_straight_one() -> None:
    enough = {"along_mm": 160, "across_mm": 90}
    assert check("", travel=enough) == {}
    assert set(check("", travel=enough | {"skew_deg": 45})) == {"saddle travel too short"}


@pytest.mark.parametrize(
    ("asked", "abrasive", "grits", "grades"),
    [
        ({"material": "tool steel, hardened"}, "alumina", (46, 46), "HI"),
        ({"material": "tool steel, hardened", "work": "slot"}, "alumina", (60, 60), "JK"),
        ({"material": "tool steel, hardened", "work": "form"}, "alumina", (80, 150), "KK"),
        ({"material": "cast iron"}, "silicon carbide", (46, 46), "HI"),
        ({"material": "mild steel"}, "alumina", (46, 46), "IJ"),
    ],
)
def test_a_wheel_for_the_work(asked: dict[str, str], abrasive: str, grits: tuple[int, int], grades: str) -> None:
    advice = answer("wheel.choose", asked)
    assert (advice["abrasive"], (advice["grit_from"], advice["grit_to"])) == (abrasive, grits)
    assert advice["grade_from"] + advice["grade_to"] == grades and advice["reasons"]


@pytest.mark.parametrize("work", ["flat", "finish", "side", "slot", "form"])
def test_more_contact_never_asks_for_a_harder_wheel(work: str) -> None:
    narrow, usual, wide = (
        answer("wheel.choose", {"material": "bearing steel, hardened", "work": work, "contact": contact})
        for contact in ("narrow", "usual", "wide")
    )
    assert wide["grade_to"] < usual["grade_to"] < narrow["grade_to"] and wide["structure"] > usual["structure"]


def test_no_wheel_is_named_for_what_is_not_ground_here() -> None:
    advice = answer("wheel.choose", {"material": "aluminium"})
    assert advice["abrasive"] is None and "dust" in advice["declined"]
    with pytest.raises(InputError, match="material must be one of"):
        answer("wheel.choose", {"material": "cheese"})


def test_both_methods_of_a_fine_finish_say_what_they_cost() -> None:
    finishes = answer("wheel.choose", {"material": "tool steel, hardened", "work": "finish"})["finishes"]
    assert [finish["method"] for finish in finishes] == ["fine wheel", "coarse wheel dressed fine"]
    assert all(each["cost"] and each["saves"] for each in finishes)
