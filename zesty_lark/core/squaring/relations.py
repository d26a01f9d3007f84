"""The relations on the print, each with its error chain from the shop's own records, before a wheel is touched."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Literal

from zesty_lark.core.measure.chain import Chain, Link, chain
from zesty_lark.core.part.surfaces import KINDS, kind_of, lying_of
from zesty_lark.core.part.surfaces.kind import RelationKind
from zesty_lark.core.part.surfaces.part import Block
from zesty_lark.core.quantities.units import micrometres
from zesty_lark.core.squaring.corner import corner_of
from zesty_lark.core.squaring.order import RouteStep
from zesty_lark.core.squaring.shop_facts import ShopFacts, holder_of
from zesty_lark.core.things.shop import Fixture

SEATING_UM = 0.5
"""Grit and burrs left after stoning, wiping and feeling; an own estimate [µm]."""
UNMAPPED_UM = 8.0
"""A chuck nobody has mapped is taken to be this far out under a part; an own estimate [µm]."""
UNCHECKED_UM, UNCHECKED_OVER_MM = 10.0, 100.0
"""A fixture nobody has checked is taken to be this far out of square over this length; an own estimate [µm], [mm]."""


@dataclass(frozen=True)
class Relation:
    """A relation of the print: what it is, what is allowed [µm], where it is made and how far out it may come.

    ``state``: ``sure`` when even the worst is within, ``likely`` when the likely error is, ``unlikely`` when not; ``not
    made`` when no set-up makes it, ``free`` when the print does not ask for it.
    """

    name: str
    kind: RelationKind
    face: int
    to: int
    allowed_um: float | None
    over_mm: float
    step: int | None
    chain: Chain
    state: Literal["sure", "likely", "unlikely", "not made", "free"]
    remedy: str


def relations(
    block: Block, method: str, steps: Sequence[RouteStep], shop: ShopFacts, *, done: Sequence[int] = ()
) -> list[Relation]:
    """Work out every relation that the part's surfaces are made to."""
    wanted = [relates for of in KINDS.values() for relates in of.relations(block, done)]
    return [_relation(block, method, kind, face, to=to, steps=steps, shop=shop, done=done) for kind, face, to in wanted]


def _relation(
    block: Block,
    method: str,
    kind: RelationKind,
    face: int,
    *,
    to: int,
    steps: Sequence[RouteStep],
    shop: ShopFacts,
    done: Sequence[int],
) -> Relation:
    step = _made_in(steps, face, to, {*done, *block.as_it_is})
    lying = lying_of(block, face)
    over = (
        float(kind_of(block, to).size_of(block, to).target_mm)
        if kind == "square"
        else max(lying.along_mm, lying.across_mm)
    )
    allowed = {"parallel": block.parallel_um, "square": block.square_um, "flat": block.flat_um}[kind]
    fixture = None
    if step is not None and kind != "flat":
        fixture = holder_of(block, step, shop, method) if kind == "parallel" else shop.fixture(step, method)
    links = (
        [
            *_square_links(block, face, shop, method, fixture=fixture),
            *_clamped_again(block, step, (to, face), shop=shop, fixture=fixture),
        ]
        if kind == "square"
        else _parallel_links(block, face, to, shop, fixture=fixture)
        if kind == "parallel"
        else [*_own_links(face, shop), Link("measuring", shop.measuring_um, "length")]
    )
    made = chain(need_over_mm=over, links=links)
    state: Literal["sure", "likely", "unlikely", "not made", "free"] = (
        "not made"
        if step is None and face not in done
        else "free"
        if allowed is None
        else "sure"
        if made.worst_um <= allowed
        else "likely"
        if made.likely_um <= allowed
        else "unlikely"
    )
    name = f"{face} flat" if kind == "flat" else f"{face} {'∥' if kind == 'parallel' else '⊥'} {to}"
    return Relation(
        name,
        kind,
        face,
        to,
        allowed,
        over,
        step.number if step else None,
        made,
        state,
        _remedy(block, made, shop, method, fixture=fixture, face=face, over=over),
    )


def _made_in(steps: Sequence[RouteStep], face: int, to: int, done: Collection[int]) -> RouteStep | None:
    """The set-up that makes a relation: the one that grinds the face when the other is there already."""
    ground = set(done)
    for step in steps:
        if step.skip:
            continue
        if face in step.step.up:
            return step if to in ground | set(step.step.up) and not step.stops else None
        ground |= set(step.step.up)
    return None


def _chuck(shop: ShopFacts, length_mm: float, width_mm: float, under: str = "") -> Link:
    """The chuck's link: no angle, but the range of its map under what stands on it, at the worst place."""
    here = shop.under(length_mm, width_mm)
    name = f"{shop.chuck.name}’s map{under}" if here is not None else f"{shop.chuck.name}, not mapped{under}"
    return Link(name, UNMAPPED_UM if here is None else here.worst_um, "length")


def _own_links(face: int, shop: ShopFacts) -> list[Link]:
    """What heat and the magnet do to a face, expected one way; nothing more is expected of one whose flatness was
    measured."""
    if face in shop.flat_measured_um:
        return [Link("measured flatness", shop.flat_measured_um[face], "expected")]
    return [
        Link("heat: hollow", shop.hollow_um.get(face, 0.0), "expected"),
        Link("magnet: springs back", shop.springs_back_um.get(face, 0.0), "expected"),
    ]


def _clamped_again(
    block: Block, step: RouteStep | None, faces: tuple[int, int], *, shop: ShopFacts, fixture: Fixture | None
) -> list[Link]:
    """What the second of two faces adds where they cannot be had in one clamping: the fixture and its seating once
    more."""
    if step is None or tuple(step.step.up) != faces:
        return []
    corner = corner_of(block, step.step.up, fixture, shop.small("clamp"))
    if corner is not None and not corner.lacks:
        return []
    if fixture is None:
        return [
            Link("clamped again", UNCHECKED_UM, "angle", UNCHECKED_OVER_MM),
            Link("seated again", SEATING_UM, "length"),
        ]
    return [
        Link(f"{fixture.name}, clamped again", micrometres(fixture.square_mm), "angle", float(fixture.over_mm)),
        Link("seated again", micrometres(fixture.seating_mm), "length"),
    ]


def _parallel_links(block: Block, face: int, to: int, shop: ShopFacts, *, fixture: Fixture | None) -> list[Link]:
    """On the magnet the chuck under the part; in a fixture what that is out of square, and the chuck under it."""
    lying = lying_of(block, face)
    if fixture is not None:
        return [
            Link(fixture.name, micrometres(fixture.square_mm), "angle", float(fixture.over_mm)),
            _chuck(shop, *fixture.base, under=" under the fixture"),
            Link("seating", micrometres(fixture.seating_mm), "length"),
            *_own_links(face, shop),
            Link("measuring", shop.measuring_um, "length"),
        ]
    under = (
        [Link(f"face {to}’s measured flatness", shop.flat_measured_um[to], "length")]
        if to in shop.flat_measured_um
        else []
    )
    return [
        _chuck(shop, lying.along_mm, lying.across_mm),
        *under,
        Link("seating", SEATING_UM, "length"),
        *_own_links(face, shop),
        Link("measuring", shop.measuring_um, "length"),
    ]


def _square_links(block: Block, face: int, shop: ShopFacts, method: str, *, fixture: Fixture | None) -> list[Link]:
    links = [
        Link("seating", micrometres(fixture.seating_mm) if fixture else SEATING_UM, "length"),
        *_own_links(face, shop),
        Link("measuring", shop.measuring_square_um, "length"),
    ]
    if method == "shim" and fixture is None:
        return [Link("measured before, and the shim", shop.measuring_square_um, "length"), *links]
    if fixture is None:
        return [Link("fixture, not checked", UNCHECKED_UM, "angle", UNCHECKED_OVER_MM), *links]
    under = _chuck(shop, *fixture.base, under=" under the fixture")
    return [Link(fixture.name, micrometres(fixture.square_mm), "angle", float(fixture.over_mm)), under, *links]


def _remedy(
    block: Block, whole: Chain, shop: ShopFacts, method: str, *, fixture: Fixture | None, face: int, over: float
) -> str:
    """What would make the biggest link smaller."""
    biggest = whole.biggest
    if ", not mapped" in biggest:
        return f"Map {shop.chuck.name}: until then {UNMAPPED_UM:g} µm are taken."
    if biggest.startswith(f"{shop.chuck.name}’s map"):
        return _better_place(block, shop, fixture, face)
    if fixture is not None and biggest == fixture.name or biggest == "fixture, not checked":
        return _truer(block, shop, method, fixture, face=face, over=over, whole=whole)
    return {
        "seating": "Stone, wipe and feel again, and see that it reads the same when it is put down twice.",
        "heat: hollow": "Turn the part, more coolant, smaller cuts, or wait before the last passes.",
        "magnet: springs back": "Shim under the hollow, or magnet low and the ends blocked.",
    }.get(biggest, "A better gauge, or compare with a stack of blocks; more readings.")


def _better_place(block: Block, shop: ShopFacts, fixture: Fixture | None, face: int) -> str:
    lying = lying_of(block, face)
    here = shop.under(*(fixture.base if fixture else (lying.along_mm, lying.across_mm)))
    if here is None:
        return f"Map {shop.chuck.name}."
    x, y = here.best_at_mm
    return (
        f"At the best place on {shop.chuck.name}, its middle {x:.0f} mm from the left and {y:.0f} from the front, "
        f"it is {here.best_um:.2f} µm instead of {here.worst_um:.2f}; or grind the chuck."
    )


def _truer(
    block: Block, shop: ShopFacts, method: str, fixture: Fixture | None, *, face: int, over: float, whole: Chain
) -> str:
    others = [each for each in shop.for_faces if fixture is None or each.out_of_square < fixture.out_of_square]
    if others:
        best = min(others, key=lambda each: each.out_of_square)
        better = chain(need_over_mm=over, links=_square_links(block, face, shop, method, fixture=best))
        return f"With {best.name} it would likely be {better.likely_um:.1f} µm instead of {whole.likely_um:.1f}."
    return "Try all four corners on one stand: that gives the fixture’s own error without a square; then shim it out."
