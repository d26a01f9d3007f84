"""How long a run still takes, as a range: the table's time as planned, what hands do as the log knows it."""

from collections.abc import Mapping
from dataclasses import dataclass

from zesty_lark.core.work.learned import Times
from zesty_lark.core.work.plans import MAGNET, PlanStep, PlanSteps
from zesty_lark.core.work.run import Run

TABLE_SHARE = 0.1
"""Reversals, coolant and a look make table time so much longer or shorter."""
COOL_SHARE = 0.25


@dataclass(frozen=True)
class TimeLeft:
    """Minutes of a run or of what is left of it: at the least, likely, at the most, so that four runs of five lie
    between; how many of them the table runs, likely. What is planned anew after a stop, cut and measured once more is
    counted."""

    low: float
    likely: float
    high: float
    table: float


def time_left(run: Run, times: Mapping[str, Times], *, is_flip: bool = False) -> TimeLeft:
    """Return how long the rest of a run's plan takes.

    Parameters
    ----------
    run : Run
    times : mapping of act to Times
        How long hands take at this machine.
    is_flip : bool
        The part only has to be turned over.
    """
    low = likely = high = table = 0.0
    for step in run.plan.steps[run.done :] if run.plan else ():
        hand = _hand(step, run, is_flip)
        if hand is not None and hand in times:
            took = times[hand]
            low, likely, high = low + took.low, likely + took.minutes, high + took.high
            continue
        share = COOL_SHARE if hand or step.kind in ("cool", "blocks", "turn", "chamfer") else TABLE_SHARE
        low += step.minutes * (1 - share)
        likely += step.minutes
        high += step.minutes * (1 + share)
        table += step.minutes if share == TABLE_SHARE else 0.0
    if run.plan is not None and run.done < len(run.plan.steps):
        again, (least, usual, most) = run.plan.round_minutes, run.plan.rounds
        low, likely, high = low + least * again, likely + usual * again, high + most * again
    return TimeLeft(low, likely, high, table)


def whole_range(plan: PlanSteps) -> TimeLeft:
    """Return how long a plan takes in all that has not begun."""
    return ranged(plan.table_minutes, plan.minutes - plan.table_minutes, plan.round_minutes, plan.rounds)


def ranged(table: float, by_hand: float, again: float, rounds: tuple[int, int, int]) -> TimeLeft:
    """Return a time as a range: the table's minutes, what hands do, and what each round once more takes [min]."""
    least, usual, most = (each * again for each in rounds)
    return TimeLeft(
        (1 - TABLE_SHARE) * table + (1 - COOL_SHARE) * by_hand + least,
        table + by_hand + usual,
        (1 + TABLE_SHARE) * table + (1 + COOL_SHARE) * by_hand + most,
        table,
    )


def _hand(step: PlanStep, run: Run, is_flip: bool) -> str | None:
    """Which of the times that are learned a step takes."""
    if step.kind == "place":
        held = MAGNET if run.plan is None else run.plan.holder
        is_flip = step.amount is not None or (is_flip and held == MAGNET)
        return "flip" if is_flip else "place" if held == MAGNET else "fixture"
    return {"touch off": "touch_off", "dress": "dress", "measure": "measure"}.get(step.kind)
