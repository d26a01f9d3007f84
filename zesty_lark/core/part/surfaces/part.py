"""The part as the print wants it: its sizes, how its stock is shared, and how it lies with a surface up."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Literal

from zesty_lark.core.part.faces import Axis, Condition
from zesty_lark.core.part.stock import StockSplit, size_goal
from zesty_lark.core.part.surfaces.features import Feature
from zesty_lark.core.part.surfaces.surface import Surface

BowShape = Literal["middle_up", "ends_up"]
"""Lying hollow side down on its ends, or on its middle with the ends up."""
AXES: tuple[Axis, ...] = ("thickness", "width", "length")


@dataclass(frozen=True)
class PairSize:
    """A size of the print with its tolerance, what was measured, and what is to be left on for later, such as lapping
    [mm]."""

    target_mm: Decimal
    tol_minus_mm: Decimal
    tol_plus_mm: Decimal
    measured_max_mm: Decimal
    measured_min_mm: Decimal
    leave_mm: Decimal = Decimal(0)

    @property
    def goal_mm(self) -> Decimal:
        """The size to aim at: the middle of the zone, and what is to be left on [mm]."""
        goal = size_goal(target_mm=self.target_mm, tol_minus_mm=self.tol_minus_mm, tol_plus_mm=self.tol_plus_mm)
        return goal.goal_mm + self.leave_mm

    @property
    def is_in_as_it_came(self) -> bool:
        """Whether what was measured is within the limits."""
        return (
            self.measured_max_mm <= self.target_mm + self.tol_plus_mm
            and self.measured_min_mm >= self.target_mm - self.tol_minus_mm
        )

    @property
    def tolerance_mm(self) -> Decimal:
        """The zone's width [mm]."""
        return self.tol_minus_mm + self.tol_plus_mm


@dataclass(frozen=True)
class Block:
    """The part's print: sizes, what relations may be out [µm], references of the three pairs, clean-ups by face [mm],
    how the faces came in, and how bowed the part is [mm] and which way, as somebody looked.

    A tolerance that is not on the print is ``None``; so is a bow that nobody asked after. ``as_it_is`` are the faces
    that nobody wants ground. ``others`` are surfaces
    beside the six faces, by number, each of its own kind; the sizes they bound are among ``sizes``. ``features`` are
    the slots, inclined faces, chamfers and edges that some of them belong to.
    """

    sizes: Mapping[str, PairSize]
    cleanup_mm: Mapping[int, Decimal]
    references: tuple[int, int, int]
    parallel_um: float | None = None
    square_um: float | None = None
    flat_um: float | None = None
    conditions: Mapping[int, Condition] = field(default_factory=dict)
    bow_mm: float | None = None
    bow_shape: BowShape = "middle_up"
    as_it_is: frozenset[int] = frozenset()
    others: Mapping[int, Surface] = field(default_factory=dict)
    features: tuple[Feature, ...] = ()


def volume_mm3(block: Block) -> float:
    """Return what a block comes to, as wanted [mm³]."""
    return math.prod(float(block.sizes[axis].target_mm) for axis in AXES)


@dataclass(frozen=True)
class Lying:
    """A face up: its length along and width across the travel, and its height over the chuck [mm]."""

    along_mm: float
    across_mm: float
    height_mm: float


@dataclass(frozen=True)
class Sharing:
    """How a pair's stock is shared: skin for each face [mm]; what the reference takes, as a share of it all or, where a
    hole or slot has to end up in its place, in full [mm]; and in how many turns both sides are taken."""

    skin_mm: Decimal
    first_share: Decimal | None = None
    first_mm: Decimal | None = None
    turns: int = 1


@dataclass(frozen=True)
class PairPlan:
    """The stock of a size: how it is shared, the size it ends at [mm], how far off a hole or slot ends up that was to
    be in its place: too far from the reference, or when negative too near [mm]; and in how many turns both sides are
    taken, an equal part of their stock in each."""

    size: str
    split: StockSplit
    ends_at_mm: Decimal
    position_off_mm: Decimal = Decimal(0)
    turns: int = 1

    @property
    def first_share(self) -> Decimal | None:
        """The reference's share of all the stock, to four places; ``None`` when there is none."""
        total = self.split.total_stock_mm
        return (self.split.first_face_mm / total).quantize(Decimal("0.0001")) if total > 0 else None
