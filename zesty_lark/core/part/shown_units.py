"""The units that sizes and readings are shown in, for sentences."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal

from zesty_lark.core.part.faces import ALL_FACES
from zesty_lark.core.part.prints import ZONES, CharacteristicKind
from zesty_lark.core.quantities.angles import dms_text
from zesty_lark.core.quantities.units import (
    SPEED_UNIT,
    UM_A_MICROINCH,
    UM_A_MM,
    Unit,
    crossfeed_number,
    crossfeed_text,
    dial_text,
    fine_text,
    known_text,
    other_unit,
    size_text,
    small_text,
    speed_number,
    speed_text,
    step_text,
)


@dataclass(frozen=True)
class ShownUnits:
    """The units a story is told in: the print's for sizes and form, the dial's with its graduation [mm] for the
    machine."""

    print_unit: Unit
    dial_unit: Unit
    graduation_mm: Decimal
    names: Mapping[int, str] = field(default_factory=dict)
    """What the surfaces are called that are no faces."""
    kinds: Mapping[str, CharacteristicKind] = field(default_factory=dict)
    """Of which kind each characteristic of the print is."""

    def named(self, surface: int) -> str:
        """Return what a surface is called in a sentence."""
        return self.names.get(surface) or f"face {surface}"

    def titled(self, surface: int) -> str:
        """Return what a surface is called at the beginning of one."""
        name = self.named(surface)
        return name[:1].upper() + name[1:]

    def held(self, setup: str) -> str:
        """Return what a set-up has up."""
        return set_up_words([int(part) for part in setup.split("+") if part.isdigit()], self.named) or setup

    def value(self, characteristic: str, value: Decimal) -> str:
        """Write a value of a characteristic: a form in micrometres, an angle in degrees, all else as a size."""
        kind = self.kinds.get(characteristic, "size")
        if kind in ZONES:
            return self.fine(float(value) * UM_A_MM)
        return dms_text(float(value)) if kind == "angle" else self.size(value)

    def size(self, mm: Decimal) -> str:
        """Write a size for the print."""
        return size_text(mm, self.print_unit, with_unit=True)

    def size_number(self, mm: Decimal) -> str:
        """Write a size for the print without its unit."""
        return size_text(mm, self.print_unit, with_unit=False)

    def small(self, mm: Decimal) -> str:
        """Write a small amount in the dial's unit."""
        return small_text(mm, self.dial_unit)

    def collar(self, mm: Decimal) -> str:
        """Write a collar reading."""
        return step_text(mm, self.dial_unit, self.graduation_mm)

    @property
    def dial_word(self) -> str:
        """What the dial is read in."""
        return "thou" if self.dial_unit == "in" else "mm"

    @property
    def switched(self) -> "ShownUnits":
        """The other system for everything."""
        return replace(self, print_unit=other_unit(self.print_unit), dial_unit=other_unit(self.dial_unit))

    def across(self, mm: Decimal | float) -> str:
        """Write a crossfeed."""
        return crossfeed_text(Decimal(str(mm)), self.dial_unit)

    def table(self, mm_s: Decimal | float) -> str:
        """Write a table speed."""
        return speed_text(Decimal(str(mm_s)), self.dial_unit)

    def across_number(self, mm: Decimal | float) -> str:
        """Write a crossfeed without its unit."""
        return crossfeed_number(Decimal(str(mm)), self.dial_unit)

    def table_number(self, mm_s: Decimal | float) -> str:
        """Write a table speed without its unit."""
        return speed_number(Decimal(str(mm_s)), self.dial_unit)

    @property
    def table_unit(self) -> str:
        """What a table speed is told in."""
        return SPEED_UNIT[self.dial_unit]

    def fine(self, um: float) -> str:
        """Write micrometres of form or roughness, as the print has them."""
        return fine_text(float(um), self.print_unit)

    def fine_known(self, um: float, unsure: float) -> str:
        """Write micrometres of a figure that may be off by a share of itself, with as many digits as that bears."""
        if self.print_unit == "mm":
            return f"{known_text(um, unsure, places=2)} µm"
        return f"{known_text(um / UM_A_MICROINCH, unsure, places=1)} µin"

    def collar_number(self, mm: Decimal) -> str:
        """Write a collar reading without its unit."""
        return dial_text(mm, self.dial_unit, self.graduation_mm)


def set_up_words(up: Sequence[int], named: Callable[[int], str]) -> str:
    """Say what a set-up has up: “face 3 and 4”, “slot, left wall”."""
    if up and all(each in ALL_FACES for each in up):
        return "face " + " and ".join(str(each) for each in up)
    return " and ".join(named(each) for each in up)
