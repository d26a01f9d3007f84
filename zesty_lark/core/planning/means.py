"""What a plan is asked with: part, machine, wheel and hold, each as the calculations take it."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Lt, MaxLen

from zesty_lark.core.process.evaluate import Coolant
from zesty_lark.core.process.holding import CLAMP_N
from zesty_lark.core.process.strokes import FeedEvery
from zesty_lark.core.quantities.numbers import (
    Count,
    CrossfeedStep,
    ExactPositive,
    Extent,
    Graduation,
    NonNegative,
    Positive,
    Ratio,
    Rpm,
    Share,
    TableSpeed,
)
from zesty_lark.core.things.shop import MOST_CROSSFEED_STEPS, Machine, Wheel, crossfeeds_of

DressKind = Literal["rough", "general", "fine"]
MethodName = Literal["light", "all_at_once", "peel", "sharp_wide", "auto"]
Margin = Annotated[float, Ge(0), Le(0.7)]
PowerShare = Annotated[float, Gt(0), Le(1)]
Skew = Annotated[float, Ge(-90), Le(90)]

STEEL_KG_M3 = 7800.0


@dataclass(frozen=True)
class PartIn:
    """The part [mm], the temperature it was last tempered at [°C], and its density [kg/m³]; where less than the whole
    of it is ground, such as a slot's wall, the area of the whole that takes up the heat [mm²]."""

    length_mm: Extent
    width_mm: Extent
    height_mm: Extent
    temper_c: Annotated[float, Gt(0), Lt(1000)]
    density_kg_m3: Positive = STEEL_KG_M3
    body_mm2: Positive | None = None


@dataclass(frozen=True)
class MachineIn:
    """The machine: graduations and ranges [mm], table [mm/s], reversal [s], spindle [W], cut ratio of one wipe, whether
    it feeds across at each end of a stroke or at one end of a pair, its largest downfeed a pass [mm], the graduation of
    its cross slide's handwheel [mm], and the crossfeeds it has where it has only some [mm]."""

    downfeed_graduation_mm: Graduation
    crossfeed_graduation_mm: CrossfeedStep
    crossfeed_min_mm: CrossfeedStep
    crossfeed_max_mm: CrossfeedStep
    table_min_mm_s: TableSpeed
    table_max_mm_s: TableSpeed
    reversal_s: NonNegative
    spindle_w: Positive
    cut_ratio: Ratio
    feed_every: FeedEvery = "stroke"
    downfeed_max_mm: ExactPositive | None = None
    cross_dial_mm: Graduation | None = None
    crossfeed_steps_mm: Annotated[tuple[CrossfeedStep, ...], MaxLen(MOST_CROSSFEED_STEPS)] = ()

    def nearest(self, crossfeed_mm: Decimal, table_mm_s: Decimal) -> tuple[Decimal, Decimal]:
        """Return the widest crossfeed the machine has that is no wider than one, else its narrowest, and the table
        speed nearest to one [mm] [mm/s]."""
        step = self.crossfeed_graduation_mm
        has = self.crossfeed_steps_mm or (
            -(-self.crossfeed_min_mm // step) * step,
            max(self.crossfeed_min_mm, min(crossfeed_mm, self.crossfeed_max_mm)) // step * step,
        )
        least, most = (Decimal(repr(speed)) for speed in (self.table_min_mm_s, self.table_max_mm_s))
        return max((each for each in has if each <= crossfeed_mm), default=min(has)), min(max(table_mm_s, least), most)

    @classmethod
    def of(cls, machine: Machine, cut_ratio: float) -> "MachineIn":
        """Return a machine of the shop, with the cut ratio that was learned on it."""
        return cls(
            machine.graduation_mm,
            machine.crossfeed_graduation_mm,
            machine.crossfeed_min_mm,
            machine.crossfeed_max_mm,
            float(machine.table_min_mm_s),
            float(machine.table_max_mm_s),
            float(machine.reversal_s),
            float(machine.spindle_w),
            cut_ratio,
            machine.feed_every,
            machine.downfeed_max_mm,
            machine.cross_dial_mm,
            crossfeeds_of(machine.crossfeeds),
        )


@dataclass(frozen=True)
class WheelIn:
    """The wheel [mm] [rpm], its grit and grade, and the chamfer on its leading edge [mm]."""

    diameter_mm: Extent
    width_mm: Extent
    rpm: Rpm
    grit: Count
    grade: str
    leading_chamfer_mm: NonNegative = 0.0
    may_chamfer: bool = False

    @classmethod
    def of(cls, wheel: Wheel, rpm: int) -> "WheelIn":
        """Return a wheel of the shop at a machine's speed [rpm]; its leading edge may be chamfered."""
        return cls(
            float(wheel.diameter_mm), float(wheel.width_mm), float(rpm), wheel.grit, wheel.grade, may_chamfer=True
        )


@dataclass(frozen=True)
class ChuckIn:
    """The hold: the chuck's pull q0 [N/cm²], what the part's material and lower face let through of it, and the gap
    under it [mm]; or the fixture that stands on the magnet in the part's place: its base [mm], its clamps and what each
    presses with [N], and how high over the chuck the face is in it, the part's own height where that is not known
    [mm]."""

    pull_n_cm2: NonNegative = 80.0
    material_factor: Share = 0.8
    surface_factor: Ratio = 1.0
    gap_mm: NonNegative = 0.0
    base_length_mm: Positive | None = None
    base_width_mm: Positive | None = None
    clamps: Count = 2
    clamp_n: Positive = CLAMP_N
    face_height_mm: Positive | None = None

    @property
    def is_fixture(self) -> bool:
        """Whether a fixture holds the part."""
        return self.base_length_mm is not None and self.base_width_mm is not None


@dataclass(frozen=True)
class LoadIn:
    """How many pieces lie on the chuck together: so many in a row along the travel, so many rows, a gap apart [mm], and
    in all where the last row is not full."""

    in_a_row: Count = 1
    rows: Count = 1
    gap_mm: NonNegative = 0.0
    pieces: Count = 1

    def along(self, length_mm: float) -> float:
        """How long pieces of a length are together [mm]."""
        return self.in_a_row * (length_mm + self.gap_mm) - self.gap_mm

    def across(self, width_mm: float) -> float:
        """How wide rows of a width are together [mm]."""
        return self.rows * (width_mm + self.gap_mm) - self.gap_mm


@dataclass(frozen=True, kw_only=True)
class PlanQuestion:
    """What every plan is asked with.

    Attributes
    ----------
    stock_mm, tolerance_mm : Decimal
        What comes off, and how far the size may be off at the most [mm].
    flatness_um, ra_um : float
        What is asked of the face [µm].
    skew_deg : float
        How far the part is turned to the travel [°].
    dress_minutes : float
        What a dress takes [min].
    blocked : bool
        Blocks stand round the part.
    temperature_margin : float
        m asks T ≤ (1 − m)·limit in every phase.
    power_share : float
        Of the spindle's power; the rest is left in reserve.
    load : LoadIn
        The pieces that are ground together: a stroke goes over a row of them, and the wheel wears by all.
    """

    part: PartIn
    stock_mm: ExactPositive
    tolerance_mm: ExactPositive
    flatness_um: Positive
    ra_um: Positive
    machine: MachineIn
    wheel: WheelIn
    chuck: ChuckIn
    coolant: Coolant
    skew_deg: Skew = 0.0
    dress_minutes: NonNegative = 1.5
    blocked: bool = False
    temperature_margin: Margin = 0.0
    power_share: PowerShare = 1.0
    load: LoadIn = LoadIn()
