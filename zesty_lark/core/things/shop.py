"""What a shop has, one checked type each: planner, tables, forms and files take theirs from here."""

from collections.abc import Mapping
from dataclasses import fields
from datetime import date
from decimal import Decimal
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator
from pydantic.dataclasses import dataclass as checked

from zesty_lark.core.angles_slots.block_sets import BlockSet
from zesty_lark.core.measure.instruments import Instrument
from zesty_lark.core.measure.sensors import Sensor
from zesty_lark.core.part.sequence import SquarenessMethod
from zesty_lark.core.process.holding import CLAMP_N
from zesty_lark.core.quantities.kept_types import (
    STRICT,
    Amount,
    Contradictions,
    Extent,
    Graduated,
    Length,
    Name,
    Speed,
    Step,
    UnitName,
    refuse,
)
from zesty_lark.core.quantities.numbers import FINEST_CROSSFEED_MM, InputError
from zesty_lark.core.quantities.units import LengthError, parse_length
from zesty_lark.core.trouble.chatter import sources_of
from zesty_lark.core.wheel.flanges import Flange

MachineCoolant = Literal["dry", "mist", "water", "oil"]
FixtureForm = Literal[
    "angle_plate", "square_block", "vee_block", "vise", "sine_plate", "small_part_cube", "spin_fixture"
]
FIXTURE_FORMS: dict[str, str] = {
    "angle_plate": "Angle plate",
    "square_block": "Square block",
    "vee_block": "Vee block",
    "vise": "Grinding vise",
    "sine_plate": "Sine plate",
    "small_part_cube": "Small-part cube",
    "spin_fixture": "Spin fixture",
}
FOR_ANGLES = ("sine_plate", "spin_fixture")
BESIDE = ("angle_plate", "square_block")
"""The fixtures that a part is clamped to the front of; in the others it stands inside or on top."""
AccessoryKind = Literal["block", "parallel", "pin", "clamp", "foil"]
ACCESSORY_KINDS: dict[str, str] = {
    "block": "Block",
    "parallel": "Parallel",
    "pin": "Pin or brass strip",
    "clamp": "Clamp",
    "foil": "Shim or foil",
}


MOST_CROSSFEED_STEPS = 60


def crossfeeds_of(text: str) -> tuple[Decimal, ...]:
    """Read the crossfeeds that a machine has in steps, such as ``0.5; 1; 1/16 in`` [mm]; nothing where it has any.

    Raises
    ------
    InputError
        If one is no length over 0, or there are too many.
    """
    found = set()
    for each in filter(None, (part.strip() for part in text.split(";"))):
        try:
            found.add(parse_length(each, "mm"))
        except LengthError as error:
            raise InputError("crossfeeds", f"“{each}” is no crossfeed: write 0.5; 1; 1/16 in.") from error
        if parse_length(each, "mm") < FINEST_CROSSFEED_MM:
            raise InputError("crossfeeds", f"“{each}” is no crossfeed: it has to be {FINEST_CROSSFEED_MM} mm or more.")
    if len(found) > MOST_CROSSFEED_STEPS:
        raise InputError("crossfeeds", f"That is more than {MOST_CROSSFEED_STEPS} crossfeeds.")
    return tuple(sorted(found))


def machine_contradictions(of: Mapping[str, Any]) -> Contradictions:
    """Return what of a machine does not go together, by field, in words."""
    said: Contradictions = {}
    if of["per_rev_mm"] < of["graduation_mm"]:
        said["per_rev_mm"] = "A revolution cannot be less than a graduation."
    elif of["per_rev_mm"] % of["graduation_mm"]:
        said["per_rev_mm"] = "A revolution has to be a whole number of graduations."
    for most, least in (("crossfeed_max_mm", "crossfeed_min_mm"), ("table_max_mm_s", "table_min_mm_s")):
        if of[most] < of[least]:
            said[most] = "The most cannot be under the least."
    if of["downfeed_max_mm"] is not None and of["downfeed_max_mm"] < of["graduation_mm"]:
        said["downfeed_max_mm"] = "It cannot be under a graduation."
    try:
        sources_of(of.get("hums") or "")
    except InputError as error:
        said["hums"] = str(error)
    try:
        steps = crossfeeds_of(of.get("crossfeeds") or "")
    except InputError as error:
        said["crossfeeds"] = str(error)
    else:
        off = [step for step in steps if not of["crossfeed_min_mm"] <= step <= of["crossfeed_max_mm"]]
        if off:
            said["crossfeeds"] = f"{off[0].normalize():f} mm is not between the least crossfeed and the most."
    return said


def wheel_contradictions(of: Mapping[str, Any]) -> Contradictions:
    """Return what of a wheel does not go together, by field, in words."""
    said: Contradictions = {}
    now, new, least = of["diameter_mm"], of.get("new_diameter_mm"), of.get("least_diameter_mm")
    if of["bore_mm"] >= now:
        said["bore_mm"] = "The bore has to be smaller than the wheel."
    if new is not None and new < now:
        said["new_diameter_mm"] = "It cannot have been smaller when it was new."
    if least is not None and not of["bore_mm"] < least < (now if new is None else new):
        said["least_diameter_mm"] = "It has to be between the bore and what it was when new."
    return said


@checked(frozen=True, config=STRICT)
class Machine:
    """A surface grinder: dial, ranges [mm] [mm/s] [s], room [mm], spindle [W] [rpm], how it steps across, its coolant,
    η of one wipe, its largest downfeed a pass where the shop has set one [mm], what turns or hums on it, as
    ``pump 24.5; motor 49`` [Hz], the graduation of its cross slide's handwheel, where it is finer than the step across
    [mm], and the crossfeeds it has where it has only some, as ``0.5; 1; 2.5`` [mm]."""

    name: Name
    dial_unit: UnitName
    graduation_mm: Graduated
    per_rev_mm: Extent
    backlash_mm: Amount
    crossfeed_graduation_mm: Step
    crossfeed_min_mm: Step
    crossfeed_max_mm: Step
    table_min_mm_s: Speed
    table_max_mm_s: Speed
    reversal_s: Annotated[Decimal, Field(ge=0, max_digits=6, decimal_places=3)]
    travel_long_mm: Extent
    travel_cross_mm: Extent
    height_mm: Extent
    spindle_w: Annotated[int, Field(ge=1, le=1_000_000)]
    rpm: Annotated[int, Field(ge=1, le=100_000)]
    wheel_turns: Literal["clockwise", "counter-clockwise"]
    feed_every: Literal["stroke", "pair"]
    coolant: MachineCoolant
    cut_ratio: Annotated[Decimal, Field(gt=0, le=1, max_digits=5, decimal_places=4)]
    downfeed_max_mm: Length | None = None
    hums: Annotated[str, Field(max_length=600)] = ""
    cross_dial_mm: Graduated | None = None
    crossfeeds: Annotated[str, Field(max_length=600)] = ""

    @model_validator(mode="after")
    def _goes_together(self) -> "Machine":
        refuse(self, machine_contradictions)
        return self


@checked(frozen=True, config=STRICT)
class Wheel:
    """A grinding wheel: marking, sizes as it is now [mm], and the speed it is marked with [rpm] [m/s]; its diameter
    when new and where it is worn out [mm], what it cost in the shop's money, its mass with its flange [g], whether its
    maker allows work on its side, and the day up to which he lets it be used, where its bond ages."""

    name: Name
    marking: Annotated[str, Field(max_length=40)]
    grit: Annotated[int, Field(ge=4, le=1200)]
    grade: Annotated[str, Field(pattern="^[A-Z]$")]
    diameter_mm: Extent
    width_mm: Extent
    bore_mm: Extent
    max_rpm: Annotated[int, Field(ge=1, le=100_000)] | None
    max_m_s: Annotated[Decimal, Field(gt=0, max_digits=6, decimal_places=2)] | None = None
    new_diameter_mm: Extent | None = None
    least_diameter_mm: Extent | None = None
    price: Annotated[Decimal, Field(ge=0, max_digits=10, decimal_places=2, allow_inf_nan=False)] | None = None
    mass_g: Annotated[Decimal, Field(gt=0, max_digits=9, decimal_places=1, allow_inf_nan=False)] | None = None
    side_work: bool = False
    use_by: date | None = None

    @model_validator(mode="after")
    def _goes_together(self) -> "Wheel":
        refuse(self, wheel_contradictions)
        return self


@checked(frozen=True, config=STRICT)
class Chuck:
    """A magnetic chuck: length along the travel and width across [mm], its pull [N/cm²], whether a pull test of the
    shop's own has shown that, and the share of it that its lowest setting leaves; its fence: how high it stands [mm]
    (``None`` without one), how far out of parallel to the travel [µm] (``None`` when nobody has swept it), and whether
    it was ground in place."""

    name: Name
    length_mm: Extent
    width_mm: Extent
    pull_n_cm2: Annotated[Decimal, Field(ge=0, max_digits=7, decimal_places=2, allow_inf_nan=False)]
    pull_tested: bool = False
    low_share: Annotated[Decimal, Field(gt=0, le=1, max_digits=4, decimal_places=3)] = Decimal(1)
    fence_mm: Extent | None = None
    fence_out_um: Annotated[Decimal, Field(ge=0, max_digits=7, decimal_places=2, allow_inf_nan=False)] | None = None
    fence_ground: bool = False
    flat_limit_um: Annotated[Decimal, Field(gt=0, le=1000, max_digits=7, decimal_places=2, allow_inf_nan=False)] = (
        Decimal(5)
    )


@checked(frozen=True, config=STRICT)
class Fixture:
    """A fixture: the method it serves and its form, how far out of square over which length, how it seats, its base on
    the magnet, its height, how high over the magnet a part stands in it [mm], and its clamps with what each presses
    with [N]; of a sine plate how far its rolls are apart, and of a compound one its top's too [mm]."""

    name: Name
    kind: SquarenessMethod
    square_mm: Amount
    over_mm: Length
    seating_mm: Amount
    base_length_mm: Extent
    base_width_mm: Extent
    clamps: Annotated[int, Field(ge=1, le=20)] = 2
    clamp_n: Annotated[Decimal, Field(gt=0, max_digits=8, decimal_places=1, allow_inf_nan=False)] = Decimal(
        str(CLAMP_N)
    )
    checked_on: date | None = None
    form: FixtureForm = "angle_plate"
    height_mm: Extent = Decimal(75)
    seat_mm: Amount = Decimal(0)
    centres_mm: Extent | None = None
    top_centres_mm: Extent | None = None

    @property
    def is_for_angles(self) -> bool:
        """Whether it is for inclined faces and radii, not for the faces of a block."""
        return self.form in FOR_ANGLES

    @property
    def is_beside(self) -> bool:
        """Whether the part is clamped to its front and stands beside it, not in or on it."""
        return self.form in BESIDE

    @property
    def base(self) -> tuple[float, float]:
        """Its base on the magnet, along and across [mm]."""
        return float(self.base_length_mm), float(self.base_width_mm)

    def stood(self, *, on_end: bool = False) -> tuple[float, float, float]:
        """Its foot on the magnet, along and across, and how high it is: upright, or on the square end of it [mm]."""
        (length, width), height = self.base, float(self.height_mm)
        return (height, width, length) if on_end else (length, width, height)

    @property
    def out_of_square(self) -> float:
        """How far out of square for each length along it."""
        return float(self.square_mm / self.over_mm)


@checked(frozen=True, config=STRICT)
class Accessory:
    """Something small that a set-up is built with: a block, a parallel, a pin or brass strip, a clamp, a foil; its
    sizes lying on its largest face [mm] (a clamp's length is how far it reaches), how many there are, whether the
    magnet holds it, how far out of square over its height [mm], what a clamp presses with [N]."""

    name: Name
    kind: AccessoryKind
    length_mm: Extent
    width_mm: Extent
    height_mm: Extent
    count: Annotated[int, Field(ge=1, le=200)] = 1
    magnetic: bool = True
    square_mm: Amount = Decimal(0)
    clamp_n: Annotated[Decimal, Field(gt=0, max_digits=8, decimal_places=1, allow_inf_nan=False)] | None = None
    checked_on: date | None = None

    def lying(self, lies: str) -> tuple[float, float, float]:
        """Its length, width and height as it lies: flat, on its edge or on its end [mm]; a clamp and a foil lie one
        way."""
        sizes = (float(self.length_mm), float(self.width_mm), float(self.height_mm))
        if self.kind in ("clamp", "foil"):
            return sizes
        long, mid, low = sorted(sizes, reverse=True)
        return {"flat": (long, mid, low), "edge": (long, low, mid), "end": (mid, low, long)}[lies]


Thing = Machine | Wheel | Flange | Instrument | BlockSet | Chuck | Fixture | Accessory | Sensor


def field_names(kind: type[object]) -> tuple[str, ...]:
    """Return the fields of a kind of thing, as its table and its files name them."""
    return tuple(field.name for field in fields(kind))  # type: ignore[arg-type]
