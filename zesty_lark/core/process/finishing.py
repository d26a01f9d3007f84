"""The finish: its passes, blanks, roughness, size lost and hollow, over every crossfeed, speed and dress."""

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.compiled import compiled
from zesty_lark.core.measure.cooling import STEEL_EXPANSION
from zesty_lark.core.process.cutting import Bounds, Cutting, Face, Settings, face_of, follow
from zesty_lark.core.process.evaluate import Fluid, fluid_of
from zesty_lark.core.process.finish import FINISH_R1_UM, HEQ_REFERENCE_UM
from zesty_lark.core.process.heat import C_J_KGK, CHUCK_W_M2K, RHO_KG_M3, TOP_W_M2K
from zesty_lark.core.process.kernel import side_flow_table
from zesty_lark.core.process.plan_input import Asked, DressKind
from zesty_lark.core.wheel.dressing import DRESSES

__all__ = ["FINISH_HEAT_SHARE", "SIZE_SHARE", "Finish", "FinishKind", "best_finish"]

Floats = NDArray[np.float64]

FINISH_HEAT_SHARE = 0.75
SIZE_SHARE = 0.1
"""The share of the tolerance that springs and the wheel's wear may keep back in the end."""
FLATNESS_SHARE = 0.5
OVERLAP_LEAST = 3.0
DIAMOND_MM = 0.8
MOST_BLANKS = 60
KINDS: tuple[DressKind, ...] = ("rough", "general", "fine")
LIMITS = ("temperature", "power", "hold", "flatness", "finish", "size")


@dataclass(frozen=True)
class FinishKind:
    """Finish passes and their step in graduations; a crossfeed when it is fixed [mm]."""

    passes: int
    step: int
    crossfeed: float | None = None


@dataclass(frozen=True)
class Finish:
    """A finish worked out: what it is set to, its time [min], the heat a stroke leaves in the work [J/mm], where it is hottest
    (depth, edge [mm], sharpness), and the share of each limit it uses."""

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
    energy_j_mm: float
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
    """What a finish must keep to: share of the temperature limit, power [W], hold safety, hollow [µm], Ra [µm], size [mm];
    the face's heat losses [W/m²K] and the edge a dress leaves [mm]."""

    heat_share: float
    power: float
    hold: float
    hollow_um: float
    ra_um: float
    size: float
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
class _Question:
    """What the compiled lines work with."""

    face: Face
    fluid: Fluid
    side_flow: Floats
    wanted: _Wanted
    dresses: _Dress


def best_finish(asked: Asked, kind: FinishKind, left_mm: float) -> Finish:
    """Return the quickest finish within the limits, or else the one that breaks them least.

    Parameters
    ----------
    asked : Asked
        The question.
    kind : FinishKind
        Passes and step.
    left_mm : float
        What roughing leaves for the springs to give back [mm].
    """
    key = (kind, left_mm)
    if key not in asked.finishes:
        grid = _grid(asked, kind)
        unfit = asked.unfit.setdefault(kind, np.zeros(grid.seconds.size, np.bool_))
        pick = _search(asked, kind, left_mm, grid, unfit, careless=False)
        if pick < 0:
            pick = _search(asked, kind, left_mm, grid, np.zeros(grid.seconds.size, np.bool_), careless=True)
        asked.finishes[key] = _described(asked, kind, left_mm, grid, pick)
    finish: Finish = asked.finishes[key]
    return finish


def _search(asked: Asked, kind: FinishKind, left_mm: float, grid: _Grid, unfit: NDArray[np.bool_], careless: bool) -> int:
    q = _question(asked, careless)
    return int(_quickest(q.face, q.fluid, q.side_flow, q.wanted, q.dresses, kind.passes, kind.step * asked.graduation,
                         left_mm, grid, unfit, careless))


@lru_cache(maxsize=64)
def _question(asked: Asked, careless: bool) -> _Question:
    machine = asked.machine
    wanted = _Wanted(max(FINISH_HEAT_SHARE - asked.margin, 1e-9), float(machine.spindle_w), asked.hold_wanted,
                     FLATNESS_SHARE * asked.flatness_um, float(asked.ra_um), SIZE_SHARE * asked.tolerance,
                     TOP_W_M2K[asked.coolant] + CHUCK_W_M2K, float(asked.grain))
    dresses = [DRESSES[name] for name in KINDS]
    return _Question(face_of(asked, careless), fluid_of(asked.coolant), side_flow_table(), wanted, _Dress(
        np.array([each.sharpness for each in dresses]), np.array([DIAMOND_MM / each.overlap for each in dresses]),
        np.array([each.depth_mm for each in dresses])))


@lru_cache(maxsize=64)
def _grid(asked: Asked, kind: FinishKind) -> _Grid:
    """Every crossfeed with overlap 3 or more, table speed and dress, in order of time."""
    if kind.crossfeed is not None:
        crossfeeds = [kind.crossfeed]
    else:
        widest = asked.snap_crossfeed(asked.wheel.width_mm / OVERLAP_LEAST)
        crossfeeds = [each for each in asked.crossfeeds if each <= widest + 1e-9] or [widest]
    mesh = np.meshgrid(np.array(crossfeeds), np.array(asked.speeds), np.arange(len(KINDS)), indexing="ij")
    crossfeed, table, dress = (each.ravel() for each in mesh)
    strokes = np.repeat([asked.strokes(each) for each in crossfeeds], len(asked.speeds) * len(KINDS))
    seconds = strokes * (asked.stroke / table + asked.machine.reversal_s)
    order = np.lexsort((table, crossfeed, dress, seconds))
    return _Grid(crossfeed[order], table[order], dress[order], seconds[order])


@compiled
def _quickest(face: Face, fluid: Fluid, table: Floats, wanted: _Wanted, dresses: _Dress, passes: int, step: float,
              left: float, grid: _Grid, unfit: NDArray[np.bool_], careless: bool) -> int:
    """The place of the quickest setting within the limits; if none is, -1, or when ``careless`` that of the least wrong.

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
        made = _finished(face, fluid, table, wanted, dresses, passes, step, left, one)
        share, seconds = max(made.used), (passes + made.blanks) * one.seconds
        unfit[i] = share > 1 and left == 0 and not careless
        if share <= 1:
            better = best_share > 1 or seconds < best_seconds - 1e-9 or (seconds <= best_seconds + 1e-9 and share < best_share)
        else:
            better = careless and best_share > 1 and share < best_share
        if better:
            best, best_seconds, best_share = i, seconds, share
    return best


@compiled
def _finished(face: Face, fluid: Fluid, table: Floats, wanted: _Wanted, dresses: _Dress, passes: int, step: float,
              left: float, one: _Grid) -> _Finished:
    """Work out one setting of a finish."""
    done = follow(face, fluid, table, Bounds(wanted.heat_share if face.most_worn <= 1 else np.inf, np.inf), Settings(
        step, step, passes, one.crossfeed, one.table, wanted.edge, dresses.sharpness[one.dress], left))
    lost = step * _poisson_from(max(1, int(face.wheel_width / one.crossfeed + 0.5 + 1e-9)),
                                done.last_kappa * math.ceil(face.across / one.crossfeed - 1e-9) * passes)
    keeps = (1 - face.cut_ratio) ** max(1, int(face.wheel_width / one.crossfeed + 1e-9))
    blanks, still = 1, done.left * keeps
    while blanks < MOST_BLANKS and still + lost > wanted.size and lost < wanted.size and keeps > 0:
        blanks, still = blanks + 1, still * keeps
    hollow = _hollow(face, wanted.losses, done.last_heat_j, one.seconds)
    ra = FINISH_R1_UM * math.sqrt(dresses.lead[one.dress]) * dresses.depth[one.dress] ** 0.25 * (
        done.last_chip_um / HEQ_REFERENCE_UM) ** 0.3
    return _Finished(done, blanks, still, lost, hollow, ra, (
        done.heat_share / wanted.heat_share, done.power / wanted.power, wanted.hold / max(done.hold, 1e-12),
        hollow / wanted.hollow_um, ra / wanted.ra_um, (still + lost) / wanted.size))


@compiled
def _poisson_from(least: int, mean: float) -> float:
    """P(Poisson(mean) ≥ least), term by term."""
    term, below = math.exp(-mean), 0.0
    for count in range(min(least, 400)):
        below += term
        term *= mean / (count + 1)
    return min(max(1 - below, 0.0), 1.0)


@compiled
def _hollow(face: Face, losses: float, heat_j: float, seconds: float) -> float:
    """α·H·(E/(t_p·h·A))·(1 − e^(−t_p/τ)) [µm]."""
    tau = RHO_KG_M3 * C_J_KGK * face.height * 1e-3 / losses
    rise = heat_j / (seconds * losses * face.area * 1e-6) * (1 - math.exp(-seconds / tau))
    return STEEL_EXPANSION * face.height * rise * 1000


def _described(asked: Asked, kind: FinishKind, left_mm: float, grid: _Grid, pick: int) -> Finish:
    q = _question(asked, careless=True)
    one = _Grid(*(each[pick] for each in grid))
    made = _finished(q.face, q.fluid, q.side_flow, q.wanted, q.dresses, kind.passes, kind.step * asked.graduation, left_mm,
                     one)
    passes, crossfeed, done = kind.passes + made.blanks, float(one.crossfeed), made.done
    return Finish(
        kind, crossfeed, float(one.table), KINDS[int(one.dress)], made.blanks, asked.strokes(crossfeed) * passes,
        passes * float(one.seconds) / 60, done.temperature, done.limit, done.power, done.tangential, done.hold,
        made.hollow_um, made.lost * 1000, made.left * 1000, made.ra_um,
        done.last_heat_j / (asked.along * asked.feeding(crossfeed)),
        (done.hot_depth, done.hot_edge, done.hot_sharpness), tuple(zip(LIMITS, made.used, strict=True)))
