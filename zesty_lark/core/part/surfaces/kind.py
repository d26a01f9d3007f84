"""What has to be said of a kind of surface, once, for route, plan, machine and measuring to know it."""

from abc import ABC, abstractmethod
from collections.abc import Collection, Mapping
from typing import Literal

from zesty_lark.core.part.faces import Axis
from zesty_lark.core.part.sequence import SquarenessMethod, Step
from zesty_lark.core.part.surfaces.formed import PLAIN, Feeding, Holding
from zesty_lark.core.part.surfaces.part import Block, Lying, PairPlan, PairSize, Sharing
from zesty_lark.core.part.surfaces.surface import Surface

RelationKind = Literal["parallel", "square", "flat"]
Relates = tuple[RelationKind, int, int]
"""A relation of the print: what it is, of which surface, to which."""


class Kind(ABC):
    """A kind of surface; one object says it for all surfaces of the kind."""

    @abstractmethod
    def surfaces(self, block: Block) -> dict[int, Surface]:
        """Return the part's surfaces of this kind: what each bounds, stands on and must be square to."""

    @abstractmethod
    def size_of(self, block: Block, surface: int) -> PairSize:
        """Return the size that a surface comes to."""

    @abstractmethod
    def lying(self, block: Block, surface: int) -> Lying:
        """Return how the part lies with it up: the surface along and across the travel, the part's height [mm]."""

    @abstractmethod
    def stock(self, block: Block, surface: int, sharing: Mapping[Axis, Sharing]) -> PairPlan:
        """Return what there is to take, how it is shared, and the size it ends at."""

    @abstractmethod
    def set_ups(self, block: Block, method: SquarenessMethod) -> list[Step]:
        """Return the set-ups that make the surfaces of this kind, in their order."""

    @abstractmethod
    def why_not(self, block: Block, surface: int, ground: Collection[int]) -> list[str]:
        """Return why it must not come now, after those surfaces were ground; in sentences."""

    @abstractmethod
    def is_in_size(self, block: Block, surface: int) -> bool:
        """Tell whether it is left alone, being in size as it came."""

    def feeding(self, block: Block, surface: int) -> Feeding:
        """Return how it is fed; with the wheel's face, straight down, unless its kind says otherwise."""
        return PLAIN

    def holding(self, block: Block, surface: int) -> Holding | None:
        """Return how the part is held for it, where its kind says; ``None`` leaves that to its set-up."""
        return None

    @abstractmethod
    def relations(self, block: Block, done: Collection[int]) -> list[Relates]:
        """Return the relations that are made with it, beside those of surfaces done already."""
