"""Springs: what is asked of a pass and what it takes; spark-out.

One pass takes a share η, the cut ratio, of what is asked plus what is still left:
left[i+1] = (left[i] + step)·(1 − η). A spark-out pass has step 0.
"""

import math
from dataclasses import dataclass
from typing import Annotated

from annotated_types import Ge, Le, MaxLen, MinLen

from zesty_lark.core.quantities.numbers import Count, NonNegative, Positive, Ratio
from zesty_lark.core.quantities.units import UM_A_MM

RATIO_SLACK = 1e-9
Passes = Annotated[int, Ge(0), Le(100_000)]


def _check_ratio(ratio: float) -> None:
    if not 0 < ratio <= 1:
        raise ValueError("cut_ratio must be over 0 and at most 1")


def overlaps_of(wheel_width_mm: float, crossfeed_mm: float) -> int:
    """Return how often a crossfed pass wipes each point: max(1, floor(wheel width/crossfeed))."""
    return max(1, int(wheel_width_mm / crossfeed_mm + RATIO_SLACK))


def kept_share(cut_ratio: float, overlaps: float) -> float:
    """Return the share of what is asked and still left that the springs hold back in a pass: (1 − η)^wipes."""
    return math.pow(1.0 - cut_ratio, overlaps)


def still_left(left_mm: float, step_mm: float, kept: float) -> float:
    """Return what the springs hold back after a pass: (left + step)·kept share [mm]."""
    return (left_mm + step_mm) * kept


@dataclass(frozen=True)
class Pass:
    """One crossfed pass: its step, 0 for a spark-out, and its own crossfeed [mm]."""

    step_mm: NonNegative
    crossfeed_mm: Positive


@dataclass(frozen=True)
class Left:
    """What the springs hold back after each pass [µm], and what was taken in all [mm]."""

    left_um: list[float]
    taken_mm: float


def pass_left(
    *,
    cut_ratio: Ratio,
    wheel_width_mm: Positive,
    passes: Annotated[list[Pass], MinLen(1), MaxLen(10_000)],
    left_mm: NonNegative = 0.0,
) -> Left:
    """Follow what is still to spark out pass by pass, each with its own crossfeed: roughing, spark-outs, finish,
    spark-outs.

    Parameters
    ----------
    cut_ratio : float
        η of one wipe.
    wheel_width_mm : float
        Wheel's width [mm].
    passes : list of Pass
        In the order they are run.
    left_mm : float
        What was held back before the first [mm].
    """
    left, held = left_mm, []
    for one_pass in passes:
        kept = kept_share(cut_ratio, overlaps_of(wheel_width_mm, one_pass.crossfeed_mm))
        left = still_left(left, one_pass.step_mm, kept)
        held.append(left * UM_A_MM)
    return Left(held, left_mm + math.fsum(each.step_mm for each in passes) - left)


@dataclass(frozen=True)
class SparkOut:
    """What each pass takes, spark-outs included, and what is left after the last [mm]."""

    removed_mm: list[float]
    left_mm: float


def spark_out(*, step_mm: NonNegative, steps: Passes, cut_ratio: Ratio, spark_passes: Passes) -> SparkOut:
    """Follow equal steps and the spark-out after them.

    Step [mm]; ``removed_mm`` of the answer is ``steps + spark_passes`` long.

    Raises
    ------
    ValueError
        If a count or the step is negative, or the cut ratio outside 0 to 1.
    """
    _check_ratio(cut_ratio)
    if step_mm < 0 or steps < 0 or spark_passes < 0:
        raise ValueError("step_mm, steps and spark_passes must not be negative")
    removed: list[float] = []
    left = 0.0
    for step in [step_mm] * steps + [0.0] * spark_passes:
        removed.append((left + step) * cut_ratio)
        left = (left + step) * (1 - cut_ratio)
    return SparkOut(removed, left)


def spark_passes_needed(*, step_mm: NonNegative, steps: Passes, cut_ratio: Ratio, allow_mm: Positive) -> int:
    """Return how many spark-out passes bring what is left down to ``allow_mm`` [mm] or under.

    Raises
    ------
    ValueError
        If the allowance is not over 0, a count or the step is negative, or the cut ratio outside 0 to 1.
    """
    if not allow_mm > 0:
        raise ValueError("allow_mm must be over 0")
    run = spark_out(step_mm=step_mm, steps=steps, cut_ratio=cut_ratio, spark_passes=0)
    return passes_until(run.left_mm, cut_ratio, allow_mm)


def passes_until(left_mm: float, cut_ratio: float, allow_mm: float) -> int:
    """Return how many spark-out passes bring ``left_mm`` down to ``allow_mm`` or under."""
    _check_ratio(cut_ratio)
    if left_mm <= allow_mm * (1 + RATIO_SLACK):
        return 0
    if cut_ratio == 1:
        return 1
    return math.ceil(math.log(allow_mm / left_mm) / math.log(1 - cut_ratio) - RATIO_SLACK)


def of_one_overlap(pass_ratio: float, overlaps: int) -> float:
    """Return η of one wipe from that of a whole pass: 1 − (1 − η_pass)^(1/wipes)."""
    return 1 - math.pow(1 - pass_ratio, 1 / overlaps)


def cut_ratio(*, asked_mm: Positive, got_mm: Positive, steps: Count) -> float:
    """Solve the cut ratio η from a run of equal steps: asked in total, got in total.

    Raises
    ------
    ValueError
        If nothing was asked, got is not between 0 and asked, or there is no step.
    """
    if not asked_mm > 0:
        raise ValueError("asked_mm must be over 0")
    if steps < 1:
        raise ValueError("steps must be at least 1")
    if not 0 < got_mm <= asked_mm:
        raise ValueError("got_mm must be over 0 and at most asked_mm")
    step = asked_mm / steps
    wanted = asked_mm - got_mm
    low, high = 0.0, 1.0
    for _ in range(200):
        middle = (low + high) / 2
        if _held_back(step, steps, middle) > wanted:
            low = middle
        else:
            high = middle
    return (low + high) / 2


def _held_back(step: float, steps: int, ratio: float) -> float:
    """What is left after equal steps, in closed form: step·(1−η)·(1 − (1−η)^n)/η."""
    if ratio == 0:
        return step * steps
    return step * (1 - ratio) * (1 - (1 - ratio) ** steps) / ratio
