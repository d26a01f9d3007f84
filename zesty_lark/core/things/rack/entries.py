"""Entries of a wheel's log, a type for each thing that happens to it. Nothing logged is ever changed: a correction
takes back.

Lengths are in mm, unbalances in g·mm, angles in degrees counted the way the wheel turns, times in UTC.
"""

from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from typing import Annotated, Any, ClassVar, Literal

from annotated_types import Ge, Gt, Le, Lt, MaxLen
from pydantic import ConfigDict, TypeAdapter
from pydantic.dataclasses import dataclass as checked

from zesty_lark.core.quantities.numbers import Angle, NonNegative, Positive

STRICT = ConfigDict(extra="forbid")
Shape = Literal["flat", "angle", "relief", "corner", "full", "back", "chamfer"]
Dress = Literal["rough", "general", "fine"]
Weight = tuple[Annotated[float, Ge(0), Lt(360)], Positive]
"""Where a weight or screw sits [°] and its mass [g]."""


@checked(frozen=True, kw_only=True, config=STRICT)
class Said:
    """What only this kind of entry has."""

    kind: ClassVar[str] = ""


@checked(frozen=True, kw_only=True, config=STRICT)
class Checked(Said):
    """A step of mounting was done, and whether it was good."""

    kind: ClassVar[str] = "checked"
    step: Annotated[str, MaxLen(20)]
    good: bool = True


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


@checked(frozen=True, kw_only=True, config=STRICT)
class RackNote(Said):
    """A note."""

    kind: ClassVar[str] = "note"


@checked(frozen=True, kw_only=True, config=STRICT)
class RackUndone(Said):
    """Another entry is taken back, by its id."""

    kind: ClassVar[str] = "undone"
    supersedes: Annotated[str, MaxLen(36)]


RACK_TYPES: dict[str, type[Said]] = {
    each.kind: each
    for each in (
        Checked, TakenDown, BalanceTrial, RackDress, ShapedWheel, WheelPrinted, PutOut, RackNote, RackUndone,
    )
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class RackEntry:
    """One line of a wheel's log: who, when, on which machine, and what.

    ``of_job`` tells that it was logged at the machine, in a job, and is taken back there.
    """

    entry_id: str
    at: datetime
    what: Said
    by: str = ""
    machine: str | None = None
    note: str = ""
    of_job: bool = False
    seq: int = 0


def said_of(what: Said) -> dict[str, Any]:
    """Return what an entry says as plain values, ready for JSON."""
    found: dict[str, Any] = TypeAdapter(type(what)).dump_python(what, mode="json")
    return found


def loaded_entry(kind: str, said: dict[str, Any]) -> Said:
    """Return what an entry says from plain values.

    Raises
    ------
    ValueError
        If it is none.
    """
    if kind not in RACK_TYPES:
        raise ValueError(f"there is no such entry of a wheel: {kind}")
    made: Said = TypeAdapter(RACK_TYPES[kind]).validate_python(said)
    return made
