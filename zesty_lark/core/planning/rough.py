"""The quickest roughing that a finish can follow: settings in order of the least time they could take, tried until
nothing left could be quicker.

For each number of passes the least downfeed, for each number of strokes and wipes the least crossfeed, each table speed
and chamfer; and finishes in order of the least time they could take.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.planning.cutting import Setting, face_of
from zesty_lark.core.planning.finish import DIAMOND_MM, FINISH_HEAT_SHARE, FinishKind, chip_for
from zesty_lark.core.planning.finishes import Ready, confirm, ready
from zesty_lark.core.planning.kernel import side_flow_table
from zesty_lark.core.planning.means import DressKind
from zesty_lark.core.planning.problem import Problem
from zesty_lark.core.planning.rough_known import (
    Cells,
    Finishes,
    Found,
    Given,
    Known,
    Order,
    could_be_quicker,
    nothing_known,
)
from zesty_lark.core.planning.rough_search import LEFT_STEP_MM, walk
from zesty_lark.core.process.evaluate import fluid_of
from zesty_lark.core.process.finish import FINISH_R1_UM, found_again_mm, ra
from zesty_lark.core.process.springs import kept_share, overlaps_of
from zesty_lark.core.quantities.units import UM_A_MM
from zesty_lark.core.wheel.dressing import DRESSES

Floats = NDArray[np.float64]

COVERING_MM = 0.025
"""A finish allowance of this much lets roughing go to the whole temperature limit."""
MARKS_A_RA = 7.0
"""Peak to valley of the marks that roughing leaves, as times its Ra: so much the finish takes at least."""
TINY_MM = 1e-9
SLACK = 0.8
"""With more finish passes one of them is no quicker than with fewer, or by no more than this share: their wheel is as
worn."""


Learned = dict[DressKind, Known]
"""How hot roughings begin, by dress, over the same cells and chamfers."""


@dataclass(frozen=True)
class Space:
    """What may be chosen: finishes; passes or the most of a downfeed [graduations]; crossfeeds [mm], chamfers [mm],
    dress; ``cooler`` dresses that the same was tried with."""

    finishes: Sequence[FinishKind]
    crossfeeds: Sequence[float]
    chamfers: Sequence[float]
    dress: DressKind
    least_downfeed: int = 1
    most_downfeed: int = 10**9
    passes: tuple[int, int] = (1, 10**9)
    cooler: tuple[DressKind, ...] = ()


@dataclass(frozen=True)
class Rough:
    """A roughing: passes, first and further steps in graduations, crossfeed [mm], table [mm/s], leading chamfer [mm],
    dress."""

    passes: int
    first: int
    step: int
    crossfeed: float
    table: float
    chamfer: float
    dress: DressKind

    def setting(self, problem: Problem) -> Setting:
        """What the passes are followed with."""
        return Setting(
            self.first * problem.graduation,
            self.step * problem.graduation,
            self.passes,
            self.crossfeed,
            self.table,
            self.chamfer if self.chamfer > 0 else problem.grain,
            DRESSES[self.dress].sharpness,
            0.0,
            problem.strokes(self.crossfeed) * (problem.stroke / self.table + problem.machine.reversal_s),
            _kept(problem, self.crossfeed),
        )


@dataclass(frozen=True)
class Level:
    """How much of the temperature limit may be used at the most, and how quick a plan has to be [min]."""

    heat_share: float
    quicker_than: float = math.inf

    @property
    def finish_heat(self) -> float:
        """The share that a finish may use."""
        return min(FINISH_HEAT_SHARE, self.heat_share)


@dataclass(frozen=True)
class Quickest:
    """The quickest roughing with its finish: minutes in all, the most it uses of a temperature limit, and what it
    leaves to the springs before the finish [mm]."""

    minutes: float
    heat_used: float
    rough: Rough
    kind: FinishKind
    left_mm: float


def covers(problem: Problem, kind: FinishKind) -> bool:
    """Whether a finish is deep enough to take off what roughing may have heated."""
    return kind.total * problem.graduation >= COVERING_MM - 1e-12


def most_left(problem: Problem, kind: FinishKind) -> float:
    """What roughing may leave to the springs before a finish [mm]: a finish step, or anything before one that covers
    it."""
    return math.inf if covers(problem, kind) else kind.step * problem.graduation * (1 + 1e-9)


def rough_heat(problem: Problem, kind: FinishKind, heat_share: float) -> float:
    """The share of the temperature limit that roughing may use before a finish, of what may be used at the most."""
    return min(1.0 if covers(problem, kind) else FINISH_HEAT_SHARE, heat_share)


def finish_wanted(problem: Problem, rough: Rough, chip_um: float) -> float:
    """What the finish has to take in all after a roughing whose last chip was so thick [mm]: its marks from peak to
    valley, and what a dress may be out by."""
    if not rough.passes:
        return 0.0
    left = DRESSES[rough.dress]
    marks = MARKS_A_RA * ra(FINISH_R1_UM, DIAMOND_MM / left.overlap, left.depth_mm, chip_um) / UM_A_MM
    return max(marks, found_again_mm(problem.graduation))


def most_chip_um(problem: Problem, kind: FinishKind, dress: DressKind) -> float:
    """The thickest chip of a roughing's last pass whose marks a finish takes off [µm]; below 0 where the finish is less
    than what a dress may be out by."""
    total = kind.total * problem.graduation
    if total < found_again_mm(problem.graduation) - TINY_MM:
        return -1.0
    return chip_for(total * UM_A_MM / MARKS_A_RA, DRESSES[dress]) * (1 - TINY_MM)


def _kept(problem: Problem, crossfeed: float) -> float:
    """The share of what is asked and left that the springs hold back in a pass."""
    return kept_share(problem.machine.cut_ratio, overlaps_of(problem.wheel.width_mm, crossfeed))


def split(rough: int, downfeed: int) -> tuple[int, int, int]:
    """Share graduations out: passes, the first and smaller step, and the further ones; nothing to rough is no pass."""
    step = max(1, min(downfeed, rough)) if rough > 0 else 0
    passes = -(-rough // step) if step else 0
    return passes, rough - step * (passes - 1) if passes else 0, step


def quickest(
    problem: Problem, space: Space, levels: Sequence[Level], learned: Learned | None = None
) -> list[Quickest | None]:
    """Return, for each level from the loosest, the quickest roughing that is quicker than it asks with its finish;
    ``None`` if there is none. Of equally quick ones the coolest.

    The hollow of a finish is estimated; that of the quickest is mapped, and where the map is over half the flatness,
    all is looked for again with the next best finish. What is learned of the same space with a rougher dress is in
    ``learned``, and what is learned with this one is added.
    """
    learned = {} if learned is None else learned
    while True:
        best = _quickest(problem, space, levels, learned)
        stay = [
            confirm(problem, found.kind, found.left_mm, level.finish_heat)
            for found, level in zip(best, levels, strict=True)
            if found is not None
        ]
        if all(stay):
            return best


def _quickest(problem: Problem, space: Space, levels: Sequence[Level], learned: Learned) -> list[Quickest | None]:
    best: list[Quickest | None] = [None] * len(levels)
    a_pass: dict[tuple[int, float | None, float], float] = {}
    cells = _cells(problem, space)
    known = learned[space.dress] = _known(problem, space, cells, learned)
    for least, kind in sorted(
        ((_least_minutes(problem, space, kind), kind) for kind in space.finishes),
        key=lambda pair: (pair[0], pair[1].passes, -pair[1].step),
    ):
        now = [
            replace(level, quicker_than=found.minutes) if found else level
            for level, found in zip(levels, best, strict=True)
        ]
        if least > max(level.quicker_than for level in now):
            break
        steps = _steps(problem, space, kind)
        quick = {
            number: finish
            for number, level in enumerate(now)
            if len(steps)
            and max(least, (kind.passes + 1) * SLACK * a_pass.get((kind.step, kind.crossfeed, level.finish_heat), 0.0))
            <= level.quicker_than
            and (finish := ready(problem, kind, 0.0, level.finish_heat)) is not None
        }
        if not quick:
            continue
        for number, finish in quick.items():
            each = (kind.step, kind.crossfeed, now[number].finish_heat)
            a_pass[each] = finish.minutes / (kind.passes + finish.spark_outs)
        still = [(now[number], finish) for number, finish in quick.items()]
        finds = _with_finish(problem, space, kind, still, steps=steps, cells=cells, known=known)
        for number, found in zip(quick, finds, strict=True):
            before = best[number]
            if found is not None and (
                before is None or found.minutes < before.minutes - 1e-9 or found.heat_used < before.heat_used
            ):
                best[number] = found
    return best


def _least_minutes(problem: Problem, space: Space, kind: FinishKind) -> float:
    """A time that no plan with this finish can beat [min]: its passes at their quickest, and a roughing pass if there
    is one."""
    quickest_table = problem.stroke / problem.speeds[-1] + problem.machine.reversal_s
    finishing = problem.strokes(kind.crossfeed or problem.wheel.width_mm / 3) * quickest_table / 60
    rough = problem.graduations - kind.total
    roughing = problem.strokes(max(space.crossfeeds)) * quickest_table / 60 if rough > 0 else 0.0
    return (
        (kind.passes + 1) * finishing + roughing + (1 + (rough > 0)) * problem.dress_minutes if rough >= 0 else math.inf
    )


def _cells(problem: Problem, space: Space) -> Cells:
    crossfeed, table = (
        each.ravel() for each in np.meshgrid(np.array(space.crossfeeds), np.array(problem.speeds), indexing="ij")
    )
    strokes = np.repeat([problem.strokes(each) for each in space.crossfeeds], len(problem.speeds))
    seconds = strokes * (problem.stroke / table + problem.machine.reversal_s)
    order = np.argsort(seconds, kind="stable")
    kept, feeding = (
        np.repeat([one(each) for each in space.crossfeeds], len(problem.speeds))
        for one in (partial(_kept, problem), problem.feeding)
    )
    return Cells(crossfeed[order], table[order], seconds[order], seconds[order] / 60, kept[order], feeding[order])


def _known(problem: Problem, space: Space, cells: Cells, learned: Learned) -> Known:
    """What is known of the cells with a dress, and of a rougher one, where the same was tried with it."""
    most = min(problem.graduations, space.most_downfeed)
    cooler = learned.get(space.cooler[0]) if space.cooler else None
    return nothing_known(cells, len(space.chamfers), most, cooler)


def _with_finish(
    problem: Problem,
    space: Space,
    kind: FinishKind,
    still: Sequence[tuple[Level, Ready]],
    *,
    steps: NDArray[np.int64],
    cells: Cells,
    known: Known,
) -> list[Quickest | None]:
    """The quickest roughing before one finish, level by level."""
    given, finishes, levels = (
        _given(problem, space),
        _finishes(problem, space, kind, still),
        [each[0] for each in still],
    )
    found = Found(
        np.array([level.quicker_than for level in levels]), np.full(len(levels), np.inf), *np.full((3, len(levels)), -1)
    )
    within = (face_of(problem, bounded=True), fluid_of(problem.coolant), side_flow_table())
    fixed = finishes.least + np.where(steps[:, 0] > 0, 2.0, 1.0) * problem.dress_minutes
    bound, row, cell = could_be_quicker(*within, steps, cells, given, finishes, known, found.minutes, fixed)
    sorted_ = np.argsort(bound, kind="stable")
    order, at = Order(bound[sorted_], row[sorted_], cell[sorted_], steps, cells), 0
    while True:
        at, key, asked = walk(*within, order, given, finishes, known, found, at)
        if key < 0:
            return [_found_at(space, kind, order, found, number=number) for number in range(len(levels))]
        finish = ready(problem, kind, key * LEFT_STEP_MM, levels[asked].finish_heat)
        alike = [number for number, level in enumerate(levels) if level.finish_heat == levels[asked].finish_heat]
        finishes.minutes[alike, key] = np.inf if finish is None else finish.minutes
        finishes.heat_used[alike, key] = np.inf if finish is None else finish.heat_used


def _given(problem: Problem, space: Space) -> Given:
    edges = [float(chamfer if chamfer > 0 else problem.grain) for chamfer in space.chamfers]
    sharp = DRESSES[space.dress].sharpness
    return Given(problem.graduation, np.array(edges), min(edges), max(edges), sharp, float(problem.dress_minutes))


def _finishes(problem: Problem, space: Space, kind: FinishKind, still: Sequence[tuple[Level, Ready]]) -> Finishes:
    """What is known of a finish before a roughing is tried."""
    minutes = np.array([finish.minutes for _, finish in still])
    unknown = np.full((len(still), int(problem.graduations * problem.graduation / LEFT_STEP_MM) + 2), -1.0)
    return Finishes(
        np.array([rough_heat(problem, kind, level.heat_share) for level, _ in still]),
        float(minutes[0]),
        minutes - minutes[0],
        unknown,
        unknown.copy(),
        most_left(problem, kind),
        most_chip_um(problem, kind, space.dress),
        max((most_chip_um(problem, kind, dress) for dress in space.cooler), default=-1.0),
    )


def _found_at(space: Space, kind: FinishKind, order: Order, found: Found, *, number: int) -> Quickest | None:
    at = found.at[number]
    if at < 0:
        return None
    (passes, first, step), cells, cell = order.steps[order.row[at]], order.cells, order.cell[at]
    rough = Rough(
        int(passes),
        int(first),
        int(step),
        float(cells.crossfeed[cell]),
        float(cells.table[cell]),
        float(space.chamfers[found.chamfer[number]]),
        space.dress,
    )
    left_mm = int(found.key[number]) * LEFT_STEP_MM
    return Quickest(float(found.minutes[number]), float(found.heat_used[number]), rough, kind, left_mm)


def _steps(problem: Problem, space: Space, kind: FinishKind) -> NDArray[np.int64]:
    """Passes, first step and further step in graduations: the least downfeed for each number of passes."""
    rough = problem.graduations - kind.total
    if rough < 0 or (rough > 0 and most_chip_um(problem, kind, space.dress) < 0):
        return np.empty((0, 3), np.int64)
    if rough == 0:
        return np.array([[0, 0, 0]], np.int64)
    passes = np.arange(max(1, space.passes[0]), min(rough, space.passes[1]) + 1)
    step = -(-rough // passes)
    new = np.concatenate(([True], step[1:] != step[:-1]))[: step.size]
    fits = new & (step >= space.least_downfeed) & (step <= space.most_downfeed)
    step = step[fits]
    passes = -(-rough // step)
    return np.stack((passes, rough - step * (passes - 1), step), axis=1)
