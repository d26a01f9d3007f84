"""Placing things where they serve: pieces in a row or in their fixture, blocks against them, pins and foils under."""

import math
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import replace

from zesty_lark.core.process.strokes import projected
from zesty_lark.core.setup.at_corner import out_to_side
from zesty_lark.core.setup.facts import SetUpFacts
from zesty_lark.core.setup.layout import LIES, Layout, Lies, Piece, Role
from zesty_lark.core.setup.solids import Built, Solid, build
from zesty_lark.core.squaring.nest import capacity
from zesty_lark.core.squaring.nest import in_rows as in_nest
from zesty_lark.core.squaring.under import foils_for, pin_under
from zesty_lark.core.things.shop import Accessory, Fixture

GAP_MM = 2.0
"""Between pieces: enough to get a rag and coolant in [mm]."""
UNDER_FACE_MM = 0.5
"""A backing block ends at least this far under the final face [mm]."""
SUPPORT_UNDER_MM = 0.3
CLOSE_SHARE = 2 / 3
"""From this share of the height on a support ends close enough under the face."""
LEAD_IN_LOW_MM, LEAD_IN_HIGH_MM = 0.1, 0.3
QUARTER = 4
HOLDS_MM = 3.0
"""Lower than this a block holds nothing back [mm]."""


def free(layout: Layout, facts: SetUpFacts, kind: str) -> list[Accessory]:
    """Return the shop's things of a kind that are not in the set-up yet, each with how many are left."""
    used = Counter(thing.name for thing in layout.things)
    return [
        accessory if not used[accessory.name] else replace(accessory, count=accessory.count - used[accessory.name])
        for accessory in facts.accessories
        if accessory.kind == kind and used[accessory.name] < accessory.count
    ]


def in_rows(facts: SetUpFacts, turn_deg: float = 0.0, gap_mm: float = GAP_MM) -> tuple[Piece, ...]:
    """Return the load's pieces in rows along the travel, in the chuck's middle: as a load of them is planned, with room
    for lead-in blocks, or without where they do not fit so."""
    along, across = projected(facts.part.along_mm, facts.part.across_mm, turn_deg)
    columns, rows = _rows_and_columns(facts, along, across, gap_mm)
    left = (facts.length - columns * (along + gap_mm) + gap_mm) / 2 + along / 2
    front = (facts.width - rows * (across + gap_mm) + gap_mm) / 2 + across / 2
    return tuple(
        Piece(
            number,
            round(left + (place % columns) * (along + gap_mm), 3),
            round(front + (place // columns) * (across + gap_mm), 3),
            turn_deg,
        )
        for place, number in enumerate(facts.pieces)
    )


def _rows_and_columns(facts: SetUpFacts, along: float, across: float, gap_mm: float) -> tuple[int, int]:
    """How many pieces stand in a row, and how many rows: as few rows as there is room for."""
    count = max(len(facts.pieces), 1)
    for lead_in in (True, False):
        room = capacity(
            length_mm=along,
            width_mm=across,
            chuck_length_mm=facts.length,
            chuck_width_mm=facts.width,
            gap_mm=gap_mm,
            lead_in=lead_in,
        )
        if math.prod(room) >= count:
            return in_nest(count, *room)[:2]
    in_a_row = max(1, int((facts.length + gap_mm) // (along + gap_mm)))
    rows = math.ceil(count / in_a_row)
    return math.ceil(count / rows), rows


def at_fixture(layout: Layout, facts: SetUpFacts, key: str) -> Layout:
    """Put the pieces to a fixture: clamped before it, or in its middle."""
    built = build(layout, facts)
    solid = next((thing for thing in built.things if thing.key == key), None)
    if solid is None or not isinstance(solid.thing, Fixture):
        return layout
    x, y = solid.middle
    if solid.thing.is_beside:
        y = solid.bounds[1] - facts.part.across_mm / 2
        x += out_to_side(solid, facts)
    pieces = layout.pieces or in_rows(facts)
    return replace(
        layout,
        pieces=tuple(
            replace(each, x_mm=round(x, 3), y_mm=round(y, 3), turn_deg=0.0) if number == 0 else each
            for number, each in enumerate(pieces)
        ),
    )


def _axis(piece: Solid, side: str) -> tuple[float, float, float, float]:
    """The way out of a piece nearest to a side: a unit vector, the piece's half extent that way, and the turn of what
    lies against it."""
    want = {"left": (-1.0, 0.0), "right": (1.0, 0.0), "front": (0.0, -1.0), "back": (0.0, 1.0)}[side]
    turn = math.radians(piece.turn_deg)
    ways = [
        (math.cos(turn + quarter * math.pi / 2), math.sin(turn + quarter * math.pi / 2), quarter)
        for quarter in range(4)
    ]
    x, y, quarter = max(ways, key=lambda each: each[0] * want[0] + each[1] * want[1])
    corners = list(piece.shape.exterior.coords)
    middle_x, middle_y = piece.middle
    half = max((cx - middle_x) * x + (cy - middle_y) * y for cx, cy in corners)
    return x, y, half, piece.turn_deg + 90.0 * quarter


def block_beside(layout: Layout, facts: SetUpFacts, role: Role, side: str, *, piece: Solid | None = None) -> Layout:
    """Put the best block there is against a piece's side; the same layout when the shop has none that fits."""
    built = build(layout, facts)
    target = piece or _outermost(built, side)
    if target is None:
        return layout
    best = _best_block(layout, facts, role, target)
    if best is None:
        return layout
    thing, lies = best
    long, wide, _ = thing.lying(lies)
    x, y, half, turn = _axis(target, side)
    reach = half + wide / 2
    middle_x, middle_y = target.middle
    return layout.with_thing(
        thing.name,
        role,
        middle_x + x * reach,
        middle_y + y * reach,
        turn_deg=round((turn + 90 + 180) % 360 - 180, 3) if long != wide else round(turn % 90, 3),
        lies=lies,
    )


def _outermost(built: Built, side: str) -> Solid | None:
    """The piece furthest to a side."""
    index, sign = {"left": (0, 1), "front": (1, 1), "right": (2, -1), "back": (3, -1)}[side]
    return min(built.pieces, key=lambda each: sign * each.bounds[index], default=None)


def _state(things: Sequence[Accessory]) -> Iterator[tuple[Accessory, Lies, float, float]]:
    for thing in things:
        for lies in LIES:
            long, wide, high = thing.lying(lies)
            yield thing, lies, high, long * wide  # type: ignore[misc]


def _best_block(layout: Layout, facts: SetUpFacts, role: Role, piece: Solid) -> tuple[Accessory, Lies] | None:
    """The block that fits best under the face: for a support the highest, for backing the one with the largest foot."""
    things = free(layout, facts, "block")
    under = piece.final - (SUPPORT_UNDER_MM if role == "support" else UNDER_FACE_MM)
    fit = [each for each in _state(things) if HOLDS_MM <= each[2] <= under or each[2] <= under <= HOLDS_MM]
    if role == "support":
        fit = [each for each in fit if each[2] >= (piece.final - piece.bottom) / 2]
        best = max(fit, key=lambda each: (round(each[2]), each[3]), default=None)
    else:
        best = max(fit, key=lambda each: (each[0].magnetic, each[3] * min(1.0, each[2] / 6.0)), default=None)
    return None if best is None else (best[0], best[1])


def fits_under(thing: Accessory, final_mm: float, *, lead_in: bool) -> Lies | None:
    """Return on which side a thing's top comes close under the final face; ``None`` when on none."""
    low = final_mm - LEAD_IN_HIGH_MM if lead_in else final_mm * CLOSE_SHARE
    high = final_mm - (LEAD_IN_LOW_MM if lead_in else SUPPORT_UNDER_MM)
    fit = [each for each in _state([thing]) if low - 1e-9 <= each[2] <= high + 1e-9]
    return max(fit, key=lambda each: (each[3], each[2]), default=(thing, None, 0.0, 0.0))[1]


def lead_ins(layout: Layout, facts: SetUpFacts) -> Layout:
    """Put a lead-in block before and one after the work, where the shop has some that fit; else none."""
    for side in ("left", "right"):
        piece = _outermost(build(layout, facts), side)
        if piece is None:
            return layout
        long_enough = [
            (thing, lies)
            for thing in free(layout, facts, "block")
            if (lies := fits_under(thing, piece.final, lead_in=True)) is not None
            and max(thing.lying(lies)[:2]) >= facts.radius * 2 / QUARTER
        ]
        if not long_enough:
            return layout
        thing, lies = max(long_enough, key=lambda each: min(each[0].lying(each[1])[:2]))
        long, _, _ = thing.lying(lies)
        left, front, right, back = piece.bounds
        x = left - long / 2 - 0.2 if side == "left" else right + long / 2 + 0.2
        layout = layout.with_thing(thing.name, "lead_in", x, (front + back) / 2, lies=lies)
    return layout


def pins_under(layout: Layout, facts: SetUpFacts, key: str, proud_mm: float = 0.0) -> Layout:
    """Rest a piece on two pins, high enough for its face to stand proud; what steel lay under it goes."""
    built = build(layout, facts)
    piece = next((each for each in built.pieces if each.key == key), None)
    if piece is None:
        return layout
    for each in built.under(piece):
        layout = layout.without(each.key)
    need = max(proud_mm - facts.part.final_mm, 0.0)
    found = pin_under(free(layout, facts, "pin"), need)
    if found is None:
        return layout
    pin, lies = found
    left, front, right, back = piece.bounds
    away = max((right - left) / 4, min(pin.lying(lies)[1], (right - left) / 2))
    for sign in (-1, 1):
        if pin.name in {each.name for each in free(layout, facts, "pin")}:
            layout = layout.with_thing(
                pin.name, "under", (left + right) / 2 + sign * away, (front + back) / 2, turn_deg=90.0, lies=lies
            )
    return layout


def shim_under(layout: Layout, facts: SetUpFacts, *keys: str) -> Layout:
    """Put foils under the hollow of some pieces, the thickest first and never more than the gap; where there is none at
    all the magnet goes low."""
    built, made = build(layout, facts), layout
    pieces = [each for each in built.pieces if each.key in keys]
    for piece in pieces:
        there = sum(each.top for each in built.under(piece) if each.role == "shim")
        for foil in foils_for(free(made, facts, "foil"), facts.part.gap_mm - there):
            made = made.with_thing(foil.name, "shim", *piece.middle)
    return replace(layout, magnet="low") if pieces and made == layout else made
