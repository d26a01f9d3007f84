"""A surface that is no face of the block: what it bounds, how it is fed and held, and what the print asks of it."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from zesty_lark.core.part.surfaces.part import Lying, PairSize
from zesty_lark.core.part.surfaces.surface import Surface

FORMED = "formed"
AskedKind = Literal["size", "angle", "position"]


@dataclass(frozen=True)
class Feeding:
    """How a surface is fed: with which dial; how deep its normal goes for each length fed; whether the whole of it is
    cut in one stroke, with no crossfeed; η of one pass where it is another than the wheel's face has; and how one comes
    to it."""

    dial: Literal["down", "across"] = "down"
    depth_per_feed: Decimal = Decimal(1)
    plunged: bool = False
    cut_ratio: float | None = None
    side_work: bool = False


PLAIN = Feeding()
"""The wheel's face, fed down."""


@dataclass(frozen=True)
class Holding:
    """How a part is held for a surface: the form of its fixture, or empty on the magnet; how it is set, why, in which
    steps, what to look out for, and what of the list before the touch-off it needs."""

    form: str
    why: str
    through: str
    steps: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    checks: tuple[str, ...] = ()


@dataclass(frozen=True)
class Asked:
    """What the print asks of it: name, kind, surfaces, nominal and tolerances [mm], of an angle [°]."""

    name: str
    kind: AskedKind
    surfaces: tuple[int, ...]
    nominal: Decimal
    minus: Decimal
    plus: Decimal


@dataclass(frozen=True)
class Formed:
    """One such surface, whole.

    ``group`` names what is ground in one set-up with it; ``stop`` says why it cannot be ground as it is; ``note`` what
    should be known before it is.
    """

    surface: Surface
    size: PairSize
    goal_mm: Decimal
    lying: Lying
    feeding: Feeding
    holding: Holding
    asked: tuple[Asked, ...]
    group: str
    stop: str = ""
    note: str = ""
    left_alone: bool = False

    @property
    def stock_mm(self) -> Decimal:
        """What is to be fed off it as it came [mm]; never under 0."""
        return max(self.surface.to_feed(self.size.measured_max_mm, self.goal_mm), Decimal(0))


def sized(nominal: Decimal, minus: Decimal, plus: Decimal, now: Decimal) -> PairSize:
    """Return a size as the print has it and as it is [mm]."""
    return PairSize(nominal, minus, plus, now, now)
