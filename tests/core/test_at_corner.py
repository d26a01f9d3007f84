"""A part laid out at an angle plate's corner: where it stands for each face, its clamps, and what stops it."""

from dataclasses import replace
from decimal import Decimal

import pytest

from tests.core.set_up_shop import ACCESSORIES, PLATE, facts, part
from zesty_lark.core.setup.checks import check
from zesty_lark.core.setup.facts import SetUpFacts, Sides
from zesty_lark.core.setup.fixes import fixed
from zesty_lark.core.setup.layout import Layout
from zesty_lark.core.setup.moves import shift
from zesty_lark.core.setup.solids import build
from zesty_lark.core.setup.suggest import suggest
from zesty_lark.core.squaring.corner import Corner

HIGH = replace(PLATE, height_mm=Decimal(60))
CORNER = Corner((3, 4), HIGH, (1.2, 1.2), (60 + 1.2 - 54.2, 120 + 1.2 - 88.2))
FIRST = facts(
    part(88, 22, 54, up=3, down=5, sides=Sides(1, 2, 4, 6)), fixtures=(HIGH,), holder=HIGH.name, may_lie=False,
    corner=CORNER,
)  # fmt: skip
SECOND = replace(FIRST, part=part(54, 22, 88, up=4, down=6, sides=Sides(1, 2, 3, 5)))


def laid_out(of: SetUpFacts) -> Layout:
    return next(way for way in suggest(of) if way.name == HIGH.name).layout


@pytest.mark.parametrize(("of", "high", "foot", "beside"), [(FIRST, 60, 120, 4), (SECOND, 120, 60, 3)])
def test_each_face_stands_proud_and_so_does_the_other_beside_it(
    of: SetUpFacts, high: float, foot: float, beside: int
) -> None:
    layout = laid_out(of)
    built = build(layout, of)
    plate, piece = next(built.of_role("fixture")), built.pieces[0]
    assert plate.top == high and plate.bounds[2] - plate.bounds[0] == pytest.approx(foot)
    assert piece.top == pytest.approx(high + 1.2) and piece.bottom > 0 and not built.under(piece)
    assert of.part.sides.left == beside and plate.bounds[0] - piece.bounds[0] == pytest.approx(1.2)
    assert not check(layout, of).stops


@pytest.mark.parametrize("of", [FIRST, SECOND])
def test_its_clamps_are_laid_out_round_part_and_plate_clear_of_both_faces(of: SetUpFacts) -> None:
    layout = laid_out(of)
    built = build(layout, of)
    piece, plate, clamps = built.pieces[0], next(built.of_role("fixture")), list(built.of_role("clamp"))
    assert len(clamps) == HIGH.clamps
    for each in clamps:
        assert each.shape.intersects(piece.shape) and each.shape.intersects(plate.shape)
        assert piece.bottom < each.bottom and each.top < piece.final and each.bounds[0] > piece.bounds[0] + 20
    bare = replace(layout, things=tuple(thing for thing in layout.things if thing.role != "clamp"))
    said = next(each for each in check(bare, of).cautions if each.finding.check == "clamps not laid out")
    assert fixed(bare, of, said.fix, said.keys) == layout
    of_no_clamps = replace(of, accessories=tuple(each for each in ACCESSORIES if each.kind != "clamp"))
    assert "clamps not laid out" not in {each.finding.check for each in check(bare, of_no_clamps).cautions}


@pytest.mark.parametrize("of", [FIRST, SECOND])
def test_a_part_moved_from_the_corner_is_stopped_and_put_back(of: SetUpFacts) -> None:
    layout = laid_out(of)
    away = shift(layout, ["p1"], 5.0, 0.0)
    stop = next(each for each in check(away, of).stops if each.finding.check == "not at the plate’s corner")
    back = fixed(away, of, stop.fix, stop.keys)
    assert build(back, of).pieces[0].bounds == pytest.approx(build(layout, of).pieces[0].bounds)
    assert not [each for each in check(away, replace(of, corner=None)).stops if "corner" in each.finding.check]


def test_a_layout_is_of_the_face_that_its_plate_stands_for() -> None:
    upright, on_end = laid_out(FIRST), laid_out(SECOND)
    assert upright.is_for(False) and not upright.is_for(True) and on_end.is_for(True) and not on_end.is_for(False)
    assert Layout().is_for(True) and Layout().is_for(False)
    assert "on its end" in SECOND.held_by and "on its end" not in FIRST.held_by
