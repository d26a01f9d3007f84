"""What runs have taught of a machine and wheel: η of one wipe, and how long hands take."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from itertools import dropwhile
from statistics import median, quantiles
from typing import Literal

from zesty_lark.core.process.springs import cut_ratio, of_one_overlap, overlaps_of
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.job_state import JobState, Shortfall
from zesty_lark.core.work.machine_acts import Dressed, PassFed, Placed, SparkedOut, StepDone, TouchedOff
from zesty_lark.core.work.plans import MAGNET
from zesty_lark.core.work.run import Run

WIPES_MOST = 2
"""Where the wheel overlaps more often a pass takes nearly all, and says nothing of one wipe."""
PASSES_LEAST = 3
WARM_SHARE = Decimal("0.25")
"""What a part grows while it is ground may be so much of what comes up short."""
RUNS_KEPT = 10
LEAST, MOST = 0.05, 0.98
WorkKind = Literal["magnet", "fixture"]
WORK_KINDS: dict[WorkKind, str] = {"magnet": "flat on the magnet", "fixture": "in a fixture"}
Timed = Literal["place", "flip", "fixture", "touch_off", "dress", "measure"]
TIMED: dict[Timed, str] = {
    "place": "clean and place",
    "flip": "turn over",
    "fixture": "set up in a fixture",
    "touch_off": "touch off",
    "dress": "dress",
    "measure": "measure",
}
SHORTEST_MIN, LONGEST_MIN = 0.05, 60.0
"""What took less was logged afterwards; what took longer had a break in it [min]."""
FIRM_RUNS = 4


@dataclass(frozen=True)
class CutRatio:
    """η of one wipe, how many runs it rests on (none: the machine's page says it), and the least and most of them."""

    eta: float
    runs: int
    least: float | None = None
    most: float | None = None

    @property
    def sure(self) -> str:
        """How sure it is, in words."""
        return _sure(self.runs, 0.0 if self.least is None or self.most is None else (self.most - self.least) / self.eta)


@dataclass(frozen=True)
class Times:
    """How long something usually takes [min]: the median of the last ten, the range of most of them, how many."""

    minutes: float
    low: float
    high: float
    runs: int

    @property
    def sure(self) -> str:
        """How sure it is, in words."""
        return _sure(self.runs, (self.high - self.low) / self.minutes)


def _sure(runs: int, spread: float) -> str:
    if not runs:
        return "nobody has measured it: a usual figure"
    if runs < FIRM_RUNS:
        return "few runs: a first idea"
    return "firm" if spread <= 0.5 else "scattered: take it with care"


def work_kind(run: Run, job_state: JobState) -> WorkKind:
    """What kind of work a run is: what springs, and how long hands take, differ with how it is held."""
    return "magnet" if job_state.on_magnet(run) else "fixture"


def cut_ratio_of(shortfall: Shortfall, wheel_width_mm: float) -> float | None:
    """Return η of one wipe as a run tells it; ``None`` where it tells nothing.

    A run tells when its passes were of equal steps and one crossfeed with little overlap, without spark-outs after
    them, and when not more was got than asked: that tells of wear or heat. A part that grows by much of what comes up
    short while it is ground tells of heat too.
    """
    passes = list(dropwhile(lambda each: not each[0], shortfall.passes))
    steps, crossfeeds = {step for step, _ in passes}, {crossfeed for _, crossfeed in passes}
    if (
        len(passes) < PASSES_LEAST
        or len(steps) != 1
        or len(crossfeeds) != 1
        or not 0 < shortfall.got_mm <= shortfall.asked_mm
    ):
        return None
    if shortfall.grown_mm > WARM_SHARE * shortfall.short_mm:
        return None
    crossfeed = crossfeeds.pop()
    if crossfeed is None:
        return None
    overlaps = overlaps_of(wheel_width_mm, float(crossfeed))
    if overlaps > WIPES_MOST:
        return None
    found = of_one_overlap(
        cut_ratio(asked_mm=float(shortfall.asked_mm), got_mm=float(shortfall.got_mm), steps=len(passes)), overlaps
    )
    return found if LEAST <= found <= MOST else None


def usual_cut_ratio(learned: Sequence[float], machines: float) -> CutRatio:
    """Return what to plan with: the median of the last ten runs, newest first, else the machine's own figure."""
    recent = list(learned)[:RUNS_KEPT]
    return CutRatio(median(recent), len(recent), min(recent), max(recent)) if recent else CutRatio(machines, 0)


def usual_time(learned: Sequence[float], usual: float) -> Times:
    """Return how long something takes [min]: the median of the last ten, newest first, else the usual figure give or
    take a quarter."""
    recent = list(learned)[:RUNS_KEPT]
    if not recent:
        return Times(usual, 0.75 * usual, 1.25 * usual, 0)
    middle = median(recent)
    if len(recent) < FIRM_RUNS:
        return Times(middle, min(*recent, 0.75 * middle), max(*recent, 1.25 * middle), len(recent))
    low, _, high = quantiles(recent, n=4, method="inclusive")
    return Times(middle, low, high, len(recent))


def time_told(entry: Entry, before: JobState) -> tuple[Timed, float] | None:
    """Return what an entry tells of how long hands take, and how long it was [min]; ``None`` where it tells nothing.

    From the entry before it: a placing from whatever was last logged, a touch-off from its placing or from the blocks
    put beside it, a dress from the pass or the plan before it, a measurement from the last cut.
    """
    if not before.history or entry.read_in_at is not None or entry.clock_doubt:
        return None
    began, act = _began(entry, before)
    if act is None or began is None or began.clock_doubt:
        return None
    minutes = (entry.at - began.at).total_seconds() / 60
    return (act, round(minutes, 3)) if SHORTEST_MIN <= minutes <= LONGEST_MIN else None


def _began(entry: Entry, before: JobState) -> tuple[Entry | None, Timed | None]:
    """What an act began after, and which it is."""
    last = before.history[-1]
    if isinstance(entry, Placed):
        run = before.runs.get(entry.surface)
        if run is not None and run.plan is not None and run.plan.holder != MAGNET:
            return last, "flip" if run.plan.is_turned else "fixture"
        return last, "flip" if before.up is not None else "place"
    if isinstance(entry, TouchedOff):
        return _newest(before, Placed, StepDone, until=(TouchedOff, PassFed)), "touch_off"
    if isinstance(entry, Dressed):
        return last if isinstance(last, PassFed | SparkedOut | Measured | StepDone) else None, "dress"
    if isinstance(entry, Measured):
        return _newest(before, PassFed, SparkedOut, until=(Measured,)), "measure"
    return None, None


def _newest(before: JobState, *kinds: type[Entry], until: tuple[type[Entry], ...]) -> Entry | None:
    for entry in reversed(before.history):
        if isinstance(entry, kinds):
            return entry
        if isinstance(entry, until):
            return None
    return None
