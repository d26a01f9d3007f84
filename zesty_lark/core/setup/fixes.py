"""“Fix it”: the remedies that can be worked out, each a layout from a layout."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial

from zesty_lark.core.process.holding import STOP_SAFETY
from zesty_lark.core.process.strokes import END_OVERRUN_MM
from zesty_lark.core.setup.at_corner import clamped, to_corner
from zesty_lark.core.setup.block_rules import clamp_moments
from zesty_lark.core.setup.facts import SetUpFacts
from zesty_lark.core.setup.hold import side_of
from zesty_lark.core.setup.layout import Layout
from zesty_lark.core.setup.moves import carried, shift, stand, turn
from zesty_lark.core.setup.placing import (
    CLOSE_SHARE,
    LEAD_IN_HIGH_MM,
    LEAD_IN_LOW_MM,
    SUPPORT_UNDER_MM,
    UNDER_FACE_MM,
    at_fixture,
    block_beside,
    fits_under,
    free,
    in_rows,
    pins_under,
    shim_under,
)
from zesty_lark.core.setup.rules import place_range
from zesty_lark.core.setup.solids import Built, Solid, build
from zesty_lark.core.setup.suggest import suggest
from zesty_lark.core.squaring.corner import PROUD_MM
from zesty_lark.core.things.shop import Accessory

OVER_EDGE_MM = 5.0
"""So far a parallel reaches over the chuck's edge, to be lifted by [mm]."""
HEAT_TURN_DEG = 20.0
CLEAR_MM = 1.0

Mend = Callable[[Layout, Built, tuple[str, ...]], Layout]


def fixed(layout: Layout, facts: SetUpFacts, fix: str, keys: tuple[str, ...] = ()) -> Layout:
    """Return a layout with a remedy worked in; the same one where the shop has nothing for it.

    Raises
    ------
    KeyError
        If there is no such remedy.
    """
    return FIXES[fix](layout, build(layout, facts), keys)


def _solid(built: Built, keys: tuple[str, ...]) -> Solid | None:
    return next((each for key in keys for each in built.solids if each.key == key), None)


def _first_piece(built: Built, keys: tuple[str, ...]) -> Solid | None:
    named = next((piece for piece in built.pieces if piece.key in keys), None)
    return named or next(iter(built.pieces), None)


def _whole(built: Built) -> list[str]:
    """Everything that is laid out, to be moved together."""
    return [*(piece.key for piece in built.layout.pieces), *(thing.key for thing in built.layout.things)]


def _off(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    for key in keys:
        layout = layout.without(key)
    return layout


def _place(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    return replace(layout, pieces=in_rows(built.facts, layout.pieces[0].turn_deg if layout.pieces else 0.0))


def _suggested(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    found = suggest(built.facts)
    return found[0].layout if found else layout


def _to_fixture(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    fixture = next(built.of_role("fixture"), None)
    return layout if fixture is None else at_fixture(layout, built.facts, fixture.key)


def _onto(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    solid = _solid(built, keys)
    if solid is None:
        return layout
    left, front, right, back = solid.bounds
    x = max(0.0, -left) - max(0.0, right - built.facts.length)
    y = max(0.0, -front) - max(0.0, back - built.facts.width)
    return shift(layout, carried(built, solid.key), x, y)


def _apart(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    """Push the first away from the second, the short way."""
    one, other = (_solid(built, (key,)) for key in keys[:2])
    if one is None or other is None:
        return layout
    left, front, right, back = one.bounds
    its_left, its_front, its_right, its_back = other.bounds
    ways = [(its_left - right, 0.0), (its_right - left, 0.0), (0.0, its_front - back), (0.0, its_back - front)]
    x, y = min(ways, key=lambda way: abs(way[0]) + abs(way[1]))
    return shift(layout, carried(built, one.key), x, y)


def _raise(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    fixture, piece = _solid(built, keys), _first_piece(built, ())
    if fixture is None or piece is None:
        return layout
    return pins_under(layout, built.facts, piece.key, fixture.top + PROUD_MM)


def _out_of_the_way(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    """Behind or before the wheel's way, where the chuck has room; else off."""
    solid, strokes = _solid(built, keys), built.strokes
    if solid is None or strokes is None:
        return layout
    _, front, _, back = solid.bounds
    behind, before = strokes.back + CLEAR_MM - front, strokes.front - CLEAR_MM - back
    if back + behind <= built.facts.width:
        return shift(layout, [solid.key], 0.0, behind)
    if front + before >= 0:
        return shift(layout, [solid.key], 0.0, before)
    return layout.without(solid.key)


def _off_the_fence(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    strokes = built.strokes
    return layout if strokes is None else shift(layout, _whole(built), 0.0, built.facts.width - strokes.back)


def _into_reach(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    strokes, facts = built.strokes, built.facts
    if strokes is None:
        return layout
    x = _within(strokes.left, strokes.right, facts.length / 2, float(facts.machine.travel_long_mm))
    half = facts.wheel_width / 2
    y = _within(strokes.front + half, strokes.back - half, facts.width / 2, float(facts.machine.travel_cross_mm))
    return shift(layout, _whole(built), x, y)


def _within(begin: float, end: float, middle: float, travel: float) -> float:
    return max(middle - travel / 2 - begin, 0.0) - max(end - middle - travel / 2, 0.0)


def _against(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    """Push a block straight to the piece it is nearest to."""
    block = _solid(built, keys)
    piece = None if block is None else min(built.pieces, key=block.distance, default=None)
    if block is None or piece is None:
        return layout
    left, front, right, back = block.bounds
    its_left, its_front, its_right, its_back = piece.bounds
    side = side_of(built, piece, block)
    if side in ("front", "behind"):
        away = its_back - front if side == "behind" else its_front - back
        sideways = 0.0 if min(right, its_right) > max(left, its_left) else (its_left + its_right - left - right) / 2
        return shift(layout, [block.key], sideways, away)
    away = its_left - right if (left + right) < (its_left + its_right) else its_right - left
    sideways = 0.0 if min(back, its_back) > max(front, its_front) else (its_front + its_back - front - back) / 2
    return shift(layout, [block.key], away, sideways)


def _other_block(layout: Layout, built: Built, keys: tuple[str, ...], *, lead_in: bool) -> Layout:
    """The same block on another side, or another of the shop's in its place, close under the final face."""
    block = _solid(built, keys)
    piece = None if block is None else min(built.pieces, key=block.distance, default=None)
    if block is None or piece is None or not isinstance(block.thing, Accessory):
        return layout
    for thing in (block.thing, *free(layout, built.facts, "block")):
        lies = fits_under(thing, piece.final, lead_in=lead_in)
        if lies is not None:
            changed = layout.changed(block.key, partial(replace, name=thing.name, lies=lies))
            return _against(changed, build(changed, built.facts), (block.key,))
    if lead_in:
        return layout.without(block.key)
    stood = next(each for each in layout.things if each.key == block.key)
    side = {"push": built.facts.pushed_to, "behind": "back", "front": "front"}.get(side_of(built, piece, block))
    side = side or ("right" if built.facts.pushed_to == "left" else "left")
    return block_beside(layout.without(block.key), built.facts, stood.role, side, piece=piece)


def _just_under(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    return _other_block(layout, built, keys, lead_in=False)


def _lower(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    return _other_block(layout, built, keys, lead_in=True)


def _flat(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    return stand(layout, keys[0], "flat") if keys else layout


def _pins(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    piece = _first_piece(built, keys)
    if piece is None:
        return layout
    fixture = built.fixture_of(piece)
    return pins_under(layout, built.facts, piece.key, 0.0 if fixture is None else fixture.top + PROUD_MM)


def _best_place(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    found, piece = place_range(built), _first_piece(built, keys)
    if found is None or piece is None:
        return layout
    stood = built.fixture_of(piece) or piece
    x, y = stood.middle
    return shift(layout, _whole(built), found[2][0] - x, found[2][1] - y)


def _aim(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    return replace(layout, nozzle="entry")


def _turned(layout: Layout, built: Built, deg: float) -> Layout:
    pieces = in_rows(built.facts, deg)
    at = {piece.number: piece for piece in layout.pieces}
    single = len(pieces) == 1 and pieces[0].number in at
    if single:
        pieces = (replace(at[pieces[0].number], turn_deg=deg),)
    beside = {each.key for each in built.of_role("backing", "support", "lead_in")}
    kept = replace(layout, pieces=pieces, things=tuple(thing for thing in layout.things if thing.key not in beside))
    return _backed(kept, build(kept, built.facts)) if beside else kept


def _as_planned(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    return _turned(layout, built, built.facts.cut.skew_deg if built.facts.cut else 0.0)


def _turn_for_heat(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    return _turned(layout, built, HEAT_TURN_DEG)


def _backed(layout: Layout, built: Built) -> Layout:
    return block_beside(layout, built.facts, "backing", built.facts.pushed_to)


def _back_up(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    return _backed(layout, built)


def _support(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    for side in (built.facts.pushed_to, "back"):
        layout = block_beside(
            layout, built.facts, "support", side, piece=_first_piece(build(layout, built.facts), keys)
        )
    return layout


def _corner(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    for side in (built.facts.pushed_to, "back"):
        layout = block_beside(
            layout, built.facts, "backing", side, piece=_first_piece(build(layout, built.facts), keys)
        )
    return layout


def _over_the_edge(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    """To the nearest edge; the work goes along when it would lose its parallel."""
    solid = _solid(built, keys)
    if solid is None:
        return layout
    left, front, right, back = solid.bounds
    ways = [
        (-left - OVER_EDGE_MM, 0.0),
        (built.facts.length - right + OVER_EDGE_MM, 0.0),
        (0.0, -front - OVER_EDGE_MM),
        (0.0, built.facts.width - back + OVER_EDGE_MM),
    ]
    x, y = min(ways, key=lambda way: abs(way[0]) + abs(way[1]))
    alone = shift(layout, [solid.key], x, y)
    rests = [piece.key for piece in built.pieces if piece.shape.intersects(solid.shape)]
    after = build(alone, built.facts)
    moved = next(each for each in after.solids if each.key == solid.key)
    if all(each.shape.intersection(moved.shape).area > 1.0 for each in after.pieces if each.key in rests):
        return alone
    return shift(layout, _whole(built), x, y)


def _longer_strokes(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    return replace(layout, left_mm=max(layout.left_mm, END_OVERRUN_MM), right_mm=max(layout.right_mm, END_OVERRUN_MM))


def _shorter_overhang(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    """Draw the clamp back until its block holds it."""
    clamp = _solid(built, keys)
    found = None if clamp is None else clamp_moments(built, clamp)
    if clamp is None or found is None or not built.facts.cut:
        return layout
    overhang, block_moment, _ = found
    may = block_moment / STOP_SAFETY / max(built.facts.cut.tangential_n, 1e-6)
    back = max(overhang - may, 0.0) + CLEAR_MM
    on = max(
        built.of_role("backing", "support"), key=lambda each: float(each.shape.intersection(clamp.shape).area)
    ).middle
    x, y = clamp.middle
    dx, dy = on[0] - x, on[1] - y
    length = max((dx**2 + dy**2) ** 0.5, 1e-6)
    go = min(back, length)
    return shift(layout, [clamp.key], dx / length * go, dy / length * go)


def _turn_vise(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    fixture = next(built.of_role("fixture"), None)
    return layout if fixture is None else turn(layout, built.facts, fixture.key, 180.0)


def _high_side(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    return replace(layout, start=built.facts.high_side or layout.start)  # type: ignore[arg-type]


def _shim(layout: Layout, built: Built, keys: tuple[str, ...]) -> Layout:
    piece = _first_piece(built, keys)
    return layout if piece is None else shim_under(layout, built.facts, piece.key)


FIXES: dict[str, Mend] = {
    "take it off": _off,
    "place the load": _place,
    "suggest": _suggested,
    "to the fixture": _to_fixture,
    "to the corner": to_corner,
    "clamp it": clamped,
    "onto the chuck": _onto,
    "move apart": _apart,
    "raise the part": _raise,
    "out of the way": _out_of_the_way,
    "off the fence": _off_the_fence,
    "into reach": _into_reach,
    "against the part": _against,
    "just under the face": _just_under,
    "lower the block": _lower,
    "lay it flat": _flat,
    "pins under the part": _pins,
    "to the best place": _best_place,
    "aim the nozzle": _aim,
    "turn as planned": _as_planned,
    "turn to 20°": _turn_for_heat,
    "back it up": _back_up,
    "support it": _support,
    "a corner of two": _corner,
    "over the edge": _over_the_edge,
    "lengthen the strokes": _longer_strokes,
    "shorten the overhang": _shorter_overhang,
    "turn the vise": _turn_vise,
    "start from the high side": _high_side,
    "shim the hollow": _shim,
}


def lacking(built: Built, fix: str) -> str:
    """Return what the shop would need for a remedy that it has nothing for, by size."""
    low = min((piece.final for piece in built.pieces), default=0.0)
    if fix == "support it":
        return f"two blocks that end {low * CLOSE_SHARE:.0f} to {low - SUPPORT_UNDER_MM:.1f} mm high."
    if fix == "just under the face":
        return f"a block that ends {low * CLOSE_SHARE:.0f} to {low - SUPPORT_UNDER_MM:.1f} mm high."
    if fix == "lower the block":
        return f"a block that ends {low - LEAD_IN_HIGH_MM:.1f} to {low - LEAD_IN_LOW_MM:.1f} mm high."
    if fix in ("pins under the part", "raise the part"):
        top = next((each.top for each in built.of_role("fixture")), low)
        return f"two pins or brass strips at least {max(top + PROUD_MM - built.facts.part.final_mm, 1):.0f} mm high."
    if fix in ("back it up", "a corner of two"):
        return f"a block less than {low - UNDER_FACE_MM:.1f} mm high."
    return "put it right by hand."
