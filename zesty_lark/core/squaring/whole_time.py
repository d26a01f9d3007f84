"""How long what is left of a part takes: every load of every face, with hands, dresses, stops to measure and waits."""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from zesty_lark.core.work.learned import Times
from zesty_lark.core.work.plans import AT_TABLE, PlanSteps
from zesty_lark.core.work.run import Run
from zesty_lark.core.work.time_left import TimeLeft, time_left, whole_range


@dataclass(frozen=True)
class WholeTime:
    """Minutes in all, as they likely come to, and at the table; how often pieces are put up for it, and how many there
    are; and how much less and more it may be, four times of five [min]."""

    minutes: float
    table_minutes: float
    loads: int
    pieces: int = 0
    less: float = 0.0
    more: float = 0.0

    @property
    def range(self) -> TimeLeft:
        """The minutes as a range."""
        return TimeLeft(self.minutes - self.less, self.minutes, self.minutes + self.more, self.table_minutes)


def of_run(run: Run, times: Mapping[str, Times], *, is_flip: bool) -> WholeTime:
    """Return how long the rest of a load takes that is at work, as ``time_left`` has it likely."""
    left = run.plan.steps[run.done :] if run.plan is not None else ()
    table = sum(step.minutes for step in left if step.kind in AT_TABLE)
    time = time_left(run, times, is_flip=is_flip)
    return WholeTime(time.likely, table, 1, less=time.likely - time.low, more=time.high - time.likely)


def of_loads(steps: PlanSteps, *, pieces: int, loads: int, table_minutes: float) -> WholeTime:
    """Return how long pieces take that are put up in so many loads, by the steps for one of them.

    Parameters
    ----------
    steps : PlanSteps
        As one piece would be ground: what is neither pass nor dress is done once a load.
    pieces, loads : int
        Each piece is measured for itself.
    table_minutes : float
        Passes and dresses of one load [min].
    """
    measuring = sum(step.minutes for step in steps.of_kind("measure"))
    by_hand = steps.likely_minutes - steps.table_minutes
    table, alone = loads * table_minutes, whole_range(steps)
    spread = math.sqrt(loads)
    return WholeTime(
        table + loads * by_hand + (pieces - loads) * measuring,
        table,
        loads,
        less=spread * (alone.likely - alone.low),
        more=spread * (alone.high - alone.likely),
    )


def together(times: Iterable[WholeTime], pieces: int) -> WholeTime:
    """Return the sum of what several faces and loads take, for so many pieces; what they may be off by is their own."""
    listed = list(times)
    return WholeTime(
        sum(each.minutes for each in listed),
        sum(each.table_minutes for each in listed),
        sum(each.loads for each in listed),
        pieces,
        math.hypot(*(each.less for each in listed)),
        math.hypot(*(each.more for each in listed)),
    )
