"""Faces that nobody wants ground: no set-up, no tolerance and no relation is asked of them, on any path."""

from itertools import combinations

import pytest

from tests.shopfloor.hands import D, Hands, job_of
from zesty_lark.core.part.faces import ALL_FACES, AS_IT_IS, AXIS, OPPOSITE, FaceState
from zesty_lark.core.part.sizes import Size
from zesty_lark.core.part.surfaces import kind_of
from zesty_lark.core.part.surfaces.part import Sharing
from zesty_lark.core.squaring.order import route_steps
from zesty_lark.core.squaring.relations import relations
from zesty_lark.core.squaring.shop_facts import ShopFacts
from zesty_lark.core.things.shop import Chuck
from zesty_lark.core.work.entries import Rerouted
from zesty_lark.core.work.machine_rules import LogError, may_grind
from zesty_lark.core.work.next_act import next_act
from zesty_lark.store.models import Job

SIZE = Size(D(22), D("0.003"), D("0.003"))
SHOP = ShopFacts(Chuck("Chuck A", D(450), D(150), D(80)))


def left(*faces: int, condition: str = "milled") -> Job:
    job = job_of(SIZE)
    for face in job.part.faces:
        if face.face in faces:
            face.purpose, face.condition, face.cleanup_mm = AS_IT_IS, condition, D(0)
    return job


@pytest.mark.parametrize("count", range(6))
def test_whatever_stays_as_it_is_is_never_up_and_is_asked_nothing(count: int) -> None:
    for faces in combinations(ALL_FACES, count):
        part = left(*faces).part
        block, state = part.block(), Hands(left(*faces), 1).now
        steps = route_steps(block, "angle_plate")
        up = [face for step in steps for face in step.step.up]
        assert sorted(up) == [face for face in ALL_FACES if face not in faces] and not any(s.stops for s in steps)
        assert all(int(words[0]) in up for step in steps for words in step.step.makes if words[0].isdigit())
        assert {relation.face for relation in relations(block, "angle_plate", steps, SHOP)} <= set(up)
        asked = {each.name for each in part.wanted().characteristics if each.kind == "size"}
        assert asked == {AXIS[face] for face in up}
        for face in faces:
            assert state.state(face) is FaceState.AS_IT_IS
            with pytest.raises(LogError, match="stays as it is"):
                may_grind(face, state)
        what = next_act(state)
        assert what.surface in up


def test_what_is_ground_alone_takes_all_there_is_and_stands_on_what_stays() -> None:
    sharing = {axis: Sharing(D("0.01")) for axis in ("thickness", "width", "length")}
    for face in ALL_FACES:
        other = OPPOSITE[face]
        part = left(other).part
        block, surface = part.block(), part.wanted().surfaces[face]
        assert other in block.references and not surface.reference, "it comes to size on what stays as it is"
        assert part.wanted().ends_on(face) is not None
        split = kind_of(block, face).stock(block, face, sharing).split
        assert (split.first_face_mm, split.second_face_mm) == (0, split.total_stock_mm) and split.total_stock_mm > 0


def test_a_ground_face_that_stays_is_a_reference_and_a_sawn_one_is_none() -> None:
    for condition, known in (("ground", True), ("sawn", False)):
        block = left(1, condition=condition).part.block()
        found = {relation.name for relation in relations(block, "angle_plate", route_steps(block, "angle_plate"), SHOP)}
        assert ("2 ∥ 1" in found) is known and ("3 ⊥ 1" in found) is known


def test_a_thickness_alone_is_ground_to_its_end_by_the_screen() -> None:
    hands = Hands(left(3, 4, 5, 6), 4)
    hands.work((1, 2))
    least, most = hands.true_mm(2)
    assert SIZE.lower_mm <= D(repr(least)) and D(repr(most)) <= SIZE.upper_mm
    state = hands.now
    assert state.progress == (2, 2) and next_act(state).act not in ("plan", "place")
    assert {state.state(face) for face in (3, 4, 5, 6)} == {FaceState.AS_IT_IS}


def test_it_is_not_taken_in_hand_again_without_its_take_in() -> None:
    hands = Hands(left(5), 1)
    with pytest.raises(LogError, match="Face 5 stays as it is"):
        hands.log(Rerouted, 5, change="grind", note="It looks bad.")
