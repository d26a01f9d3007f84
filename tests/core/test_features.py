"""Slots, inclined faces, lead-ins, radii and edges as surfaces of the print: stock, order, growth, drawings."""

import math
from dataclasses import replace
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_route import BLOCK, MEANS, SHARING, SHOP
from zesty_lark.core.angles_slots.compound import mitre, mitre_steps
from zesty_lark.core.calc import answer
from zesty_lark.core.measure.grown import cut_of, fed_zone, judged_as_ground
from zesty_lark.core.measure.thickness import Judgement, judge
from zesty_lark.core.part.faces import Condition
from zesty_lark.core.part.sizes import Reading, Size
from zesty_lark.core.part.surfaces import kind_of, surfaces_of
from zesty_lark.core.part.surfaces.features import (
    EdgeBreak,
    FeatureError,
    Incline,
    LeadIns,
    Radius,
    Slot,
    dumped_features,
    loaded_features,
)
from zesty_lark.core.part.surfaces.formed_face import (
    drawn_on_block,
    feature_wrong,
    formed_of,
    formed_stops,
    with_features,
)
from zesty_lark.core.part.surfaces.part import PairSize
from zesty_lark.core.part.surfaces.slot import aim_of
from zesty_lark.core.part.surfaces.surface import Surface
from zesty_lark.core.planning.finish import KINDS, FinishKind, described, grid_of
from zesty_lark.core.planning.plan import BINDINGS, Plan
from zesty_lark.core.planning.problem import Problem
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.setup.forming.set_up import AtMachine, set_up_answer
from zesty_lark.core.setup.forming.set_ups_drawn import (
    corner_in_space,
    incline_drawn,
    plate_clearance,
    side_slot_drawn,
    tilted_slot_drawn,
)
from zesty_lark.core.squaring.choices import RouteChoices
from zesty_lark.core.squaring.feed import depth_graduation, feed_as
from zesty_lark.core.squaring.planned import plan_route
from zesty_lark.core.squaring.release import Situation, plan_steps
from zesty_lark.core.things.shop import Fixture, Wheel
from zesty_lark.core.work.plans import PASSES

D = Decimal
SLOT = Slot(
    "slot", 1, 3, D(27), D("0.02"), D(18), D(0), D("0.018"), D("18.06"), D("35.98"), D(8), D("0.05"), D("7.9"),
    D("0.5"),
)  # fmt: skip
WEDGE = Incline("wedge", 2, 6, 12.5, 0.01, D("21.5"), D("0.02"), D("0.02"), D("21.62"))
LEADS = LeadIns("lead-in", 1, 3, 4, 22.0, 14.0, 0.05, D(6), D(8), D("0.2"), D("5.6"), D("7.2"))
NOSE = Radius("nose", 1, 6, D("1.5"), D("0.01"), D("0.01"), D("1.56"))
EDGE = EdgeBreak("edge", 1, 5, D("0.5"), D("0.05"), D(0))
ALL = (SLOT, WEDGE, LEADS, NOSE, EDGE)
SIZES = {axis: BLOCK.sizes[axis] for axis in ("length", "width", "thickness")}
SINE = Fixture(
    "Sine plate", "vee_or_vise", D("0.001"), D(100), D("0.0005"), D(150), D(75), form="sine_plate", centres_mm=D(127)
)
WHEEL = Wheel("W6", "A 80 K 8 V", 80, "K", D(180), D("12.7"), D("31.75"), 3600)
AT = AtMachine(SINE, None, WHEEL, D("0.00254"))
SHAPED = replace(SHOP, fixtures=[*SHOP.fixtures, SINE, replace(SINE, name="Vee", form="vee_block"), replace(
    SINE, name="Spin", form="spin_fixture"), replace(SINE, name="Two", top_centres_mm=D(100))])  # fmt: skip


KIND = FinishKind(1, 1)


def block(*features: object) -> object:
    return with_features(BLOCK, features)  # type: ignore[arg-type]


@given(left=st.integers(17_800, 18_200), right=st.integers(35_800, 36_200), keep=st.sampled_from(["width", "position"]))
def test_each_wall_has_the_stock_that_the_calculation_says_or_it_is_decided_first(
    left: int, right: int, keep: str
) -> None:
    slot = replace(SLOT, left_now_mm=D(left) / 1000, right_now_mm=D(right) / 1000)
    goal = D("18.009")
    told = answer(
        "slot.plan",
        {
            "datum_to_left_mm": str(slot.left_now_mm),
            "datum_to_right_mm": str(slot.right_now_mm),
            "centre_mm": "27",
            "width_mm": str(goal),
        },
    )
    aim = aim_of(slot)
    assert bool(aim.stop) is (not told["possible"])
    if D(str(told["total_mm"])) < 0:
        assert aim_of(replace(slot, keep=keep)).stop, "too wide already: there is nothing to decide"
        return
    aim = aim_of(replace(slot, keep=keep))
    assert not aim.stop
    lost = slot.left_now_mm - aim.left_mm, aim.right_mm - slot.right_now_mm
    assert min(lost) >= 0, "neither wall is asked for what it has not"
    if told["possible"] or keep == "width":
        assert aim.width_mm == goal
        assert abs(aim.centre_mm - 27) == D(str(told["best_position_error_mm"]))
    else:
        assert aim.centre_mm == 27 and aim.width_mm == goal + D(str(told["best_width_error_mm"]))


def test_walls_are_fed_by_the_cosine_and_the_second_grows() -> None:
    made = formed_of(block(SLOT))  # type: ignore[arg-type]
    floor, left, right = made[7], made[8], made[9]
    ways = answer(
        "slot.ways", {"stock_mm": "0.0645", "graduation_mm": "0.00254", "slot_width_mm": 17.92, "wheel_width_mm": 12.7}
    )
    assert float(left.stock_mm) == pytest.approx(0.0645 / math.cos(math.pi / 4), abs=1e-6)
    assert D(0) <= D(str(ways["tilted"]["at_dial_mm"])) - left.stock_mm < D("0.00254"), "and whole graduations of it"
    assert left.surface.fed(D("18.06"), left.stock_mm) == pytest.approx(left.goal_mm, abs=D("0.000001"))
    assert right.surface.grows and right.surface.fed(right.size.measured_max_mm, right.stock_mm) == pytest.approx(
        D("18.009"), abs=D("0.000001")
    )
    assert floor.stock_mm == D("0.1") and floor.surface.after == (1,)
    side = formed_of(block(replace(SLOT, way="side")))[8]  # type: ignore[arg-type]
    assert side.stock_mm == D("0.0645") and side.feeding.dial == "across" and side.feeding.cut_ratio == 0.28


@given(st.floats(1, 60), st.floats(-30, 30), st.integers(0, 40))
def test_an_inclined_face_goes_down_along_its_normal(angle: float, across: float, grads: int) -> None:
    incline = replace(WEDGE, angle_deg=angle, across_deg=across)
    made = formed_of(block(incline))[7]  # type: ignore[arg-type]
    normal = answer("compound.normal", {"along_deg": -angle, "across_deg": across})
    fed = D(grads) * D("0.00254")
    lost = D("21.62") - made.surface.fed(D("21.62"), fed)
    assert float(lost) == pytest.approx(float(fed) / normal["nz"], abs=1e-6)
    assert made.surface.to_feed(D("21.62"), D("21.62") - lost) == pytest.approx(fed, abs=D("0.000001"))


def test_lead_ins_radius_and_edge_take_what_their_calculations_say() -> None:
    made = formed_of(block(LEADS, NOSE, EDGE))  # type: ignore[arg-type]
    wall, floor, nose, edge = made[7], made[8], made[9], made[10]
    mitre = answer("compound.mitre", {"floor_deg": 22.0, "wall_deg": 14.0})
    deep = 0.4 * math.sin(math.radians(22))
    assert float(floor.stock_mm) == pytest.approx(deep, abs=1e-6)
    lean = math.cos(math.radians(mitre["wheel_deg"]))
    assert float(wall.stock_mm) == pytest.approx(0.8 * math.sin(math.radians(14)) / lean, abs=1e-6)
    assert wall.group == floor.group == "7+8" and floor.surface.after[-1] == 7
    assert nose.stock_mm == D("0.06")
    flat = answer("edge.break", {"downfeed_mm": float(edge.stock_mm)})["flat_mm"]
    assert flat == pytest.approx(0.5)
    roll = answer("roll.corner", {"diameter_mm": 3.0, "included_deg": 90 + mitre["wheel_deg"]})
    assert f"{roll['reading_mm']:.4f} mm" in " ".join(floor.holding.cautions)


def test_all_of_them_are_planned_in_their_order_after_the_faces_of_the_block() -> None:
    whole = block(*ALL[:4])
    route = plan_route(whole, RouteChoices(), MEANS, SHAPED, sharing=SHARING)  # type: ignore[arg-type]
    assert [step.key for step in route.steps][-6:] == ["7", "8", "9", "10", "11+12", "13"]
    assert not route.stops, route.stops
    for number in range(7, 14):
        planned = route.faces[number]
        assert planned.plan is not None, (number, planned.refused)
        asked = answer("pass.optimise", planned.problem.request())  # type: ignore[union-attr]
        assert asked["plan"]["minutes"] == pytest.approx(planned.plan.minutes)
    assert [route.faces[each].held.holder for each in (7, 8, 10, 13)] == ["magnet", "Sine plate", "Sine plate", "Spin"]
    bare = plan_route(whole, RouteChoices(), MEANS, SHOP, sharing=SHARING)  # type: ignore[arg-type]
    assert "The shop has no sine plate" in bare.faces[8].refused and any("sine plate" in stop for stop in bare.stops)


def test_walls_angles_and_edges_go_through_every_limit_with_their_own_springs() -> None:
    """A slot's wall by the wheel's side springs more than the machine, and swells with the whole part, not with the
    wall alone."""
    whole = block(*ALL)
    route = plan_route(whole, RouteChoices(), MEANS, SHAPED, sharing=SHARING)  # type: ignore[arg-type]
    formed = [route.faces[number] for number in route.faces if number > 6 and route.faces[number].plan]
    assert len(formed) > 3
    for each in formed:
        assert each.plan is not None and each.problem is not None
        assert set(each.plan.used) == set(BINDINGS) and each.plan.within_limits
        assert each.plan.swelling_um > 0 and each.problem.part.body_mm2
    by_side, fine = block(replace(SLOT, way="side")), replace(MEANS.machine, cross_dial_mm=D("0.005"))
    wall = plan_route(
        by_side,
        RouteChoices(),
        replace(MEANS, machine=fine),
        SHAPED,
        sharing=SHARING,
        only=8,  # type: ignore[arg-type]
    ).faces[8]
    assert wall.problem is not None and wall.plan is not None
    assert wall.problem.machine.cut_ratio == 0.28 != MEANS.machine.cut_ratio
    thin = replace(wall.problem, part=replace(wall.problem.part, body_mm2=None))
    assert plan_of_same(thin, wall.plan) > plan_of_same(wall.problem, wall.plan) > 0


def plan_of_same(problem: Problem, plan: Plan) -> float:
    """The swelling of the same finish on another body [µm]."""
    crossfeed, table, dress, _ = grid_of(problem, KIND)
    wanted = (plan.finish_crossfeed_mm, plan.finish_table_mm_s, KINDS.index(plan.finish_dress))
    place = list(zip(crossfeed, table, dress, strict=True)).index(wanted)
    return described(problem, KIND, 0.0, place).swelling_um


def test_a_plan_in_steps_is_in_whole_graduations_of_its_dial_and_says_that_there_is_no_crossfeed() -> None:
    route = plan_route(block(SLOT), RouteChoices(), MEANS, SHAPED, sharing=SHARING, only=8)  # type: ignore[arg-type]
    steps = plan_steps(route.faces[8], Situation(D("0.00254"), D("0.03"), plunged=True))
    assert all(step.step_mm % D("0.00254") == 0 for step in steps.passes) and steps.passes
    assert all(step.plunged and not step.what for step in steps.of_kind(*PASSES))
    fed = sum((step.step_mm for step in steps.passes), D(0))
    assert D(0) <= route.faces[8].stock_mm - fed < D("0.00254")
    machine, stock, _ = feed_as(block(SLOT), 8, D("0.0912"), machine=MEANS.machine, wheel_mm=12.7)  # type: ignore[arg-type]
    assert float(machine.downfeed_graduation_mm) == pytest.approx(0.00254 * math.cos(math.pi / 4), abs=1e-8)
    assert stock / machine.downfeed_graduation_mm == 35


def test_a_dial_that_is_too_coarse_for_the_tolerance_is_refused() -> None:
    route = plan_route(
        block(replace(SLOT, way="side")), RouteChoices(), MEANS, SHAPED, sharing=SHARING, only=8  # type: ignore[arg-type]
    )  # fmt: skip
    assert "more than its tolerance" in route.faces[8].refused


LIMITS = Size(D(18), D(0), D("0.018"))
GROWS = Surface(9, "width", 2, kind="formed", per_feed=D("0.707106781"))


def told(*values: str, u: str = "0.001") -> Judgement:
    readings = [Reading(f"p{number}", D(value)) for number, value in enumerate(values)]

    def as_shrinking(each: object, goal: Decimal) -> Judgement:
        return judge(each, LIMITS, D(u), goal_mm=goal)  # type: ignore[arg-type]

    return judged_as_ground(GROWS, readings, LIMITS, LIMITS.goal_mm, judge=as_shrinking)


def test_a_width_that_grows_is_judged_from_the_other_side() -> None:
    narrow, right, wide = told("17.98", "17.985"), told("18.008", "18.01"), told("18.02", "18.008")
    assert (narrow.verdict, right.verdict, wide.verdict) == ("not yet", "in", "out")
    assert narrow.greatest.value_mm == D("17.98") and narrow.over and narrow.remaining_mm == D("0.029")
    assert wide.under and wide.least.value_mm == D("18.02")
    cut = cut_of(GROWS, narrow, LIMITS, LIMITS.goal_mm, graduation_mm=D("0.002"))
    assert cut.what == "take" and cut.amount_mm == D("0.040"), "0.029 of width is 20 graduations at 45°"
    assert cut_of(GROWS, right, LIMITS, LIMITS.goal_mm, graduation_mm=D("0.002")).what == "nothing"


@given(st.integers(-40, 40))
def test_a_size_that_grows_mirrors_one_that_shrinks(off: int) -> None:
    value = LIMITS.goal_mm + D(off) / 1000
    mirror = judge([Reading("p0", LIMITS.goal_mm - D(off) / 1000)], LIMITS, D("0.001"))
    assert told(str(value)).verdict == mirror.verdict


@pytest.mark.parametrize(
    ("feature", "field"),
    [
        (replace(SLOT, datum=2), "datum"),
        (replace(SLOT, right_now_mm=D(60)), "right_now_mm"),
        (replace(SLOT, centre_mm=D(50)), "centre_mm"),
        (replace(SLOT, depth_mm=D(22)), "depth_mm"),
        (replace(SLOT, depth_tol_mm=D(8)), "depth_tol_mm"),
        (replace(WEDGE, falls_to=1), "falls_to"),
        (replace(WEDGE, height_now_mm=D(23)), "height_now_mm"),
        (replace(WEDGE, height_now_mm=D(21)), "height_now_mm"),
        (replace(WEDGE, height_minus_mm=D(22)), "height_minus_mm"),
        (replace(LEADS, end=3), "wall_face"),
        (replace(LEADS, floor_long_mm=D(90)), "floor_long_mm"),
        (replace(LEADS, wall_now_mm=D(9)), "wall_now_mm"),
        (replace(NOSE, to_face=2), "to_face"),
        (replace(NOSE, radius_mm=D(40), radius_now_mm=D(41)), "radius_mm"),
        (replace(NOSE, radius_now_mm=D(1)), "radius_now_mm"),
        (replace(EDGE, flat_mm=D(40)), "flat_mm"),
        (replace(EDGE, flat_now_mm=D(1)), "flat_now_mm"),
        (replace(EDGE, flat_tol_mm=D("0.5")), "flat_tol_mm"),
    ],
)
def test_what_cannot_be_on_this_block_is_said_beside_its_field(feature: object, field: str) -> None:
    assert field in feature_wrong(feature, SIZES)  # type: ignore[arg-type]


def test_features_are_kept_whole_and_what_is_none_is_refused() -> None:
    assert loaded_features(dumped_features(ALL[:4])) == ALL[:4]
    assert loaded_features(None) == () and dumped_features(()) is None
    for text in ("{}", "[", '{"format": "features 1", "features": [{"kind": "slot"}]}', "x" * 3):
        with pytest.raises(ValueError, match="no features"):
            loaded_features(text)
    with pytest.raises(ValueError, match="one name"):
        loaded_features(dumped_features((EDGE, EDGE)))
    with pytest.raises(Exception, match="beyond the left one"):
        replace(SLOT, right_now_mm=D(18))
    assert FeatureError("x", "y").field == "x"


def test_what_is_not_decided_or_not_allowed_stops_its_set_up() -> None:
    conflict = replace(SLOT, left_now_mm=D("17.98"))
    stops = formed_stops(block(conflict), "W2", side_work=True)  # type: ignore[arg-type]
    assert set(stops) == {"8", "9"} and "Decide" in stops["8"]
    assert not formed_stops(block(replace(conflict, keep="width")), "W2", side_work=True)  # type: ignore[arg-type]
    side = formed_stops(block(replace(SLOT, way="side")), "W2", side_work=False)  # type: ignore[arg-type]
    assert set(side) == {"8", "9"} and "W2’s maker does not allow" in side["9"]


def angle_of(one: tuple[float, float], other: tuple[float, float]) -> float:
    return math.degrees(math.atan2(other[1] - one[1], other[0] - one[0]))


@given(angle=st.floats(3, 40), high=st.floats(20, 60), long=st.floats(20, 100))
def test_an_inclined_face_is_drawn_level_on_its_plate_and_the_wheel_touches_it(
    angle: float, high: float, long: float
) -> None:
    stack = 127 * math.sin(math.radians(angle))
    drawn = incline_drawn(
        centres_mm=127, angle_deg=angle, stack_mm=stack, part_mm=(long, high), wheel_diameter_mm=180
    )  # fmt: skip
    near, far = (each.points[0] for each in drawn if each.radius)
    assert angle_of(near, far) == pytest.approx(angle) and far[1] - near[1] == pytest.approx(stack)
    face = next(each for each in drawn if each.role == "face").points
    if high > long * math.tan(math.radians(angle)):
        assert angle_of(*face) == pytest.approx(0, abs=1e-9)
    clamp = next(each for each in drawn if each.words == "clamp").points
    assert max(y for _, y in clamp) < face[0][1], "under the face"
    lowest = min(y for _, y in next(each for each in drawn if each.role == "wheel").points)
    assert lowest == pytest.approx(face[0][1])
    plate = next(each for each in drawn if each.role == "tool").points
    clear = plate_clearance(
        centres_mm=127, angle_deg=angle, long_mm=long, high_edge_mm=high, wheel_diameter_mm=180
    )  # fmt: skip
    thick = math.dist(plate[1], plate[2])
    end = near[1] + (plate[2][0] - near[0], plate[2][1] - near[1])[1]
    assert clear.face_over_end_mm == pytest.approx(face[0][1] - end, abs=thick * 1e-6 + 1e-6)
    assert clear.is_clear is (clear.may_overrun_mm is None)


@pytest.mark.parametrize("side", ["left", "right"])
def test_a_slots_wall_is_drawn_at_45_degrees_looking_up_with_the_wheel_along_it(side: str) -> None:
    drawn = tilted_slot_drawn(
        centres_mm=127, stack_mm=127 * math.sin(math.pi / 4), part_mm=(60, 30), slot_mm=(21, 39), depth_mm=8,
        wheel_mm=12.7, side=side,
    )  # fmt: skip
    bottom, top = next(each for each in drawn if each.role == "cut").points
    assert angle_of(bottom, top) == pytest.approx(135) and math.dist(bottom, top) == pytest.approx(8)
    wheel = next(each for each in drawn if each.role == "wheel").points
    assert wheel[0] == top and wheel[1] == bottom, "its flank lies along the wall"
    part = next(each for each in drawn if each.role == "part").points
    foot = math.dist(part[0], part[1])
    assert foot == pytest.approx(60) and angle_of(part[0], part[1]) == pytest.approx(45)
    along = [(x - part[0][0]) * math.cos(math.pi / 4) + (y - part[0][1]) * math.sin(math.pi / 4) for x, y in (top,)]
    assert along[0] == pytest.approx(21), "from the side that lies against the stop"


def test_the_wheels_side_is_drawn_on_the_wall_and_its_point_in_the_undercut() -> None:
    drawn = side_slot_drawn(
        part_mm=(60, 30), slot_mm=(21, 39), depth_mm=8, undercut_mm=0.5, wheel_mm=10, side="right"
    )  # fmt: skip
    wheel = next(each for each in drawn if each.role == "wheel").points
    assert wheel[0][0] == 39 and 21.5 < wheel[0][1] < 22, "under the floor, over the undercut's foot"
    assert angle_of(wheel[0], wheel[1]) == pytest.approx(92), "relieved by 2°"


@given(st.floats(5, 45), st.floats(3, 40))
def test_a_corners_floor_is_level_after_the_tilt_and_its_wall_along_the_travel_after_the_turn(
    floor: float, wall: float
) -> None:
    made = answer("compound.mitre", {"floor_deg": floor, "wall_deg": wall})
    tilted = corner_in_space(floor, wall, tilted=True, turn=False)
    assert all(z == pytest.approx(0, abs=1e-9) for _, _, z in tilted[1][1])
    turned = corner_in_space(floor, wall, tilted=True, turn=True)
    begin, end, high, _ = turned[0][1]
    assert end[1] - begin[1] == pytest.approx(0, abs=1e-9) and end[0] > begin[0]
    lean = math.degrees(math.atan2(end[1] - high[1], high[2] - end[2]))
    assert lean == pytest.approx(made["wheel_deg"]), "it leans back by what the wheel's side is dressed to"


def test_a_feature_is_drawn_on_the_block_where_it_lies() -> None:
    sizes = {"length": 88.0, "width": 54.0, "thickness": 22.0}
    lines = drawn_on_block(SLOT, sizes)
    left, right = lines[0].points, lines[1].points
    assert left[0] == pytest.approx((0, 54 - 17.9955, 22)) and right[1] == pytest.approx((88, 54 - 36.0045, 22))
    assert {line.faces for line in lines} == {(1,), (4,), (6,)} or {each.faces for each in lines} == {(1,), (6,), (4,)}
    profile = next(each for each in lines if len(each.points) == 4).points
    assert profile[1][2] == pytest.approx(14)
    wedge = drawn_on_block(WEDGE, sizes)[0].points
    assert wedge[0][2] == pytest.approx(22 - 21.5), "face 2 is below: from there"
    assert wedge[1][2] - wedge[0][2] == pytest.approx(88 * math.tan(math.radians(12.5)))
    nose = drawn_on_block(NOSE, sizes)[2].points
    assert nose[0][2] == pytest.approx(22) and nose[-1][0] == pytest.approx(88)
    assert all(math.dist((x, z), (86.5, 20.5)) == pytest.approx(1.5) for x, _, z in nose)
    edge = drawn_on_block(EDGE, sizes)[0].points
    assert math.dist(edge[0], edge[3]) == pytest.approx(0.5), "the flat, as wide as the print has it"


def test_a_set_ups_figures_are_those_of_the_named_calculations() -> None:
    whole = block(*ALL[:4])
    wedge = set_up_answer(whole, 10, AT)  # type: ignore[arg-type]
    setting = answer("sine.setting", {"centres_mm": 127, "angle_deg": 12.5, "set": "metric88"})
    assert wedge.figure == f"{setting['stack_mm']:.4f} mm"
    roll = answer("roll.corner", {"diameter_mm": 10.0, "included_deg": 102.5})
    assert any(f"{21.5 + roll['reading_mm']:.4f}" in words for _, words in wedge.told)
    left = set_up_answer(whole, 8, AT)  # type: ignore[arg-type]
    assert (
        left.figure
        == f"{answer('sine.setting', {'centres_mm': 127, 'angle_deg': 45.0, 'set': 'metric88'})['stack_mm']:.4f} mm"
    )
    assert not left.stops and len(left.drawings) >= 2
    side = set_up_answer(block(replace(SLOT, way="side")), 8, AT)  # type: ignore[arg-type]
    assert any("does not allow work on its side" in stop for stop in side.stops)
    undecided = set_up_answer(block(replace(SLOT, left_now_mm=D("17.98"))), 8, AT)  # type: ignore[arg-type]
    titles = [title for title, _ in undecided.drawings]
    assert undecided.stops and "Kept in width" in titles and "Kept in position" in titles
    corner = set_up_answer(whole, 11, AT)  # type: ignore[arg-type]
    assert corner.figure == answer("compound.mitre", {"floor_deg": 22.0, "wall_deg": 14.0})["wheel_dms"]
    nose = set_up_answer(whole, 13, replace(AT, fixture=replace(SINE, seat_mm=D(60))))  # type: ignore[arg-type]
    assert any(words.startswith("61.5000 mm") for _, words in nose.told)
    two = set_up_answer(block(replace(WEDGE, across_deg=5.0)), 7, replace(AT, fixture=SHAPED.fixtures[-1]))  # type: ignore[arg-type]
    normal = answer("compound.normal", {"along_deg": -12.5, "across_deg": 5.0})
    hinges = answer("compound.hinges", {**normal, "base_centres_mm": 127.0, "top_centres_mm": 100.0})
    assert f"{hinges['base_stack_mm']:.4f}" in two.figure and f"{hinges['top_stack_mm']:.4f}" in two.figure
    assert set_up_answer(block(EDGE), 7, AT).figure == "down 0.250 mm"  # type: ignore[arg-type]
    with pytest.raises(KeyError):
        set_up_answer(whole, 1, AT)  # type: ignore[arg-type]


def test_the_surfaces_know_their_names_and_what_comes_before_them() -> None:
    whole = block(SLOT)
    surfaces = surfaces_of(whole)  # type: ignore[arg-type]
    assert surfaces[8].title == "Slot, left wall" and surfaces[1].name == "face 1"
    why = kind_of(whole, 8).why_not(whole, 8, {1, 2})  # type: ignore[arg-type]
    assert any("face 3 and face 5" in each for each in why)
    assert kind_of(whole, 8).why_not(whole, 8, {1, 2, 3, 5}) == []  # type: ignore[arg-type]
    assert isinstance(whole.sizes["slot width"], PairSize)  # type: ignore[attr-defined]


def test_the_zone_on_the_ladder_is_in_feeds() -> None:
    low, high = fed_zone(GROWS, LIMITS, D("0.1"))
    assert float(low) == pytest.approx(0.1 - 0.009 / math.cos(math.pi / 4), abs=1e-6)
    assert float(high) == pytest.approx(0.1 + 0.009 / math.cos(math.pi / 4), abs=1e-6)
    shrinks = replace(GROWS, per_feed=D("-0.5"))
    assert fed_zone(shrinks, LIMITS, D("0.1")) == (D("0.082"), D("0.118"))


def test_every_surface_says_what_it_bounds_how_it_lies_and_what_comes_before_it() -> None:
    made = formed_of(block(SLOT, WEDGE, LEADS, NOSE))  # type: ignore[arg-type]
    after = {number: each.surface.after for number, each in made.items()}
    assert after == {
        7: (1,), 8: (1, 3, 5, 7), 9: (1, 3, 5, 7, 8), 10: (2, 6, 4), 11: (1, 3, 4), 12: (1, 3, 4, 11), 13: (1, 6),
    }  # fmt: skip
    assert {each.surface.opposite for number, each in made.items() if number != 10} == {2}
    assert made[10].surface.opposite == 1
    asked = {each.name: each for formed in made.values() for each in formed.asked}
    assert asked["slot width"].surfaces == (9, 8) and asked["slot position"].surfaces == (9, 8, 3)
    assert (asked["slot width"].minus, asked["slot width"].plus) == (0, D("0.018"))
    assert asked["slot left"].surfaces == (8, 3) and asked["slot left"].minus == D("0.0155")
    assert asked["slot depth"].surfaces == (7, 1) and asked["wedge angle"].nominal == D("12.5")
    assert asked["lead-in wall °"].surfaces == (11, 3) and asked["lead-in floor °"].nominal == 22
    lies = {number: (each.lying.along_mm, each.lying.across_mm, each.lying.height_mm) for number, each in made.items()}
    assert lies[7] == (88, 18, 22) and lies[8] == lies[9] == (88, 8, 54)
    slope = 88 / math.cos(math.radians(12.5))
    assert lies[10] == pytest.approx((slope, 54, 22)) and lies[11] == (8, 6, 20)
    assert lies[13] == pytest.approx((54, math.pi / 2 * 1.5, 22))
    assert formed_of(block(EDGE))[7].lying.along_mm == 88  # type: ignore[arg-type]
    assert [step in made[11].holding.cautions for step in mitre_steps(mitre(floor_deg=22, wall_deg=14))[3:8]] == [
        True, True, True, True, False,
    ]  # fmt: skip
    plan = kind_of(block(SLOT), 8).stock(block(SLOT), 8, SHARING)  # type: ignore[arg-type]
    assert plan.split.cleans_up and plan.split.cleans_up_within_tolerance and plan.split.first_face_mm == 0


def test_each_goal_is_the_middle_of_its_zone() -> None:
    assert formed_of(block(replace(WEDGE, height_minus_mm=D(0))))[7].goal_mm == D("21.51")  # type: ignore[arg-type]
    assert formed_of(block(replace(NOSE, radius_plus_mm=D(0))))[7].goal_mm == D("1.495")  # type: ignore[arg-type]
    wide = formed_of(block(replace(SLOT, width_minus_mm=D("0.01"))))[9]  # type: ignore[arg-type]
    assert wide.goal_mm == D("18.004")


@pytest.mark.parametrize(
    ("feature", "number", "alone"),
    [
        (replace(WEDGE, height_now_mm=D("21.52")), 7, True),
        (replace(WEDGE, height_now_mm=D("21.5201")), 7, False),
        (replace(NOSE, radius_now_mm=D("1.51")), 7, True),
        (replace(NOSE, radius_now_mm=D("1.5101")), 7, False),
        (replace(EDGE, flat_now_mm=D("0.45")), 7, True),
        (replace(EDGE, flat_now_mm=D("0.4499")), 7, False),
        (replace(LEADS, wall_now_mm=D("7.8")), 7, True),
        (replace(LEADS, floor_now_mm=D("5.7999")), 8, False),
        (replace(SLOT, depth_now_mm=D("7.95")), 7, True),
        (replace(SLOT, depth_now_mm=D("7.94")), 7, False),
        (replace(SLOT, left_now_mm=D("17.9955")), 8, True),
        (replace(SLOT, left_now_mm=D("17.9956")), 8, False),
        (replace(SLOT, right_now_mm=D("36.0045")), 9, True),
        (replace(SLOT, left_now_mm=D("17.99"), keep="width"), 8, True),
        (replace(SLOT, left_now_mm=D("17.99")), 8, False),
    ],
)
def test_what_is_in_as_it_came_is_left_alone_and_no_more(feature: object, number: int, alone: bool) -> None:
    whole = block(feature)
    assert kind_of(whole, number).is_in_size(whole, number) is alone  # type: ignore[arg-type]


@pytest.mark.parametrize(
    "feature",
    [
        *ALL,
        replace(SLOT, centre_mm=D("9.01"), left_now_mm=D("0.1"), right_now_mm=D("17.9")),
        replace(SLOT, centre_mm=D("44.99"), right_now_mm=D("53.9")),
        replace(WEDGE, height_now_mm=D("21.48")),
        replace(WEDGE, height_now_mm=D("22.262")),
        replace(LEADS, floor_now_mm=D("6.2")),
        replace(NOSE, radius_now_mm=D("1.49")),
        replace(EDGE, flat_now_mm=D("0.55")),
    ],
)
def test_what_just_goes_on_this_block_is_taken(feature: object) -> None:
    assert feature_wrong(feature, SIZES) == {}  # type: ignore[arg-type]


def test_what_springs_hold_back_counts_at_the_dials_rate() -> None:
    narrow = told("17.98", "17.985")
    cut = cut_of(GROWS, narrow, LIMITS, LIMITS.goal_mm, graduation_mm=D("0.002"), held_back_mm=D("0.01"))
    assert cut.amount_mm == D("0.030"), "0.01 at the dial comes off by itself"
    shrinks = replace(GROWS, per_feed=D("-0.5"))
    high = judge([Reading("p0", D("18.029"))], LIMITS, D("0.001"))
    assert cut_of(shrinks, high, LIMITS, D("18.009"), graduation_mm=D("0.002")).amount_mm == D("0.04")


def test_the_planner_is_asked_with_tolerance_and_graduation_in_depths() -> None:
    machine, stock, tolerance = feed_as(block(WEDGE), 7, D("0.1"), machine=MEANS.machine, wheel_mm=12.7)  # type: ignore[arg-type]
    assert machine == MEANS.machine and stock == D("0.1")
    assert float(tolerance) == pytest.approx(0.04 * math.cos(math.radians(12.5)), abs=1e-8)
    fine = replace(MEANS.machine, cross_dial_mm=D("0.01"))
    by_side, whole, zone = feed_as(block(replace(SLOT, way="side")), 8, D("0.0645"), machine=fine, wheel_mm=12.7)  # type: ignore[arg-type]
    assert (by_side.downfeed_graduation_mm, by_side.cut_ratio, whole) == (D("0.01"), 0.28, D("0.06"))
    assert zone == D("0.031") and by_side.crossfeed_min_mm == by_side.crossfeed_max_mm == D("4.2")
    coarse = replace(MEANS.machine, cross_dial_mm=D("0.031"))
    feed_as(block(replace(SLOT, way="side")), 8, D("0.0645"), machine=coarse, wheel_mm=12.7)  # type: ignore[arg-type]
    with pytest.raises(InputError, match="more than its tolerance"):
        feed_as(
            block(replace(SLOT, way="side")), 8, D("0.0645"),  # type: ignore[arg-type]
            machine=replace(coarse, cross_dial_mm=D("0.0311")), wheel_mm=12.7,
        )  # fmt: skip


def test_what_is_plunged_and_how_a_radius_is_swung_is_said_as_it_is_reckoned() -> None:
    made = formed_of(block(SLOT, WEDGE, LEADS, NOSE))  # type: ignore[arg-type]
    assert [each.feeding.plunged for each in made.values()] == [False, True, True, False, True, False, False]
    assert formed_of(block(EDGE))[7].feeding.plunged  # type: ignore[arg-type]
    swing = answer("radius.arc", {"radius_mm": 1.5, "sweep_deg": 90.0, "allow_mm": 0.002})
    said = f"{swing['steps']} steps of {swing['step_deg']:.2f}°, peaks {1000 * swing['peak_mm']:.2f} µm"
    assert said in made[13].holding.why
    long = replace(LEADS, wall_long_mm=D(88), floor_long_mm=D(88))
    assert set(feature_wrong(long, SIZES)) == {"wall_long_mm", "floor_long_mm"}


@pytest.mark.parametrize("graduation", ["0.002", "0.00254", "0.005"])
def test_a_downfeed_in_graduations_of_its_depth_is_as_many_to_the_planner(graduation: str) -> None:
    machine = replace(MEANS.machine, downfeed_graduation_mm=D(graduation))
    deep = depth_graduation(block(SLOT), 8, machine)  # type: ignore[arg-type]
    asked, _, _ = feed_as(block(SLOT), 8, D("0.0912"), machine=machine, wheel_mm=12.7)  # type: ignore[arg-type]
    assert deep == asked.downfeed_graduation_mm < D(graduation)
    assert depth_graduation(block(SLOT), 1, machine) == D(graduation)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("features", "came", "conditions", "alone"),
    [
        ((SLOT,), "22.002", (Condition.GROUND, Condition.GROUND), True),
        ((), "22.002", (Condition.GROUND, Condition.GROUND), False),
        ((SLOT,), "22.002", (Condition.GROUND, Condition.MILLED), False),
        ((SLOT,), "22.004", (Condition.GROUND, Condition.GROUND), False),
    ],
)
def test_a_thickness_is_left_alone_where_a_ground_block_came_for_something_else(
    features: tuple[object, ...], came: str, conditions: tuple[Condition, Condition], alone: bool
) -> None:
    size = replace(BLOCK.sizes["thickness"], target_mm=D(22), measured_max_mm=D(came), measured_min_mm=D(came))
    size = replace(size, tol_minus_mm=D("0.003"), tol_plus_mm=D("0.003"))
    whole = replace(
        block(*features),  # type: ignore[type-var]
        sizes=BLOCK.sizes | {"thickness": size},
        conditions={1: conditions[0], 2: conditions[1]},
    )
    assert [kind_of(whole, face).is_in_size(whole, face) for face in (1, 2)] == [alone, alone]  # type: ignore[arg-type]
