"""The small rules of a route: own settings in graduations, half a position, links nobody knows, remedies."""

from dataclasses import replace
from decimal import Decimal

import pytest

from tests.core.test_route import BLOCK, MEANS, SHARING, SHOP
from zesty_lark.core.part.sizes import Size
from zesty_lark.core.part.surfaces.block_face import BlockFace, pair_stock
from zesty_lark.core.part.surfaces.part import Block, PairSize, Sharing
from zesty_lark.core.squaring.choices import FaceChoice, PairChoice, RouteChoices
from zesty_lark.core.squaring.face_plan import FacePlan
from zesty_lark.core.squaring.handling import HANDLING
from zesty_lark.core.squaring.order import StepChoice, route_steps
from zesty_lark.core.squaring.planned import plan_route
from zesty_lark.core.squaring.relations import Relation, relations
from zesty_lark.core.squaring.remaining import skin_again
from zesty_lark.core.squaring.shop_facts import ShopFacts

D = Decimal


def told(shop: ShopFacts, name: str) -> Relation:
    steps = route_steps(BLOCK, "angle_plate")
    return next(relation for relation in relations(BLOCK, "angle_plate", steps, shop) if relation.name == name)


def test_one_s_own_settings_are_graduations_of_the_machine() -> None:
    own = FaceChoice().custom(15.0, 3, D("0.00254"), 8, crossfeed_graduation_mm=D("0.05"), table_mm_s=200.0)
    assert (own.method, own.skew_deg, own.table_mm_s) == ("custom", 15.0, 200.0)
    assert own.downfeed_mm == pytest.approx(0.00762) and own.crossfeed_mm == pytest.approx(0.4)


@pytest.mark.parametrize(
    ("now", "wanted", "off"), [("12.3", "12", "0.3"), ("12", "12.3", "-0.3"), (None, "12", None), ("12", None, None)]
)
def test_a_position_needs_both_where_it_is_and_where_it_is_wanted(
    now: str | None, wanted: str | None, off: str | None
) -> None:
    pair = PairChoice(
        position_now_mm=None if now is None else D(now), position_wanted_mm=None if wanted is None else D(wanted)
    )
    assert pair.first_mm == (None if off is None else D(off))


def test_a_position_is_kept_where_the_stock_is_just_enough() -> None:
    """0.262 in all; both faces need just that: the reference takes its need, and the rest of the position is off."""
    need = BLOCK.cleanup_mm[1] + BLOCK.cleanup_mm[2]
    skin = (D("0.262") - need) / 2
    made = pair_stock(BLOCK, "thickness", Sharing(skin, None, D("0.2")))
    assert made.split.spare_mm == 0 and made.split.first_face_mm == BLOCK.cleanup_mm[1] + skin
    assert made.position_off_mm == D("0.2") - made.split.first_face_mm
    free = pair_stock(BLOCK, "thickness", Sharing(D(0), None, D("0.1")))
    assert free.split.first_face_mm == D("0.1") and free.position_off_mm == 0


def test_what_nobody_knows_of_a_face_adds_nothing_to_its_chain() -> None:
    assert told(SHOP, "2 ∥ 1").chain.links_um["heat: hollow"] == 0
    assert told(SHOP, "2 ∥ 1").chain.links_um["magnet: springs back"] == 0
    known = told(replace(SHOP, hollow_um={2: 0.7}, springs_back_um={2: 0.4}), "2 ∥ 1").chain.links_um
    assert (known["heat: hollow"], known["magnet: springs back"]) == (0.7, 0.4)


@pytest.mark.parametrize(
    ("more", "name", "remedy"),
    [
        ({"hollow_um": {2: 40.0}}, "2 ∥ 1", "Turn the part, more coolant"),
        ({"springs_back_um": {2: 40.0}}, "2 ∥ 1", "Shim under the hollow"),
        ({"measuring_um": 40.0}, "2 ∥ 1", "A better gauge"),
        ({"chuck_map": ()}, "2 ∥ 1", "Map Chuck A"),
        ({"fixtures": ()}, "4 ⊥ 3", "Try all four corners"),
        ({"measuring_um": 0.1}, "2 ∥ 1", "At the best place on Chuck A"),
    ],
)
def test_the_remedy_is_for_the_biggest_link(more: dict[str, object], name: str, remedy: str) -> None:
    assert told(replace(SHOP, **more), name).remedy.startswith(remedy)


@pytest.mark.parametrize(
    ("measured", "u", "gives"),
    [("25.001", "0.0007", "0.0043"), ("25.003", "0.0007", "0.005"), ("24.9967", "0.0007", "0"), ("24.996", "0", "0")],
)
def test_a_size_ground_again_gives_what_is_sure_to_stay_over_its_lower_limit(measured: str, u: str, gives: str) -> None:
    limits = Size(D(25), D("0.004"), D("0.004"))
    assert skin_again(D(measured), limits, D(u), D("0.005")) == D(gives)
    assert skin_again(D(measured), None, D(u), D("0.005")) == D("0.005"), "a reference gives its skin"


def test_a_relation_is_likely_up_to_just_what_is_allowed() -> None:
    chain = told(SHOP, "2 ∥ 1").chain

    def state(allowed: float) -> str:
        block = replace(BLOCK, parallel_um=allowed)
        steps = route_steps(block, "angle_plate")
        return next(
            relation.state for relation in relations(block, "angle_plate", steps, SHOP) if relation.name == "2 ∥ 1"
        )

    assert state(chain.worst_um) == "sure" and state(chain.likely_um) == "likely"
    assert state(chain.likely_um - 1e-6) == "unlikely"


def test_why_a_face_must_not_come_yet_names_the_face_it_waits_for() -> None:
    face = BlockFace()
    assert face.why_not(BLOCK, 4, {2}) == ["Face 4 is to be square to face 1, which is not ground yet."]
    assert face.why_not(BLOCK, 5, {1}) == [
        "Face 5 would stand on face 3 before that is ground: nothing to be parallel to."
    ]
    assert [words.split(" was made")[0] for words in face.why_not(BLOCK, 1, {2})] == [
        "Face 1 is a reference and face 2"
    ]
    assert face.why_not(BLOCK, 1, set()) == face.why_not(BLOCK, 3, {1}) == face.why_not(BLOCK, 6, {1, 4}) == []


SMALL = replace(
    BLOCK,
    sizes={
        "thickness": PairSize(D("6"), D("0.005"), D("0.005"), D("6.2"), D("6.19")),
        "width": PairSize(D("8"), D("0.05"), D("0.05"), D("8.2"), D("8.19")),
        "length": PairSize(D("12"), D("0.05"), D("0.05"), D("12.2"), D("12.19")),
    },
    bow_mm=0.0,
)


def face_two(steps: tuple[StepChoice, ...] = (), block: Block = SMALL) -> FacePlan:
    dry = replace(MEANS, coolant="dry")
    return plan_route(block, RouteChoices(steps=steps), dry, SHOP, sharing=SHARING, done=(1,)).faces[2]


def test_a_small_part_that_the_bare_magnet_hardly_holds_is_first_offered_with_blocks() -> None:
    """12 × 8 × 6 dry: bare it takes many minutes at a few watts."""
    bare, offer = face_two((StepChoice("2", blocks=False),)), face_two()
    assert bare.plan is not None and bare.plan.used["hold"] > 0.9 and not bare.held.blocks
    assert offer.plan is not None and offer.held.blocks
    assert offer.plan.minutes + HANDLING.place < bare.plan.minutes and offer.plan.power_w > bare.plan.power_w


def test_blocks_that_save_less_than_putting_them_up_takes_are_not_offered() -> None:
    assert not face_two(block=BLOCK).held.blocks
