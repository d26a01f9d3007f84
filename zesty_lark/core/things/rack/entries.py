"""Entries of a wheel's log, a type for each thing that happens to it. Nothing logged is ever changed: a correction
takes back.

Lengths are in mm, unbalances in g·mm, angles in degrees counted the way the wheel turns, times in UTC.
"""

from decimal import Decimal
from typing import Annotated, ClassVar, Literal

from annotated_types import Ge, Gt, Le, Lt, MaxLen
from pydantic.dataclasses import dataclass as checked

from zesty_lark.core.quantities.kept_types import STRICT
from zesty_lark.core.quantities.numbers import Angle, NonNegative, Positive
from zesty_lark.core.things.log import Said, ThingNote, ThingUndone

Shape = Literal["flat", "angle", "relief", "corner", "full", "back", "chamfer"]
Dress = Literal["rough", "general", "fine"]
Weight = tuple[Annotated[float, Ge(0), Lt(360)], Positive]
"""Where a weight or screw sits [°] and its mass [g]."""


@checked(frozen=True, kw_only=True, config=STRICT)
class Checked(Said):
    """A step of mounting was done, and whether it was good."""

    kind: ClassVar[str] = "checked"
    step: Annotated[str, MaxLen(20)]
    good: bool = True


@checked(frozen=True, kw_only=True, config=STRICT)
class FoundOn(Said):
    """It was on its machine, mounted and trued, when its record began; the note says by whom and when."""

    kind: ClassVar[str] = "found on"


@checked(frozen=True, kw_only=True, config=STRICT)
class Struck(Said):
    """It struck something in a job: out of use until it was looked at, rung and trued again."""

    kind: ClassVar[str] = "struck"
    job: Annotated[str, MaxLen(40)] = ""


@checked(frozen=True, kw_only=True, config=STRICT)
class TakenDown(Said):
    """The wheel was taken off its machine; it stays on its flange, or leaves it too, and is mounted anew."""

    kind: ClassVar[str] = "taken down"
    from_flange: bool = False


@checked(frozen=True, kw_only=True, config=STRICT)
class BalanceTrial(Said):
    """One trial of balancing: with what in place, what was seen, and what is left by that where it can be told."""

    kind: ClassVar[str] = "balance"
    method: Literal["ways", "runs"]
    weights: Annotated[tuple[Weight, ...], MaxLen(48)] = ()
    hangs: Literal["heavy", "light", "nowhere", ""] = ""
    heavy_deg: Angle | None = None
    amplitude: NonNegative | None = None
    trial_deg: Angle | None = None
    trial_gmm: Positive | None = None
    residual_gmm: NonNegative | None = None


@checked(frozen=True, kw_only=True, config=STRICT)
class RackDress(Said):
    """The wheel was dressed; what came off its radius, and in which job."""

    kind: ClassVar[str] = "dressed"
    dress: Dress
    amount_mm: Annotated[Decimal, Gt(0), Le(5)] | None = None
    passes: Annotated[int, Ge(1), Le(10_000)] | None = None
    job: Annotated[str, MaxLen(40)] = ""


@checked(frozen=True, kw_only=True, config=STRICT)
class ShapedWheel(Said):
    """A shape was put on it: what it needs of angle [°], radius and land [mm], and what came off the radius."""

    kind: ClassVar[str] = "shaped"
    shape: Shape
    angle_deg: Annotated[float, Gt(0), Lt(90)] | None = None
    radius_mm: Positive | None = None
    land_mm: Positive | None = None
    amount_mm: Annotated[Decimal, Gt(0), Le(20)] | None = None


@checked(frozen=True, kw_only=True, config=STRICT)
class WheelPrinted(Said):
    """Its corner was printed into a thin blade, and the fillet read [mm]."""

    kind: ClassVar[str] = "printed"
    radius_mm: Annotated[float, Gt(0), Le(20)]


@checked(frozen=True, kw_only=True, config=STRICT)
class PutOut(Said):
    """It is out of use for good; the note says why."""

    kind: ClassVar[str] = "put out"


WHEEL_ENTRIES: tuple[type[Said], ...] = (
    Checked, FoundOn, Struck, TakenDown, BalanceTrial, RackDress, ShapedWheel, WheelPrinted, PutOut,
    ThingNote, ThingUndone,
)  # fmt: skip
