"""How each piece is held: the magnet under what really touches it, its fixture, and what blocks it."""

from collections.abc import Mapping
from dataclasses import dataclass

from zesty_lark.core.process.holding import WET_FRICTION, Hold, clamped, hold_check, weight_n
from zesty_lark.core.process.strokes import projected
from zesty_lark.core.setup.solids import TOUCH_MM, Built, Solid, near
from zesty_lark.core.things.shop import Accessory, Fixture

FREE = 1e6
"""A safety beyond anything: it cannot tip."""
STEEL_KG_M3 = 7800.0
NEIGHBOURS_MM = 3.0
"""Pieces of a load no further apart than this hold each other up [mm]."""
FULL_MM = 20.0
"""A block or fixture this thick carries all of the field [mm]."""


@dataclass(frozen=True)
class PieceHold:
    """How a piece is held: what the magnet pulls of it [N], safety against sliding and tipping, the least of them, what
    gives first, on which sides it is blocked, and the share of its foot that touches the magnet."""

    pull_n: float
    slide: float
    tip: float
    safety: float
    weakest: str
    blocked: frozenset[str]
    contact_share: float


def pulls(built: Built) -> float:
    """Return the magnet's pull at its setting [N/cm²]."""
    chuck = built.facts.chuck
    return float(chuck.pull_n_cm2) * (float(chuck.low_share) if built.layout.magnet == "low" else 1.0)


def lies_bowed(built: Built, piece: Solid) -> float:
    """Return the gap that is left under a piece: its bow less what shims it [mm]."""
    shim = sum(each.top for each in built.under(piece) if each.role == "shim")
    return max(0.0, built.facts.part.gap_mm - shim)


def _touches(built: Built, piece: Solid) -> float:
    """The area that carries the field into a piece [mm²]: on the chuck itself, or through what lies under it."""
    under = [each for each in built.under(piece) if each.role == "under"]
    if not under:
        return float(piece.shape.intersection(built.plate).area)
    carry = [
        each
        for each in under
        if isinstance(each.thing, Accessory)
        and each.thing.magnetic
        and each.thing.kind != "pin"
        and each.top == piece.bottom
    ]
    return sum(float(piece.shape.intersection(each.shape).intersection(built.plate).area) for each in carry)


def magnet_under(built: Built, piece: Solid) -> tuple[Hold, float] | None:
    """Return what the magnet alone does for a piece, and the share of its foot that touches; ``None`` without a
    plan."""
    facts, part = built.facts, built.facts.part
    if facts.cut is None:
        return None
    area = _touches(built, piece)
    along, across = projected(part.along_mm, part.across_mm, piece.turn_deg)
    hold = hold_check(
        contact_mm2=area,
        length_along_mm=along,
        height_mm=max(piece.final - part.final_mm + part.held_as_mm, 0.1),
        thickness_mm=part.held_as_mm,
        span_across_poles_mm=min(part.along_mm, part.across_mm),
        tangential_n=max(facts.cut.tangential_n, 1e-6),
        normal_n=facts.cut.normal_n,
        weight_n=part.weight_n,
        pull_n_cm2=pulls(built),
        gap_mm=lies_bowed(built, piece),
        material_factor=part.material_factor,
        surface_factor=part.surface_factor,
        width_across_mm=across,
    )
    return hold, area / (part.along_mm * part.across_mm)


def hold_of(built: Built, piece: Solid, sides: Mapping[str, frozenset[str]] | None = None) -> PieceHold | None:
    """Return how a piece is held; ``None`` while no plan says what pushes it. ``sides`` are where each is blocked."""
    facts = built.facts
    found = magnet_under(built, piece)
    if found is None or facts.cut is None:
        return None
    hold, share = found
    blocked = (blocked_sides(built) if sides is None else sides)[piece.key]
    fixture = built.fixture_of(piece)
    if fixture is not None and isinstance(fixture.thing, Fixture):
        return _in_fixture(built, piece, fixture, blocked)
    stood_up = {"push", "behind"} <= blocked and piece.key in supported(built)
    tips = FREE if stood_up else min(hold.tip_safety, hold.tip_safety_across or FREE)
    safety = min(hold.slide_safety, tips)
    weakest = "it slides" if hold.slide_safety <= tips else "it tips"
    return PieceHold(hold.pull_n, hold.slide_safety, tips, safety, weakest, blocked, share)


def _in_fixture(built: Built, piece: Solid, fixture: Solid, blocked: frozenset[str]) -> PieceHold:
    """The weakest of the part in its clamps and the fixture on the magnet."""
    facts, thing = built.facts, fixture.thing
    assert facts.cut is not None and isinstance(thing, Fixture)
    foot = thing.stood(on_end=fixture.lies == "end")[:2]
    length, width = projected(*foot, fixture.turn_deg)
    force = max(facts.cut.tangential_n, 1e-6)
    on_magnet = hold_check(
        contact_mm2=float(fixture.shape.intersection(built.plate).area),
        length_along_mm=length,
        height_mm=max(piece.final - facts.part.final_mm + facts.part.held_as_mm, 0.1),
        thickness_mm=FULL_MM,
        span_across_poles_mm=min(foot),
        tangential_n=force,
        normal_n=facts.cut.normal_n,
        weight_n=facts.part.weight_n,
        pull_n_cm2=pulls(built),
        width_across_mm=width,
    )
    grip = clamped(thing.clamps, float(thing.clamp_n), force, WET_FRICTION)
    tips = min(on_magnet.tip_safety, on_magnet.tip_safety_across or FREE)
    least = min(on_magnet.slide_safety, tips)
    weakest = "the part slips in its clamps" if grip < least else f"{fixture.name} lets go of the magnet"
    return PieceHold(on_magnet.pull_n, on_magnet.slide_safety, tips, min(grip, least), weakest, blocked, 1.0)


def supported(built: Built) -> set[str]:
    """The pieces that have a support on the side the wheel pushes to and one behind."""
    found = set()
    for piece in built.pieces:
        sides = {side_of(built, piece, each) for each in built.of_role("support") if near(each, piece, TOUCH_MM)}
        if {"push", "behind"} <= sides:
            found.add(piece.key)
    return found


def blocked_sides(built: Built) -> dict[str, frozenset[str]]:
    """Return on which sides each piece is blocked: ``push`` to which the wheel pushes, ``behind``, ``front``, ``away``.

    A neighbour counts that is blocked there itself.
    """
    sides = {piece.key: _by_things(built, piece) for piece in built.pieces}
    beside = [
        (one.key, other.key, side_of(built, one, other))
        for one in built.pieces
        for other in built.pieces
        if one.key != other.key and near(one, other, NEIGHBOURS_MM)
    ]
    passed_on = True
    while passed_on:
        passed_on = False
        for one, other, side in beside:
            if side in sides[other] and side not in sides[one]:
                sides[one] |= {side}
                passed_on = True
    return {key: frozenset(found) for key, found in sides.items()}


def _by_things(built: Built, piece: Solid) -> set[str]:
    """The sides on which something stands against a piece, or the fence."""
    sides = {
        side_of(built, piece, each)
        for each in built.of_role("backing", "support", "fixture")
        if near(each, piece, TOUCH_MM) and each.top > piece.bottom
    }
    return sides | {"behind"} if facing_fence(built, piece) else sides


def facing_fence(built: Built, piece: Solid) -> bool:
    """Whether a piece stands against the chuck's fence."""
    return built.facts.chuck.fence_mm is not None and abs(piece.bounds[3] - built.facts.width) <= TOUCH_MM


def side_of(built: Built, piece: Solid, other: Solid) -> str:
    """Return which side of a piece something stands on, by where it clears it most."""
    left, front, right, back = piece.bounds
    its_left, its_front, its_right, its_back = other.bounds
    gaps = {"left": left - its_right, "right": its_left - right, "front": front - its_back, "behind": its_front - back}
    side = max(gaps, key=lambda each: gaps[each])
    if side in ("left", "right"):
        return "push" if side == built.facts.pushed_to else "away"
    return side


def block_weight_n(block: Solid) -> float:
    """Return what a solid steel block weighs [N]."""
    return weight_n(float(block.shape.area) * (block.top - block.bottom), STEEL_KG_M3)


def own_pull_n(built: Built, block: Solid) -> float:
    """Return what the magnet pulls of a block by itself [N]."""
    thing = block.thing
    if not isinstance(thing, Accessory) or not thing.magnetic:
        return 0.0
    left, front, right, back = block.bounds
    return hold_check(
        contact_mm2=float(block.shape.intersection(built.plate).area),
        length_along_mm=1.0,
        height_mm=1.0,
        thickness_mm=max(block.top - block.bottom, 0.01),
        span_across_poles_mm=max(min(right - left, back - front), 0.01),
        tangential_n=1.0,
        pull_n_cm2=pulls(built),
    ).pull_n
