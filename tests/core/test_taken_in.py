"""What a part is taken in with: what cannot be is named by its field, whoever asks."""

from dataclasses import replace
from decimal import Decimal as D
from typing import Any

import pytest
from pydantic import ValidationError

from zesty_lark.core.part.sizes import Size
from zesty_lark.core.part.taken_in import CharacteristicIn, FaceIn, SizeIn, TakeIn, differences, take_in_wrong


def size(target: str, most: str, least: str) -> SizeIn:
    return SizeIn(Size(D(target), D("0.01"), D("0.02")), D(most), D(least))


PAD = TakeIn(
    number="TR-1", title="Pad", print_unit="mm", due_on=None, owner_id=1, machine_id=1, wheel_id=1, quantity=2,
    material="tool steel, hardened", hardness_hrc=D(60), parallel_mm=D("0.003"), square_mm=None, flat_mm=None,
    ra_um=D("0.4"), mark_corner="1-3-4", reference_face=1, min_skin_mm=D("0.005"), first_share=None, remarks="",
    sizes={"length": size("88", "88.3", "88.2"), "width": size("54", "54.2", "54.2"),
           "thickness": size("22", "22.26", "22.2")},
    faces={face: FaceIn("milled", D("0.04"), "plain") for face in range(1, 7)},
    pieces={2: {"thickness": D("22.24")}},
    more=(CharacteristicIn("step", "size", 1, 2, D("7.5"), D("0.01"), D("0.02")),),
)  # fmt: skip


def test_a_part_that_can_be_is_not_found_fault_with() -> None:
    assert take_in_wrong(PAD) == {}


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"sizes": {"thickness": PAD.sizes["thickness"]}}, "sizes"),
        ({"faces": {1: PAD.faces[1]}}, "faces"),
        ({"mark_corner": "1-2-3"}, "mark_corner"),
        ({"material": "cheese"}, "material"),
        ({"material": "magnesium"}, "material"),
        ({"sizes": PAD.sizes | {"width": size("54", "54.2", "54.3")}}, "width_min"),
        ({"sizes": PAD.sizes | {"thickness": size("23", "22.26", "22.2")}}, "thickness_target"),
        ({"pieces": {3: {"thickness": D(22)}}}, "pieces"),
        ({"pieces": {2: {"weight": D(22)}}}, "pieces"),
        ({"more": PAD.more * 2}, "more"),
        ({"more": (replace(PAD.more[0], name="flat"),)}, "more"),
        ({"more": (replace(PAD.more[0], surface=7),)}, "more"),
        ({"more": (replace(PAD.more[0], to_surface=0),)}, "more"),
        ({"features": "nonsense"}, "features"),
    ],
)
def test_what_does_not_go_together_is_named_by_its_field(change: dict[str, Any], field: str) -> None:
    assert list(take_in_wrong(replace(PAD, **change))) == [field]


@pytest.mark.parametrize(
    "change",
    [{"number": "no spaces"}, {"title": ""}, {"quantity": 0}, {"hardness_hrc": D(80)}, {"parallel_mm": D(0)},
     {"reference_face": 3}, {"first_share": D("1.1")}, {"bow_shape": "twisted"}, {"leave_mm": D(-1)}],
)  # fmt: skip
def test_what_no_part_has_is_refused_outright(change: dict[str, Any]) -> None:
    with pytest.raises(ValidationError):
        replace(PAD, **change)


@pytest.mark.parametrize(
    "given",
    [("x", "size", 1, None, "7", "0.1", "0"), ("x", "flat", 1, 1, "0", "0", "0.1"),
     ("x", "flat", 1, None, "0", "0", "0"), ("x", "size", 1, 2, "7", "0", "0"), ("x", "hue", 1, 2, "7", "0.1", "0")],
)  # fmt: skip
def test_a_characteristic_that_asks_for_nothing_or_of_nothing_is_refused(given: tuple[Any, ...]) -> None:
    with pytest.raises(ValidationError):
        CharacteristicIn(*given[:4], *(D(each) for each in given[4:]))


def test_what_was_changed_is_named() -> None:
    after = replace(PAD, title="Other", sizes=PAD.sizes | {"width": size("53", "54.2", "54.2")}, pieces={})
    assert differences(PAD, after) == ["title", "width", "pieces’ own sizes"]
    assert differences(PAD, PAD) == []
