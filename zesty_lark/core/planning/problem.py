"""The question that the planner is asked, and the figures that follow from it once."""

import math
from dataclasses import dataclass, field, fields, is_dataclass, replace
from decimal import ROUND_DOWN, Decimal
from typing import Any

from zesty_lark.core.planning.means import ChuckIn, MachineIn, PartIn, PlanQuestion, WheelIn
from zesty_lark.core.process.holding import BLOCK_SAFETY, STOP_SAFETY, is_tall, pull, weight_n
from zesty_lark.core.process.strokes import END_OVERRUN_MM, projected, steps_across
from zesty_lark.core.quantities.numbers import InputError, refuse_work
from zesty_lark.core.wheel.dressing import VOLUME_REFERENCE
from zesty_lark.core.wheel.grain import grain_size
from zesty_lark.core.wheel.marking import grade_band
from zesty_lark.core.wheel.wear import G_RATIOS

RESERVE, RESERVE_POWER = 0.23, 0.77
"""Margin and share of the power at which heat and power still hold when their estimate is 30 % low: what is offered
first."""
WIDEST_SHARE, FINISH_OVERLAP = 0.9, 3.0
"""The widest crossfeed as a share of the wheel's width, and the least overlap of a finish: wider leaves strips
unground."""
WET_DOWNFEED_MM, DRY_DOWNFEED_MM = 0.15, 0.05
"""The largest downfeed a pass where the machine says none: under coolant, and dry or in mist [mm]."""
TABLE_STEP_MM_S = 10.0
CHAMFERS_MM = (0.0, 1.0, 1.5, 2.0)
SLACK = 1e-9
MOST_GRADUATIONS, MOST_CROSSFEEDS, MOST_STROKES, MOST_SETTINGS = 5_000, 50_000, 20_000, 400_000
"""How much is tried at most: graduations of stock, crossfeeds in whole graduations, strokes of a pass, and settings of
downfeed, crossfeed and table in all."""
WORK_OF_A_PLAN = {
    "graduations of the dial": MOST_GRADUATIONS,
    "crossfeeds to choose from": MOST_CROSSFEEDS,
    "strokes of a pass": MOST_STROKES,
    "settings of downfeed, crossfeed and table to try": MOST_SETTINGS,
}
NOT_HELD = (
    "a magnet does not pull this material at all: hold it in a vise, screwed or clamped to an angle plate, on "
    "laminated transfer blocks, by vacuum, or waxed to a steel carrier"
)


@dataclass
class Worked:
    """What was worked out for a question so far.

    Attributes
    ----------
    grids : dict
        Settings of a finish in order of time, by the crossfeed that is fixed.
    searches, unfit, finishes : dict
        By the share of the temperature limit that a finish may use: its limits; which settings break one when nothing
        is left to the springs, by kind; the quickest, by kind and what is left.
    hollows : dict
        Of the heat map, by what they depend on.
    maps_first : bool
        The map was once over the flatness where the estimate was not: each finish is mapped before it is used.
    """

    grids: dict[Any, Any] = field(default_factory=dict)
    searches: dict[Any, Any] = field(default_factory=dict)
    unfit: dict[Any, Any] = field(default_factory=dict)
    finishes: dict[Any, Any] = field(default_factory=dict)
    hollows: dict[Any, Any] = field(default_factory=dict)
    maps_first: bool = False


@dataclass(frozen=True, kw_only=True)
class Problem(PlanQuestion):
    """The whole question with what follows from it; lengths [mm].

    Attributes
    ----------
    graduations, most_graduations : int
        Whole graduations of downfeed in the stock, and in the largest downfeed a pass.
    graduation, along, across, stroke, area : float
        The graduation, the face along and across the travel, a stroke over the load [mm], the face [mm²].
    held_by_blocks : bool
        Support blocks keep a tall part from tipping: only sliding is left to the magnet.
    speeds : tuple of float
        Table speeds to choose from [mm/s].
    crossfeeds : tuple of float
        For each number of strokes and of wipes the least crossfeed, none wider than 0.9 of the wheel [mm].
    worked : Worked
        What was worked out for this question so far.
    """

    tolerance: float
    hold_wanted: float
    held_by_blocks: bool
    graduations: int
    most_graduations: int
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
    worked: Worked = field(default_factory=Worked, init=False, repr=False, compare=False)

    def __getstate__(self) -> dict[str, Any]:
        """What travels between processes: the question, without what was worked out for it so far."""
        return dict(self.__dict__) | {"worked": Worked()}

    def with_margin(self, margin: float) -> "Problem":
        """The same question with another temperature margin, and what was worked out for it so far."""
        made = replace(self, temperature_margin=margin)
        object.__setattr__(made, "worked", self.worked)
        return made

    @property
    def pull_n_mm2(self) -> float:
        """The magnet's pull on the part per area [N/mm²]; what a fixture holds, no magnet holds flat."""
        if self.chuck.is_fixture:
            return 0.0
        return magnet_n(self.part, self.chuck) / self.area

    @property
    def body(self) -> float:
        """The area of the part that takes up the heat [mm²]."""
        return self.part.body_mm2 or self.area

    @property
    def spindle_w(self) -> float:
        """The power that may be used [W]."""
        return self.machine.spindle_w * self.power_share

    def request(self) -> dict[str, Any]:
        """The question in the form ``pass.optimise`` and ``pass.schools`` take; exact lengths as text."""
        asked = {each.name: getattr(self, each.name) for each in fields(PlanQuestion)}
        return {name: _as_asked(value) for name, value in asked.items()}

    def strokes(self, crossfeed: float) -> int:
        """Strokes of a pass: none at the side, a feed at each end or one at every second."""
        return steps_across(self.load.across(self.across) + self.wheel.width_mm, crossfeed) * (
            2 if self.machine.feed_every == "pair" else 1
        )

    def feeding(self, crossfeed: float) -> int:
        """Strokes of a pass that feed into a piece."""
        return steps_across(self.across, crossfeed)

    def snap_crossfeed(self, crossfeed: float) -> float:
        """Round a crossfeed down to whole graduations within the machine's and the wheel's range; on a machine that has
        only some, to the next of them that is no more than half a graduation wider."""
        low, high = self.crossfeed_range()
        step = self.machine.crossfeed_graduation_mm
        only = _steps_of(self.machine, self.wheel)
        if only:
            return float(max((each for each in only if float(each) <= crossfeed + float(step) / 2), default=only[0]))
        whole = math.floor(crossfeed / float(step) + SLACK)
        return float(min(max(whole, low), high) * step)

    @property
    def widest_mm(self) -> Decimal:
        """The widest crossfeed there is [mm]."""
        only = _steps_of(self.machine, self.wheel)
        return only[-1] if only else self.crossfeed_range()[1] * self.machine.crossfeed_graduation_mm

    def snap_table(self, table_mm_s: float) -> float:
        """Round a table speed down to one of ``speeds``."""
        return max((speed for speed in self.speeds if speed <= table_mm_s + SLACK), default=self.speeds[0])

    def crossfeed_range(self) -> tuple[int, int]:
        """The least and the greatest crossfeed in whole graduations: the machine's, and at most 0.9 of the wheel's
        width; of a machine that has only some, those round its least and its widest."""
        only, step = _steps_of(self.machine, self.wheel), self.machine.crossfeed_graduation_mm
        if only:
            return int(only[0] // step) or 1, math.ceil(only[-1] / step)
        return _crossfeed_range(self.machine, self.wheel)

    def chamfers(self) -> tuple[float, ...]:
        """The leading chamfers to choose from [mm]."""
        if not self.wheel.may_chamfer:
            return (self.wheel.leading_chamfer_mm,)
        return tuple(sorted({*CHAMFERS_MM, self.wheel.leading_chamfer_mm}))


def _as_asked(value: Any) -> Any:
    if is_dataclass(value):
        return {each.name: _as_asked(getattr(value, each.name)) for each in fields(value)}
    if isinstance(value, tuple):
        return [_as_asked(each) for each in value]
    return f"{value:f}" if isinstance(value, Decimal) else value


def problem_of(question: PlanQuestion) -> Problem:
    """Derive what the planner works with.

    Raises
    ------
    InputError
        If the stock is under a graduation, a range is the wrong way round, the grade is no letter, the crossfeed cannot
        be as narrow as the wheel asks, or nothing holds the part: no pull on its material, or too tall for the bare
        magnet.
    """
    part, machine, wheel, chuck = question.part, question.machine, question.wheel, question.chuck
    stock_mm, blocked = question.stock_mm, question.blocked
    _check(machine, wheel)
    _check_hold(part, chuck, blocked)
    graduation = machine.downfeed_graduation_mm
    graduations = _whole(stock_mm, graduation)
    if graduations < 1:
        raise InputError("stock_mm", f"stock_mm must be at least one graduation of the dial ({graduation} mm)")
    refuse_work("stock_mm", graduations, MOST_GRADUATIONS, "graduations of the dial")
    usual = Decimal(repr(WET_DOWNFEED_MM if question.coolant in ("water", "oil") else DRY_DOWNFEED_MM))
    along, across = projected(part.length_mm, part.width_mm, question.skew_deg)
    refuse_work(
        "machine.crossfeed_min_mm",
        (question.load.across(across) + wheel.width_mm) / float(machine.crossfeed_min_mm),
        MOST_STROKES,
        "strokes of a pass",
    )
    speeds, crossfeeds = _speeds(machine), _crossfeeds(machine, wheel, across, question.load.across(across))
    settings = 2 * math.sqrt(graduations) * len(speeds) * len(crossfeeds)
    refuse_work("machine", settings, MOST_SETTINGS, "settings of downfeed, crossfeed and table to try")
    band = grade_band(wheel.grade.upper())
    volume = part.length_mm * part.width_mm * part.height_mm
    return Problem(
        **vars(question),
        tolerance=float(question.tolerance_mm),
        hold_wanted=STOP_SAFETY if blocked or chuck.is_fixture else BLOCK_SAFETY,
        held_by_blocks=blocked and _tall(part, chuck),
        graduations=graduations,
        most_graduations=max(1, _whole(machine.downfeed_max_mm or usual, graduation)),
        graduation=float(graduation),
        along=along,
        across=across,
        stroke=question.load.along(along) + 2 * END_OVERRUN_MM,
        area=part.length_mm * part.width_mm,
        weight_n=weight_n(volume, part.density_kg_m3),
        grain=grain_size(wheel.grit),
        g_ratio=G_RATIOS[band],
        volume_reference=VOLUME_REFERENCE[band],
        speeds=speeds,
        crossfeeds=crossfeeds,
    )


def magnet_n(part: PartIn, chuck: ChuckIn) -> float:
    """The magnet's pull on a part that lies on it [N]."""
    return pull(
        part.length_mm * part.width_mm,
        part.width_mm,
        part.height_mm,
        chuck.pull_n_cm2,
        gap_mm=chuck.gap_mm,
        material_factor=chuck.material_factor,
        surface_factor=chuck.surface_factor,
    )


def _whole(length: Decimal, graduation: Decimal) -> int:
    return int((length / graduation).to_integral_value(ROUND_DOWN))


def _check(machine: MachineIn, wheel: WheelIn) -> None:
    if machine.crossfeed_max_mm < machine.crossfeed_min_mm:
        raise InputError("machine.crossfeed_max_mm", "machine.crossfeed_max_mm must not be under crossfeed_min_mm")
    if machine.table_max_mm_s < machine.table_min_mm_s:
        raise InputError("machine.table_max_mm_s", "machine.table_max_mm_s must not be under table_min_mm_s")
    if len(wheel.grade) != 1 or not "A" <= wheel.grade.upper() <= "Z":
        raise InputError("wheel.grade", "wheel.grade must be one letter, A to Z")
    if machine.crossfeed_steps_mm and not _steps_of(machine, wheel):
        raise InputError(
            "machine.crossfeed_steps_mm",
            (
                "machine.crossfeed_steps_mm must have one from crossfeed_min_mm to crossfeed_max_mm and up to "
                f"{WIDEST_SHARE:g} of the wheel's width ({WIDEST_SHARE * wheel.width_mm:g} mm)"
            ),
        )
    low, high = _crossfeed_range(machine, wheel)
    refuse_work("machine.crossfeed_graduation_mm", high - low, MOST_CROSSFEEDS, "crossfeeds to choose from")
    if low > high:
        raise InputError(
            "machine.crossfeed_min_mm",
            (
                f"machine.crossfeed_min_mm must leave a crossfeed in whole graduations up to {WIDEST_SHARE:g} of "
                f"the wheel's width ({WIDEST_SHARE * wheel.width_mm:g} mm)"
            ),
        )


def _check_hold(part: PartIn, chuck: ChuckIn, blocked: bool) -> None:
    if chuck.is_fixture:
        return
    if chuck.material_factor <= 0:
        raise InputError("chuck.material_factor", f"chuck.material_factor must be over 0: {NOT_HELD}")
    if _tall(part, chuck) and not blocked:
        raise InputError(
            "chuck",
            (
                f"chuck must be a fixture or a vise, or blocked be true: {part.height_mm:g} mm high on "
                f"{min(part.length_mm, part.width_mm):g} mm, it is not held by the bare magnet"
            ),
        )


def _tall(part: PartIn, chuck: ChuckIn) -> bool:
    return not chuck.is_fixture and is_tall(part.height_mm, part.length_mm, part.width_mm)


def _speeds(machine: MachineIn) -> tuple[float, ...]:
    count = math.floor((machine.table_max_mm_s - machine.table_min_mm_s) / TABLE_STEP_MM_S + SLACK)
    speeds = [machine.table_min_mm_s + TABLE_STEP_MM_S * step for step in range(count + 1)]
    return tuple(sorted({*speeds, machine.table_max_mm_s}))


def _crossfeed_range(machine: MachineIn, wheel: WheelIn) -> tuple[int, int]:
    step = machine.crossfeed_graduation_mm
    widest = math.floor(WIDEST_SHARE * wheel.width_mm / float(step) + SLACK)
    return math.ceil(machine.crossfeed_min_mm / step), min(_whole(machine.crossfeed_max_mm, step), widest)


def _steps_of(machine: MachineIn, wheel: WheelIn) -> list[Decimal]:
    """The crossfeeds that a machine has only in steps, within its range and no wider than the wheel lets them be [mm];
    none where it has any."""
    widest = min(float(machine.crossfeed_max_mm), WIDEST_SHARE * wheel.width_mm) + SLACK
    return sorted(
        each for each in machine.crossfeed_steps_mm if machine.crossfeed_min_mm <= each and float(each) <= widest
    )


def _crossfeeds(machine: MachineIn, wheel: WheelIn, across: float, rows_across: float) -> tuple[float, ...]:
    step = machine.crossfeed_graduation_mm
    first, last = _crossfeed_range(machine, wheel)
    least: dict[tuple[int, int, int], float] = {}
    only = _steps_of(machine, wheel)
    for each in reversed(only) if only else (number * step for number in range(last, first - 1, -1)):
        crossfeed = float(each)
        least[
            steps_across(rows_across + wheel.width_mm, crossfeed),
            steps_across(across, crossfeed),
            int(wheel.width_mm / crossfeed + SLACK),
        ] = crossfeed
    return tuple(sorted(least.values()))
