"""Where things come to stand in the set-up, to the millimetre: rows, fixtures, blocks, pins, foils, edges."""

from dataclasses import replace
from decimal import Decimal
from itertools import combinations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.set_up_shop import CHUCK, PLATE, VISE, facts, part, thing
from zesty_lark.core.process.holding import clamped, hold_check
from zesty_lark.core.setup import moves
from zesty_lark.core.setup.block_rules import clamp_moments, near_mm
from zesty_lark.core.setup.checks import as_data, check
from zesty_lark.core.setup.facts import SetUpFacts
from zesty_lark.core.setup.fixes import fixed
from zesty_lark.core.setup.hold import (
    block_weight_n,
    blocked_sides,
    facing_fence,
    hold_of,
    own_pull_n,
    side_of,
    supported,
)
from zesty_lark.core.setup.layout import MOST_THINGS, Layout, Piece
from zesty_lark.core.setup.placing import at_fixture, block_beside, free, in_rows, lead_ins, pins_under, shim_under
from zesty_lark.core.setup.solids import build
from zesty_lark.core.setup.suggest import suggest

D = Decimal
ALONE = Layout(pieces=(Piece(1, 225.0, 75.0),))


def cautions(layout: Layout, of: SetUpFacts) -> dict[str, float | None]:
    """What is found, but what is well, with its number."""
    return {
        finding.finding.check: finding.finding.number for finding in check(layout, of).pinned if finding.level != "pass"
    }


@given(along=st.floats(10, 120), across=st.floats(8, 45), count=st.integers(1, 20))
@settings(max_examples=60, deadline=None)
def test_rows_lie_in_the_middle_apart_by_their_gap(along: float, across: float, count: int) -> None:
    of = facts(part(along, across, 10), pieces=count)
    pieces = in_rows(of)
    built = build(Layout(pieces=pieces), of).pieces
    left, right = min(each.bounds[0] for each in built), max(each.bounds[2] for each in built)
    front, back = min(each.bounds[1] for each in built), max(each.bounds[3] for each in built)
    assert (left + right) / 2 == pytest.approx(225, abs=0.01) and (front + back) / 2 == pytest.approx(75, abs=0.01)
    assert right - left <= 450.01, "no row is longer than the chuck"
    if count > 1:
        nearest = min(one.distance(other) for one, other in combinations(built, 2))
        assert nearest == pytest.approx(2.0, abs=0.01)
    rows = {round(piece.y_mm, 2) for piece in pieces}
    with_blocks = int((450 - 2 * 47 + 2) // (along + 2))
    fits = with_blocks * int((150 - 22 + 2) // (across + 2)) >= count
    in_a_row = with_blocks if fits else int((450 + 2) // (along + 2))
    assert len(rows) == -(-count // in_a_row), "as few rows as there is room for, beside lead-in blocks where they fit"


def test_a_turned_part_s_rows_do_not_overlap() -> None:
    of = facts(part(60, 20, 10), pieces=4)
    built = build(Layout(pieces=in_rows(of, 20.0)), of).pieces
    assert min(one.distance(other) for one, other in combinations(built, 2)) > 0
    assert all(each.turn_deg == 20.0 for each in built)


def test_a_thing_is_free_as_long_as_one_of_it_is_left() -> None:
    of = facts(accessories=(thing("Block 50", "block", "50", "25", "15", count=2),))
    once = ALONE.with_thing("Block 50", "backing", 100, 75)
    assert [(each.name, each.count) for each in free(once, of, "block")] == [("Block 50", 1)]
    assert free(once.with_thing("Block 50", "backing", 300, 75), of, "block") == []
    assert free(ALONE, of, "pin") == []


def test_how_a_thing_lies() -> None:
    block = thing("Block", "block", "50", "25", "15")
    assert block.lying("flat") == (50, 25, 15)
    assert block.lying("edge") == (50, 15, 25)
    assert block.lying("end") == (25, 15, 50)
    clamp = thing("Clamp", "clamp", "15", "60", "10")
    assert clamp.lying("end") == (15, 60, 10), "a clamp’s length is its reach, however it lies"


def test_in_a_fixture_the_part_stands_before_or_in_it() -> None:
    of = facts(part(88, 22, 54), holder=PLATE.name)
    before = at_fixture(ALONE.with_thing(PLATE.name, "fixture", 225, 120), of, "b1")
    built = build(before, of)
    assert built.pieces[0].bounds[3] == pytest.approx(built.things[0].bounds[1]) == 90.0
    assert built.pieces[0].middle[0] == 225 and built.seats == {"p1": "b1"}
    inside = at_fixture(ALONE.with_thing(VISE.name, "fixture", 200, 70), facts(holder=VISE.name), "b1")
    stood = build(inside, facts(holder=VISE.name)).pieces[0]
    assert stood.middle == (200, 70) and (stood.bottom, stood.final) == (35.0, 57.0)
    assert at_fixture(ALONE, of, "b9") == ALONE


def test_the_hold_in_a_fixture_is_its_weakest_link() -> None:
    of = facts(part(88, 54, 22), force=400, holder=VISE.name)
    layout = at_fixture(ALONE.with_thing(VISE.name, "fixture", 225, 75), of, "b1")
    built = build(layout, of)
    hold = hold_of(built, built.pieces[0])
    assert hold is not None
    magnet = hold_check(
        contact_mm2=160 * 75, length_along_mm=160, height_mm=57, thickness_mm=20, span_across_poles_mm=75,
        tangential_n=400, normal_n=1000, weight_n=of.part.weight_n, pull_n_cm2=80, width_across_mm=75,
    )  # fmt: skip
    grip = clamped(2, 1500, 400, 0.15)
    assert magnet.tip_safety_across is not None
    assert hold.safety == pytest.approx(min(grip, magnet.slide_safety, magnet.tip_safety, magnet.tip_safety_across))
    assert hold.weakest == "the part slips in its clamps" and grip == pytest.approx(2.25)
    assert cautions(layout, of)["magnet hold"] == pytest.approx(2.25, abs=1e-3)


def test_pins_stand_a_quarter_from_the_middle_and_steel_gives_way_to_them() -> None:
    of = facts(part(88, 22, 54), holder=PLATE.name)
    steel = Layout(pieces=(Piece(1, 225, 79),)).with_thing(PLATE.name, "fixture", 225, 120)
    steel = steel.with_thing("Parallel 10", "under", 225, 79)
    assert "steel that touches the magnet" in cautions(steel, of)
    rested = pins_under(steel, of, "p1", 46.0)
    pins = [each for each in rested.things if each.role == "under"]
    assert [(pin.name, pin.x_mm, pin.y_mm) for pin in pins] == [("Pin 6", 203.0, 79.0), ("Pin 6", 247.0, 79.0)]
    assert build(rested, of).pieces[0].bottom == 6.0 and "steel that touches the magnet" not in cautions(rested, of)
    line = replace(of, accessories=(thing("Steel pin", "pin", "40", "6", "6"),))
    assert "steel that touches the magnet" not in cautions(
        Layout(pieces=(Piece(1, 225, 79),)).with_thing(PLATE.name, "fixture", 225, 120)
        .with_thing("Steel pin", "under", 225, 79, turn_deg=90.0),
        line,
    ), "on a pin it has only a line"  # fmt: skip
    brass = replace(of.part, carbon_steel=False)
    assert "steel that touches the magnet" not in cautions(steel, replace(of, part=brass))
    high = pins_under(steel, of, "p1", 80.0)
    assert {each.name for each in high.things if each.role == "under"} == {"Pin 40"}
    assert build(high, of).pieces[0].bottom == 40.0, "on its edge it is high enough"
    assert pins_under(steel, of, "p9") == steel and pins_under(ALONE, replace(of, accessories=()), "p1") == ALONE


def test_lead_ins_stand_at_both_ends_a_hair_under_the_face() -> None:
    of = facts()
    made = lead_ins(ALONE, of)
    built = build(made, of)
    assert [each.top for each in built.things] == [21.8, 21.8]
    assert [near_mm(built, each) for each in built.things] == pytest.approx([0.2, 0.2])
    assert sorted(each.middle[0] for each in built.things) == pytest.approx([225 - 44 - 30.2, 225 + 44 + 30.2])
    short = replace(of, accessories=(thing("Short", "block", "30", "30", "21.8"),))
    assert lead_ins(ALONE, short) == ALONE, "a quarter of the wheel’s diameter is the least"
    wide = thing("Wide", "block", "60", "54", "21.8"), thing("Narrow", "block", "60", "25", "21.8")
    assert {each.name for each in lead_ins(ALONE, replace(of, accessories=wide)).things} == {"Wide"}


def test_foils_already_there_count() -> None:
    of = facts(part(240, 38, 4.2, gap_mm=0.16))
    half = ALONE.with_thing("Foil 0.10", "shim", 225, 75)
    assert [each.name for each in shim_under(half, of, "p1").things] == ["Foil 0.10", "Foil 0.05"]
    full = half.with_thing("Foil 0.05", "shim", 225, 75)
    assert shim_under(full, of, "p1").things == full.things and shim_under(full, of, "p9") == full


def test_a_support_is_the_highest_block_that_ends_under_the_face() -> None:
    of = facts(part(60, 40, 90))
    block = build(block_beside(Layout(pieces=(Piece(1, 225, 75),)), of, "support", "left"), of).things[0]
    assert block.name == "Block 80" and block.top == 80.0
    low = Layout(pieces=(Piece(1, 225, 75),)).with_thing("Block 50", "support", 170.0, 75.0)
    assert cautions(low, of)["support ends too low"] == pytest.approx(75.0)
    backing = build(block_beside(ALONE, facts(), "backing", "back"), facts()).things[0]
    assert backing.name == "Block 50" and backing.bounds[1] == pytest.approx(102.0), "the largest foot that fits"


def test_sides_are_told_by_where_a_thing_clears_the_part() -> None:
    of = facts()
    for (x, y), side in (((160, 75), "push"), ((290, 75), "away"), ((225, 30), "front"), ((225, 120), "behind")):
        built = build(ALONE.with_thing("Block 50", "backing", x, y), of)
        assert side_of(built, built.pieces[0], built.things[0]) == side
    both = ALONE.with_thing("Block 50", "support", 160.0, 75, turn_deg=90.0)
    both = both.with_thing("Block 50", "support", 225, 116.0)
    assert supported(build(both, of)) == set(), "neither touches"
    touching = block_beside(block_beside(ALONE, of, "support", "left"), of, "support", "back")
    assert supported(build(touching, of)) == {"p1"}


def test_a_row_is_blocked_by_the_block_at_its_end() -> None:
    of = facts(part(28, 16, 12), pieces=3)
    layout = block_beside(Layout(pieces=in_rows(of)), of, "backing", "left")
    built = build(layout, of)
    assert all("push" in side for side in blocked_sides(built).values())
    apart = replace(layout, pieces=(*layout.pieces[:2], replace(layout.pieces[2], x_mm=layout.pieces[2].x_mm + 4)))
    loose = build(apart, of)
    assert ["push" in each for each in blocked_sides(loose).values()] == [True, True, False]


def test_the_fence_is_faced_within_half_a_millimetre() -> None:
    fence = replace(CHUCK, fence_mm=D(6), fence_out_um=D(1), fence_ground=True)
    for y, faces in ((123.0, True), (122.6, True), (122.4, False)):
        built = build(Layout(pieces=(Piece(1, 225, y),)), facts(chuck=fence))
        assert facing_fence(built, built.pieces[0]) is faces
    assert not facing_fence(build(Layout(pieces=(Piece(1, 225, 123),)), facts()), built.pieces[0])
    on = build(Layout(pieces=(Piece(1, 225, 123.0),)), facts(chuck=fence))
    assert "behind" in blocked_sides(on)["p1"]
    data = as_data(on, on.pieces[0], None)
    assert data.fence is not None and data.fence.out_of_parallel_um == 1.0 and data.fence.allowed_um == 3.0


@pytest.mark.parametrize(
    ("turn", "start", "towards"),
    [(0, "front", True), (0, "back", False), (180, "back", True), (44, "front", True), (90, "front", None),
     (-90, "back", None), (300, "front", None), (-40, "front", True), (136, "front", False)],
)  # fmt: skip
def test_a_vise_is_fed_to_its_solid_jaw(turn: float, start: str, towards: bool | None) -> None:
    of = facts(holder=VISE.name)
    turned = (turn + 180) % 360 - 180
    layout = replace(ALONE.with_thing(VISE.name, "fixture", 225, 75, turn_deg=turned), start=start)  # type: ignore[arg-type]
    built = build(layout, of)
    data = as_data(built, built.pieces[0], None)
    assert data.vise and data.feeds.towards_solid_jaw is towards
    plate = build(ALONE.with_thing(PLATE.name, "fixture", 225, 132), facts(holder=PLATE.name))
    assert not as_data(plate, plate.pieces[0], None).vise


@pytest.mark.parametrize(("turn", "dry"), [(0, True), (10, True), (170, True), (15, False), (90, False), (165, False)])
def test_a_turned_part_spreads_its_heat(turn: float, dry: bool) -> None:
    of = facts(part(120, 40, 22), coolant="dry", cut=replace(facts().cut, skew_deg=turn))  # type: ignore[type-var]
    found = cautions(Layout(pieces=(Piece(1, 225, 75, turn),)), of)
    assert ("long side along the travel, dry" in found) is dry


def test_a_clamp_s_lever_against_its_block_s_own_hold() -> None:
    of = facts(force=120)
    layout = ALONE.with_thing("Block 80", "backing", 141.0, 75.0).with_thing("Clamp C1", "clamp", 170.0, 75.0)
    built = build(layout, of)
    clamp = next(each for each in built.things if each.role == "clamp")
    block = next(each for each in built.things if each.role == "backing")
    assert block_weight_n(block) == pytest.approx(80 * 40 * 30 * 7.8e-6 * 9.81)
    assert own_pull_n(built, block) == pytest.approx(0.8 * 80 * 40 * 0.8), "hardened and ground unless told"
    overhang, holds, levers = clamp_moments(built, clamp) or (0.0, 0.0, 0.0)
    assert overhang == pytest.approx(170 + 30 - (141 + 40)) and levers == pytest.approx(120 * overhang)
    assert holds == pytest.approx((own_pull_n(built, block) + block_weight_n(block)) * 40)
    assert clamp.bottom == 15.0 and clamp.top == 25.0
    alone = build(ALONE.with_thing("Clamp C1", "clamp", 60, 20), of)
    assert clamp_moments(alone, alone.things[0]) is None


def test_what_stands_on_something_may_hang_over_the_edge() -> None:
    of = facts()
    over = Layout(pieces=(Piece(1, 440, 75),))
    assert cautions(over, of)["off the chuck"] == pytest.approx((484 - 450) / 88, abs=1e-3)
    carried = over.with_thing("Parallel 10", "under", 380.0, 75.0)
    assert build(carried, of).pieces[0].bottom == 10.0 and "off the chuck" not in cautions(carried, of)
    onto = fixed(over, of, "onto the chuck", ("p1",))
    assert build(onto, of).pieces[0].bounds[2] == pytest.approx(450)
    beyond = fixed(Layout(pieces=(Piece(1, 20, 10),)), of, "onto the chuck", ("p1",))
    assert build(beyond, of).pieces[0].bounds[:2] == pytest.approx((0, 0))


@pytest.mark.parametrize(
    ("to", "edge", "at"),
    [((154.0, 75.0), 2, 181.0), ((292.0, 75.0), 0, 269.0), ((225.0, 116.0), 1, 102.0), ((225.0, 33.0), 3, 48.0),
     ((208.0, 114.0), 0, 181.0), ((27.0, 30.0), 0, 0.0), ((421.0, 30.0), 2, 450.0), ((60.0, 14.0), 1, 0.0),
     ((60.0, 136.0), 3, 150.0)],
)  # fmt: skip
def test_what_is_let_go_near_an_edge_goes_to_it(to: tuple[float, float], edge: int, at: float) -> None:
    of = facts()
    layout = moves.move(ALONE.with_thing("Block 50", "backing", 60, 60), of, "b1", x_mm=to[0], y_mm=to[1])
    assert build(layout, of).things[0].bounds[edge] == pytest.approx(at)


def test_what_a_thing_is_put_down_as() -> None:
    of = facts()
    for name, asked, role in (
        ("Block 50", "support", "support"), ("Block 50", "shim", "backing"), ("Block 50", "", "backing"),
        ("Parallel 10", "backing", "under"), ("Pin 6", "support", "under"), ("Clamp C1", "", "clamp"),
        ("Foil 0.05", "", "shim"), (VISE.name, "backing", "fixture"),
    ):  # fmt: skip
        assert moves.role_for(of, name, asked) == role
    down = moves.add(ALONE, of, "Block 50").things[0]
    assert (down.x_mm, down.y_mm) == (225.0, 20.0)
    assert moves.turn(ALONE, of, "p1", 200.0).pieces[0].turn_deg == -160.0


def test_where_the_remedies_put_things() -> None:
    of = facts()
    two = ALONE.with_thing("Block 50", "backing", 200.0, 75.0)
    after = build(fixed(two, of, "move apart", ("b1", "p1")), of)
    assert after.things[0].distance(after.pieces[0]) == pytest.approx(0.0) and after.things[0].bounds[
        3
    ] == pytest.approx(48)
    near = fixed(ALONE.with_thing("Block 50", "backing", 140.0, 20.0), of, "against the part", ("b1",))
    assert build(near, of).things[0].distance(build(near, of).pieces[0]) == pytest.approx(0.0)
    far = fixed(Layout(pieces=(Piece(1, 60, 75),)), of, "into reach", ("p1",))
    strokes = build(far, of).strokes
    assert strokes is not None and strokes.left == pytest.approx(0.0)
    flush = ALONE.with_thing("Parallel 10", "under", 225.0, 75.0)
    lifted = build(fixed(flush, of, "over the edge", ("b1",)), of)
    left, front, right, back = lifted.things[0].bounds
    assert min(left, front, 450 - right, 150 - back) == pytest.approx(-5.0) and lifted.pieces[0].bottom > 0
    fence = facts(chuck=replace(CHUCK, fence_mm=D(30), fence_ground=True))
    off = build(fixed(Layout(pieces=(Piece(1, 225, 123),)), fence, "off the fence", ("p1",)), fence).strokes
    assert off is not None and off.back == pytest.approx(150)
    turned = fixed(ALONE, of, "turn to 20°").pieces[0]
    assert turned.turn_deg == 20.0 and (turned.x_mm, turned.y_mm) == (225.0, 75.0)
    assert fixed(replace(ALONE, left_mm=3, right_mm=40), of, "lengthen the strokes").left_mm == 25.0
    assert fixed(replace(ALONE, left_mm=3, right_mm=40), of, "lengthen the strokes").right_mm == 40


def test_a_set_up_of_many_pieces_is_checked_as_one_of_few() -> None:
    """Two full rows: each is blocked by the one before it, and nothing is looked at more often than once a pair."""
    of = facts(part(8, 8, 12), pieces=80, force=1.0)
    made = check(block_beside(Layout(pieces=in_rows(of)), of, "backing", "left"), of)
    assert len(made.holds) == 80 and made.safety is not None
    blocked = ["push" in hold.blocked for hold in made.holds.values() if hold is not None]
    assert 40 <= sum(blocked) <= 80


def test_the_numbers_that_are_said() -> None:
    of = facts(machine=replace(facts().machine, travel_long_mm=D(100), travel_cross_mm=D(60)))
    found = cautions(ALONE, of)
    assert found["table travel too short"] == pytest.approx(88 + 50)
    assert found["saddle travel too short"] == pytest.approx(54 + 12.7)
    reach = cautions(Layout(pieces=(Piece(1, 60, 75),)), facts())
    assert reach["out of the table’s reach"] == pytest.approx(-(60 - 44 - 25))
    across = cautions(Layout(pieces=(Piece(1, 225, 30),)), facts(machine=replace(of.machine, travel_cross_mm=D(100),
                                                                                 travel_long_mm=D(450))))  # fmt: skip
    assert across["out of the saddle’s reach"] == pytest.approx(25 - (3 - 6.35)), "the wheel’s middle leaves by half"
    block = cautions(ALONE.with_thing("Block 50", "backing", 150.0, 75.0), facts())
    assert block["block does not touch"] == pytest.approx(6.0)
    lead = cautions(ALONE.with_thing("Lead-in 21.8", "lead_in", 130.0, 75.0), facts())
    assert lead["lead-in block too far"] == pytest.approx(21.0)
    fence = facts(chuck=replace(CHUCK, fence_mm=D(30), fence_out_um=D(1), fence_ground=True))
    into = cautions(Layout(pieces=(Piece(1, 225, 120),)), fence)
    assert into["wheel runs into the fence"] == pytest.approx(120 + 27 + 12.7 - 150)
    plate = cautions(
        Layout(pieces=(Piece(1, 225, 79),)).with_thing(PLATE.name, "fixture", 225, 120),
        facts(part(88, 22, 30), holder=PLATE.name),
    )
    assert plate["face not proud of the fixture"] == pytest.approx(15.0)


def test_how_near_under_the_face_a_support_has_to_end() -> None:
    """Close under it, or at least two thirds of what stands up, whichever asks less."""
    of = facts(part(60, 40, 90))
    for high, found in (("59", True), ("61", False), ("83", False)):
        support = replace(of, accessories=(thing("S", "block", high, "30", "20"),))
        layout = Layout(pieces=(Piece(1, 225, 75),)).with_thing("S", "support", 180.0, 75, turn_deg=90, lies="end")
        assert ("support ends too low" in cautions(layout, support)) is found
    low = facts(part(60, 40, 20))
    layout = Layout(pieces=(Piece(1, 225, 75),))
    for high, found in (("11.5", True), ("12.5", False)):
        support = replace(low, accessories=(thing("S", "block", "40", "30", high),))
        stood = layout.with_thing("S", "support", 175.0, 75)
        assert ("support ends too low" in cautions(stood, support)) is found


def test_a_clamp_on_its_block_holds_something() -> None:
    on = ALONE.with_thing("Block 80", "backing", 141.0, 75.0).with_thing("Clamp C1", "clamp", 150.0, 75.0)
    assert "clamp holds nothing" not in cautions(on, facts())
    assert "clamp holds nothing" in cautions(ALONE.with_thing("Clamp C1", "clamp", 60.0, 20.0), facts())


def test_blocks_out_of_the_wheel_s_way_are_as_high_as_they_like() -> None:
    """A block behind the wheel’s way, and one far past the end of a stroke."""
    for x, y in ((225.0, 135.0), (40.0, 75.0)):
        layout = ALONE.with_thing("Block 80", "lead_in", x, y, lies="end")
        assert not {"in the wheel’s way", "block too high"} & set(cautions(layout, facts()))
    edge = ALONE.with_thing("Block 80", "backing", 225.0, 75 + 27 + 12.7 + 15, lies="end")
    assert "in the wheel’s way" not in cautions(edge, facts()), "the wheel just leaves it"


def test_the_front_edge_of_a_block_is_beside_the_part_s_own() -> None:
    """Blocks beside the part line up with its front and back."""
    of = facts()
    layout = ALONE.with_thing("Block 50", "backing", 60, 60)
    for y, front in ((62.0, 48.0), (88.0, None)):
        moved = build(moves.move(layout, of, "b1", x_mm=153.0, y_mm=y), of).things[0]
        assert moved.bounds[1] == pytest.approx(front) if front else moved.bounds[3] == pytest.approx(102.0)


def test_a_set_up_is_full_at_some_point_and_says_so_by_staying_as_it_is() -> None:
    foils = tuple(thing(f"Foil {each}", "foil", "10", "5", each, count=200) for each in ("0.05", "0.04"))
    many = replace(facts(part(20, 20, 4, gap_mm=0.1), pieces=120), accessories=foils)
    ways = suggest(many)
    assert ways and all(len(way.layout.things) <= MOST_THINGS for way in ways)
    full = ALONE
    for _ in range(MOST_THINGS + 2):
        full = full.with_thing("Block 50", "backing", 60, 60)
    assert len(full.things) == MOST_THINGS and len({each.key for each in full.things}) == MOST_THINGS
    assert moves.add(full, facts(), "Block 50") == full


def test_what_a_fixture_makes_true_is_not_suggested_on_the_bare_magnet() -> None:
    square = facts(part(88, 22, 54), holder=PLATE.name)
    assert "magnet" in {each.name for each in suggest(square)}
    names = {each.name for each in suggest(replace(square, may_lie=False))}
    assert names and names <= {fixture.name for fixture in square.fixtures}
