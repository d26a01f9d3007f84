"""How long what is left of a part takes: every load of every face, with hands, dresses, stops to measure and waits."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from zesty_lark.core.work.learned import Times
from zesty_lark.core.work.plans import AT_TABLE, PlanSteps
from zesty_lark.core.work.run import Run
from zesty_lark.core.work.time_left import time_left


@dataclass(frozen=True)
class WholeTime:
    """Minutes in all and at the table; how often pieces are put up for it, and how many there are."""

    minutes: float
    table_minutes: float
    loads: int
    pieces: int = 0


def of_run(run: Run, times: Mapping[str, Times], *, is_flip: bool) -> WholeTime:
    """Return how long the rest of a load takes that is at work, as ``time_left`` has it likely."""
    left = run.plan.steps[run.done :] if run.plan is not None else ()
    table = sum(step.minutes for step in left if step.kind in AT_TABLE)
    return WholeTime(time_left(run, times, is_flip=is_flip).likely, table, 1)


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
    by_hand = steps.minutes - steps.table_minutes
    table = loads * table_minutes
    return WholeTime(table + loads * by_hand + (pieces - loads) * measuring, table, loads)


def together(times: Iterable[WholeTime], pieces: int) -> WholeTime:
    """Return the sum of what several faces and loads take, for so many pieces."""
    listed = list(times)
    return WholeTime(
        sum(each.minutes for each in listed),
        sum(each.table_minutes for each in listed),
        sum(each.loads for each in listed),
        pieces,
    )
