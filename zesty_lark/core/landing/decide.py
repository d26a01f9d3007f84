"""The decision after a measurement, or at the start: go on, read again, or it has ended."""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from zesty_lark.core.landing.asked import Act, Run
from zesty_lark.core.landing.choose import Way, choose
from zesty_lark.core.landing.follow import Followed
from zesty_lark.core.landing.weigh import Floats, of_a_stop

End = Literal["in", "out", "unsure"]
Reason = Literal["in", "under", "stuck", "read again", "surprise", "sparks", "zero anew", "go on"]
MOST_STOPS = 8
"""So often it is measured at the most; when no cut is allowed any more it is read as often again, and the mean of all
decides."""


@dataclass(frozen=True)
class Decision:
    """What was decided: acts and their way, or the end; the reason as a key; whether the last stop was as expected."""

    acts: tuple[Act, ...]
    end: End | None
    reason: Reason
    way: Way | None = None
    agrees: bool = True


def decide(run: Run, now: Followed) -> Decision:
    """Decide after a measurement, or at the start."""
    return replace(_decided(run, now), agrees=now.agrees == "yes")


def _decided(run: Run, now: Followed) -> Decision:
    count = run.readings_a_stop
    if any(len(readings) % count for readings in now.readings.values()):
        return Decision((Act("measured"),), None, "read again")
    stop = (Act("measured"),) * count
    if now.agrees == "asked again":
        return Decision(stop, None, "surprise")
    if now.agrees == "sparks":
        return Decision((Act("cool"), *stop), None, "sparks")
    if now.readings:
        read = now.read(run)
        if len(read) == len(run.pieces) and _inside(run, read, run.guard_mm):
            return Decision((), "in", "in")
        if read.min() < run.lower_mm - run.guard_mm:
            return Decision((), "out", "under")
    far = bool(now.readings) and now.read(run).max() > run.upper_mm + run.setting_mm
    way = choose(run, now) if far or now.stops < MOST_STOPS else None
    if way is not None:
        reason: Reason = "zero anew" if now.agrees == "zero anew" else "go on"
        return Decision((*way.acts, Act("cool"), *stop), None, reason, way)
    if min((len(readings) for readings in now.readings.values()), default=0) < 2 * count:
        return Decision((Act("cool"), *stop), None, "stuck")
    return _end(run, now)


def _inside(run: Run, read: Floats, guard: float) -> bool:
    return bool(read.min() >= run.lower_mm + guard and read.max() <= run.upper_mm - guard)


def _end(run: Run, now: Followed) -> Decision:
    """No cut is allowed any more: the mean of all readings decides, with its own U."""
    read = np.array([of_a_stop(readings, run.measure_u_mm) for readings in now.readings.values()])
    fewest = min(len(readings) for readings in now.readings.values())
    guard = run.guard_mm * np.sqrt(run.readings_a_stop / fewest)
    if _inside(run, read, guard):
        return Decision((), "in", "in")
    surely = read.min() < run.lower_mm - guard or read.max() > run.upper_mm + guard
    return Decision((), "out" if surely else "unsure", "stuck")
