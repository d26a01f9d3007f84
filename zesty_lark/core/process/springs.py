"""Springs: what is asked of a pass and what it takes; spark-out.

One pass takes a share η, the cut ratio, of what is asked plus what is still left:
left[i+1] = (left[i] + step)·(1 − η). A spark-out pass has step 0.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from annotated_types import Ge, Le

from zesty_lark.core.quantities import Count, NonNegative, Positive, Ratio

__all__ = ["SparkOut", "crossfed_cut_ratio", "cut_ratio", "left_after", "passes_until", "spark_out", "spark_passes_needed"]

RATIO_SLACK = 1e-9
Passes = Annotated[int, Ge(0), Le(100_000)]


def _check_ratio(ratio: float) -> None:
    if not 0 < ratio <= 1:
        raise ValueError("cut_ratio must be over 0 and at most 1")


def left_after(steps_mm: Sequence[float], cut_ratio: float, *, left_mm: float = 0.0) -> float:
    """Return what the springs still hold back after these steps [mm]; a blank pass is a step of 0.

    Raises
    ------
    ValueError
        If the cut ratio is outside 0 to 1.
    """
    _check_ratio(cut_ratio)
    left = left_mm
    for step in steps_mm:
        left = (left + step) * (1 - cut_ratio)
    return left


@dataclass(frozen=True)
class SparkOut:
    """What each pass takes, blanks included, and what is left after the last [mm]."""

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
    """Return how many blank passes bring ``left_mm`` down to ``allow_mm`` or under."""
    _check_ratio(cut_ratio)
    if left_mm <= allow_mm * (1 + RATIO_SLACK):
        return 0
    if cut_ratio == 1:
        return 1
    return math.ceil(math.log(allow_mm / left_mm) / math.log(1 - cut_ratio) - RATIO_SLACK)


def crossfed_cut_ratio(cut_ratio: float, wheel_width_mm: float, crossfeed_mm: float) -> float:
    """Return the cut ratio of a whole crossfed pass, where each point is wiped several times.

    η_pass = 1 − (1 − η)^max(1, floor(wheel width / crossfeed)).
    """
    _check_ratio(cut_ratio)
    wipes = max(1, math.floor(wheel_width_mm / crossfeed_mm + RATIO_SLACK))
    return 1 - (1 - cut_ratio) ** wipes


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
