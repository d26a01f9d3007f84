"""What is known of a run: its sizes, its two kinds of pass, the dial, the gauge, and what was done."""

import math
from dataclasses import dataclass, field
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le

from zesty_lark.core.process.springs import overlaps_of
from zesty_lark.core.quantities.numbers import InputError, NonNegative, Positive

Size = Annotated[float, Gt(0), Le(10_000)]
Depth = Annotated[float, Ge(0), Le(1_000)]
PassKind = Literal["rough", "finish"]
Sparks = Literal["even", "dying", "none"]
ActName = Literal["pass", "spark_out", "dress", "approach", "cool", "seen", "measured"]
MOST_ACTS = 2_000
USUAL_CUT_RATIO, USUAL_CUT_RATIO_U = 0.6, 0.12
ON_SETTING = 1e-6
"""A depth may be so far off a whole setting [settings]: it is written with so many digits."""
MOST_SETTINGS = 1_000_000


@dataclass(frozen=True)
class PassFigures:
    """A kind of pass: its largest step and its crossfeed [mm], how much warmer it makes the part [K], and what it wears
    off the wheel at its step [mm]."""

    step_mm: Positive
    crossfeed_mm: Positive
    rise_c: NonNegative = 0.0
    wear_mm: NonNegative = 0.0

    def wipes(self, wheel_width_mm: float) -> int:
        """How often it wipes each place."""
        return overlaps_of(wheel_width_mm, self.crossfeed_mm)


@dataclass(frozen=True)
class Prior:
    """The cut ratio of one wipe as the machine's page or its last runs have it, and its standard uncertainty."""

    cut_ratio: Annotated[float, Gt(0), Le(1)] = USUAL_CUT_RATIO
    cut_ratio_u: Annotated[float, Gt(0), Le(0.5)] = USUAL_CUT_RATIO_U


@dataclass(frozen=True)
class Act:
    """One thing done, or to do: a pass or spark-out of a kind at a depth under the touch-off [mm], a dress by so much
    [mm], an approach, a pause to cool, what the sparks were like, or a reading of the highest and the lowest place
    [mm]."""

    act: ActName
    kind: PassKind | None = None
    to_mm: Depth | None = None
    off_mm: Depth | None = None
    sparks: Sparks | None = None
    greatest_mm: Size | None = None
    least_mm: Size | None = None
    piece: Annotated[int, Ge(0), Le(1_000)] | None = None
    """Which of a load was measured; the first where nobody says."""
    figures: PassFigures | None = None
    """The pass's own figures, where they are not those of its kind."""


NEEDED: dict[ActName, tuple[str, ...]] = {
    "pass": ("kind", "to_mm"),
    "spark_out": ("kind", "to_mm"),
    "dress": (),
    "approach": (),
    "cool": (),
    "seen": ("sparks",),
    "measured": ("greatest_mm", "least_mm"),
}


@dataclass(frozen=True)
class Piece:
    """One piece under the collar, cold, before the run: its greatest and its least size, and their standard uncertainty
    where that is not the gauge's [mm]."""

    greatest_mm: float
    least_mm: float
    known_u_mm: float | None = None


@dataclass(frozen=True)
class Ways:
    """What may be chosen among: how often it is sparked out, whether the last reading is approached again, whether the
    wheel may be dressed once more; and whether a dress takes the worn front off, so that what it took counts from the
    face beside it."""

    spark_outs: tuple[int, ...] = (1, 2, 3)
    approach: bool = True
    dress: bool = True
    dress_levels: bool = False


@dataclass(frozen=True)
class Run:
    """What a run is asked with.

    Attributes
    ----------
    goal_mm, lower_mm, upper_mm : float
        The size aimed at and its limits [mm].
    pieces : tuple of Piece
        All that are under the collar.
    graduation_mm, setting_mm : float
        The dial's graduation, and the smallest amount it is set by [mm].
    wheel_width_mm : float
        Wheel's width [mm].
    rough, finish : PassFigures
        The two kinds of pass.
    rise_kept : float
        The share of its rise that the part keeps from pass to pass.
    measure_u_mm : float
        Standard uncertainty of one reading [mm].
    prior : Prior
        What is thought of the cut ratio before the run.
    acts : tuple of Act
        What was done, in order.
    readings_a_stop : int
        How often each piece is read at a stop.
    ways : Ways
        What may be chosen among.
    """

    goal_mm: float
    lower_mm: float
    upper_mm: float
    pieces: tuple[Piece, ...]
    graduation_mm: float
    setting_mm: float
    wheel_width_mm: float
    rough: PassFigures
    finish: PassFigures
    rise_kept: float
    measure_u_mm: float
    prior: Prior = field(default_factory=Prior)
    acts: tuple[Act, ...] = ()
    readings_a_stop: int = 2
    ways: Ways = field(default_factory=Ways)

    @property
    def zone_mm(self) -> float:
        """How wide the tolerance zone is [mm]."""
        return self.upper_mm - self.lower_mm

    @property
    def guard_mm(self) -> float:
        """By how much a reading has to be inside the limits to prove it: U, twice the uncertainty of one [mm]."""
        return 2 * self.measure_u_mm

    @property
    def guarded_mm(self) -> float:
        """How wide the zone is in which a reading proves the size; negative when none can [mm]."""
        return self.zone_mm - 2 * self.guard_mm

    def figures(self, kind: PassKind) -> PassFigures:
        """The figures of a kind of pass."""
        return self.rough if kind == "rough" else self.finish

    def settings(self, depth_mm: float) -> int:
        """A depth in whole settings, the next where it is between two."""
        return math.ceil(depth_mm / self.setting_mm - ON_SETTING * max(1.0, depth_mm / self.setting_mm))

    def steps(self, kind: PassKind) -> int:
        """How many settings a pass of a kind takes at the most."""
        return max(1, int(self.figures(kind).step_mm / self.setting_mm + ON_SETTING))


def check(run: Run) -> None:
    """Refuse a run that cannot be.

    Raises
    ------
    InputError
        If limits or sizes are the wrong way round, an act lacks a figure, goes up, or is not a whole setting.
    """
    if not run.lower_mm < run.upper_mm:
        raise InputError("upper_mm", "upper_mm must be over lower_mm")
    if not run.lower_mm <= run.goal_mm <= run.upper_mm:
        raise InputError("goal_mm", "goal_mm must be from lower_mm to upper_mm")
    for piece in run.pieces:
        if piece.greatest_mm < piece.least_mm:
            raise InputError("greatest_mm", "greatest_mm must be at least least_mm")
    if not run.setting_mm <= run.graduation_mm * (1 + ON_SETTING):
        raise InputError("setting_mm", "setting_mm must be at most graduation_mm")
    stock = max(piece.greatest_mm for piece in run.pieces) - run.lower_mm
    if stock / run.setting_mm > MOST_SETTINGS:
        raise InputError("setting_mm", f"setting_mm must be larger: the stock is over {MOST_SETTINGS:,} of them")
    depth = 0.0
    for number, act in enumerate(run.acts):
        _check_act(run, act, f"acts.{number}", depth)
        depth = depth if act.to_mm is None else act.to_mm


def _check_act(run: Run, act: Act, where: str, depth: float) -> None:
    for name in NEEDED[act.act]:
        if getattr(act, name) is None:
            raise InputError(f"{where}.{name}", f"{where}.{name} is missing for {act.act}")
    if act.to_mm is not None:
        off = act.to_mm / run.setting_mm
        if abs(off - round(off)) > max(ON_SETTING, ON_SETTING * off):
            raise InputError(f"{where}.to_mm", f"{where}.to_mm must be whole settings of {run.setting_mm:g} mm")
        if act.to_mm < depth - ON_SETTING * run.setting_mm:
            raise InputError(f"{where}.to_mm", f"{where}.to_mm must be no less than {depth:g}, the depth before it")
    if act.piece is not None and act.piece >= len(run.pieces):
        raise InputError(f"{where}.piece", f"{where}.piece must be one of the load, counted from 0")
    if act.act == "measured" and act.greatest_mm < act.least_mm:  # type: ignore[operator]
        raise InputError(f"{where}.greatest_mm", f"{where}.greatest_mm must be at least least_mm")
