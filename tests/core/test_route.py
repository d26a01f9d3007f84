"""The part's route: guarded order, chains against the print, exact steps, batches, versions compared."""

import itertools
import json
from dataclasses import replace
from decimal import Decimal as D

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_heat_and_plan import ASKED
from zesty_lark.core.calc import answer
from zesty_lark.core.measure.chain import Link, chain
from zesty_lark.core.process.optimise import best_of, schools_of
from zesty_lark.core.process.plan_input import MachineIn, WheelIn
from zesty_lark.core.process.reasons import FIGURES, reason
from zesty_lark.core.quantities import InputError
from zesty_lark.core.route.block import Block, PairSize, Sharing, pair_stock
from zesty_lark.core.route.changes import differences, moved
from zesty_lark.core.route.choices import FaceChoice, PairChoice, RouteChoices, dumped, loaded
from zesty_lark.core.route.order import StepChoice, route_steps
from zesty_lark.core.route.planned import Means, RoutePlan, face_question, figures, plan_route
from zesty_lark.core.route.relations import ChuckFacts, FixtureFacts, ShopFacts
from zesty_lark.core.route.release import plan_steps
from zesty_lark.core.sequence import SCHOOLS_OF_SQUARENESS

BLOCK = Block(
    {"thickness": PairSize(D("22"), D("0.003"), D("0.003"), D("22.262"), D("22.214")),
     "width": PairSize(D("54"), D("0.05"), D("0.05"), D("54.26"), D("54.22")),
     "length": PairSize(D("88"), D("0.05"), D("0.05"), D("88.31"), D("88.27"))},
    {1: D("0.041"), 2: D("0.036"), 3: D("0.06"), 5: D("0.05"), 4: D("0.07"), 6: D("0.06")}, (1, 3, 4), 3.0, 5.0, 2.0)
MEANS = Means(MachineIn(D("0.00254"), D("0.05"), D("0.1"), D("12"), 80.0, 350.0, 0.3, 1100.0, 0.6),
              WheelIn(180.0, 12.7, 3000.0, 46, "H", may_chamfer=True), 80.0, "water", 200.0, 2.0, 0.8)
PLATE = FixtureFacts("Angle plate P1", "angle_plate", 3.0, 100.0, 0.8, 150.0, 100.0)
CUBE = FixtureFacts("Square block S2", "square_block", 1.5, 80.0, 1.0, 80.0, 60.0)
SHOP = ShopFacts(ChuckFacts("Chuck A", 3.2, 450.0), [PLATE, CUBE])
SHARING = {axis: Sharing(D("0.005")) for axis in ("thickness", "width", "length")}


def planned(choices: RouteChoices = RouteChoices(), shop: ShopFacts = SHOP, block: Block = BLOCK,  # noqa: B008
            **more: object) -> RoutePlan:
    return plan_route(block, choices, MEANS, shop, SHARING, **more)  # type: ignore[arg-type]


def relation(made: RoutePlan, name: str):  # type: ignore[no-untyped-def]
    return next(each for each in made.relations if each.name == name)


@pytest.mark.parametrize("school", SCHOOLS_OF_SQUARENESS)
def test_every_school_makes_every_relation_and_plans_every_face(school: str) -> None:
    made = planned(RouteChoices(squareness=school))  # type: ignore[arg-type]
    assert sorted(made.faces) == [1, 2, 3, 4, 5, 6] and not made.stops
    assert all(each.state != "not made" for each in made.relations) and len(made.relations) == 8
    assert all(each.plan is not None and each.plan.within_limits for each in made.faces.values())
    assert made.minutes == pytest.approx(sum(each.plan.minutes for each in made.faces.values() if each.plan))


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
    assert links["Chuck A’s map under the fixture"] == pytest.approx(3.2 * 54 / 450)
    again = chain(need_over_mm=54.0, links=[Link(name, limit, "length") for name, limit in links.items()])
    assert made.chain.worst_um == pytest.approx(again.worst_um) and made.chain.likely_um == pytest.approx(again.likely_um)


@given(st.floats(0, 30), st.floats(0.1, 20))
@settings(max_examples=20, deadline=None)
def test_a_worse_chuck_never_makes_a_relation_better(flat: float, worse: float) -> None:
    before, after = (planned(shop=replace(SHOP, chuck=replace(SHOP.chuck, flat_um=um))) for um in (flat, flat + worse))
    for one, other in zip(before.relations, after.relations, strict=True):
        assert other.chain.worst_um > one.chain.worst_um or one.kind == "flat" and other.chain == one.chain
    assert {each.of for each in differences(figures(before, MEANS, SHOP), figures(after, MEANS, SHOP))} >= {"2 ∥ 1", "5 ∥ 3"} \
        or worse < 0.5


def test_what_would_fix_the_biggest_link_is_named_with_its_figure() -> None:
    rough = replace(PLATE, square_um=12.0)
    made = relation(planned(shop=replace(SHOP, fixtures=[rough, CUBE])), "4 ⊥ 3")
    assert made.state == "unlikely" and made.chain.biggest == "Angle plate P1"
    assert made.remedy.startswith("With Square block S2 it would likely be")
    better = planned(RouteChoices(steps=(StepChoice("1"), StepChoice("2"),
                                          StepChoice("3+4", fixture="Square block S2"))),
                     shop=replace(SHOP, fixtures=[rough, CUBE]))
    assert f"{relation(better, '4 ⊥ 3').chain.likely_um:.1f}" in made.remedy, "and it comes to that when it is taken"
    unmapped = relation(planned(shop=replace(SHOP, chuck=replace(SHOP.chuck, flat_um=None))), "6 ∥ 4")
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
    thin = replace(BLOCK, sizes={**BLOCK.sizes, "thickness": PairSize(D("4"), D("0.01"), D("0.01"), D("4.1"), D("4.09"))})
    thick = replace(BLOCK, sizes={**BLOCK.sizes, "thickness": PairSize(D("60"), D("0.01"), D("0.01"), D("60.1"), D("60.09"))})
    back = [relation(planned(block=block), "1 flat").chain.links_um["magnet: springs back"] for block in (thin, thick)]
    assert back[0] == pytest.approx(thin.bow_mm(1) * 1000) and back[1] < 0.2
    clamped = planned(RouteChoices(steps=(StepChoice("1", fixture="Square block S2"), StepChoice("2"))), block=thin)
    assert relation(clamped, "1 flat").chain.links_um["magnet: springs back"] == 0


def test_a_share_puts_the_stock_where_a_hole_needs_it() -> None:
    shared = SHARING | {"width": Sharing(D("0.005"), D("0.5"))}
    made = plan_route(BLOCK, RouteChoices(), MEANS, SHOP, shared)
    assert made.faces[3].stock_mm == made.faces[5].stock_mm == D("0.13")
    assert RouteChoices(pairs={"width": PairChoice(None, D("0.5"))}).sharing(D("0.005"), D("0.2")) == {
        "thickness": Sharing(D("0.005"), D("0.2")), "width": Sharing(D("0.005"), D("0.5")), "length": Sharing(D("0.005"))}


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


def test_a_side_in_a_fixture_stands_on_the_fixtures_base() -> None:
    bare = face_question(BLOCK, 4, D("0.1"), 0.0, MEANS, None)
    held = face_question(BLOCK, 4, D("0.1"), 0.0, MEANS, PLATE)
    assert bare.part.height_mm == 88 and bare.blocked and held.chuck.base_length_mm == 150
    plans = [next(each for each in schools_of(question) if each.school == "light") for question in (bare, held)]
    assert plans[1].hold_safety > plans[0].hold_safety


@settings(max_examples=40, deadline=None)
@given(st.decimals("0.003", "0.4", places=4))
def test_released_steps_never_pass_the_stock_and_leave_less_than_a_graduation(stock: D) -> None:
    made = planned(left_mm={2: stock}).faces[2]
    steps = plan_steps(made, graduation_mm=D("0.00254"), per_rev_mm=D("1.27"), carries_on=False, tolerance_mm=D("0.006"))
    taken = sum((step.step_mm for step in steps.steps), D(0))
    assert taken + steps.left_on_mm == stock and 0 <= steps.left_on_mm < D("0.00254")
    assert all(step.step_mm % D("0.00254") == 0 for step in steps.steps)
    assert made.plan is not None and len(steps.steps) == made.plan.passes, "the steps are the planner's passes"
    assert max(float(step.step_mm) for step in steps.steps) <= max(made.plan.downfeed_mm, made.plan.finish_step_mm) + 1e-9


def test_less_than_a_graduation_is_blank_passes_only() -> None:
    made = planned(left_mm={2: D("0.0012")}).faces[2]
    assert made.plan is None and made.problem.startswith("Nothing to grind")
    steps = plan_steps(made, graduation_mm=D("0.00254"), per_rev_mm=D("1.27"), carries_on=True, held_back_mm=D("0.004"),
                       tolerance_mm=D("0.005"), cut_ratio=0.5)
    assert not steps.steps and steps.spark_passes == 3, "4, 2, 1, 0.5 µm"


def test_choices_come_back_from_text_as_they_were() -> None:
    choices = RouteChoices("shim", (StepChoice("4", True, "Cube"), StepChoice("3")),
                           {2: FaceChoice("own", 15.0, 0.01, 1.0, 200.0)}, {"length": PairChoice(D("0.01"), D("0.25"))},
                           3.5)
    assert loaded(dumped(choices)) == choices
    for bad in ("", "{}", '{"format": "part plan 1", "choices": {"squareness": "magic"}}',
                dumped(choices).replace("0.25", "1.25")):
        with pytest.raises(ValueError, match="no part plan"):
            loaded(bad)


def test_only_what_differs_is_told() -> None:
    one, other = planned(), planned(RouteChoices(faces={5: FaceChoice("light")}))
    changes = differences(figures(one, MEANS, SHOP), figures(other, MEANS, SHOP))
    assert set(moved(changes)) <= {"face 5", "5 ∥ 3"} and ("face 5", "habit") in {(each.of, each.what) for each in changes}
    assert differences(figures(one, MEANS, SHOP), figures(planned(), MEANS, SHOP)) == []
    dull = replace(MEANS, wheel=replace(MEANS.wheel, diameter_mm=160.0))
    assert "the wheel" in moved(differences(figures(one, MEANS, SHOP), figures(one, dull, SHOP)))


def test_the_screen_s_question_is_what_the_door_is_asked() -> None:
    question = planned().faces[2].question
    assert question is not None
    asked = json.loads(json.dumps(question.request()))
    best = answer("pass.optimise", asked | {"with_curve": False})["plan"]
    assert best == {name: getattr(best_of(question), name) for name in best}
    own = answer("pass.plan", asked | {name: best[name] for name in (
        "downfeed_mm", "crossfeed_mm", "table_mm_s", "leading_chamfer_mm", "rough_dress", "finish_passes", "finish_step_mm")})
    assert own["plan"] == best, "the same settings are the same plan"


@pytest.mark.parametrize(("more", "field"), [
    ({"downfeed_mm": 0.001}, "downfeed_mm"), ({"table_mm_s": 900.0}, "table_mm_s"), ({"crossfeed_mm": -1}, "crossfeed_mm"),
    ({"finish_step_mm": 0.0001}, "finish_step_mm")])
def test_own_settings_that_the_machine_does_not_have_are_refused(more: dict[str, float], field: str) -> None:
    with pytest.raises(InputError) as error:
        answer("pass.plan", ASKED | {"downfeed_mm": 0.0127, "crossfeed_mm": 0.4, "table_mm_s": 300.0} | more)
    assert error.value.field == field


def test_a_machine_that_feeds_at_one_end_only_takes_twice_the_strokes() -> None:
    settings_ = {"downfeed_mm": 0.0127, "crossfeed_mm": 0.4, "table_mm_s": 300.0}
    both, one = (answer("pass.plan", ASKED | settings_ | {"machine": ASKED["machine"] | {"feed_every": every}})["plan"]  # type: ignore[operator]
                 for every in ("stroke", "pair"))
    assert one["strokes"] >= 1.9 * both["strokes"] and one["minutes"] > both["minutes"]


@pytest.mark.parametrize("figure", FIGURES)
def test_every_figure_has_its_reason_with_this_plan_s_number(figure: str) -> None:
    question = planned().faces[2].question
    assert question is not None
    plan = best_of(question)
    told = reason(question, plan, figure)
    assert told.formula and told.source and told.sure and told.changes_most.endswith(".")
    shown = {"minutes": f"{plan.minutes:.2f}", "temperature": f"{plan.peak_temperature_c:.0f} °C",
             "power": f"{plan.power_w:.0f} W",
             "hold": f"{plan.hold_safety:.1f}", "wear": f"{100 * plan.worn_share:.0f} %", "hollow": f"{plan.hollow_um:.2f}",
             "size": f"{plan.size_lost_um:.2f}", "finish": f"{plan.ra_um:.2f}", "left": f"{plan.left_um:.3f}"}
    assert shown[figure] in told.numbers
    with pytest.raises(InputError, match="figure must be one of"):
        reason(question, plan, "colour")


NEST: dict[str, object] = {
    "length_mm": 28.6, "width_mm": 12.7, "height_mm": 15.9, "chuck_length_mm": 450, "chuck_width_mm": 150, "wheel_width_mm": 12.7,
    "rough_passes": 4, "finish_passes": 1, "blanks": 1, "crossfeed_mm": 2, "finish_crossfeed_mm": 3, "table_mm_s": 300,
    "finish_table_mm_s": 300, "reversal_s": 0.3}


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
        apart = (one["x_mm"] + one["along_mm"] <= other["x_mm"] + 1e-9 or other["x_mm"] + other["along_mm"] <= one["x_mm"] + 1e-9
                 or one["y_mm"] + one["across_mm"] <= other["y_mm"] + 1e-9
                 or other["y_mm"] + other["across_mm"] <= one["y_mm"] + 1e-9)
        assert apart
    assert made["minutes_a_part"] * quantity == pytest.approx(made["minutes_a_load"] * made["loads"])


def test_twelve_at_once_are_quicker_a_part_than_one_and_too_long_a_part_is_said() -> None:
    one, twelve = (answer("nest.layout", NEST | {"quantity": quantity})["minutes_a_part"] for quantity in (1, 12))
    assert twelve < one / 3
    with pytest.raises(InputError, match="not one part"):
        answer("nest.layout", NEST | {"quantity": 1, "length_mm": 440})
