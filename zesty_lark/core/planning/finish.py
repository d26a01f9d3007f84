"""The finish: its passes, spark-outs, roughness, size lost and hollow, over every crossfeed, speed and dress."""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from zesty_lark.core.planning.cutting import face_of
from zesty_lark.core.planning.finish_search import LIMITS, Cuts, Dress, Grid, Search, Wanted, finished
from zesty_lark.core.planning.hollow import hollow_um
from zesty_lark.core.planning.kernel import side_flow_table
from zesty_lark.core.planning.means import DressKind
from zesty_lark.core.planning.problem import FINISH_OVERLAP, Problem
from zesty_lark.core.process.evaluate import fluid_of
from zesty_lark.core.process.finish import CHIP_EXPONENT, FINISH_R1_UM, HEQ_REFERENCE_UM, ra
from zesty_lark.core.process.heat import crown_um, held_crown_um
from zesty_lark.core.process.warmth import (
    CHUCK_W_M2K,
    COOL_SHARE,
    SECONDS_A_MINUTE,
    TOP_W_M2K,
    losses_of,
    time_constant,
)
from zesty_lark.core.quantities.steel import STEEL_EXPANSION
from zesty_lark.core.quantities.units import UM_A_MM
from zesty_lark.core.wheel.dressing import DRESSES
from zesty_lark.core.wheel.dressing import Dress as WheelDress

FINISH_HEAT_SHARE = 0.75
SIZE_SHARE = 0.1
"""The share of the tolerance that springs and the wheel's wear may keep back in the end."""
FLATNESS_SHARE = 0.5
COOL_FLAT_C = 0.5
"""Where the magnet does not hold the crown down, a part counts as cool for its flatness when it is no warmer than this
[K]."""
SWELLING_SHARE, UNKNOWN_SWELLING, UNKNOWN_SHARE = 0.25, 0.35, 0.1
"""A part may swell by this share of its zone at the last pass, of the swelling this share is not known, and twice that
may be this share of the zone."""
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
    passes do [J], where it is hottest (depth, edge [mm], sharpness), and the share of each limit it uses; its hollow
    with the crown that is not held, that crown alone, and the swelling at its last feed [µm]."""

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
    crown_um: float
    swelling_um: float
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


def most_swelling_um(zone_mm: float) -> float:
    """Return how much a part may have swollen at its last pass [µm]: a quarter of the zone, and twice what is not known
    of it a tenth."""
    return zone_mm * UM_A_MM * min(SWELLING_SHARE, UNKNOWN_SHARE / (2 * UNKNOWN_SWELLING))


def chip_for(ra_um: float, dress: WheelDress) -> float:
    """Return the chip at which a wheel dressed so leaves a roughness [µm]: ``ra`` turned round."""
    a_unit = ra(FINISH_R1_UM, DIAMOND_MM / dress.overlap, dress.depth_mm, HEQ_REFERENCE_UM)
    return float(HEQ_REFERENCE_UM * (ra_um / a_unit) ** (1 / CHIP_EXPONENT))


def begins_warm(problem: Problem, kind: FinishKind) -> tuple[float, float]:
    """How much warmer the part may be as a finish begins, for its size and for its flatness [K]: where there is
    roughing, what the wait before the dress leaves, a tenth of the zone of swelling and ``COOL_FLAT_C``, after the
    dress's own minutes."""
    if kind.total >= problem.graduations:
        return 0.0, 0.0
    height = problem.part.height_mm
    tau = time_constant(height, losses_of(height, problem.coolant))
    dressed = math.exp(-problem.dress_minutes * SECONDS_A_MINUTE / tau)
    return cool_c(problem) * dressed, COOL_FLAT_C * dressed


def cool_c(problem: Problem) -> float:
    """How much warmer than the room a part is that has swollen by a tenth of its zone [K]."""
    return COOL_SHARE * problem.tolerance / (STEEL_EXPANSION * problem.part.height_mm)


def finish_heat(problem: Problem) -> float:
    """The share of the temperature limit that a finish may use."""
    return min(FINISH_HEAT_SHARE, 1 - problem.temperature_margin)


def cuts_of(problem: Problem, kind: FinishKind, left_mm: float) -> Cuts:
    """What a finish takes after a roughing that leaves so much to the springs [mm]."""
    g = problem.graduation
    return Cuts(kind.passes, kind.first * g, kind.step * g, left_mm, *begins_warm(problem, kind))


def searched(problem: Problem, heat_share: float, *, bounded: bool = True) -> Search:
    """The limits of a search, with the share of the temperature limit that may be used; not ``bounded`` where settings
    are worked out whatever limit they break."""
    kept = problem.worked.searches
    if (heat_share, bounded) not in kept:
        kept[heat_share, bounded] = _searched(problem, heat_share, bounded)
    made: Search = kept[heat_share, bounded]
    return made


def _searched(problem: Problem, heat_share: float, bounded: bool) -> Search:
    part = problem.part
    longest = max(part.length_mm, part.width_mm)
    wanted = Wanted(
        heat_share,
        float(problem.spindle_w),
        problem.hold_wanted,
        FLATNESS_SHARE * problem.flatness_um,
        float(problem.ra_um),
        SIZE_SHARE * problem.tolerance,
        FINISH_OVERLAP,
        most_swelling_um(problem.tolerance),
        TOP_W_M2K[problem.coolant] + CHUCK_W_M2K,
        float(problem.grain),
        crown_um(longest, part.height_mm, 1.0, CHUCK_W_M2K)[1],
        held_crown_um(longest, part.height_mm, problem.pull_n_mm2),
    )
    return Search(
        face_of(problem, bounded=bounded),
        problem.machine.cut_ratio,
        fluid_of(problem.coolant),
        wanted,
        Dress(
            _by_dress(lambda dress: dress.sharpness),
            _by_dress(lambda dress: DIAMOND_MM / dress.overlap),
            _by_dress(lambda dress: dress.depth_mm),
            _by_dress(lambda dress: chip_for(float(problem.ra_um), dress)),
        ),
    )


def _by_dress(figure: Callable[[WheelDress], float]) -> tuple[float, float, float]:
    """A figure of the rough, the general and the fine dress."""
    rough, general, fine = (figure(DRESSES[kind]) for kind in KINDS)
    return rough, general, fine


def grid_of(problem: Problem, kind: FinishKind) -> Grid:
    """Every crossfeed with overlap 3 or more, table speed and dress, in order of time."""
    kept = problem.worked.grids
    if kind.crossfeed not in kept:
        kept[kind.crossfeed] = _ordered(problem, kind.crossfeed)
    grid: Grid = kept[kind.crossfeed]
    return grid


def _ordered(problem: Problem, only: float | None) -> Grid:
    if only is not None:
        crossfeeds = [only]
    else:
        widest = problem.snap_crossfeed(problem.wheel.width_mm / FINISH_OVERLAP)
        crossfeeds = [each for each in problem.crossfeeds if each <= widest + 1e-9] or [widest]
    mesh = np.meshgrid(np.array(crossfeeds), np.array(problem.speeds), np.arange(len(KINDS)), indexing="ij")
    crossfeed, table, dress = (each.ravel() for each in mesh)
    strokes = np.repeat([problem.strokes(each) for each in crossfeeds], len(problem.speeds) * len(KINDS))
    seconds = strokes * (problem.stroke / table + problem.machine.reversal_s)
    order = np.lexsort((table, crossfeed, dress, seconds))
    return Grid(crossfeed[order], table[order], dress[order], seconds[order])


def described(problem: Problem, kind: FinishKind, left_mm: float, place: int) -> Finish:
    """Work a finish out at one place of its grid, its hollow mapped."""
    grid = grid_of(problem, kind)
    s = searched(problem, finish_heat(problem), bounded=False)
    one = Grid(*(each[place] for each in grid))
    made = finished(s, side_flow_table(), cuts_of(problem, kind, left_mm), one)
    passes, crossfeed, table, done = kind.passes + made.spark_outs, float(one.crossfeed), float(one.table), made.done
    energy = done.last_heat_j / (problem.along * problem.feeding(crossfeed))
    hollow = made.crown_um + hollow_um(
        problem, crossfeed=crossfeed, table=table, passes=kind.passes, energy_j_mm=energy
    )
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
        made.crown_um,
        made.swelling_um,
        made.lost * 1000,
        made.left * 1000,
        made.ra_um,
        done.last_chip_um,
        energy,
        done.heat_j,
        (done.hot_depth, done.hot_edge, done.hot_sharpness),
        tuple(used.items()),
    )
