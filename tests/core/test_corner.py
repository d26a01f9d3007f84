"""Two faces in one clamping: what goes to an angle plate's corner, and what is lost where it cannot."""

from dataclasses import replace
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_route import BLOCK, PLATE, SHOP, planned, relation
from zesty_lark.core.squaring.choices import RouteChoices
from zesty_lark.core.squaring.corner import MOST_FREE, PROUD_MM, Corner, corner_of
from zesty_lark.core.squaring.order import StepChoice
from zesty_lark.core.squaring.shop_facts import ShopFacts
from zesty_lark.core.things.shop import Accessory, Fixture

D = Decimal
CLAMP = Accessory("Clamp", "clamp", D(60), D(15), D(10))


def at_plate(clamps: tuple[Accessory, ...] = (CLAMP,), **plate: object) -> Corner:
    made = corner_of(BLOCK, (3, 4), replace(PLATE, **plate), clamps)  # type: ignore[arg-type]
    assert made is not None
    return made


def test_a_part_stands_proud_of_both_edges_by_its_stock_and_the_wheels_clearance() -> None:
    made = at_plate(base_length_mm=D(120), height_mm=D(75))
    assert made.lacks == ""
    for face, axis in ((3, "width"), (4, "length")):
        size = BLOCK.sizes[axis]
        stood = made.fixture.stood(on_end=made.on_end(face))[2]
        assert made.hangs(face) + float(size.target_mm) == pytest.approx(
            max(stood, float(size.target_mm) - 0) + PROUD_MM
        )
    assert (made.on_end(3), made.on_end(4)) == (False, True) and (made.other(3), made.other(4)) == (4, 3)


@given(st.integers(20, 400), st.integers(20, 400), st.integers(20, 400))
def test_whatever_the_plate_no_more_than_a_third_hangs_free_and_nothing_touches_the_chuck(
    length: int, width: int, height: int
) -> None:
    made = at_plate(base_length_mm=D(length), base_width_mm=D(width), height_mm=D(height))
    assert min(made.hangs_mm) >= 0
    if not made.lacks:
        for face, axis in ((3, "width"), (4, "length")):
            assert made.proud_of(face) <= MOST_FREE * float(BLOCK.sizes[axis].measured_max_mm) + 1e-9
        assert length <= 2.5 * min(width, height) + 1e-6


@pytest.mark.parametrize(
    ("plate", "clamps", "lacks"),
    [
        ({"height_mm": D(30)}, (CLAMP,), "too small: 24 mm would hang out over its edge under face 3"),
        ({"base_length_mm": D(50)}, (CLAMP,), "too small: 38 mm would hang out over its edge under face 4"),
        ({"base_length_mm": D(300)}, (CLAMP,), "too large: turned on its end it stands 300 mm high on 75 mm"),
        ({}, (replace(CLAMP, length_mm=D(30)),), "No clamp reaches round 22 mm and the plate: the longest reaches 30"),
        ({"form": "square_block"}, (CLAMP,), "is no angle plate"),
    ],
)
def test_what_cannot_be_proud_of_both_says_why(
    plate: dict[str, object], clamps: tuple[Accessory, ...], lacks: str
) -> None:
    assert lacks in at_plate(clamps, **{"height_mm": D(75)} | plate).lacks


def shop(reach_mm: Decimal = CLAMP.length_mm, **plate: object) -> ShopFacts:
    fixture: Fixture = replace(PLATE, **plate)  # type: ignore[arg-type]
    return replace(SHOP, fixtures=[fixture], accessories=[replace(CLAMP, length_mm=reach_mm)])


def test_one_clamping_counts_in_the_chain_only_where_it_can_be_had() -> None:
    whole, lost = planned(shop=shop(height_mm=D(75))), planned(shop=shop(D(30), height_mm=D(75)))
    again = "Angle plate P1, clamped again"
    links = [relation(route, "4 ⊥ 3").chain.links_um for route in (whole, lost)]
    assert again not in links[0] and links[1][again] == links[1]["Angle plate P1"]
    assert relation(lost, "4 ⊥ 3").chain.worst_um > relation(whole, "4 ⊥ 3").chain.worst_um + 1
    assert relation(lost, "3 ⊥ 1").chain.worst_um == relation(whole, "3 ⊥ 1").chain.worst_um
    told = [next(each for each in route.steps if each.key == "3+4") for route in (whole, lost)]
    assert whole.in_one_clamping(told[0]) and not lost.in_one_clamping(told[1])
    step = told[1].step
    assert "clamped again for face 4" in step.why and "No clamp reaches" in step.why
    assert "both in one clamping" in next(each.step.why for each in whole.steps if each.key == "3+4")


def test_the_plate_turned_on_its_end_is_what_the_second_face_is_held_with() -> None:
    route = planned(shop=shop(height_mm=D(75)))
    upright, on_end = route.faces[3].held, route.faces[4].held
    assert (upright.on_end, on_end.on_end) == (False, True) and on_end.words == "Angle plate P1 on its end"
    assert upright.chuck(80.0).base_length_mm == 150 and on_end.chuck(80.0).base_length_mm == 75
    assert on_end.face_height_mm == pytest.approx(150 + PROUD_MM)


def test_a_face_that_a_fixture_holds_is_not_said_to_lie_on_the_magnet() -> None:
    keys = ("1", "2", "3+4", "5", "6")
    steps = tuple(StepChoice(key, fixture="Angle plate P1" if key in ("5", "6") else None) for key in keys)
    route = planned(RouteChoices(steps=steps), shop=shop(height_mm=D(75)))
    for face, down in ((5, 3), (6, 4)):
        why = next(each.step.why for each in route.steps if face in each.step.up)
        assert "magnet" not in why and f"face {down} below" in why
        assert "Angle plate P1" in relation(route, f"{face} ∥ {down}").chain.links_um
    bare = planned(shop=shop(height_mm=D(75)))
    assert "down on the magnet" in next(each.step.why for each in bare.steps if 5 in each.step.up)
