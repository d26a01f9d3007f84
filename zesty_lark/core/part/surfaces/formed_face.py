"""The surfaces that features bring: slots, inclined faces, lead-ins, radii, edges; numbered from 7 in their order."""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from functools import lru_cache
from typing import Any

from zesty_lark.core.part.faces import OPPOSITE, Axis
from zesty_lark.core.part.sequence import SquarenessMethod, Step
from zesty_lark.core.part.stock import StockSplit
from zesty_lark.core.part.surfaces.edges import (
    BREAK_ASKS,
    RADIUS_ASKS,
    break_drawn,
    break_surfaces,
    edge_wrong,
    radius_drawn,
    radius_surfaces,
)
from zesty_lark.core.part.surfaces.features import Feature
from zesty_lark.core.part.surfaces.formed import Feeding, Formed, Holding
from zesty_lark.core.part.surfaces.incline import INCLINE_ASKS, incline_drawn, incline_surfaces, incline_wrong
from zesty_lark.core.part.surfaces.kind import Kind, Relates
from zesty_lark.core.part.surfaces.lead_ins import LEAD_INS_ASKS, lead_in_surfaces, lead_ins_drawn, lead_ins_wrong
from zesty_lark.core.part.surfaces.on_block import Drawn, Frame
from zesty_lark.core.part.surfaces.part import AXES, Block, Lying, PairPlan, PairSize, Sharing
from zesty_lark.core.part.surfaces.slot import SLOT_ASKS, slot_drawn, slot_surfaces, slot_wrong
from zesty_lark.core.part.surfaces.surface import Surface

FIRST_NUMBER = 7


@dataclass(frozen=True)
class FeatureKind:
    """A kind of feature: its surfaces, what of one does not go with its block, how it is drawn, and what it asks."""

    surfaces: Callable[[Any, int, Mapping[str, PairSize]], list[Formed]]
    wrong: Callable[[Any, Mapping[str, PairSize]], dict[str, str]]
    drawn: Callable[[Any, Frame], list[Drawn]]
    asks: Mapping[str, str]


KINDS: Mapping[str, FeatureKind] = {
    "slot": FeatureKind(slot_surfaces, slot_wrong, slot_drawn, SLOT_ASKS),
    "incline": FeatureKind(incline_surfaces, incline_wrong, incline_drawn, INCLINE_ASKS),
    "lead_ins": FeatureKind(lead_in_surfaces, lead_ins_wrong, lead_ins_drawn, LEAD_INS_ASKS),
    "radius": FeatureKind(radius_surfaces, edge_wrong, radius_drawn, RADIUS_ASKS),
    "edge": FeatureKind(break_surfaces, edge_wrong, break_drawn, BREAK_ASKS),
}
ON_ROLLS = ("sine_plate", "compound_plate")
"""Fixtures that stand on rolls, a known distance apart."""
HOLDERS = {
    "": "magnet, on its own",
    "sine_plate": "sine plate",
    "compound_plate": "compound sine plate",
    "vee_block": "vee block",
    "spin_fixture": "spin fixture",
}
"""What a set-up's fixture is called, by its form."""


def feature_wrong(feature: Feature, sizes: Mapping[str, PairSize]) -> dict[str, str]:
    """Return what of a feature does not go with its block, by field, in words."""
    return KINDS[feature.kind].wrong(feature, sizes)


def drawn_on_block(feature: Feature, sizes: Mapping[str, float]) -> list[Drawn]:
    """Return a feature's edges on a block of so much length, width and thickness [mm]."""
    return KINDS[feature.kind].drawn(feature, Frame(sizes))


def features_formed(features: tuple[Feature, ...], sizes: Mapping[str, PairSize]) -> list[tuple[Feature, list[Formed]]]:
    """Return each feature with the surfaces that it brings."""
    return _formed(features, tuple(sizes.items())) if features else []


@lru_cache(maxsize=256)
def _formed(
    features: tuple[Feature, ...], sizes: tuple[tuple[str, PairSize], ...]
) -> list[tuple[Feature, list[Formed]]]:
    made, number = [], FIRST_NUMBER
    for feature in features:
        surfaces = KINDS[feature.kind].surfaces(feature, number, dict(sizes))
        made.append((feature, surfaces))
        number += len(surfaces)
    return made


def with_features(block: Block, features: tuple[Feature, ...]) -> Block:
    """Return a block with the surfaces and sizes of its features."""
    formed = [surface for _, surfaces in features_formed(features, block.sizes) for surface in surfaces]
    return replace(
        block,
        features=features,
        others={**block.others, **{each.surface.number: each.surface for each in formed}},
        sizes={**block.sizes, **{each.surface.size: each.size for each in formed}},
    )


def formed_of(block: Block) -> dict[int, Formed]:
    """Return the surfaces of a block's features by their numbers."""
    own: dict[str, PairSize] = {axis: block.sizes[axis] for axis in AXES}
    return {
        surface.surface.number: surface for _, surfaces in features_formed(block.features, own) for surface in surfaces
    }


def formed_stops(block: Block, wheel_name: str, *, side_work: bool) -> dict[str, str]:
    """Return why a set-up is not run as it was taken in, by its key: what nobody decided, a wheel whose side must not
    be used."""
    said: dict[str, str] = {}
    for each in formed_of(block).values():
        if each.stop:
            said.setdefault(each.group, each.stop)
        elif each.feeding.side_work and not side_work and not each.left_alone:
            said.setdefault(
                each.group,
                f"{wheel_name}’s maker does not allow work on its side: mount another, or tilt the part to 45°.",
            )
    return said


class FormedFace(Kind):
    """A surface that a feature brings."""

    def surfaces(self, block: Block) -> dict[int, Surface]:
        """Those of every feature."""
        return {number: each.surface for number, each in formed_of(block).items()}

    def size_of(self, block: Block, surface: int) -> PairSize:
        """What it comes to."""
        return formed_of(block)[surface].size

    def lying(self, block: Block, surface: int) -> Lying:
        """As it lies under the wheel."""
        return formed_of(block)[surface].lying

    def stock(self, block: Block, surface: int, sharing: Mapping[Axis, Sharing]) -> PairPlan:
        """All its own, as it is fed."""
        made = formed_of(block)[surface]
        stock, zero = made.stock_mm, Decimal(0)
        split = StockSplit(stock, zero, stock, stock, True, True, False, "cleans up")
        return PairPlan(made.surface.size, split, made.goal_mm)

    def set_ups(self, block: Block, method: SquarenessMethod) -> list[Step]:
        """Each in its own, the two of a corner in one; after the faces of the block."""
        groups: dict[str, list[Formed]] = {}
        for each in formed_of(block).values():
            groups.setdefault(each.group, []).append(each)
        return [
            Step(
                0,
                [each.surface.number for each in group],
                group[0].surface.opposite,
                HOLDERS[group[0].holding.form],
                group[0].holding.why,
                [name for each in group for name in (asked.name for asked in each.asked)],
                group[0].holding.through,
                list(group[0].holding.cautions),
            )
            for group in groups.values()
        ]

    def why_not(self, block: Block, surface: int, ground: Collection[int]) -> list[str]:
        """What has to be decided first, what it stands on, and what comes before it."""
        made = formed_of(block)[surface]
        said = [made.stop] if made.stop else []
        under = made.surface.opposite
        if under not in ground:
            said.append(f"{made.surface.title} would stand on face {under} before that is ground.")
        missing = [each for each in made.surface.after if each in OPPOSITE and each not in ground]
        if missing:
            words = " and ".join(f"face {each}" for each in missing)
            said.append(f"{made.surface.title} comes after {words}.")
        return said

    def is_in_size(self, block: Block, surface: int) -> bool:
        """Whether nothing is to come off it."""
        return formed_of(block)[surface].left_alone

    def relations(self, block: Block, done: Collection[int]) -> list[Relates]:
        """None of the block's own."""
        return []

    def holding(self, block: Block, surface: int) -> Holding | None:
        """As its feature is held."""
        return formed_of(block)[surface].holding

    def feeding(self, block: Block, surface: int) -> Feeding:
        """As its feature is fed."""
        return formed_of(block)[surface].feeding
