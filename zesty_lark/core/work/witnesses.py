"""Power meter, readout and clock as witnesses of a pass: what they show against it is asked about before it counts."""

from datetime import datetime
from decimal import Decimal
from typing import Literal

from zesty_lark.core.process.power_watch import LEAST_W
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import (
    Dressed,
    PassFed,
    Placed,
    SparkedOut,
    StepDone,
    StepSkipped,
    TouchedOff,
    WentOn,
)
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.plans import PASSES, PlanStep

Witness = Literal["air", "readout", "quick"]
"""What was asked about: a meter at idle, a readout off the collar, a pass in less time than its strokes take."""
BEGUN_AFTER = (Placed, TouchedOff, PassFed, SparkedOut, Dressed, StepDone, StepSkipped, WentOn, Measured)
"""What a pass begins after; what is seen or noted may come while it is made."""
LEAST_SHARE = 0.5
"""A pass in less than this share of its strokes' time was hardly made."""


class AskedAbout(LogError):
    """A pass that a witness speaks against; ``about`` is which. Said to be so all the same, it counts."""

    def __init__(self, about: Witness, message: str) -> None:
        super().__init__(message)
        self.about = about


def was_air(step: PlanStep | None, power_w: Decimal | None, idle_w: float) -> bool:
    """Tell whether the meter showed no more in a roughing pass than in one without feed [W]: then nothing was cut, or
    the meter is wrong. Where either is not known nobody can tell."""
    if step is None or step.kind != "rough" or power_w is None or not idle_w:
        return False
    return float(power_w) - idle_w < LEAST_W


def disagree(*, readout_mm: Decimal, collar_mm: Decimal, backlash_mm: Decimal, graduation_mm: Decimal) -> bool:
    """Tell whether readout and collar differ by more than the backlash and two graduations [mm]."""
    return abs(readout_mm - collar_mm) > backlash_mm + 2 * graduation_mm


def least_seconds(step: PlanStep | None) -> float:
    """Return the time under which a pass was hardly made [s]; 0 of what is none."""
    return 0.0 if step is None or step.kind not in PASSES else LEAST_SHARE * 60 * step.minutes


def seconds_since(job_state: JobState, at: datetime) -> float | None:
    """Return how long ago the last thing was done that a pass begins after [s]; ``None`` when nothing was."""
    last = next((entry.at for entry in reversed(job_state.history) if isinstance(entry, BEGUN_AFTER)), None)
    return None if last is None else (at - last).total_seconds()


def too_quick(step: PlanStep | None, job_state: JobState, at: datetime) -> bool:
    """Tell whether a pass logged at a time would have been made in less than half of what its strokes take; of times
    that run backwards nobody can tell."""
    since = seconds_since(job_state, at)
    return since is not None and 0 <= since < least_seconds(step)


def quick_words(step: PlanStep) -> str:
    """Return what is asked of a pass that was logged too soon."""
    minutes, seconds = divmod(round(60 * step.minutes), 60)
    takes = f"{minutes} min {seconds} s" if minutes else f"{seconds} s"
    return f"The table takes {takes} for this pass, and the press before was less than half of that ago. Was it made?"
