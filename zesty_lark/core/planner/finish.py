"""The finish: its passes, blanks, roughness, size lost and hollow, over every crossfeed, speed and dress."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.compiled import compiled
from zesty_lark.core.planner.hollow import hollow_um
from zesty_lark.core.planner.passes import Bounds, Cutting, Face, Setting, face_of, follow
from zesty_lark.core.planner.problem import FINISH_OVERLAP, DressKind, Problem
from zesty_lark.core.process.evaluate import Fluid, fluid_of
from zesty_lark.core.process.finish import FINISH_R1_UM
from zesty_lark.core.process.kernel import (
    front_lost,
    ra,
    rise,
    side_flow_table,
    slices_of,
    steps_across,
    still_left,
    swelling_um,
    wipes_of,
)
from zesty_lark.core.process.warmth import CHUCK_W_M2K, TOP_W_M2K
from zesty_lark.core.wheel.dressing import DRESSES

__all__ = ["FINISH_HEAT_SHARE", "FLATNESS_SHARE", "SIZE_SHARE", "Finish", "FinishKind", "best_finish"]

Floats = NDArray[np.float64]

FINISH_HEAT_SHARE = 0.75
SIZE_SHARE = 0.1
"""The share of the tolerance that springs and the wheel's wear may keep back in the end."""
FLATNESS_SHARE = 0.5
DIAMOND_MM = 0.8
MOST_BLANKS = 60
KINDS: tuple[DressKind, ...] = ("rough", "general", "fine")
LIMITS = ("temperature", "power", "hold", "flatness", "finish", "size")


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
    """A finish worked out: what it is set to, its time [min], the heat a stroke leaves in the work [J/mm] and all its passes do
    [J], where it is hottest (depth, edge [mm], sharpness), and the share of each limit it uses."""

    kind: FinishKind
    crossfeed: float
    table: float
    dress: DressKind
    blanks: int
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


class _Grid(NamedTuple):
    """Settings of a finish in order of time, as arrays or as the numbers of one: crossfeed [mm], table [mm/s], dress (index
    into ``KINDS``), a pass [s]."""

    crossfeed: Any
    table: Any
    dress: Any
    seconds: Any


class _Dress(NamedTuple):
    """The dresses' sharpness, lead [mm] and depth [mm]."""

    sharpness: Floats
    lead: Floats
    depth: Floats


class _Wanted(NamedTuple):
    """What a finish must keep to: share of the temperature limit, power [W], hold safety, hollow [µm], Ra [µm], size [mm],
    overlap; the face's heat losses [W/m²K] and the edge a dress leaves [mm]."""

    heat_share: float
    power: float
    hold: float
    hollow_um: float
    ra_um: float
    size: float
    overlap: float
    losses: float
    edge: float


class _Finished(NamedTuple):
    """A setting worked out: its cutting, blanks, what the springs and the wheel keep back [mm], hollow and Ra [µm], and the
    share it uses of each of ``LIMITS``."""

    done: Cutting
    blanks: int
    left: float
    lost: float
    hollow_um: float
    ra_um: float
    used: tuple[float, float, float, float, float, float]


@dataclass(frozen=True)
class _Search:
    """What the compiled lines work with."""

    face: Face
    fluid: Fluid
    side_flow: Floats
    wanted: _Wanted
    dresses: _Dress


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
    key = (kind, left_mm)
    if key not in problem.finishes:
        problem.finishes[key] = _worked_out(problem, kind, left_mm)
    finish: Finish = problem.finishes[key]
    return finish


def _worked_out(problem: Problem, kind: FinishKind, left_mm: float) -> Finish:
    grid = _grid(problem, kind)
    unfit = problem.unfit.setdefault(kind, np.zeros(grid.seconds.size, np.bool_))
    place = _search(problem, kind, left_mm, grid, unfit, bounded=True)
    if place >= 0:
        finish = _described(problem, kind, left_mm, grid, place)
        if finish.worst <= 1:
            return finish
        mapped = _next_best(problem, kind, left_mm, grid, unfit)
        if mapped is not None:
            return mapped
    place = _search(problem, kind, left_mm, grid, np.zeros(grid.seconds.size, np.bool_), bounded=False)
    return _described(problem, kind, left_mm, grid, place)


def _next_best(problem: Problem, kind: FinishKind, left_mm: float, grid: _Grid, unfit: NDArray[np.bool_]) -> Finish | None:
    """The quickest whose map is within the flatness, where that of the quickest by estimate is not."""
    s = _searched(problem, True)
    minutes, share, heat_j = (np.full(grid.seconds.size, np.inf) for _ in range(3))
    _every(s.face, s.fluid, s.side_flow, s.wanted, s.dresses, kind.passes, kind.first * problem.graduation,
           kind.step * problem.graduation, left_mm, grid, unfit, minutes, share, heat_j)
    fitting = np.flatnonzero(share <= 1)
    for place in fitting[np.lexsort((share[fitting], np.round(minutes[fitting], 12)))]:
        crossfeed, table = float(grid.crossfeed[place]), float(grid.table[place])
        energy = heat_j[place] / (problem.along * problem.feeding(crossfeed))
        if hollow_um(problem, crossfeed=crossfeed, table=table, passes=kind.passes, energy_j_mm=energy) <= s.wanted.hollow_um:
            return _described(problem, kind, left_mm, grid, int(place))
        if not left_mm:
            unfit[place] = True
    return None


def _search(problem: Problem, kind: FinishKind, left_mm: float, grid: _Grid, unfit: NDArray[np.bool_], *,
            bounded: bool) -> int:
    s = _searched(problem, bounded)
    return int(_quickest(s.face, s.fluid, s.side_flow, s.wanted, s.dresses, kind.passes,
                         kind.first * problem.graduation, kind.step * problem.graduation,
                         left_mm, grid, unfit, bounded))


@lru_cache(maxsize=64)
def _searched(problem: Problem, bounded: bool) -> _Search:
    wanted = _Wanted(min(FINISH_HEAT_SHARE, 1 - problem.margin), float(problem.spindle_w), problem.hold_wanted,
                     FLATNESS_SHARE * problem.flatness_um, float(problem.ra_um), SIZE_SHARE * problem.tolerance,
                     FINISH_OVERLAP, TOP_W_M2K[problem.coolant] + CHUCK_W_M2K, float(problem.grain))
    dresses = [DRESSES[name] for name in KINDS]
    return _Search(face_of(problem, bounded=bounded), fluid_of(problem.coolant), side_flow_table(), wanted, _Dress(
        np.array([each.sharpness for each in dresses]), np.array([DIAMOND_MM / each.overlap for each in dresses]),
        np.array([each.depth_mm for each in dresses])))


@lru_cache(maxsize=256)
def _grid(problem: Problem, kind: FinishKind) -> _Grid:
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
    return _Grid(crossfeed[order], table[order], dress[order], seconds[order])


@compiled
def _quickest(face: Face, fluid: Fluid, table: Floats, wanted: _Wanted, dresses: _Dress, passes: int, first: float,
              step: float, left: float, grid: _Grid, unfit: NDArray[np.bool_], bounded: bool) -> int:
    """The place of the quickest setting within the limits; if none is, -1, or when not ``bounded`` that of the least wrong.

    What is not within them when nothing is left to the springs is marked ``unfit`` and not tried again: what is left only makes
    the passes deeper, so hotter, rougher, with more wear and blanks.
    """
    best, best_seconds, best_share = -1, np.inf, np.inf
    for i in range(grid.seconds.size):
        if (passes + 1) * grid.seconds[i] > best_seconds and best_share <= 1:
            break
        if unfit[i]:
            continue
        one = _Grid(grid.crossfeed[i], grid.table[i], grid.dress[i], grid.seconds[i])
        made = _finished(face, fluid, table, wanted, dresses, passes, first, step, left, one)
        share, seconds = max(made.used), (passes + made.blanks) * one.seconds
        unfit[i] = share > 1 and left == 0 and bounded
        if share <= 1:
            better = best_share > 1 or seconds < best_seconds - 1e-9 or (seconds <= best_seconds + 1e-9 and share < best_share)
        else:
            better = not bounded and best_share > 1 and share < best_share
        if better:
            best, best_seconds, best_share = i, seconds, share
    return best


@compiled
def _every(face: Face, fluid: Fluid, table: Floats, wanted: _Wanted, dresses: _Dress, passes: int, first: float,
           step: float, left: float, grid: _Grid, unfit: NDArray[np.bool_], minutes: Floats, share: Floats,
           heat_j: Floats) -> None:
    """The time, the largest used share and the last pass's heat of every setting that is not known to be unfit."""
    for i in range(grid.seconds.size):
        if not unfit[i]:
            made = _finished(face, fluid, table, wanted, dresses, passes, first, step, left,
                             _Grid(grid.crossfeed[i], grid.table[i], grid.dress[i], grid.seconds[i]))
            minutes[i], share[i] = (passes + made.blanks) * grid.seconds[i], max(made.used)
            heat_j[i] = made.done.last_heat_j


@compiled
def _finished(face: Face, fluid: Fluid, table: Floats, wanted: _Wanted, dresses: _Dress, passes: int, first: float,
              step: float, left: float, one: _Grid) -> _Finished:
    """Work out one setting of a finish."""
    done = follow(face, fluid, table, Bounds(wanted.heat_share if face.most_worn <= 1 else np.inf, np.inf), Setting(
        first, step, passes, one.crossfeed, one.table, wanted.edge, dresses.sharpness[one.dress], left))
    lost = step * front_lost(slices_of(face.wheel_width, one.crossfeed),
                             done.last_kappa * steps_across(face.across, one.crossfeed) * passes)
    wipes, blanks = wipes_of(face.wheel_width, one.crossfeed), 1
    still = still_left(done.left, 0.0, face.cut_ratio, wipes)
    while blanks < MOST_BLANKS and still + lost > wanted.size and lost < wanted.size and face.cut_ratio < 1:
        blanks, still = blanks + 1, still_left(still, 0.0, face.cut_ratio, wipes)
    hollow = swelling_um(face.height, rise(done.last_heat_j, one.seconds, face.height, face.area, wanted.losses))
    rough = ra(FINISH_R1_UM, dresses.lead[one.dress], dresses.depth[one.dress], done.last_chip_um)
    overlap = face.wheel_width / one.crossfeed * (1 + 1e-9)
    return _Finished(done, blanks, still, lost, hollow, rough, (
        done.heat_share / wanted.heat_share, done.power / wanted.power, wanted.hold / max(done.hold, 1e-12),
        hollow / wanted.hollow_um, max(rough / wanted.ra_um, wanted.overlap / overlap if overlap < wanted.overlap else 0.0),
        (still + lost) / wanted.size))


def _described(problem: Problem, kind: FinishKind, left_mm: float, grid: _Grid, place: int) -> Finish:
    s = _searched(problem, False)
    one = _Grid(*(each[place] for each in grid))
    made = _finished(s.face, s.fluid, s.side_flow, s.wanted, s.dresses, kind.passes, kind.first * problem.graduation,
                     kind.step * problem.graduation, left_mm, one)
    passes, crossfeed, table, done = kind.passes + made.blanks, float(one.crossfeed), float(one.table), made.done
    energy = done.last_heat_j / (problem.along * problem.feeding(crossfeed))
    hollow = hollow_um(problem, crossfeed=crossfeed, table=table, passes=kind.passes, energy_j_mm=energy)
    used = dict(zip(LIMITS, made.used, strict=True)) | {"flatness": hollow / s.wanted.hollow_um}
    return Finish(
        kind, crossfeed, table, KINDS[int(one.dress)], made.blanks, problem.strokes(crossfeed) * passes,
        passes * float(one.seconds) / 60, done.temperature, done.limit, done.power, done.tangential, done.hold,
        hollow, made.lost * 1000, made.left * 1000, made.ra_um, done.last_chip_um, energy, done.heat_j,
        (done.hot_depth, done.hot_edge, done.hot_sharpness), tuple(used.items()))
