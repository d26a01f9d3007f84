"""What the planner is asked with, and the figures it derives once."""

import math
from dataclasses import asdict, dataclass, field
from decimal import ROUND_DOWN, Decimal
from typing import Annotated, Any, Literal

from annotated_types import Ge, Gt, Le, Lt

from zesty_lark.core.layout import FeedEvery, projected
from zesty_lark.core.process.evaluate import Coolant
from zesty_lark.core.quantities import (
    Count,
    ExactPositive,
    InputError,
    NonNegative,
    Positive,
    Ratio,
    Rpm,
)
from zesty_lark.core.wheel.grain import grain_size
from zesty_lark.core.wheel.marking import grade_band
from zesty_lark.core.wheel.wear import G_RATIOS

__all__ = ["Asked", "ChuckIn", "MachineIn", "PartIn", "WheelIn", "asked"]

END_OVERRUN_MM = 25.0
STEEL_KG_MM3 = 7800e-9
GRAVITY = 9.81
VOLUME_REFERENCE = {"soft": 500.0, "medium": 300.0, "hard": 150.0}
TABLE_STEP_MM_S = 10.0
CHAMFERS_MM = (0.0, 1.0, 1.5, 2.0)


@dataclass(frozen=True)
class PartIn:
    """The part [mm] and the temperature it was last tempered at [°C]."""

    length_mm: Positive
    width_mm: Positive
    height_mm: Positive
    temper_c: Annotated[float, Gt(0), Lt(1000)]


@dataclass(frozen=True)
class MachineIn:
    """The machine: graduations and ranges [mm], table [mm/s], reversal [s], spindle [W], cut ratio of one wipe, and whether it
    feeds across at each end of a stroke or at one end of a pair."""

    downfeed_graduation_mm: ExactPositive
    crossfeed_graduation_mm: ExactPositive
    crossfeed_min_mm: ExactPositive
    crossfeed_max_mm: ExactPositive
    table_min_mm_s: Positive
    table_max_mm_s: Positive
    reversal_s: NonNegative
    spindle_w: Positive
    cut_ratio: Ratio
    feed_every: FeedEvery = "stroke"


@dataclass(frozen=True)
class WheelIn:
    """The wheel [mm] [rpm], its grit and grade, and the chamfer on its leading edge [mm]."""

    diameter_mm: Positive
    width_mm: Positive
    rpm: Rpm
    grit: Count
    grade: str
    leading_chamfer_mm: NonNegative = 0.0
    may_chamfer: bool = False


@dataclass(frozen=True)
class ChuckIn:
    """The chuck's pull q0 [N/cm²], and the base of the fixture that stands on it in the part's place [mm]."""

    pull_n_cm2: NonNegative = 80.0
    base_length_mm: Positive | None = None
    base_width_mm: Positive | None = None


@dataclass(frozen=True)
class Asked:
    """The whole question with what follows from it; lengths [mm].

    Attributes
    ----------
    graduations : int
        Whole graduations of downfeed in the stock.
    graduation, along, across, stroke, area : float
        The graduation, the face along and across the travel, a stroke [mm], the face [mm²].
    speeds : tuple of float
        Table speeds to choose from [mm/s].
    crossfeeds : tuple of float
        The least crossfeed for each number of strokes [mm].
    finishes : dict
        Finishes worked out for this question so far.
    unfit : dict
        By kind of finish, which settings break a limit when nothing is left to the springs.
    broken : dict
        Roughings known to break a limit, for this question or the same one with more margin.
    """

    part: PartIn
    machine: MachineIn
    wheel: WheelIn
    chuck: ChuckIn
    coolant: Coolant
    tolerance: float
    flatness_um: float
    ra_um: float
    dress_minutes: float
    margin: float
    stock_mm: Decimal
    tolerance_mm: Decimal
    skew_deg: float
    blocked: bool
    hold_wanted: float
    graduations: int
    graduation: float
    along: float
    across: float
    stroke: float
    area: float
    weight_n: float
    grain: float
    g_ratio: float
    volume_reference: float
    speeds: tuple[float, ...] = field(repr=False)
    crossfeeds: tuple[float, ...] = field(repr=False)
    finishes: dict[Any, Any] = field(default_factory=dict, init=False, repr=False, compare=False)
    unfit: dict[Any, Any] = field(default_factory=dict, init=False, repr=False, compare=False)
    broken: dict[Any, Any] = field(default_factory=dict, repr=False, compare=False)

    def request(self) -> dict[str, Any]:
        """The question in the form ``pass.optimise`` and ``pass.schools`` take; exact lengths as text."""
        asks: dict[str, Any] = {name: asdict(getattr(self, name)) for name in ("part", "machine", "wheel", "chuck")}
        asks["machine"] = {name: f"{value:f}" if isinstance(value, Decimal) else value
                           for name, value in asks["machine"].items()}
        return asks | {
            "stock_mm": f"{self.stock_mm:f}", "tolerance_mm": f"{self.tolerance_mm:f}", "flatness_um": self.flatness_um,
            "ra_um": self.ra_um, "coolant": self.coolant, "skew_deg": self.skew_deg, "dress_minutes": self.dress_minutes,
            "blocked": self.blocked, "temperature_margin": self.margin}

    def strokes(self, crossfeed: float) -> int:
        """Strokes of a pass: none at the side, a feed at each end or one at every second."""
        return math.ceil((self.across + self.wheel.width_mm) / crossfeed - 1e-9) * (
            2 if self.machine.feed_every == "pair" else 1)

    def feeding(self, crossfeed: float) -> int:
        """Strokes of a pass that feed into the work."""
        return math.ceil(self.across / crossfeed - 1e-9)

    def snap_crossfeed(self, crossfeed: float) -> float:
        """Round a crossfeed down to whole graduations within the machine's range."""
        machine = self.machine
        low, high = float(machine.crossfeed_min_mm), float(machine.crossfeed_max_mm)
        step = float(machine.crossfeed_graduation_mm)
        whole = math.floor(min(crossfeed, high) / step + 1e-9) * step
        return round(max(whole, math.ceil(low / step - 1e-9) * step), 9)

    def crossfeed_range(self) -> tuple[int, int]:
        """The least and the greatest crossfeed in whole graduations."""
        machine = self.machine
        return (math.ceil(machine.crossfeed_min_mm / machine.crossfeed_graduation_mm),
                int((machine.crossfeed_max_mm / machine.crossfeed_graduation_mm).to_integral_value(ROUND_DOWN)))

    def chamfers(self) -> tuple[float, ...]:
        """The leading chamfers to choose from [mm]."""
        if not self.wheel.may_chamfer:
            return (self.wheel.leading_chamfer_mm,)
        return tuple(sorted({*CHAMFERS_MM, self.wheel.leading_chamfer_mm}))


def asked(
    part: PartIn, stock_mm: Decimal, tolerance_mm: Decimal, flatness_um: float, ra_um: float, machine: MachineIn,
    wheel: WheelIn, chuck: ChuckIn, coolant: Coolant, skew_deg: float, dress_minutes: float, blocked: bool,
    temperature_margin: float,
) -> Asked:
    """Derive what the planner works with.

    Raises
    ------
    InputError
        If the stock is under a graduation, a range is the wrong way round, or the grade is no letter.
    """
    _check(machine, wheel)
    graduations = int((stock_mm / machine.downfeed_graduation_mm).to_integral_value(ROUND_DOWN))
    if graduations < 1:
        raise InputError("stock_mm", "stock_mm must be at least one graduation of the dial")
    along, across = projected(part.length_mm, part.width_mm, skew_deg)
    band = grade_band(wheel.grade.upper())
    return Asked(
        part=part, machine=machine, wheel=wheel, chuck=chuck, coolant=coolant, tolerance=float(tolerance_mm),
        flatness_um=flatness_um, ra_um=ra_um, dress_minutes=dress_minutes, margin=temperature_margin, stock_mm=stock_mm,
        tolerance_mm=tolerance_mm, skew_deg=skew_deg, blocked=blocked, hold_wanted=4.0 if blocked else 8.0,
        graduations=graduations, graduation=float(machine.downfeed_graduation_mm), along=along, across=across,
        stroke=along + 2 * END_OVERRUN_MM, area=part.length_mm * part.width_mm,
        weight_n=part.length_mm * part.width_mm * part.height_mm * STEEL_KG_MM3 * GRAVITY, grain=grain_size(wheel.grit),
        g_ratio=G_RATIOS[band], volume_reference=VOLUME_REFERENCE[band], speeds=_speeds(machine),
        crossfeeds=_crossfeeds(machine, across + wheel.width_mm),
    )


def _check(machine: MachineIn, wheel: WheelIn) -> None:
    if machine.crossfeed_max_mm < machine.crossfeed_min_mm:
        raise InputError("machine.crossfeed_max_mm", "machine.crossfeed_max_mm must not be under crossfeed_min_mm")
    if machine.table_max_mm_s < machine.table_min_mm_s:
        raise InputError("machine.table_max_mm_s", "machine.table_max_mm_s must not be under table_min_mm_s")
    if len(wheel.grade) != 1 or not "A" <= wheel.grade.upper() <= "Z":
        raise InputError("wheel.grade", "wheel.grade must be one letter, A to Z")


def _speeds(machine: MachineIn) -> tuple[float, ...]:
    count = math.floor((machine.table_max_mm_s - machine.table_min_mm_s) / TABLE_STEP_MM_S + 1e-9)
    speeds = [machine.table_min_mm_s + TABLE_STEP_MM_S * step for step in range(count + 1)]
    return tuple(sorted({*speeds, machine.table_max_mm_s}))


def _crossfeeds(machine: MachineIn, span: float) -> tuple[float, ...]:
    step = machine.crossfeed_graduation_mm
    first = math.ceil(machine.crossfeed_min_mm / step)
    last = int((machine.crossfeed_max_mm / step).to_integral_value(ROUND_DOWN))
    least: dict[int, float] = {}
    for graduations in range(last, first - 1, -1):
        crossfeed = float(graduations * step)
        least[math.ceil(span / crossfeed - 1e-9)] = crossfeed
    return tuple(sorted(least.values()))


Share = Annotated[float, Ge(0), Le(0.95)]
DressKind = Literal["rough", "general", "fine"]
