"""A surface of the part, as the print, the log and the plan know it: by its number."""

from collections.abc import Iterable
from dataclasses import dataclass
from decimal import ROUND_DOWN, Decimal

from zesty_lark.core.quantities.units import SMALLEST_MM

RADIUS = "radius"
"""The part of a feature that is swung."""
FACE = "face"
FED = Decimal(-1)
"""What a height loses for each length fed down."""


@dataclass(frozen=True)
class Surface:
    """A surface of the part.

    Attributes
    ----------
    number : int
        1 to 6 for the faces of the block, 7 and up for others.
    size : str
        The size that it bounds, by its characteristic.
    opposite : int
        The surface that size goes to, which it stands on when it is up.
    reference : bool
        It comes first of the two: it is cleaned, and its opposite comes to size.
    square_to : int or None
        The reference it is to be square to, which comes before it.
    kind : str
        What kind of surface it is; a face of the block has none of its own.
    words : str
        What it is called; empty for a face, which goes by its number.
    per_feed : Decimal
        What its size changes by for each length fed at the dial: −1 for a height; a slot or a chamfer grows.
    after : tuple of int
        Surfaces that are ground before it, where the part has them.
    part : str
        Which part of its feature it is: the floor of a slot, its left or right wall, a radius; empty for a whole one.
    """

    number: int
    size: str
    opposite: int
    reference: bool = False
    square_to: int | None = None
    kind: str = FACE
    words: str = ""
    per_feed: Decimal = FED
    after: tuple[int, ...] = ()
    part: str = ""

    @property
    def name(self) -> str:
        """What it is called in a sentence."""
        return self.words or f"face {self.number}"

    @property
    def title(self) -> str:
        """The same at the beginning of one."""
        return self.name[:1].upper() + self.name[1:]

    @property
    def is_height(self) -> bool:
        """Whether its size is its height over what the part stands on, so that the wheel's height tells it."""
        return self.kind == FACE

    @property
    def grows(self) -> bool:
        """Whether its size becomes more as it is ground."""
        return self.per_feed > 0

    def fed(self, size_mm: Decimal, by_mm: Decimal) -> Decimal:
        """Return what a size is after so much was fed [mm]."""
        if self.per_feed == FED:
            return size_mm - by_mm
        return (size_mm + self.per_feed * by_mm).quantize(SMALLEST_MM)

    def to_feed(self, size_mm: Decimal, goal_mm: Decimal) -> Decimal:
        """Return what is to be fed from one size to another [mm]; negative when it is past it."""
        if self.per_feed == FED:
            return size_mm - goal_mm
        return ((goal_mm - size_mm) / self.per_feed).quantize(SMALLEST_MM, ROUND_DOWN)

    def furthest(self, sizes_mm: Iterable[Decimal], default: Decimal = Decimal(0)) -> Decimal:
        """Return the one of several sizes with the most still on [mm]."""
        return (min if self.grows else max)(sizes_mm, default=default)
