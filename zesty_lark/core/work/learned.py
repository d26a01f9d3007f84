"""What runs have taught of a machine and wheel: η of one wipe, from what was asked and got."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import dropwhile
from statistics import median

from zesty_lark.core.process.springs import cut_ratio, one_wipe, wipes_of
from zesty_lark.core.work.standing import Gap

__all__ = ["RUNS_KEPT", "CutRatio", "cut_ratio_of", "usual_cut_ratio"]

WIPES_MOST = 2
"""Where the wheel overlaps more often a pass takes nearly all, and says nothing of one wipe."""
PASSES_LEAST = 3
RUNS_KEPT = 10
LEAST, MOST = 0.05, 0.98


@dataclass(frozen=True)
class CutRatio:
    """η of one wipe and how many runs it rests on; none when it is what the machine's page says."""

    eta: float
    runs: int


def cut_ratio_of(gap: Gap, wheel_width_mm: float) -> float | None:
    """Return η of one wipe as a run tells it; ``None`` where it tells nothing.

    A run tells when its passes were of equal steps and one crossfeed with little overlap, without blanks after them,
    and when not more was got than asked: that tells of wear or heat.
    """
    passes = list(dropwhile(lambda each: not each[0], gap.passes))
    steps, crossfeeds = {step for step, _ in passes}, {crossfeed for _, crossfeed in passes}
    if len(passes) < PASSES_LEAST or len(steps) != 1 or len(crossfeeds) != 1 or not 0 < gap.got_mm <= gap.asked_mm:
        return None
    crossfeed = crossfeeds.pop()
    if crossfeed is None:
        return None
    wipes = wipes_of(wheel_width_mm, float(crossfeed))
    if wipes > WIPES_MOST:
        return None
    found = one_wipe(cut_ratio(asked_mm=float(gap.asked_mm), got_mm=float(gap.got_mm), steps=len(passes)), wipes)
    return found if LEAST <= found <= MOST else None


def usual_cut_ratio(learned: Sequence[float], machines: float) -> CutRatio:
    """Return what to plan with: the median of the last ten runs, newest first, else the machine's own figure."""
    recent = list(learned)[:RUNS_KEPT]
    return CutRatio(median(recent), len(recent)) if recent else CutRatio(machines, 0)
