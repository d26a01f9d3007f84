"""What a page offers first: the quickest plan whose table is not slow, unless that costs too much."""

from dataclasses import replace
from typing import NamedTuple

from zesty_lark.core.planning.best import best_of
from zesty_lark.core.planning.plan import Plan
from zesty_lark.core.planning.problem import Problem
from zesty_lark.core.quantities.numbers import InputError

BRISK_MM_S = 100.0
"""A slower table leaves more heat in the part [mm/s]."""
WORTH = 1.2
"""A plan with a slow table is offered only where the brisk one takes more than so many times its minutes."""


class Offer(NamedTuple):
    """The plan that is offered first, and the question it answers: as it was asked, or of brisk table speeds only."""

    plan: Plan
    problem: Problem


def offered(problem: Problem) -> Offer:
    """Return the quickest plan at ``BRISK_MM_S`` or more where the machine reaches that, unless it costs over a fifth.

    Raises
    ------
    InputError
        As ``pass.optimise``.
    """
    best = best_of(problem)
    brisk = tuple(speed for speed in problem.speeds if speed >= BRISK_MM_S - 1e-9)
    slowest = min(best.table_mm_s, best.finish_table_mm_s) if best.rough_passes else best.finish_table_mm_s
    if not brisk or slowest >= BRISK_MM_S - 1e-9:
        return Offer(best, problem)
    only = replace(problem, speeds=brisk)
    try:
        plan = best_of(only)
    except InputError:
        return Offer(best, problem)
    return Offer(plan, only) if plan.minutes <= WORTH * best.minutes else Offer(best, problem)
