"""A part at an angle plate's corner for two faces in one clamping: where it stands, its clamps, and what is checked."""

from collections import Counter
from collections.abc import Iterator
from dataclasses import replace

from zesty_lark.core.setup.facts import SetUpFacts
from zesty_lark.core.setup.found import Pinned, Rule, said
from zesty_lark.core.setup.layout import Layout
from zesty_lark.core.setup.solids import TOUCH_MM, Built, Solid, build, near
from zesty_lark.core.squaring.corner import CLAMP_ON_MM, PROUD_MM, Corner
from zesty_lark.core.things.shop import Accessory, Fixture

APART_MM = 2.0
"""Between two clamps [mm]."""


def at_corner(fixture: Fixture, facts: SetUpFacts) -> Corner | None:
    """Return how a part goes to a fixture's corner, where the plan has it there; else ``None``."""
    corner = facts.corner
    return corner if corner is not None and corner.fixture.name == fixture.name else None


def out_to_side(plate: Solid, facts: SetUpFacts) -> float:
    """Return how far from a fixture's middle its part stands, so that its other face is proud of the edge beside
    it [mm]."""
    corner = at_corner(plate.thing, facts) if isinstance(plate.thing, Fixture) else None
    if corner is None:
        return 0.0
    other, (left, _, right, _) = corner.other(facts.part.up), plate.bounds
    away = (right - left) / 2 + corner.proud_of(other) - facts.part.along_mm / 2
    return -away if other == facts.part.sides.left else away


def clamp_on(layout: Layout, facts: SetUpFacts, key: str) -> Layout:
    """Put clamps round a piece and the plate that it stands before, side by side from the end that is not ground: as
    many as the plate takes, of those of the shop that reach."""
    built = build(layout, facts)
    piece = next((each for each in built.pieces if each.key == key), None)
    plate = None if piece is None else built.fixture_of(piece)
    if piece is None or plate is None or not isinstance(plate.thing, Fixture):
        return layout
    corner = at_corner(plate.thing, facts)
    left, front, right, _ = piece.bounds
    from_left = corner is None or corner.other(facts.part.up) != facts.part.sides.left
    at, step = (left, 1) if from_left else (right, -1)
    for _ in range(plate.thing.clamps - len(_clamps(built, piece, plate))):
        clamp = _longest(layout, facts)
        if clamp is None:
            return layout
        wide, y = float(clamp.width_mm), front + facts.part.across_mm + CLAMP_ON_MM - float(clamp.length_mm) / 2
        layout = layout.with_thing(clamp.name, "clamp", at + step * wide / 2, y, turn_deg=90.0)
        at += step * (wide + APART_MM)
    return layout


def _clamps(built: Built, piece: Solid, plate: Solid) -> list[Solid]:
    """The clamps that go round a piece and its plate."""
    return [each for each in built.of_role("clamp") if near(each, piece, 0.0) and near(each, plate, 0.0)]


def _longest(layout: Layout, facts: SetUpFacts) -> Accessory | None:
    """The clamp with the longest reach that is not in the set-up yet, where it reaches."""
    used = Counter(thing.name for thing in layout.things)
    need = facts.part.across_mm + CLAMP_ON_MM
    there = [
        each
        for each in facts.accessories
        if each.kind == "clamp" and used[each.name] < each.count and float(each.length_mm) >= need
    ]
    return max(there, key=lambda each: each.length_mm, default=None)


def to_corner(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    """Move a piece along its plate until its other face is proud of the plate's edge; what clamps it goes along."""
    piece = next((each for each in built.pieces if each.key in keys), None)
    plate = None if piece is None else built.fixture_of(piece)
    if piece is None or plate is None:
        return layout
    by = plate.middle[0] + out_to_side(plate, built.facts) - piece.middle[0]
    going = {piece.key, *(each.key for each in _clamps(built, piece, plate))}
    for key in going:
        layout = layout.changed(key, lambda each: replace(each, x_mm=round(each.x_mm + by, 3)))
    return layout


def _at_corners(built: Built) -> Iterator[tuple[Solid, Solid, Corner]]:
    """Each piece that the plan has at a plate's corner, with the plate that it stands at."""
    for piece in built.pieces:
        plate = built.fixture_of(piece)
        corner = at_corner(plate.thing, built.facts) if plate and isinstance(plate.thing, Fixture) else None
        if plate is not None and corner is not None:
            yield piece, plate, corner


def _proud_beside(built: Built) -> Iterator[Pinned]:
    """The face that is not up stands proud of the plate's edge beside it: it is taken in the same clamping."""
    for piece, plate, corner in _at_corners(built):
        other = corner.other(built.facts.part.up)
        on_left = other == built.facts.part.sides.left
        out = plate.bounds[0] - piece.bounds[0] if on_left else piece.bounds[2] - plate.bounds[2]
        if out < PROUD_MM - TOUCH_MM:
            yield said(
                "not at the plate’s corner", piece.key, "stop",
                f"Face {other} is taken in the same clamping. It stands {out:.1f} mm proud of {plate.name}, "
                f"and {corner.proud_of(other):.1f} mm are planned.",
                "move it to the plate’s corner", piece.key, plate.key, fix="to the corner", number=out,
            )  # fmt: skip


def _is_clamped(built: Built) -> Iterator[Pinned]:
    """What hangs by its clamps has them laid out, where the shop's are known."""
    if all(each.kind != "clamp" for each in built.facts.accessories):
        return
    for piece, plate, corner in _at_corners(built):
        there = len(_clamps(built, piece, plate))
        if there < corner.fixture.clamps:
            yield said(
                "clamps not laid out", piece.key, "caution",
                f"It hangs {piece.bottom:.1f} mm over the chuck by {corner.fixture.clamps} clamps: {there} go round it "
                "and the plate.", "put the clamps where they go, clear of both faces", piece.key, plate.key,
                fix="clamp it", number=float(there),
            )  # fmt: skip


def clamped(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    """Put clamps round the first of some pieces."""
    piece = next((each for each in built.pieces if each.key in keys), None)
    return layout if piece is None else clamp_on(layout, built.facts, piece.key)


CORNER_RULES: tuple[Rule, ...] = (_proud_beside, _is_clamped)
