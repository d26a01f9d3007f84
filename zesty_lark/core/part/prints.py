"""The print: surfaces, and the characteristics that are asked of and between them."""

from dataclasses import dataclass, field
from decimal import Decimal
from typing import Literal

from zesty_lark.core.part.faces import Axis
from zesty_lark.core.part.sizes import Size
from zesty_lark.core.part.surfaces.surface import Surface

CharacteristicKind = Literal["size", "parallel", "square", "flat", "angle", "position", "finish"]
ZONES: tuple[CharacteristicKind, ...] = ("parallel", "square", "flat", "finish")
"""The kinds that only have an upper limit."""
SIZES: tuple[Axis, ...] = ("thickness", "width", "length")
"""The sizes of a block, each between two opposite faces."""
THICKNESS: Axis = "thickness"


@dataclass(frozen=True)
class Characteristic:
    """One thing the print asks for.

    Attributes
    ----------
    name : str
        What it goes by in the log; for the sizes of the block the words themselves.
    kind : CharacteristicKind
    surfaces : tuple of int
        The surface it is about first, then what it relates it to.
    limits : Size
        Nominal and tolerance [mm], of an angle [°]; what only has an upper limit is 0 with its zone above.
    """

    name: str
    kind: CharacteristicKind
    surfaces: tuple[int, ...]
    limits: Size

    @property
    def is_zone(self) -> bool:
        """Whether it only has an upper limit."""
        return self.kind in ZONES

    @property
    def allowed_mm(self) -> Decimal:
        """The upper limit of what only has one [mm]."""
        return self.limits.tol_plus_mm


@dataclass(frozen=True)
class Print:
    """What is wanted: surfaces by number, and characteristics in the print's order."""

    surfaces: dict[int, Surface]
    characteristics: tuple[Characteristic, ...] = field(default=())

    def named(self, name: str) -> Characteristic | None:
        """Return a characteristic by its name; ``None`` when the print does not ask for it."""
        return next((characteristic for characteristic in self.characteristics if characteristic.name == name), None)

    def size_of(self, surface: int) -> Characteristic | None:
        """Return the size that a surface bounds, if the print gives one."""
        return self.named(self.surfaces[surface].size)

    def ends_on(self, surface: int) -> Characteristic | None:
        """Return the size that a surface has to come to; a reference only has to be clean."""
        return None if self.surfaces[surface].reference else self.size_of(surface)

    def about(self, surface: int) -> list[Characteristic]:
        """Return what is asked of a surface or in relation to it."""
        return [characteristic for characteristic in self.characteristics if surface in characteristic.surfaces]
