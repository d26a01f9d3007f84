"""The set-up: faulty set-ups are caught by the right rule, the remedy cures them, and the good one is left alone."""

from dataclasses import replace
from decimal import Decimal

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.set_up_shop import CHUCK, MACHINE, PLATE, VISE, WHEEL, facts, part, thing
from zesty_lark.core.process.holding import hold_check, thin_bow
from zesty_lark.core.setup import moves
from zesty_lark.core.setup.before import Touch, high_side
from zesty_lark.core.setup.checks import check
from zesty_lark.core.setup.facts import SetUpFacts
from zesty_lark.core.setup.fixes import FIXES, fixed
from zesty_lark.core.setup.hold import hold_of
from zesty_lark.core.setup.layout import Layout, Piece, dumped, loaded
from zesty_lark.core.setup.placing import block_beside, in_rows
from zesty_lark.core.setup.rules import place_range
from zesty_lark.core.setup.solids import build
from zesty_lark.core.setup.suggest import suggest
from zesty_lark.core.wheel.mounting import Mounted

D = Decimal
ALONE = Layout(pieces=(Piece(1, 225.0, 75.0),))
MAP = tuple((x, y, 0.004 * x) for x in range(0, 451, 50) for y in range(0, 151, 50))


def found(layout: Layout, of: SetUpFacts) -> set[str]:
    """The checks that stop or caution."""
    made = check(layout, of)
    return {each.finding.check for each in (*made.stops, *made.cautions)}


def with_block(name: str, role: str, x: float, y: float, of: SetUpFacts | None = None, **more: object) -> Layout:
    """The part alone, and one thing more."""
    return ALONE.with_thing(name, role, x, y, **more)  # type: ignore[arg-type]


def in_vise(of: SetUpFacts, **more: object) -> Layout:
    return replace(next(each for each in suggest(of) if each.name == VISE.name).layout, **more)  # type: ignore[arg-type]


TALL = facts(part(60, 40, 90))
IN_PLATE = facts(part(88, 22, 54), holder=PLATE.name)
IN_VISE = facts(part(88, 54, 22), holder=VISE.name)
SMALL_FEET = replace(ALONE, things=()).with_thing("Parallel 10", "under", 225.0, 75.0)
FAULTS: dict[str, tuple[SetUpFacts, Layout, str, str]] = {
    "tall part unsupported": (TALL, Layout(pieces=(Piece(1, 225, 75),)), "tall part unsupported", "stop"),
    "weak hold": (facts(force=60), ALONE, "magnet hold", "caution"),
    "far too weak a hold": (facts(force=200), ALONE, "magnet hold", "stop"),
    "wheel over speed": (facts(mounted=Mounted("W3", "A 46 H 8 V", 180.0, 2000.0)), ALONE, "wheel over speed", "stop"),
    "no mark on the wheel": (
        facts(mounted=Mounted("W3", "A 46 H 8 V", 180.0, None)),
        ALONE,
        "wheel over speed",
        "stop",
    ),
    "dull wheel": (facts(dull=True), ALONE, "dull wheel", "caution"),
    "part rocks": (facts(rocks=True), ALONE, "part rocks", "stop"),
    "burr under the part": (facts(burrs=True), ALONE, "burr under the part", "stop"),
    "reference face up": (facts(part(reference_up=True)), ALONE, "reference face up", "stop"),
    "nozzle off": (facts(), replace(ALONE, nozzle="off"), "nozzle", "caution"),
    "nozzle behind the wheel": (facts(), replace(ALONE, nozzle="exit"), "nozzle", "caution"),
    "deep and dry": (
        facts(coolant="dry", cut=replace(facts().cut, downfeed_mm=0.05)),  # type: ignore[type-var]
        ALONE,
        "no coolant",
        "caution",
    ),
    "long side along, dry": (
        facts(part(120, 40, 22), coolant="dry"),
        ALONE,
        "long side along the travel, dry",
        "caution",
    ),
    "strokes too short": (facts(), replace(ALONE, left_mm=5.0), "stroke too short to clear", "caution"),
    "starts on the low side": (facts(high_side="back"), ALONE, "starts on the low side", "stop"),
    "lead-in too high": (
        facts(),
        with_block("Block 50", "lead_in", 155.0, 75.0, lies="edge"),
        "lead-in block too high",
        "stop",
    ),
    "lead-in too far": (
        facts(),
        with_block("Lead-in 21.8", "lead_in", 130.0, 75.0),
        "lead-in block too far",
        "caution",
    ),
    "lead-in too low": (facts(), with_block("Block 50", "lead_in", 155.8, 75.0), "lead-in block", "caution"),
    "block as high as the face": (
        facts(),
        with_block("Block 50", "backing", 173.5, 75.0, lies="edge"),
        "block too high",
        "stop",
    ),
    "block does not touch": (
        facts(),
        with_block("Block 50", "backing", 150.0, 75.0),
        "block does not touch",
        "caution",
    ),
    "support ends low": (
        TALL,
        Layout(pieces=(Piece(1, 225, 75),)).with_thing("Block 50", "support", 170.0, 75.0),
        "support ends too low",
        "caution",
    ),
    "parallel flush with the edge": (
        facts(),
        with_block("Parallel 10", "under", 225.0, 75.0),
        "parallel flush with the edge",
        "caution",
    ),
    "small contact": (facts(), SMALL_FEET, "small contact", "caution"),
    "thin and bowed on the full magnet": (
        facts(part(240, 38, 4.2, gap_mm=0.1)),
        ALONE,
        "thin bowed part on full magnet",
        "caution",
    ),
    "steel on the magnet in a fixture": (
        IN_PLATE,
        Layout(pieces=(Piece(1, 225, 79),)).with_thing(PLATE.name, "fixture", 225, 120),
        "steel that touches the magnet",
        "caution",
    ),
    "face not proud": (
        facts(part(88, 22, 30), holder=PLATE.name),
        Layout(pieces=(Piece(1, 225, 79),)).with_thing(PLATE.name, "fixture", 225, 120),
        "face not proud of the fixture",
        "stop",
    ),
    "vise the wrong way round": (IN_VISE, in_vise(IN_VISE, start="back"), "vise the wrong way round", "stop"),
    "holder missing": (IN_PLATE, ALONE, "holder not on the chuck", "stop"),
    "beside its fixture": (
        IN_PLATE,
        Layout(pieces=(Piece(1, 225, 40),)).with_thing(PLATE.name, "fixture", 225, 120),
        "not in its fixture",
        "stop",
    ),
    "off the chuck": (facts(), Layout(pieces=(Piece(1, 430, 75),)), "off the chuck", "caution"),
    "two in one place": (facts(), with_block("Block 50", "backing", 200.0, 75.0), "two things in one place", "stop"),
    "in the wheel’s way": (
        facts(),
        with_block("Block 80", "backing", 120.0, 60.0, lies="end"),
        "in the wheel’s way",
        "stop",
    ),
    "runs into the fence": (
        facts(chuck=replace(CHUCK, fence_mm=D(30), fence_out_um=D(1), fence_ground=True)),
        Layout(pieces=(Piece(1, 225, 122.9),)),
        "wheel runs into the fence",
        "stop",
    ),
    "fence out of line": (
        facts(chuck=replace(CHUCK, fence_mm=D(10), fence_out_um=D(9), fence_ground=True)),
        Layout(pieces=(Piece(1, 225, 123),)),
        "fence out of line",
        "stop",
    ),
    "out of reach": (facts(), Layout(pieces=(Piece(1, 60, 75),)), "out of the table’s reach", "stop"),
    "travel too short": (
        facts(machine=replace(MACHINE, travel_long_mm=D(100))),
        ALONE,
        "table travel too short",
        "stop",
    ),
    "no room under the wheel": (
        facts(machine=replace(MACHINE, height_mm=D(20))),
        ALONE,
        "no room under the wheel",
        "stop",
    ),
    "worn middle": (
        facts(
            chuck_map=tuple(
                (x, y, 12.0 * abs(x - 225) / 225 if 120 < x < 330 else 3.0)
                for x in range(0, 451, 25)
                for y in range(0, 151, 50)
            )
        ),
        ALONE,
        "place on the chuck",
        "caution",
    ),
    "turned otherwise": (
        facts(),
        Layout(pieces=(Piece(1, 225, 75, 30.0),)),
        "turned otherwise than planned",
        "caution",
    ),
    "piece left out": (facts(part(28, 16, 12), pieces=3), ALONE, "piece not on the chuck", "stop"),
    "more than the shop has": (
        facts(accessories=(thing("Block 50", "block", "50", "25", "15", count=1),)),
        with_block("Block 50", "backing", 168.5, 75.0).with_thing("Block 50", "backing", 281.5, 75.0),
        "more than there are",
        "stop",
    ),
    "not the shop’s": (facts(), with_block("Block 99", "backing", 168.5, 75.0), "not in the shop", "stop"),
    "clamp on nothing": (facts(), with_block("Clamp C1", "clamp", 60.0, 20.0), "clamp holds nothing", "caution"),
    "clamp levers its block": (
        facts(force=120),
        with_block("Low block", "backing", 165.5, 75.0).with_thing("Clamp C1", "clamp", 125.0, 75.0),
        "clamp overhang",
        "stop",
    ),
    "no plan": (replace(facts(), cut=None), ALONE, "no plan yet", "caution"),
}


@pytest.mark.parametrize("name", FAULTS)
def test_a_fault_is_caught_by_its_rule(name: str) -> None:
    of, layout, rule, level = FAULTS[name]
    made = check(layout, of)
    caught = [finding for finding in made.pinned if finding.finding.check == rule and finding.level == level]
    assert caught, f"{rule} not among {[(each.finding.check, each.level) for each in made.pinned]}"
    assert caught[0].finding.why and (caught[0].finding.remedy or level == "pass")
    assert made.level == "stop" if level == "stop" else made.level in ("stop", "caution")
    known = {each.key for each in (*layout.pieces, *layout.things)}
    assert set(caught[0].keys) <= known, "a finding is pinned to what is on the set-up"


BY_HAND = (
    "wheel over speed", "dull wheel", "part rocks", "burr under the part", "reference face up", "fence out of line",
    "no plan yet", "table travel too short", "no room under the wheel",
)  # fmt: skip
"""What hands, a lead or another machine put right."""
CURED = [
    name
    for name, (of, _, rule, _) in FAULTS.items()
    if rule not in BY_HAND and not (rule == "no coolant" and of.coolant == "dry")
]


@pytest.mark.parametrize("name", CURED)
def test_what_can_be_put_right_is_by_its_remedy(name: str) -> None:
    of, layout, rule, _ = FAULTS[name]
    caught = next(each for each in check(layout, of).pinned if each.finding.check == rule and each.level != "pass")
    assert caught.fix
    after = fixed(layout, of, caught.fix, caught.keys)
    assert after != layout
    left = [finding for finding in check(after, of).pinned if finding.level != "pass" and finding.keys == caught.keys]
    if rule not in ("magnet hold",) or check(layout, of).level != "stop":
        assert rule not in {each.finding.check for each in left}


GOOD = {
    "a block": facts(),
    "pushed hard": facts(force=60),
    "tall": TALL,
    "in an angle plate": IN_PLATE,
    "a thin strip": facts(part(240, 38, 4.2, gap_mm=0.1), force=10),
    "twelve small blocks": facts(part(28.6, 15.9, 12.7), force=5, pieces=12),
    "nothing pulls it": facts(part(88, 54, 22, material_factor=0.0), holder=VISE.name),
    "on a mapped chuck": facts(chuck_map=MAP),
}


@pytest.mark.parametrize("name", GOOD)
def test_the_first_suggestion_keeps_every_rule(name: str) -> None:
    ways = suggest(GOOD[name])
    assert ways and not found(ways[0].layout, replace(GOOD[name], holder=ways[0].checked.built.facts.holder))
    assert {piece.number for piece in ways[0].layout.pieces} == set(GOOD[name].pieces)
    ranks = [(len(way.checked.stops), len(way.checked.cautions)) for way in ways]
    assert ranks == sorted(ranks), "the best comes first"
    assert all(each.why for each in ways)


def test_the_set_up_s_hold_is_the_magnet_s_own_sum() -> None:
    of = facts()
    hold = hold_of(build(ALONE, of), build(ALONE, of).pieces[0])
    assert of.cut is not None and hold is not None
    by_hand = hold_check(
        contact_mm2=88 * 54, length_along_mm=88, height_mm=22, thickness_mm=22, span_across_poles_mm=54,
        tangential_n=20, normal_n=50, weight_n=of.part.weight_n, pull_n_cm2=80, material_factor=0.8, width_across_mm=54,
    )  # fmt: skip
    assert hold.pull_n == pytest.approx(by_hand.pull_n) and hold.slide == pytest.approx(by_hand.slide_safety)
    half_off = Layout(pieces=(Piece(1, 450.0, 75.0),))
    less = hold_of(build(half_off, of), build(half_off, of).pieces[0])
    assert less is not None and less.pull_n == pytest.approx(by_hand.pull_n / 2), (
        "only what lies on the chuck is pulled"
    )
    low = hold_of(build(replace(ALONE, magnet="low"), replace(of, chuck=replace(CHUCK, low_share=D("0.5")))),
                  build(ALONE, of).pieces[0])  # fmt: skip
    assert low is not None and low.pull_n == pytest.approx(by_hand.pull_n / 2)


def test_a_foil_under_the_hollow_leaves_only_what_it_does_not_fill() -> None:
    of = facts(part(240, 38, 4.2, gap_mm=0.11), allowed_um=20.0)
    shimmed = fixed(ALONE, of, "shim the hollow", ("p1",))
    assert [each.name for each in shimmed.things] == ["Foil 0.10"]
    twice = fixed(ALONE, facts(part(240, 38, 4.2, gap_mm=0.16)), "shim the hollow", ("p1",))
    assert [each.name for each in twice.things] == ["Foil 0.10", "Foil 0.05"], "never more than the gap"
    bowed = thin_bow(length_mm=240, thickness_mm=4.2, bow_mm=0.01, pull_n_mm2=0.4)
    assert bowed.spring_back_mm <= 0.01 and "thin bowed part on full magnet" not in found(shimmed, of)
    none = replace(of, accessories=())
    assert fixed(ALONE, none, "shim the hollow", ("p1",)).magnet == "low"


def test_blocks_stand_where_the_wheel_pushes_to() -> None:
    of = facts()
    assert of.pushed_to == "left"
    for side, turns in (("left", "clockwise"), ("right", "counter-clockwise")):
        turned = replace(of, machine=replace(MACHINE, wheel_turns=turns))
        backed = fixed(ALONE, turned, "back it up")
        block = build(backed, turned).things[0]
        assert (block.middle[0] < 225) == (side == "left")
        hold = hold_of(build(backed, turned), build(backed, turned).pieces[0])
        assert hold is not None and "push" in hold.blocked


@pytest.mark.parametrize("turn_deg", [0.0, 20.0, 90.0, -35.0, 180.0])
def test_a_block_lies_flat_against_a_turned_part(turn_deg: float) -> None:
    of = facts(cut=replace(facts().cut, skew_deg=turn_deg))  # type: ignore[type-var]
    layout = block_beside(Layout(pieces=(Piece(1, 225, 75, turn_deg),)), of, "backing", "left")
    built = build(layout, of)
    assert built.things[0].distance(built.pieces[0]) < 0.01
    assert built.things[0].shape.intersection(built.pieces[0].shape).area < 0.01
    assert built.things[0].shape.buffer(0.01).intersection(built.pieces[0].shape.boundary).length > 20


def test_the_wheel_strikes_nothing_near_the_ends_of_its_strokes() -> None:
    strokes = build(ALONE, facts()).strokes
    assert strokes is not None and (strokes.left, strokes.right) == (225 - 44 - 25, 225 + 44 + 25)
    assert (strokes.front, strokes.back) == pytest.approx((75 - 27 - 12.7, 75 + 27 + 12.7))
    far = build(with_block("Block 80", "backing", 90.0, 75.0, lies="end"), facts()).things[0]
    away = 156 - far.bounds[2]
    assert strokes.top_allowed(far, 90.0) == pytest.approx(22 + 90 - (90**2 - away**2) ** 0.5)
    beside = build(with_block("Block 80", "backing", 225.0, 20.0), facts()).things[0]
    assert strokes.top_allowed(beside, 90.0) is not None or beside.bounds[3] <= strokes.front


def test_the_place_is_as_true_as_its_map() -> None:
    here = place_range(build(ALONE, facts(chuck_map=MAP)))
    assert here is not None and here[0] == pytest.approx(0.004 * 88, abs=0.02)
    assert place_range(build(ALONE, facts())) is None


def test_moving_snaps_to_edges_and_takes_along_what_is_in_a_fixture() -> None:
    of = facts()
    near_the_edge = moves.move(ALONE, of, "p1", x_mm=45.0, y_mm=75.0)
    assert build(near_the_edge, of).pieces[0].bounds[0] == pytest.approx(0.0)
    free_hand = moves.move(ALONE, of, "p1", x_mm=45.0, y_mm=75.0, snap=False)
    assert build(free_hand, of).pieces[0].bounds[0] == pytest.approx(1.0)
    block = with_block("Block 50", "backing", 100.0, 75.0)
    snapped = moves.move(block, of, "b1", x_mm=167.5, y_mm=75.0)
    assert build(snapped, of).things[0].distance(build(snapped, of).pieces[0]) == pytest.approx(0.0)
    plate = next(each for each in suggest(IN_PLATE) if each.name == PLATE.name).layout
    moved = moves.move(plate, IN_PLATE, plate.things[0].key, x_mm=180.0, y_mm=plate.things[0].y_mm, snap=False)
    assert moved.pieces[0].x_mm == pytest.approx(plate.pieces[0].x_mm - 45)
    assert [each.x_mm for each in moved.things[1:]] == [each.x_mm - 45 for each in plate.things[1:]], "its pins too"
    with pytest.raises(KeyError):
        moves.move(ALONE, of, "b9", x_mm=0, y_mm=0)
    with pytest.raises(KeyError):
        moves.add(ALONE, of, "Somebody else’s block")
    assert moves.add(ALONE, of, "Foil 0.05").things[0].role == "shim"


@given(
    x=st.floats(-100, 600), y=st.floats(-100, 300), turn=st.floats(-180, 180), fix=st.sampled_from(sorted(FIXES)),
    name=st.sampled_from(["Block 50", "Parallel 10", "Clamp C1", "Foil 0.10", PLATE.name, VISE.name, "gone"]),
    role=st.sampled_from(["backing", "support", "lead_in", "under", "clamp", "shim", "fixture"]),
)  # fmt: skip
@settings(max_examples=120, deadline=None)
def test_whatever_is_laid_out_is_checked_kept_and_never_lost(
    x: float, y: float, turn: float, fix: str, name: str, role: str
) -> None:
    """Any layout is checked and read back as it was; a remedy never loses a piece of the load or invents a thing."""
    of = facts(pieces=2)
    layout = replace(ALONE, pieces=in_rows(of)).with_thing(name, role, x, y, turn_deg=turn)  # type: ignore[arg-type]
    assert loaded(dumped(layout)) == layout
    made = check(layout, of)
    assert made.pinned and made.level in ("stop", "caution", "pass")
    after = fixed(layout, of, fix, ("b1", "p1"))
    assert {piece.number for piece in after.pieces} == set(of.pieces)
    owned = {each.name for each in (*of.accessories, *of.fixtures)}
    assert {each.name for each in after.things} - {name} <= owned
    for accessory in of.accessories:
        assert sum(one.name == accessory.name for one in after.things) <= accessory.count


def test_a_layout_that_is_none_is_refused() -> None:
    for text in ("", "[]", "{}", '{"format": "set-up 2", "layout": {}}', '{"format": "set-up 1", "layout": {"x": 1}}'):
        with pytest.raises(ValueError, match="this is no set-up"):
            loaded(text)
    with pytest.raises(ValueError, match="this is no set-up"):
        loaded('{"format": "set-up 1", "layout": {"left_mm": NaN}}')


def test_a_few_touches_tell_the_high_side() -> None:
    front, back = Touch(0.1, 0.1, D("0.012")), Touch(0.9, 0.9, D("0.004"))
    assert high_side([front, back]) == "front"
    assert high_side([front, Touch(0.5, 0.9, D("0.0125"))]) == "level"
    assert high_side([Touch(0.1, 0.1, D(0)), back]) == "back"
    with pytest.raises(ValueError, match="both sides"):
        high_side([front])


def test_the_wheel_of_the_set_up_is_the_shop_s() -> None:
    assert facts().wheel is WHEEL and facts().radius == 90.0
