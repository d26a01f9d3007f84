"""The block as the print wants it, and how it lies when a face is up."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from decimal import Decimal
from typing import Literal

from zesty_lark.core.faces import AXIS, OPPOSITE, Axis, Condition
from zesty_lark.core.stock import StockSplit, size_goal, split

__all__ = ["AXES", "Block", "BowShape", "Lying", "PairPlan", "PairSize", "Sharing", "pair_stock"]

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
    def tolerance_mm(self) -> Decimal:
        """The zone's width [mm]."""
        return self.tol_minus_mm + self.tol_plus_mm


@dataclass(frozen=True)
class Block:
    """The part's print: sizes, what relations may be out [µm], references of the three pairs, clean-ups by face [mm],
    how the faces came in, and how bowed the part is [mm] and which way, as somebody looked.

    A tolerance that is not on the print is ``None``; so is a bow that nobody asked after.
    """

    sizes: Mapping[Axis, PairSize]
    cleanup_mm: Mapping[int, Decimal]
    references: tuple[int, int, int]
    parallel_um: float | None = None
    square_um: float | None = None
    flat_um: float | None = None
    conditions: Mapping[int, Condition] = field(default_factory=dict)
    bow_mm: float | None = None
    bow_shape: BowShape = "middle_up"

    def axis_of(self, face: int) -> Axis:
        """The pair that a face belongs to."""
        return AXIS[face]

    def size_of(self, face: int) -> PairSize:
        """The size that a face bounds."""
        return self.sizes[AXIS[face]]

    def lying(self, face: int) -> "Lying":
        """How the block lies with a face up: the longer side of the face along the travel."""
        up = AXIS[face]
        sides = sorted((float(size.target_mm) for axis, size in self.sizes.items() if axis != up), reverse=True)
        return Lying(sides[0], sides[1], float(self.size_of(face).target_mm))

    def extent(self, face: int, normal_of: int) -> float:
        """How far a face reaches along the normal of another: the length its squareness to it is judged over [mm]."""
        return float(self.size_of(normal_of).target_mm)


@dataclass(frozen=True)
class Lying:
    """A face up: its length along and width across the travel, and its height over the chuck [mm]."""

    along_mm: float
    across_mm: float
    height_mm: float


@dataclass(frozen=True)
class Sharing:
    """How a pair's stock is shared: skin for each face [mm]; and what the reference takes, as a share of it all or,
    where a hole or slot has to end up in its place, in full [mm]."""

    skin_mm: Decimal
    first_share: Decimal | None = None
    first_mm: Decimal | None = None


@dataclass(frozen=True)
class PairPlan:
    """A pair's stock: how it is shared, the size it ends at [mm], and how far off a hole or slot ends up that was to be
    in its place: too far from the reference, or when negative too near [mm]."""

    axis: Axis
    split: StockSplit
    ends_at_mm: Decimal
    position_off_mm: Decimal = Decimal(0)

    @property
    def first_share(self) -> Decimal | None:
        """The reference's share of all the stock, to four places; ``None`` when there is none."""
        total = self.split.total_stock_mm
        return (self.split.first_face_mm / total).quantize(Decimal("0.0001")) if total > 0 else None


def pair_stock(block: Block, axis: Axis, sharing: Sharing) -> PairPlan:
    """Share the stock of a pair of faces, aiming at the middle of the tolerance zone.

    A position is kept as far as both faces' clean-up and skin leave room for it. Where only the tolerance saves the
    clean-up, both faces take their whole need, and the size ends below the goal, still in the zone.
    """
    reference = next(face for face in block.references if AXIS[face] == axis)
    size, goal = block.sizes[axis], block.sizes[axis].goal_mm
    lower, upper = size.target_mm - size.tol_minus_mm, size.target_mm + size.tol_plus_mm
    made = split(
        measured_max_mm=size.measured_max_mm,
        measured_min_mm=size.measured_min_mm,
        target_mm=goal,
        tol_minus_mm=max(goal - lower, Decimal(0)),
        tol_plus_mm=max(upper - goal, Decimal(0)),
        first_cleanup_mm=block.cleanup_mm[reference],
        second_cleanup_mm=block.cleanup_mm[OPPOSITE[reference]],
        min_skin_mm=sharing.skin_mm,
        first_share=sharing.first_share,
    )
    least = block.cleanup_mm[reference] + sharing.skin_mm
    if made.spare_mm < 0 and made.cleans_up_within_tolerance:
        second = block.cleanup_mm[OPPOSITE[reference]] + sharing.skin_mm
        return PairPlan(
            axis, replace(made, first_face_mm=least, second_face_mm=second), size.measured_max_mm - least - second
        )
    if sharing.first_mm is None:
        return PairPlan(axis, made, goal)
    if made.spare_mm >= 0:
        first = min(max(sharing.first_mm, least), least + made.spare_mm)
        made = replace(made, first_face_mm=first, second_face_mm=made.total_stock_mm - first)
    return PairPlan(axis, made, goal, sharing.first_mm - made.first_face_mm)
