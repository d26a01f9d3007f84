"""The finish: its passes, spark-outs, roughness, size lost and hollow, over every crossfeed, speed and dress."""

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.planning.finish_search import LIMITS, Cuts, Dress, Grid, Search, Wanted, every, finished, quickest
from zesty_lark.core.planning.hollow import hollow_um
from zesty_lark.core.planning.kernel import side_flow_table
from zesty_lark.core.planning.means import DressKind
from zesty_lark.core.planning.passes import face_of
from zesty_lark.core.planning.problem import FINISH_OVERLAP, Problem
from zesty_lark.core.process.evaluate import fluid_of
from zesty_lark.core.process.warmth import CHUCK_W_M2K, TOP_W_M2K
from zesty_lark.core.wheel.dressing import DRESSES

Floats = NDArray[np.float64]

FINISH_HEAT_SHARE = 0.75
SIZE_SHARE = 0.1
"""The share of the tolerance that springs and the wheel's wear may keep back in the end."""
FLATNESS_SHARE = 0.5
DIAMOND_MM = 0.8
KINDS: tuple[DressKind, ...] = ("rough", "general", "fine")


@dataclass(frozen=True)
class FinishKind:
    """Finish passes and their step in graduations; a crossfeed when it is fixed [mm]; a first and smaller step."""

    passes: int
    step: int
    crossfeed: float | None = None
    odd: int | None = None

    @property
    def first(self) -> int:
        """The first step in graduations."""
        return self.step if self.odd is None else self.odd

    @property
    def total(self) -> int:
        """What all its passes feed down, in graduations."""
        return self.first + (self.passes - 1) * self.step


@dataclass(frozen=True)
class Finish:
    """A finish worked out: what it is set to, its time [min], the heat a stroke leaves in the work [J/mm] and all its
    passes do [J], where it is hottest (depth, edge [mm], sharpness), and the share of each limit it uses."""

    kind: FinishKind
    crossfeed: float
    table: float
    dress: DressKind
    spark_outs: int
    strokes: int
    minutes: float
    temperature: float
    limit: float
    power: float
    tangential: float
    hold: float
    hollow_um: float
    size_lost_um: float
    left_um: float
    ra_um: float
    last_chip_um: float
    energy_j_mm: float
    heat_j: float
    hottest: tuple[float, float, float]
    used: tuple[tuple[str, float], ...]

    @property
    def worst(self) -> float:
        """The largest used share."""
        return max(share for _, share in self.used)


def _cuts(problem: Problem, kind: FinishKind, left_mm: float) -> Cuts:
    return Cuts(kind.passes, kind.first * problem.graduation, kind.step * problem.graduation, left_mm)


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
    found = finish_within(problem, kind, left_mm)
    if found is not None:
        return found
    key = (kind, left_mm)
    if problem.finishes[key] is None:
        grid = _grid(problem, kind)
        place = _search(problem, kind, left_mm, grid)
        problem.finishes[key] = _described(problem, kind, left_mm, grid, place=place)
    least_wrong: Finish = problem.finishes[key]
    return least_wrong


def finish_within(problem: Problem, kind: FinishKind, left_mm: float) -> Finish | None:
    """Return the quickest finish within the limits, as ``best_finish``; ``None`` when there is none."""
    key = (kind, left_mm)
    if key not in problem.finishes:
        problem.finishes[key] = _worked_out(problem, kind, left_mm)
    finish: Finish | None = problem.finishes[key]
    return finish if finish is not None and finish.worst <= 1 else None


def _worked_out(problem: Problem, kind: FinishKind, left_mm: float) -> Finish | None:
    grid = _grid(problem, kind)
    unfit, too_much = problem.unfit.setdefault(kind, _marks(problem, kind, grid))
    place = _search(problem, kind, left_mm, grid, unfit=unfit, too_much=too_much)
    if place < 0:
        return None
    finish = _described(problem, kind, left_mm, grid, place=place)
    return finish if finish.worst <= 1 else _next_best(problem, kind, left_mm, grid, unfit=unfit)


def _marks(problem: Problem, kind: FinishKind, grid: Grid) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """What is known to be unfit of a grid, and to be beyond heat, power or hold: with one pass more it still is, for
    the springs hold back more then, and the wheel is worn more."""
    fewer = problem.unfit.get(replace(kind, passes=kind.passes - 1)) if kind.odd is None else None
    beyond = np.zeros(grid.seconds.size, np.bool_) if fewer is None else fewer[1]
    return beyond.copy(), beyond.copy()


def _next_best(
    problem: Problem, kind: FinishKind, left_mm: float, grid: Grid, *, unfit: NDArray[np.bool_]
) -> Finish | None:
    """The quickest whose map is within the flatness, where that of the quickest by estimate is not."""
    s = _searched(problem, True)
    minutes, share, heat_j = (np.full(grid.seconds.size, np.inf) for _ in range(3))
    every(s, _cuts(problem, kind, left_mm), grid, unfit, minutes, share, heat_j)
    fitting = np.flatnonzero(share <= 1)
    for place in fitting[np.lexsort((share[fitting], np.round(minutes[fitting], 12)))]:
        crossfeed, table = float(grid.crossfeed[place]), float(grid.table[place])
        energy = heat_j[place] / (problem.along * problem.feeding(crossfeed))
        if (
            hollow_um(problem, crossfeed=crossfeed, table=table, passes=kind.passes, energy_j_mm=energy)
            <= s.wanted.hollow_um
        ):
            return _described(problem, kind, left_mm, grid, place=int(place))
        if not left_mm:
            unfit[place] = True
    return None


def _search(
    problem: Problem,
    kind: FinishKind,
    left_mm: float,
    grid: Grid,
    *,
    unfit: NDArray[np.bool_] | None = None,
    too_much: NDArray[np.bool_] | None = None,
) -> int:
    """The place of the quickest within the limits, -1 if there is none; without marks that of the least wrong then."""
    bounded = unfit is not None
    marked = np.zeros(grid.seconds.size, np.bool_) if unfit is None else unfit
    beyond = np.zeros(grid.seconds.size, np.bool_) if too_much is None else too_much
    s = _searched(problem, bounded)
    return int(quickest(s, _cuts(problem, kind, left_mm), grid, marked, beyond, bounded))


@lru_cache(maxsize=64)
def _searched(problem: Problem, bounded: bool) -> Search:
    wanted = Wanted(
        min(FINISH_HEAT_SHARE, 1 - problem.temperature_margin),
        float(problem.spindle_w),
        problem.hold_wanted,
        FLATNESS_SHARE * problem.flatness_um,
        float(problem.ra_um),
        SIZE_SHARE * problem.tolerance,
        FINISH_OVERLAP,
        TOP_W_M2K[problem.coolant] + CHUCK_W_M2K,
        float(problem.grain),
    )
    dresses = [DRESSES[name] for name in KINDS]
    return Search(
        face_of(problem, bounded=bounded),
        fluid_of(problem.coolant),
        side_flow_table(),
        wanted,
        Dress(
            np.array([dress.sharpness for dress in dresses]),
            np.array([DIAMOND_MM / each.overlap for each in dresses]),
            np.array([each.depth_mm for each in dresses]),
        ),
    )


@lru_cache(maxsize=256)
def _grid(problem: Problem, kind: FinishKind) -> Grid:
    """Every crossfeed with overlap 3 or more, table speed and dress, in order of time."""
    if kind.crossfeed is not None:
        crossfeeds = [kind.crossfeed]
    else:
        widest = problem.snap_crossfeed(problem.wheel.width_mm / FINISH_OVERLAP)
        crossfeeds = [each for each in problem.crossfeeds if each <= widest + 1e-9] or [widest]
    mesh = np.meshgrid(np.array(crossfeeds), np.array(problem.speeds), np.arange(len(KINDS)), indexing="ij")
    crossfeed, table, dress = (each.ravel() for each in mesh)
    strokes = np.repeat([problem.strokes(each) for each in crossfeeds], len(problem.speeds) * len(KINDS))
    seconds = strokes * (problem.stroke / table + problem.machine.reversal_s)
    order = np.lexsort((table, crossfeed, dress, seconds))
    return Grid(crossfeed[order], table[order], dress[order], seconds[order])


def _described(problem: Problem, kind: FinishKind, left_mm: float, grid: Grid, *, place: int) -> Finish:
    s = _searched(problem, False)
    one = Grid(*(each[place] for each in grid))
    made = finished(s, _cuts(problem, kind, left_mm), one)
    passes, crossfeed, table, done = kind.passes + made.spark_outs, float(one.crossfeed), float(one.table), made.done
    energy = done.last_heat_j / (problem.along * problem.feeding(crossfeed))
    hollow = hollow_um(problem, crossfeed=crossfeed, table=table, passes=kind.passes, energy_j_mm=energy)
    used = dict(zip(LIMITS, made.used, strict=True)) | {"flatness": hollow / s.wanted.hollow_um}
    return Finish(
        kind,
        crossfeed,
        table,
        KINDS[int(one.dress)],
        made.spark_outs,
        problem.strokes(crossfeed) * passes,
        passes * float(one.seconds) / 60,
        done.temperature,
        done.limit,
        done.power,
        done.tangential,
        done.hold,
        hollow,
        made.lost * 1000,
        made.left * 1000,
        made.ra_um,
        done.last_chip_um,
        energy,
        done.heat_j,
        (done.hot_depth, done.hot_edge, done.hot_sharpness),
        tuple(used.items()),
    )
