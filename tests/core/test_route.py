"""The part's route: guarded order, chains against the print, exact steps, batches, versions compared."""

import itertools
import json
import re
from dataclasses import replace
from decimal import Decimal as D

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_heat_and_plan import ASKED
from zesty_lark.core.calc import answer
from zesty_lark.core.measure.chain import Link, chain
from zesty_lark.core.part.faces import Condition
from zesty_lark.core.part.sequence import METHODS_OF_SQUARENESS
from zesty_lark.core.part.surfaces.block_face import pair_stock
from zesty_lark.core.part.surfaces.part import Block, PairSize, Sharing
from zesty_lark.core.planning.best import best_of
from zesty_lark.core.planning.means import MachineIn, WheelIn
from zesty_lark.core.planning.reasons import FIGURES, UNSURE, reason
from zesty_lark.core.process.materials import material_of
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.quantities.units import known_text
from zesty_lark.core.squaring.changes import differences, moved
from zesty_lark.core.squaring.choices import FaceChoice, PairChoice, RouteChoices, dumped, loaded
from zesty_lark.core.squaring.face_plan import Means
from zesty_lark.core.squaring.figures import figures
from zesty_lark.core.squaring.handling import HANDLING, instead
from zesty_lark.core.squaring.order import StepChoice, route_steps, set_ups
from zesty_lark.core.squaring.planned import RoutePlan, bow_if, plan_route
from zesty_lark.core.squaring.release import SLOW, Situation, plan_steps
from zesty_lark.core.squaring.shop_facts import ShopFacts
from zesty_lark.core.things.shop import Chuck, Fixture
from zesty_lark.core.work.plans import PlanSteps
from zesty_lark.core.work.time_left import whole_range

BLOCK = Block(
    {
        "thickness": PairSize(D("22"), D("0.003"), D("0.003"), D("22.262"), D("22.214")),
        "width": PairSize(D("54"), D("0.05"), D("0.05"), D("54.26"), D("54.22")),
        "length": PairSize(D("88"), D("0.05"), D("0.05"), D("88.31"), D("88.27")),
    },
    {1: D("0.041"), 2: D("0.036"), 3: D("0.06"), 5: D("0.05"), 4: D("0.07"), 6: D("0.06")},
    (1, 3, 4),
    3.0,
    5.0,
    2.0,
    bow_mm=0.0145,
)
MEANS = Means(
    MachineIn(D("0.00254"), D("0.05"), D("0.1"), D("12"), 80.0, 350.0, 0.3, 1100.0, 0.6),
    WheelIn(180.0, 12.7, 3000.0, 46, "H", may_chamfer=True),
    80.0,
    "water",
    material_of("tool steel, hardened"),
    60.0,
    2.0,
    0.8,
)
PLATE = Fixture("Angle plate P1", "angle_plate", D("0.003"), D(100), D("0.0008"), D(150), D(100))
CUBE = Fixture("Square block S2", "square_block", D("0.0015"), D(80), D("0.001"), D(80), D(60))


def surface(range_um: float) -> tuple[tuple[float, float, float], ...]:
    """A chuck that leans evenly along its length."""
    return tuple((x, y, range_um * x / 450) for x in (0.0, 150.0, 300.0, 450.0) for y in (0.0, 75.0, 150.0))


SHOP = ShopFacts(Chuck("Chuck A", D(450), D(150), D(80)), [PLATE, CUBE], surface(3.2))
AS_COMES = RouteChoices()
SHARING = {axis: Sharing(D("0.005")) for axis in ("thickness", "width", "length")}


def planned(
    choices: RouteChoices = AS_COMES, shop: ShopFacts = SHOP, block: Block = BLOCK, **more: object
) -> RoutePlan:
    return plan_route(block, choices, MEANS, shop, sharing=SHARING, **more)  # type: ignore[arg-type]


def relation(made: RoutePlan, name: str):  # type: ignore[no-untyped-def]
    return next(each for each in made.relations if each.name == name)


@pytest.mark.parametrize("method", METHODS_OF_SQUARENESS)
def test_every_method_makes_every_relation_and_plans_every_face(method: str) -> None:
    made = planned(RouteChoices(squareness=method))  # type: ignore[arg-type]
    assert sorted(made.faces) == [1, 2, 3, 4, 5, 6] and not made.stops
    assert all(relation.state != "not made" for relation in made.relations) and len(made.relations) == 8
    assert all(face.plan is not None and face.plan.within_limits for face in made.faces.values())
    assert not any(made.is_finished(axis) for axis in made.pairs)
    assert replace(made, faces={4: made.faces[4]}).is_finished("thickness")


@settings(max_examples=60, deadline=None)
@given(st.permutations(["1", "2", "3", "4", "5", "6"]))
def test_only_orders_that_guard_the_references_pass(order: list[str]) -> None:
    """A reference before its opposite, and the primary before all sides: by trying orders."""
    steps = route_steps(BLOCK, "square_block", [StepChoice(key) for key in order])
    at = {key: place for place, key in enumerate(order)}
    good = at["1"] < at["2"] and at["3"] < at["5"] and at["4"] < at["6"] and at["1"] < min(at["3"], at["4"])
    assert [step.key for step in steps] == order
    assert (not any(step.stops for step in steps)) == good


def test_a_skipped_set_up_says_what_is_lost_and_what_leans_on_it_is_not_made() -> None:
    made = planned(RouteChoices(squareness="square_block", steps=(StepChoice("3", skip=True),)))
    assert "not made: 3 square to 1" in next(step for step in made.steps if step.key == "3").losses
    assert relation(made, "3 ⊥ 1").state == "not made" and relation(made, "5 ∥ 3").state == "not made"
    assert any("before that is ground" in stop for stop in made.stops), "face 5 would stand on a face never ground"
    assert relation(made, "2 ∥ 1").state != "not made"


def test_a_face_that_is_done_keeps_its_relations_and_is_not_planned_again() -> None:
    made = planned(done=(1,), left_mm={2: D("0.1")})
    assert "1" not in [step.key for step in made.steps] and made.faces[2].stock_mm == D("0.1")
    assert relation(made, "2 ∥ 1").step == 1


def test_chains_are_what_the_links_add_up_to() -> None:
    made = relation(planned(), "4 ⊥ 3")
    assert made.over_mm == 54.0
    links = made.chain.links_um
    assert links["Angle plate P1"] == pytest.approx(3.0 * 54 / 100)
    assert links["Chuck A’s map under the fixture"] == pytest.approx(3.2 * 150 / 450, rel=0.02), (
        "the range under its base"
    )
    again = chain(
        need_over_mm=54.0,
        links=[Link(name, limit, "expected" if ":" in name else "length") for name, limit in links.items()],
    )
    assert made.chain.worst_um == pytest.approx(again.worst_um) and made.chain.likely_um == pytest.approx(
        again.likely_um
    )


def test_what_is_expected_adds_as_it_is_with_half_of_itself_either_way() -> None:
    links = [
        {"name": "hollow", "limit_um": 2.0, "kind": "expected"},
        {"name": "gauge", "limit_um": 1.0, "kind": "length"},
    ]
    made = answer("tolerance.chain", {"need_over_mm": 50, "links": links})
    assert made["worst_um"] == pytest.approx(2 + 1 + 1) and made["likely_um"] == pytest.approx(2 + 2 * (2 / 3) ** 0.5)
    assert made["biggest"] == "hollow" and made["links_um"] == {"hollow": 2.0, "gauge": 1.0}
    with pytest.raises(InputError, match="only an angle"):
        answer("tolerance.chain", {"need_over_mm": 50, "links": [links[0] | {"over_mm": 100}]})


@given(st.floats(0, 30), st.floats(0.1, 20))
@settings(max_examples=20, deadline=None)
def test_a_worse_chuck_never_makes_a_relation_better(flat: float, worse: float) -> None:
    before, after = (planned(shop=replace(SHOP, chuck_map=surface(um))) for um in (flat, flat + worse))
    for one, other in zip(before.relations, after.relations, strict=True):
        assert other.chain.worst_um > one.chain.worst_um or one.kind == "flat" and other.chain == one.chain
    assert {difference.of for difference in differences(figures(before, MEANS, SHOP), figures(after, MEANS, SHOP))} >= {
        "2 ∥ 1",
        "5 ∥ 3",
    } or worse < 0.5


def test_what_would_fix_the_biggest_link_is_named_with_its_figure() -> None:
    rough = replace(PLATE, square_mm=D("0.012"))
    made = relation(planned(shop=replace(SHOP, fixtures=[rough, CUBE])), "4 ⊥ 3")
    assert made.state == "unlikely" and made.chain.biggest == "Angle plate P1"
    assert made.remedy.startswith("With Square block S2 it would likely be")
    better = planned(
        RouteChoices(steps=(StepChoice("1"), StepChoice("2"), StepChoice("3+4", fixture="Square block S2"))),
        shop=replace(SHOP, fixtures=[rough, CUBE]),
    )
    assert f"{relation(better, '4 ⊥ 3').chain.likely_um:.1f}" in made.remedy, "and it comes to that when it is taken"
    unmapped = relation(planned(shop=replace(SHOP, chuck_map=())), "6 ∥ 4")
    assert "not mapped" in " ".join(unmapped.chain.links_um)


def test_flat_is_asked_of_the_first_pair_where_the_print_asks_it() -> None:
    flat = relation(planned(), "2 flat")
    plan = planned().faces[2].plan
    assert plan is not None and flat.allowed_um == 2.0 and flat.chain.links_um["heat: hollow"] == plan.hollow_um
    assert "seating" not in flat.chain.links_um and flat.step == 2
    without = planned(block=replace(BLOCK, flat_um=None))
    assert not any(each.kind == "flat" for each in without.relations) and len(without.relations) == 6


def test_a_thin_bowed_strip_springs_back_and_a_thick_block_hardly() -> None:
    """The magnet pulls the strip flat; what it cannot bend it does not give back."""
    thin = replace(
        BLOCK, sizes={**BLOCK.sizes, "thickness": PairSize(D("4"), D("0.01"), D("0.01"), D("4.1"), D("4.09"))}
    )
    thick = replace(
        BLOCK, sizes={**BLOCK.sizes, "thickness": PairSize(D("60"), D("0.01"), D("0.01"), D("60.1"), D("60.09"))}
    )
    back = [relation(planned(block=block), "1 flat").chain.links_um["magnet: springs back"] for block in (thin, thick)]
    assert back[0] == pytest.approx(14.5) and back[1] < 0.2
    clamped = planned(RouteChoices(steps=(StepChoice("1", fixture="Square block S2"), StepChoice("2"))), block=thin)
    assert relation(clamped, "1 flat").chain.links_um["magnet: springs back"] == 0


def test_the_second_face_lies_on_what_the_first_came_out_with() -> None:
    """Its spring-back and hollow, the other way up; once it is measured, its flatness; and never more than the gap."""
    made = planned()
    first, second = (made.faces[face].held for face in (1, 2))
    sprung = relation(made, "1 flat").chain.links_um["magnet: springs back"]
    assert first.gap_mm == 0.0145 and (first.shape, second.shape) == ("middle_up", "ends_up")
    assert made.faces[1].plan is not None
    assert second.gap_mm == pytest.approx((sprung + made.faces[1].plan.hollow_um) / 1000)
    flat = planned(shop=replace(SHOP, flat_measured_um={1: 0.4}), done=(1,))
    assert flat.faces[2].held.gap_mm == 0.0004
    after = relation(flat, "2 flat").chain
    assert after.links_um["magnet: springs back"] <= 0.4 and after.likely_um < relation(made, "2 flat").chain.likely_um
    assert relation(flat, "2 ∥ 1").chain.links_um["face 1’s measured flatness"] == 0.4


def test_a_bow_nobody_looked_for_is_said_with_what_it_would_do() -> None:
    unknown = replace(BLOCK, bow_mm=None)
    made = planned(block=unknown)
    assert not made.faces[1].held.bow_known and made.faces[1].held.gap_mm == 0
    bow, back = bow_if(unknown, made, MEANS)[1]
    assert bow == pytest.approx(41.0) and 0 < back < bow
    assert bow_if(BLOCK, planned(), MEANS) == {}


@pytest.mark.parametrize(
    ("condition", "factor"), [("scale or burrs", 0.5), ("sawn", 0.5), ("milled", 0.8), ("stable", 0.8), ("ground", 1.0)]
)
def test_the_hold_uses_the_surface_that_lies_down_and_the_material(condition: str, factor: float) -> None:
    block = replace(BLOCK, conditions={2: Condition(condition)}, bow_mm=0.0)
    made = planned(block=block)
    chuck = made.faces[1].held.chuck(80.0)
    assert (chuck.surface_factor, chuck.material_factor) == (factor, 0.8)
    assert made.faces[2].held.chuck(80.0).surface_factor == 1.0, "the face it stands on is ground by then"
    cast = replace(MEANS, material=material_of("cast iron"))
    assert (
        plan_route(block, RouteChoices(), cast, SHOP, sharing=SHARING).faces[1].held.chuck(80.0).material_factor == 0.6
    )


@pytest.mark.parametrize("name", ["carbide", "austenitic stainless", "brass"])
def test_what_a_magnet_does_not_pull_is_stopped_until_a_fixture_holds_it(name: str) -> None:
    means = replace(MEANS, material=material_of(name))
    bare = plan_route(BLOCK, RouteChoices(), means, SHOP, sharing=SHARING)
    assert bare.faces[1].plan is None and "laminated transfer blocks" in bare.faces[1].refused
    assert any(stop.startswith("Face 1: Not held") for stop in bare.stops)
    steps = tuple(StepChoice(key, fixture="Angle plate P1") for key in ("1", "2", "3+4", "5", "6"))
    held = plan_route(BLOCK, RouteChoices(steps=steps), means, SHOP, sharing=SHARING)
    assert not held.stops and all(face.plan is not None for face in held.faces.values())


STRIP = Block(
    {
        "thickness": PairSize(D("4.2"), D("0.01"), D("0.01"), D("4.46"), D("4.43")),
        "width": PairSize(D("38"), D("0.1"), D("0.1"), D("38.3"), D("38.2")),
        "length": PairSize(D("240"), D("0.2"), D("0.2"), D("240.5"), D("240.4")),
    },
    {face: D("0.06") for face in range(1, 7)},
    (1, 3, 4),
    10.0,
)


def test_tall_on_a_small_foot_is_held_by_a_fixture_and_planned_for_it() -> None:
    made = planned(block=STRIP, only=6)
    end = made.faces[6]
    assert end.held.holder == "Angle plate P1" and end.plan is not None and end.plan.minutes < 30
    bare = planned(block=STRIP, shop=replace(SHOP, fixtures=[]), only=6)
    assert bare.faces[6].plan is None and "2.5 times" in bare.faces[6].refused and bare.stops
    steps = tuple(StepChoice(key, blocks=True) for key in ("1", "2", "3+4", "5", "6"))
    blocked = planned(RouteChoices(steps=steps), block=STRIP, only=6)
    assert blocked.faces[6].held.words == "magnet, with blocks" and blocked.faces[6].plan is not None
    assert made.faces[1].held.holder == "magnet" and not made.faces[1].held.blocks


def test_blocks_count_only_where_the_set_up_holds_them() -> None:
    made = planned()
    assert made.faces[5].held.blocks and not made.faces[1].held.blocks, (
        "54 high on 22; over 2.5 times a fixture holds it"
    )
    steps = tuple(StepChoice(key, blocks=key == "2") for key in ("1", "2", "3+4", "5", "6"))
    chosen = planned(RouteChoices(steps=steps))
    assert (
        chosen.faces[2].held.blocks and chosen.faces[2].problem is not None and chosen.faces[2].problem.hold_wanted == 4
    )
    assert chosen.faces[1].problem is not None and chosen.faces[1].problem.hold_wanted == 8


def test_what_is_nearer_to_a_limit_than_the_estimate_is_sure_wants_a_reason() -> None:
    assert planned().near_limits == {}
    near = planned(RouteChoices(faces={2: FaceChoice(margin=0.0)}))
    assert list(near.near_limits) == [2] and near.near_limits[2].startswith("on the limit")
    over = planned(RouteChoices(faces={2: FaceChoice("custom", downfeed_mm=0.1, crossfeed_mm=10.0, table_mm_s=350.0)}))
    assert over.near_limits[2].startswith("over the limit on")
    assert FaceChoice().power_share == 0.77 and FaceChoice(margin=0.1).power_share == 0.9
    assert FaceChoice(margin=0.5).power_share == 0.77


def test_a_pair_that_does_not_clean_up_is_named_until_its_faces_are_done() -> None:
    short = replace(BLOCK, cleanup_mm={**BLOCK.cleanup_mm, 3: D("0.5"), 5: D("0.5")})
    assert planned(block=short).short_of_clean_up == ["width"] and planned().short_of_clean_up == []
    assert planned(block=short, done=(1, 2, 3, 4, 5, 6)).short_of_clean_up == []


def test_only_soft_work_belongs_on_the_mill() -> None:
    wedge = replace(
        BLOCK, sizes={**BLOCK.sizes, "thickness": PairSize(D("22"), D("0.003"), D("0.003"), D("22.6"), D("22.3"))}
    )
    soft = replace(MEANS, material=material_of("mild steel"), hardness_hrc=None)
    assert "mill first" in plan_route(wedge, RouteChoices(), soft, SHOP, sharing=SHARING, only=1).faces[1].advice
    assert planned(block=wedge, only=1).faces[1].advice == ""
    slow = replace(MEANS, machine=replace(MEANS.machine, spindle_w=60.0, table_max_mm_s=100.0))
    told = plan_route(wedge, RouteChoices(), slow, SHOP, sharing=SHARING, only=2).faces[2].advice
    assert "lead" in told and "takes it soonest" in told


def test_the_temper_comes_from_the_hardness_when_nobody_knows_better() -> None:
    for name, hrc, temper in (
        ("tool steel, hardened", 60.0, 230),
        ("tool steel, hardened", None, 200),
        ("mild steel", None, 600),
        ("cold-work steel, high-alloy, hardened", 60.0, 520),
        ("high-speed steel, hardened", 64.0, 150),
        ("carbide", 60.0, 700),
    ):
        assert material_of(name).temper(hrc) == pytest.approx(temper), name


def test_a_share_puts_the_stock_where_a_hole_needs_it() -> None:
    shared = SHARING | {"width": Sharing(D("0.005"), D("0.5"))}
    made = plan_route(BLOCK, RouteChoices(), MEANS, SHOP, sharing=shared)
    assert made.faces[3].stock_mm == made.faces[5].stock_mm == D("0.13")
    assert RouteChoices(pairs={"width": PairChoice(None, D("0.5"))}).sharing(D("0.005"), D("0.2")) == {
        "thickness": Sharing(D("0.005"), D("0.2")),
        "width": Sharing(D("0.005"), D("0.5")),
        "length": Sharing(D("0.005")),
    }


@given(st.decimals("0", "0.4", places=3))
def test_a_hole_ends_up_in_its_place_as_far_as_both_faces_leave_room(off: D) -> None:
    """The reference takes what the hole is too far in, between its own need and what its opposite leaves."""
    pair = PairChoice(None, None, D("10") + off, D("10"))
    made = pair_stock(BLOCK, "width", RouteChoices(pairs={"width": pair}).sharing(D("0.005"), None)["width"])
    assert made.split.first_face_mm + made.split.second_face_mm == D("0.26")
    assert D("0.065") <= made.split.first_face_mm <= D("0.26") - D("0.055")
    assert made.position_off_mm == off - made.split.first_face_mm
    assert (made.position_off_mm == 0) == (D("0.065") <= off <= D("0.205"))
    share = made.first_share
    assert share is not None and abs(share * D("0.26") - made.split.first_face_mm) < D("0.0001")


NOW = Situation(graduation_mm=D("0.00254"), tolerance_mm=D("0.006"))


@settings(max_examples=40, deadline=None)
@given(st.decimals("0.003", "0.4", places=4))
def test_released_steps_never_pass_the_stock_and_leave_less_than_a_graduation(stock: D) -> None:
    made = planned(left_mm={2: stock}).faces[2]
    steps = plan_steps(made, NOW)
    taken = sum((step.step_mm for step in steps.steps), D(0))
    assert taken + steps.left_on_mm == stock and 0 <= steps.left_on_mm < D("0.00254")
    assert all(step.step_mm % D("0.00254") == 0 for step in steps.steps)
    assert made.plan is not None and len(steps.passes) == made.plan.passes, "the steps are the planner's passes"
    assert [step.step_mm / D("0.00254") for step in steps.passes] == [*made.plan.rough_steps, *made.plan.finish_steps]
    assert [step.number for step in steps.steps] == list(range(1, len(steps.steps) + 1))
    for step in steps.passes:
        wanted = made.plan.crossfeed_mm if step.kind == "rough" else made.plan.finish_crossfeed_mm
        table = made.plan.table_mm_s if step.kind == "rough" else made.plan.finish_table_mm_s
        assert float(step.crossfeed_mm or 0) == pytest.approx(wanted) and float(step.table_mm_s or 0) == pytest.approx(
            table
        )


def kinds(steps: PlanSteps) -> list[str]:
    """The kinds of a plan's steps, runs of one kind told once."""
    return [kind for kind, _ in itertools.groupby(step.kind for step in steps.steps)]


def test_everything_a_figure_rests_on_is_a_step() -> None:
    """Dresses as many as were counted, the chamfer, turn and blocks where the plan counts on them, spark-outs, stops
    and waits."""
    turned = planned(
        RouteChoices(
            faces={2: FaceChoice(skew_deg=20.0)},
            steps=tuple(StepChoice(key, blocks=key == "2") for key in ("1", "2", "3+4", "5", "6")),
        )
    )
    made = turned.faces[2]
    assert made.plan is not None
    steps = plan_steps(made, NOW)
    assert (
        kinds(steps)[:7]
        == [
            *(["dress", "chamfer"] if made.plan.leading_chamfer_mm else ["dress"]),
            "place",
            "turn",
            "blocks",
            "touch off",
            "no feed",
            "rough",
        ][:7]
    )
    assert len(steps.of_kind("dress")) == made.plan.dresses
    assert (
        steps.of_kind("turn")[0].amount == 20
        and steps.holder == "magnet"
        and float(steps.hold_safety or 0) == pytest.approx(made.plan.hold_safety, abs=0.01)
    )
    assert steps.steps[-1].kind == "measure" and steps.steps[-2].kind in ("spark-out", "cool")
    assert (
        steps.of_kind("chamfer") == () or float(steps.of_kind("chamfer")[0].amount or 0) == made.plan.leading_chamfer_mm
    )
    assert float(steps.rise_c) == pytest.approx(made.plan.rise_c, abs=0.01)


def test_table_time_and_time_in_all_are_the_plan_s_and_the_hands() -> None:
    made = planned().faces[2]
    assert made.plan is not None
    steps = plan_steps(made, NOW)
    stopping = [step for step in steps.steps if step.kind in ("no feed",)]
    extra = sum(step.minutes for step in stopping) + sum(step.minutes for step in steps.of_kind("spark-out")[:1])
    assert steps.table_minutes == pytest.approx(
        made.plan.minutes + extra - (0 if made.plan.spark_outs == 0 else extra), abs=extra
    )
    hands = sum(
        step.minutes for step in steps.of_kind("place", "touch off", "measure", "cool", "turn", "blocks", "chamfer")
    )
    assert steps.minutes == pytest.approx(steps.table_minutes + hands) and hands >= 4 + 2 + 3 + 3


def test_a_plan_that_ends_on_a_size_stops_before_it_to_be_measured() -> None:
    made = planned().faces[2]
    steps = plan_steps(made, NOW)
    stop = steps.of_kind("measure")[0]
    above = steps.passes[-1].depth_mm - stop.depth_mm
    assert D("0.025") <= above and stop.depth_mm > 0 and len(steps.of_kind("measure")) == 2
    before = steps.steps[stop.number - 2]
    assert before.kind in ("spark-out", "cool"), "the springs come off before it is measured"
    clean = plan_steps(planned().faces[1], replace(NOW, ends_on_size=False))
    assert len(clean.of_kind("measure")) == 1 and clean.steps[-1].kind == "measure"
    learner = plan_steps(planned(left_mm={2: D("0.1")}, carries_on=(2,)).faces[2], replace(NOW, stops_once_more=True))
    assert len(learner.of_kind("measure")) >= 2


def test_after_take_more_only_what_is_needed_then_is_asked_for() -> None:
    """No rough dress before a finish pass; no dress at all on a wheel that has just had one; no new zero."""
    made = planned(left_mm={2: D("0.0178")}, carries_on=(2,)).faces[2]
    assert made.plan is not None and made.plan.rough_passes == 0
    fresh = plan_steps(made, replace(NOW, carries_on=True))
    assert kinds(fresh) == ["dress", "finish", "spark-out", "measure"] and fresh.steps[0].what == made.plan.finish_dress
    again = plan_steps(made, replace(NOW, carries_on=True, finish_dressed=True))
    assert kinds(again) == ["finish", "spark-out", "measure"] and again.keeps_wheel_height


def test_less_than_a_graduation_is_blank_passes_only() -> None:
    made = planned(left_mm={2: D("0.0012")}).faces[2]
    assert made.plan is None and made.refused.startswith("Nothing to grind")
    steps = plan_steps(
        made, Situation(D("0.00254"), D("0.005"), carries_on=True, held_back_mm=D("0.004"), cut_ratio=0.5)
    )
    assert not steps.passes and len(steps.of_kind("spark-out")) == 3 and steps.steps[-1].kind == "measure", (
        "4, 2, 1, 0.5 µm"
    )
    with pytest.raises(ValueError, match="Nothing to grind"):
        plan_steps(made, NOW)


def test_choices_come_back_from_text_as_they_were() -> None:
    choices = RouteChoices(
        "shim",
        (StepChoice("4", True, "Cube"), StepChoice("3")),
        {2: FaceChoice("custom", 0.1, 15.0, 0.01, 1.0, 200.0)},
        {"length": PairChoice(D("0.01"), D("0.25"))},
        3.5,
    )
    assert loaded(dumped(choices)) == choices
    for bad in (
        "",
        "{}",
        '{"format": "part plan 3", "choices": {"squareness": "magic"}}',
        dumped(choices).replace("0.25", "1.25"),
        dumped(choices).replace("part plan 3", "part plan 1"),
    ):
        with pytest.raises(ValueError, match="no part plan"):
            loaded(bad)


def test_only_what_differs_is_told() -> None:
    one, other = planned(), planned(RouteChoices(faces={5: FaceChoice("light")}))
    changes = differences(figures(one, MEANS, SHOP), figures(other, MEANS, SHOP))
    assert set(moved(changes)) <= {"face 5", "5 ∥ 3"} and ("face 5", "method") in {
        (each.of, each.what) for each in changes
    }
    assert differences(figures(one, MEANS, SHOP), figures(planned(), MEANS, SHOP)) == []
    dull = replace(MEANS, wheel=replace(MEANS.wheel, diameter_mm=160.0))
    assert "the wheel" in moved(differences(figures(one, MEANS, SHOP), figures(one, dull, SHOP)))


def test_the_screen_s_question_is_what_the_door_is_asked() -> None:
    question = planned().faces[2].problem
    assert question is not None
    asked = json.loads(json.dumps(question.request()))
    best = answer("pass.optimise", asked | {"with_curve": False})["plan"]
    assert best == {name: getattr(best_of(question), name) for name in best}
    own = answer(
        "pass.plan",
        asked
        | {
            name: best[name]
            for name in (
                "downfeed_mm",
                "crossfeed_mm",
                "table_mm_s",
                "leading_chamfer_mm",
                "rough_dress",
                "finish_passes",
                "finish_step_mm",
            )
        },
    )
    assert own["plan"] == best, "the same settings are the same plan"


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"downfeed_mm": 0.001}, "downfeed_mm"),
        ({"table_mm_s": 900.0}, "table_mm_s"),
        ({"crossfeed_mm": -1}, "crossfeed_mm"),
        ({"crossfeed_mm": 11.6}, "crossfeed_mm"),
        ({"leading_chamfer_mm": 1.2}, "leading_chamfer_mm"),
        ({"finish_step_mm": 0.0001}, "finish_step_mm"),
    ],
)
def test_own_settings_that_the_machine_does_not_have_are_refused(more: dict[str, float], field: str) -> None:
    with pytest.raises(InputError) as error:
        answer("pass.plan", ASKED | {"downfeed_mm": 0.0127, "crossfeed_mm": 0.4, "table_mm_s": 300.0} | more)
    assert error.value.field == field


def test_a_machine_that_feeds_at_one_end_only_takes_twice_the_strokes() -> None:
    settings_ = {"downfeed_mm": 0.0127, "crossfeed_mm": 0.4, "table_mm_s": 300.0}
    both, one = (
        answer("pass.plan", ASKED | settings_ | {"machine": ASKED["machine"] | {"feed_every": every}})["plan"]  # type: ignore[operator]
        for every in ("stroke", "pair")
    )
    assert one["strokes"] >= 1.9 * both["strokes"] and one["minutes"] > both["minutes"]


@pytest.mark.parametrize("figure", FIGURES)
def test_every_figure_has_its_reason_with_this_plan_s_number(figure: str) -> None:
    question = planned().faces[2].problem
    assert question is not None
    plan = best_of(question)
    told = reason(question, plan, figure)
    assert told.formula and told.source and told.sure and told.changes_most.endswith(".")
    after = {"temperature": " °C", "power": " W", "wear": " %", "swelling": " µm larger than cold"}.get(figure, "")
    value = getattr(plan, FIGURES[figure]) * (100 if figure == "wear" else 1)
    shown = known_text(value, UNSURE[figure], down=figure == "hold") + after
    assert re.search(rf"(?<![\d.]){re.escape(shown)}(?!\d)", told.numbers)
    with pytest.raises(InputError, match="figure must be one of"):
        reason(question, plan, "colour")


NEST: dict[str, object] = {
    "length_mm": 28.6,
    "width_mm": 12.7,
    "height_mm": 15.9,
    "chuck_length_mm": 450,
    "chuck_width_mm": 150,
    "wheel_width_mm": 12.7,
    "rough_passes": 4,
    "finish_passes": 1,
    "spark_outs": 1,
    "crossfeed_mm": 2,
    "finish_crossfeed_mm": 3,
    "table_mm_s": 300,
    "finish_table_mm_s": 300,
    "reversal_s": 0.3,
}


@settings(max_examples=30, deadline=None)
@given(st.integers(1, 300), st.floats(0, 20))
def test_parts_on_the_chuck_do_not_touch_and_stay_on_it(quantity: int, gap: float) -> None:
    made = answer("nest.layout", NEST | {"quantity": quantity, "gap_mm": gap})
    parts = [place for place in made["places"] if place["kind"] == "part"]
    assert len(parts) == made["a_load"] and made["loads"] == -(-quantity // made["a_load"])
    for place in made["places"]:
        assert place["x_mm"] >= 0 and place["x_mm"] + place["along_mm"] <= 450 + 1e-9
        assert place["y_mm"] >= 0 and place["y_mm"] + place["across_mm"] <= 150 + 1e-9
    for one, other in itertools.combinations(made["places"], 2):
        apart = (
            one["x_mm"] + one["along_mm"] <= other["x_mm"] + 1e-9
            or other["x_mm"] + other["along_mm"] <= one["x_mm"] + 1e-9
            or one["y_mm"] + one["across_mm"] <= other["y_mm"] + 1e-9
            or other["y_mm"] + other["across_mm"] <= one["y_mm"] + 1e-9
        )
        assert apart
    assert made["minutes_a_part"] * quantity == pytest.approx(made["minutes_a_load"] * made["loads"])


def test_twelve_at_once_are_quicker_a_part_than_one_and_too_long_a_part_is_said() -> None:
    one, twelve = (answer("nest.layout", NEST | {"quantity": quantity})["minutes_a_part"] for quantity in (1, 12))
    assert twelve < one / 3
    with pytest.raises(InputError, match="not one part"):
        answer("nest.layout", NEST | {"quantity": 1, "length_mm": 440})


def test_another_plan_takes_the_same_hands_its_own_wait_and_what_is_likely_cut_once_more() -> None:
    chosen = planned().faces[2]
    assert chosen.plan is not None
    steps = plan_steps(chosen, NOW)
    other = replace(chosen.plan, minutes=chosen.plan.minutes + 5, wait_s=chosen.plan.wait_s + 60, finish_minutes=1.5)
    time, own = instead(other, chosen.plan, steps), whole_range(steps)
    by_hand = steps.minutes - steps.table_minutes
    again = 1.5 + HANDLING.measure
    assert steps.rounds[1] == 2 and time.likely == pytest.approx(other.minutes + by_hand + 1 + 2 * again)
    assert time.low < time.likely < time.high and time.table == other.minutes
    assert own.likely == pytest.approx(steps.likely_minutes) and own.low < own.likely < own.high
    clean = plan_steps(chosen, replace(NOW, ends_on_size=False))
    assert clean.rounds == (0, 0, 0) and whole_range(clean).likely == pytest.approx(clean.minutes)


def log_route(block: Block, *choices: StepChoice) -> dict[str, tuple[tuple[int, ...], str, bool]]:
    """The set-ups as the log follows them: what is up, why one is left out, whether it stands on the magnet."""
    return {
        set_up.key: (set_up.up, set_up.left_out, set_up.on_magnet)
        for set_up in set_ups(block, route_steps(block, "angle_plate", choices))
    }


@pytest.mark.parametrize(
    ("most", "least", "ground"),
    [("54.05", "53.95", False), ("54.0501", "54", True), ("54", "53.9499", True), ("54.26", "54.22", True)],
)
def test_a_side_in_size_as_it_came_is_left_alone(most: str, least: str, ground: bool) -> None:
    block = replace(BLOCK, sizes={**BLOCK.sizes, "width": PairSize(D("54"), D("0.05"), D("0.05"), D(most), D(least))})
    told = log_route(block)
    assert told["5"][1] == ("" if ground else "in size as it came")
    assert told["3+4"][0] == ((3, 4) if ground else (4,)) and told["3+4"][1] == ""


def test_the_log_s_route_says_what_stands_on_the_magnet_and_what_is_skipped() -> None:
    thin = replace(
        BLOCK, sizes={**BLOCK.sizes, "thickness": PairSize(D("22"), D("0.003"), D("0.003"), D("22"), D("22"))}
    )
    told = log_route(
        thin, StepChoice("1"), StepChoice("2", skip=True), StepChoice("3+4"), StepChoice("5", fixture="Vise")
    )
    assert told["1"] == ((1,), "", True), "the thickness is what the part came for"
    assert told["2"] == ((2,), "skipped in the plan", True)
    assert told["3+4"] == ((3, 4), "", False) and told["5"] == ((5,), "", False) and told["6"] == ((6,), "", True)


SIX = (StepChoice("1"), StepChoice("2"), StepChoice("3+4"), StepChoice("5"), StepChoice("6"))


def without(*keys: str) -> RouteChoices:
    """The usual route with these set-ups skipped."""
    return RouteChoices(steps=tuple(replace(each, skip=each.key in keys) for each in SIX))


def test_a_set_up_is_found_by_the_faces_it_has_up_and_a_skipped_one_asks_for_nothing() -> None:
    made = planned(without("5"))
    assert {face: made.step_of(face).key for face in (1, 2, 3, 4, 5, 6)} == {  # type: ignore[union-attr]
        1: "1",
        2: "2",
        3: "3+4",
        4: "3+4",
        5: "5",
        6: "6",
    }
    assert planned(done=(1,)).step_of(1) is None
    bold = RouteChoices(steps=without("5").steps, faces={face: FaceChoice(margin=0.0) for face in range(1, 7)})
    near = planned(bold).near_limits
    assert 5 not in near and 6 in near and 2 in near
    unheld = plan_route(
        BLOCK, without("6"), replace(MEANS, material=material_of("austenitic stainless")), SHOP, sharing=SHARING
    )
    stopped = {words.split(":")[0] for words in unheld.stops if words.startswith("Face ")}
    assert {"Face 1", "Face 2", "Face 5"} <= stopped and "Face 6" not in stopped


@pytest.mark.parametrize(("skipped", "short"), [((), True), (("5",), True), (("3+4", "5", "6"), False)])
def test_a_pair_that_does_not_clean_up_counts_while_one_of_its_faces_is_ground(
    skipped: tuple[str, ...], short: bool
) -> None:
    thin = PairSize(D("54"), D("0.01"), D("0.01"), D("54.03"), D("54.02"))
    made = planned(without(*skipped), block=replace(BLOCK, sizes={**BLOCK.sizes, "width": thin}))
    assert ("width" in made.short_of_clean_up) is short and "thickness" not in made.short_of_clean_up


def test_sides_with_nothing_on_them_are_left_but_a_thickness_without_stock_is_said() -> None:
    none = {axis: PairSize(D("54"), D("0.01"), D("0.01"), D("53.9"), D("53.8")) for axis in ("width", "thickness")}
    made = planned(block=replace(BLOCK, sizes={**BLOCK.sizes, **none}))
    assert made.pairs["width"].split.answer == "does not" and made.short_of_clean_up == ["thickness"]


def test_getting_ready_takes_its_time_by_what_holds_the_part() -> None:
    made = planned()
    for face, holder in ((1, "magnet"), (3, "Angle plate P1")):
        told = {}
        for name, more in (("new", {}), ("flip", {"is_flip": True})):
            steps = plan_steps(made.faces[face], Situation(D("0.00254"), D("0.006"), **more))  # type: ignore[arg-type]
            place = steps.of_kind("place")[0]
            assert place.what == holder == steps.holder
            told[name] = place.minutes
        handling = Situation(D("0.00254"), D("0.006")).handling
        assert told == (
            {"new": handling.place, "flip": handling.flip}
            if face == 1
            else {"new": handling.fixture, "flip": handling.fixture}
        )
    assert len({handling.place, handling.flip, handling.fixture}) == 3


def test_a_plan_of_less_than_a_graduation_is_only_made_to_carry_on() -> None:
    bare = replace(planned().faces[2], plan=None, problem=None, stock_mm=D("0.00254"), refused="Nothing to grind.")
    for stock, carries_on in (("0.00254", True), ("0.002", False)):
        with pytest.raises(ValueError, match="Nothing to grind"):
            plan_steps(replace(bare, stock_mm=D(stock)), Situation(D("0.00254"), D("0.006"), carries_on=carries_on))
    spark_outs = plan_steps(
        replace(bare, stock_mm=D("0.0025")),
        Situation(D("0.00254"), D("0.006"), carries_on=True, held_back_mm=D("0.002")),
    )
    assert spark_outs.of_kind("spark-out") and not spark_outs.passes


@pytest.mark.parametrize("stock", ["0.225", "0.23", "0.215"])
def test_the_measure_stop_comes_before_the_feed_that_would_pass_it_and_not_one_earlier(stock: str) -> None:
    """Feeds of 20 µm may end on the stop itself."""
    means = replace(MEANS, machine=replace(MEANS.machine, downfeed_graduation_mm=D("0.005")))
    own = RouteChoices(faces={2: FaceChoice("custom", downfeed_mm=0.02, crossfeed_mm=0.5, table_mm_s=300.0)})
    made = plan_route(BLOCK, own, means, SHOP, sharing=SHARING, done=(1,), left_mm={2: D(stock)}).faces[2]
    steps = plan_steps(made, Situation(D("0.005"), D("0.02"))).steps
    where = next(number for number, step in enumerate(steps) if step.kind == "measure")
    stop, before = D(stock) - D("0.025"), steps[where].depth_mm
    following = next(step for step in steps[where:] if step.step_mm)
    assert before <= stop < before + following.step_mm


def test_a_wheel_that_was_dressed_so_and_hardly_used_is_not_dressed_again() -> None:
    choices = RouteChoices(faces={2: FaceChoice("custom", downfeed_mm=0.02, crossfeed_mm=1.0, table_mm_s=300.0)})
    made = planned(choices, left_mm={2: D("0.2")}).faces[2]
    assert made.plan is not None and made.plan.rough_passes and not made.plan.leading_chamfer_mm
    other = next(kind for kind in ("coarse", "general", "fine") if kind != made.plan.rough_dress)
    always, other_kind = (plan_steps(made, replace(NOW, rough_dressed=kind)).steps[0] for kind in ("", other))
    assert (always.kind, always.what) == (other_kind.kind, other_kind.what) == ("dress", made.plan.rough_dress)
    spared = plan_steps(made, replace(NOW, rough_dressed=made.plan.rough_dress))
    assert spared.steps[0].kind == "place"
    assert [each.kind for each in spared.steps] == [each.kind for each in plan_steps(made, NOW).steps][1:]
    chamfered = replace(made, plan=replace(made.plan, leading_chamfer_mm=1.0))
    kinds = [each.kind for each in plan_steps(chamfered, replace(NOW, rough_dressed=made.plan.rough_dress)).steps]
    assert kinds[:2] == ["dress", "chamfer"], "its edge is new each time"


def test_a_deep_cut_that_loses_size_to_the_wheel_stops_to_be_measured_before_its_finish() -> None:
    """One roughing pass has no place above the goal to stop at: it stops after it, and the wait is before the dress."""
    deep = RouteChoices(faces={2: FaceChoice("custom", downfeed_mm=0.2, crossfeed_mm=11.4, table_mm_s=100.0)})
    made = planned(deep, left_mm={2: D("0.15")}).faces[2]
    assert made.plan is not None and made.plan.rough_passes == 1 and made.plan.measure_stop
    kinds = [step.kind for step in plan_steps(made, NOW).steps]
    rough, stop = kinds.index("rough"), kinds.index("measure")
    assert rough < stop < kinds.index("finish") and kinds.count("measure") == 2
    clean = [step.kind for step in plan_steps(made, replace(NOW, ends_on_size=False)).steps]
    assert clean.count("measure") == 1, "a reference ends on no size"
    waits = replace(made, plan=replace(made.plan, wait_s=120.0))
    for now in (NOW, replace(NOW, ends_on_size=False)):
        steps = plan_steps(waits, now).steps
        cool = next(at for at, step in enumerate(steps) if step.kind == "cool")
        dress = next(at for at, step in enumerate(steps) if step.kind == "dress" and at > 0)
        assert cool < dress and steps[cool].minutes == pytest.approx(2)


@pytest.mark.parametrize(
    ("has", "slow"),
    [
        ({}, ("0.4", "200")),
        ({"crossfeed_steps_mm": (D("0.1"), D("0.3"), D(1))}, ("0.3", "200")),
        ({"crossfeed_steps_mm": (D("0.5"), D(1)), "table_max_mm_s": 150.0}, ("0.5", "150")),
        ({"crossfeed_min_mm": D("0.6")}, ("0.6", "200")),
        ({"crossfeed_graduation_mm": D("0.15"), "table_min_mm_s": 250.0}, ("0.3", "250")),
    ],
)
def test_spark_outs_alone_are_set_to_what_the_machine_has(has: dict[str, object], slow: tuple[str, str]) -> None:
    nearest = replace(MEANS.machine, **has).nearest(*SLOW)  # type: ignore[arg-type]
    now = replace(NOW, carries_on=True, held_back_mm=D("0.002"), slow=nearest)
    nothing_left = planned(left_mm={2: D("0.001")}).faces[2]
    steps = plan_steps(nothing_left, now).of_kind("spark-out")
    assert steps and {(step.crossfeed_mm, step.table_mm_s) for step in steps} == {(D(slow[0]), D(slow[1]))}


def test_a_plan_counts_its_stops_with_those_of_the_rounds_after_them() -> None:
    steps = plan_steps(planned().faces[2], NOW)
    measured = len(steps.of_kind("measure"))
    assert measured >= 2 and steps.stops == tuple(measured + each for each in steps.rounds)
    assert plan_steps(planned().faces[2], replace(NOW, ends_on_size=False)).stops[0] <= measured
