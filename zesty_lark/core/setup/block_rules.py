"""Rules of the blocks, parallels and clamps in a set-up."""

from collections.abc import Iterator

from zesty_lark.core.process.holding import STOP_SAFETY, hold_check
from zesty_lark.core.setup.found import Pinned, Rule, said
from zesty_lark.core.setup.hold import block_weight_n, own_pull_n
from zesty_lark.core.setup.solids import TOUCH_MM, Built, Solid
from zesty_lark.core.things.shop import Fixture

NEAR_MM = 3.0
"""A lead-in block nearly touches the work up to here [mm]."""
CLOSE_UNDER_MM = 8.0
"""How far under the face a support may end and still be close under it [mm]."""
NEAR_MM = 3.0
"""A lead-in block nearly touches the work up to here [mm]."""
CLOSE_UNDER_MM = 8.0
"""How far under the face a support may end and still be close under it [mm]."""


def _blocks_at_work(built: Built) -> Iterator[Pinned]:
    """Blocks touch what they are for, hold in their own right, and end close under the face."""
    for each in built.of_role("backing", "support"):
        nearest = min(built.solids, key=lambda other: _apart_from(each, other))
        if _apart_from(each, nearest) > TOUCH_MM:
            yield said(
                "block does not touch", each.key, "caution",
                f"{each.name} stands {_apart_from(each, nearest):.1f} mm away: the part would move before it meets it.",
                "push it against the part", each.key, fix="against the part", number=_apart_from(each, nearest),
            )  # fmt: skip
        piece = _nearest_piece(built, each)
        if each.role == "support" and piece is not None and 0 < piece.final - each.top and each.top < _close(piece):
            yield said(
                "support ends too low", each.key, "caution",
                f"{each.name} ends {piece.final - each.top:.1f} mm under the face: hold what stands up close under it.",
                "a higher block, or stand it on its edge or end", each.key, fix="just under the face",
                number=piece.final - each.top,
            )  # fmt: skip
    for each in built.of_role("lead_in"):
        yield from _lead_in(built, each)


def _close(piece: Solid) -> float:
    """A support reaches at least this high: close under the face, or two thirds of what stands up."""
    return min(piece.final - CLOSE_UNDER_MM, piece.bottom + (piece.final - piece.bottom) * 2 / 3)


def _apart_from(one: Solid, other: Solid) -> float:
    return float("inf") if one.key == other.key or other.role in ("clamp", "shim", "lead_in") else one.distance(other)


def _nearest_piece(built: Built, block: Solid) -> Solid | None:
    return min(built.pieces, key=block.distance, default=None)


def near_mm(built: Built, block: Solid) -> float:
    """Return how far along the travel a block is from the nearest piece [mm]."""
    left, _, right, _ = block.bounds
    return min((max(piece.bounds[0] - right, left - piece.bounds[2], 0.0) for piece in built.pieces), default=0.0)


def _lead_in(built: Built, block: Solid) -> Iterator[Pinned]:
    away = near_mm(built, block)
    if away > NEAR_MM:
        yield said(
            "lead-in block too far", block.key, "caution",
            f"{block.name} is {away:.1f} mm from the part: the coolant drops off the wheel before it.",
            "push it to the part, touching or nearly", block.key, fix="against the part", number=away,
        )  # fmt: skip
    cut = built.facts.cut
    if cut is None:
        return
    left, front, right, back = block.bounds
    held = hold_check(
        contact_mm2=float(block.shape.intersection(built.plate).area), length_along_mm=right - left,
        height_mm=max(block.top, 0.1), thickness_mm=max(block.top, 0.1),
        span_across_poles_mm=min(right - left, back - front), tangential_n=max(cut.tangential_n, 1e-6),
        normal_n=cut.normal_n, weight_n=block_weight_n(block), pull_n_cm2=float(built.facts.chuck.pull_n_cm2),
        material_factor=0.8 if getattr(block.thing, "magnetic", False) else 0.0,
    )  # fmt: skip
    least = min(held.slide_safety, held.tip_safety)
    if least < STOP_SAFETY:
        yield said(
            "lead-in block not held", block.key, "stop",
            f"{block.name} alone has a safety of {least:.1f}, under {STOP_SAFETY:g}.",
            "a larger block, lying on its largest side", block.key, fix="lay it flat", number=least,
        )  # fmt: skip


def _parallels(built: Built) -> Iterator[Pinned]:
    """Where a fixture locates the part, steel under it draws it off the fixture."""
    for piece in built.pieces:
        fixture = built.fixture_of(piece)
        if fixture is None or not _is_beside(fixture) or not built.facts.part.carbon_steel:
            continue
        under = [each for each in built.under(piece) if each.role == "under"]
        bare = not under and piece.bottom == 0.0
        steel = [
            each
            for each in under
            if getattr(each.thing, "magnetic", False) and getattr(each.thing, "kind", "") != "pin"
        ]
        if bare or steel:
            yield said(
                "steel that touches the magnet", piece.key, "caution",
                f"{piece.name.capitalize()} becomes part of the magnet: it is drawn down, off {fixture.name}.",
                "rest it on pins or brass", piece.key, *[each.key for each in steel], fix="pins under the part",
            )  # fmt: skip


def _is_beside(fixture: Solid) -> bool:
    return isinstance(fixture.thing, Fixture) and fixture.thing.is_beside


def _clamp_levers(built: Built) -> Iterator[Pinned]:
    """A clamp hangs on something."""
    for each in built.of_role("clamp"):
        if not any(other.shape.intersects(each.shape) for other in built.things if other.role != "clamp"):
            yield said(
                "clamp holds nothing", each.key, "caution", f"{each.name} sits on no block and no fixture.",
                "put it on its block, or take it off", each.key, fix="take it off",
            )  # fmt: skip


def clamp_moments(built: Built, clamp: Solid) -> tuple[float, float, float] | None:
    """Return how far a clamp hangs out beyond its block [mm], and the block's and the clamp side's moment about that
    edge [N·mm]; ``None`` when it sits on no block."""
    on = [
        thing for thing in built.things if thing.role in ("backing", "support") and thing.shape.intersects(clamp.shape)
    ]
    if not on:
        return None
    block = max(on, key=lambda each: float(each.shape.intersection(clamp.shape).area))
    left, front, right, back = block.bounds
    its_left, its_front, its_right, its_back = clamp.bounds
    out = {"x": max(left - its_left, its_right - right, 0.0), "y": max(front - its_front, its_back - back, 0.0)}
    overhang = max(out.values())
    half = (right - left) / 2 if out["x"] >= out["y"] else (back - front) / 2
    force = built.facts.cut.tangential_n if built.facts.cut else 0.0
    return overhang, (own_pull_n(built, block) + block_weight_n(block)) * half, force * overhang


BLOCK_RULES: tuple[Rule, ...] = (_blocks_at_work, _parallels, _clamp_levers)
