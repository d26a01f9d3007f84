"""The quickest finish of a kind within every limit, found once for a question."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.planning.finish import (
    FINISH_HEAT_SHARE,
    Finish,
    FinishKind,
    cuts_of,
    described,
    finish_heat,
    grid_of,
    searched,
)
from zesty_lark.core.planning.finish_search import Grid, every, finished, quickest
from zesty_lark.core.planning.hollow import hollow_um
from zesty_lark.core.planning.kernel import side_flow_table
from zesty_lark.core.planning.problem import Problem

Marks = NDArray[np.bool_]
TRIED_FIRST = 12
"""So many settings are mapped one after the other before all are worked out."""
TEMPERATURE = 0
"""The place of heat among the shares of a finish."""


@dataclass(frozen=True)
class Ready:
    """The quickest finish of a kind by its estimated hollow: its place in the grid, its time [min], its spark-outs, and
    the share of a temperature limit it uses; whether its hollow was mapped, too."""

    place: int
    minutes: float
    spark_outs: int
    heat_used: float
    mapped: bool = False


def best_finish(problem: Problem, kind: FinishKind, left_mm: float) -> Finish:
    """Return the quickest finish within the limits, or else the one that breaks them least.

    Its hollow is first estimated, then mapped: the quickest whose map, too, is within half the flatness is taken.

    Parameters
    ----------
    problem : Problem
        The question.
    kind : FinishKind
        Passes and step.
    left_mm : float
        What roughing leaves for the springs to give back [mm].
    """
    share = finish_heat(problem)
    confirm(problem, kind, left_mm, share)
    found = ready(problem, kind, left_mm, share)
    if found is not None:
        return described(problem, kind, left_mm, found.place)
    grid, least_wrong = grid_of(problem, kind), searched(problem, share, bounded=False)
    cuts = cuts_of(problem, kind, left_mm)
    unfit, beyond = _unknown(grid)
    place = int(quickest(least_wrong, side_flow_table(), cuts, grid, unfit, beyond, False))
    return described(problem, kind, left_mm, place)


def ready(problem: Problem, kind: FinishKind, left_mm: float, heat_share: float) -> Ready | None:
    """Return the quickest finish within the limits, as far as is known, that uses no more than so much of the
    temperature limit; ``None`` when there is none."""
    kept, key = problem.worked.finishes, (kind, left_mm, heat_share)
    if key not in kept:
        kept[key] = _found(problem, kind, left_mm, heat_share)
        if problem.worked.maps_first:
            confirm(problem, kind, left_mm, heat_share)
    found: Ready | None = kept[key]
    return found


def confirm(problem: Problem, kind: FinishKind, left_mm: float, heat_share: float) -> bool:
    """Map the hollow of what ``ready`` says; where it is over half the flatness, the next best takes its place.

    Returns whether it stays.
    """
    kept, key = problem.worked.finishes, (kind, left_mm, heat_share)
    if key not in kept:
        kept[key] = _found(problem, kind, left_mm, heat_share)
    found: Ready | None = kept[key]
    if found is None or found.mapped:
        return True
    stays = described(problem, kind, left_mm, found.place).worst <= 1
    kept[key] = replace(found, mapped=True) if stays else _next_best(problem, kind, left_mm, heat_share)
    problem.worked.maps_first = problem.worked.maps_first or not stays
    return stays


def _found(problem: Problem, kind: FinishKind, left_mm: float, heat_share: float) -> Ready | None:
    grid, limits = grid_of(problem, kind), searched(problem, heat_share)
    marks = problem.worked.unfit
    if (kind, heat_share) not in marks:
        marks[kind, heat_share] = _marks(problem, kind, heat_share, grid)
    cuts, (unfit, beyond) = cuts_of(problem, kind, left_mm), marks[kind, heat_share]
    place = int(quickest(limits, side_flow_table(), cuts, grid, unfit, beyond, True))
    return None if place < 0 else _ready_at(problem, kind, left_mm, heat_share, place=place)


def _ready_at(
    problem: Problem, kind: FinishKind, left_mm: float, heat_share: float, *, place: int, mapped: bool = False
) -> Ready:
    one = Grid(*(each[place] for each in grid_of(problem, kind)))
    made = finished(searched(problem, heat_share), side_flow_table(), cuts_of(problem, kind, left_mm), one)
    minutes = (kind.passes + made.spark_outs) * float(one.seconds) / 60
    return Ready(place, minutes, made.spark_outs, made.used[TEMPERATURE], mapped)


def _unknown(grid: Grid) -> tuple[Marks, Marks]:
    return np.zeros(grid.seconds.size, np.bool_), np.zeros(grid.seconds.size, np.bool_)


def _marks(problem: Problem, kind: FinishKind, heat_share: float, grid: Grid) -> tuple[Marks, Marks]:
    """What is known to be unfit of a grid, and to be beyond heat, power or hold: with one pass more it still is, for
    the springs hold back more then, and the wheel is worn more; and so it is where less heat may be used."""
    marks = problem.worked.unfit
    fewer = marks.get((replace(kind, passes=kind.passes - 1), heat_share)) if kind.odd is None else None
    looser = marks.get((kind, FINISH_HEAT_SHARE))
    unfit, beyond = _unknown(grid)
    for known in (each for each in (fewer, looser) if each is not None):
        beyond |= known[1]
    unfit |= beyond
    if looser is not None:
        unfit |= looser[0]
    return unfit, beyond


def _next_best(problem: Problem, kind: FinishKind, left_mm: float, heat_share: float) -> Ready | None:
    """The quickest whose map is within the flatness, where that of the quickest by estimate is not."""
    grid, limits, cuts = grid_of(problem, kind), searched(problem, heat_share), cuts_of(problem, kind, left_mm)
    unfit, beyond = problem.worked.unfit[kind, heat_share]
    if left_mm:
        unfit, beyond = unfit.copy(), beyond.copy()
    for _ in range(TRIED_FIRST):
        place = int(quickest(limits, side_flow_table(), cuts, grid, unfit, beyond, True))
        if place < 0:
            return None
        if described(problem, kind, left_mm, place).worst <= 1:
            return _ready_at(problem, kind, left_mm, heat_share, place=place, mapped=True)
        unfit[place] = True
    return _next_of_all(problem, kind, left_mm, heat_share, unfit=unfit)


def _next_of_all(
    problem: Problem, kind: FinishKind, left_mm: float, heat_share: float, *, unfit: Marks
) -> Ready | None:
    grid, s = grid_of(problem, kind), searched(problem, heat_share)
    minutes, share, heat_j, crown = (np.full(grid.seconds.size, np.inf) for _ in range(4))
    every(s, side_flow_table(), cuts_of(problem, kind, left_mm), grid, unfit, minutes, share, heat_j, crown)
    fitting = np.flatnonzero(share <= 1)
    for place in fitting[np.lexsort((share[fitting], np.round(minutes[fitting], 12)))]:
        crossfeed, table = float(grid.crossfeed[place]), float(grid.table[place])
        energy = heat_j[place] / (problem.along * problem.feeding(crossfeed))
        mapped = hollow_um(problem, crossfeed=crossfeed, table=table, passes=kind.passes, energy_j_mm=energy)
        if mapped + crown[place] <= s.wanted.hollow_um:
            return _ready_at(problem, kind, left_mm, heat_share, place=int(place), mapped=True)
        unfit[place] = True
    return None
