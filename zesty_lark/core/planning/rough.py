"""The quickest roughing that a finish can follow: settings in order of the least time they could take, tried until
nothing left could be quicker.

For each number of passes the least downfeed, for each number of strokes and wipes the least crossfeed, each table speed
and chamfer; and finishes in order of the least time they could take.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.planning.finish import FINISH_HEAT_SHARE, Finish, FinishKind, finish_within
from zesty_lark.core.planning.kernel import side_flow_table
from zesty_lark.core.planning.means import DressKind
from zesty_lark.core.planning.passes import Setting, face_of
from zesty_lark.core.planning.problem import Problem
from zesty_lark.core.planning.rough_search import LEFT_STEP_MM, MOST_NOTED, Finishes, Found, Given, Order, walk
from zesty_lark.core.process.evaluate import fluid_of
from zesty_lark.core.wheel.dressing import DRESSES

Floats = NDArray[np.float64]

COVERING_MM = 0.025
"""A finish allowance of this much lets roughing go to the whole temperature limit."""
SLACK = 0.8
"""With more finish passes one of them is no quicker than with fewer, or by no more than this share: their wheel is as
worn."""


@dataclass(frozen=True)
class Space:
    """What may be chosen: finishes; passes or the most of a downfeed [graduations]; crossfeeds [mm], chamfers [mm],
    dress."""

    finishes: Sequence[FinishKind]
    crossfeeds: Sequence[float]
    chamfers: Sequence[float]
    dress: DressKind
    least_downfeed: int = 1
    most_downfeed: int = 10**9
    passes: tuple[int, int] = (1, 10**9)


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
        )


def covers(problem: Problem, kind: FinishKind) -> bool:
    """Whether a finish is deep enough to take off what roughing may have heated."""
    return kind.total * problem.graduation >= COVERING_MM - 1e-12


def most_left(problem: Problem, kind: FinishKind) -> float:
    """What roughing may leave to the springs before a finish [mm]: a finish step, or anything before one that covers
    it."""
    return math.inf if covers(problem, kind) else kind.step * problem.graduation * (1 + 1e-9)


def rough_heat(problem: Problem, kind: FinishKind) -> float:
    """The share of the temperature limit that roughing may use before a finish."""
    return min(1.0 if covers(problem, kind) else FINISH_HEAT_SHARE, 1 - problem.temperature_margin)


def split(rough: int, downfeed: int) -> tuple[int, int, int]:
    """Share graduations out: passes, the first and smaller step, and the further ones; nothing to rough is no pass."""
    step = max(1, min(downfeed, rough)) if rough > 0 else 0
    passes = -(-rough // step) if step else 0
    return passes, rough - step * (passes - 1) if passes else 0, step


def quickest(problem: Problem, space: Space, quicker_than: float) -> tuple[Rough, FinishKind] | None:
    """Return the quickest roughing that takes less than ``quicker_than`` [min] with its finish, and that finish;
    ``None`` if there is none. Of equally quick ones the coolest."""
    best: tuple[float, float, Rough, FinishKind] | None = None
    a_pass: dict[tuple[int, float | None], float] = {}
    begun = _begun(problem, space)
    for least, kind in sorted(
        ((_least_minutes(problem, space, kind), kind) for kind in space.finishes),
        key=lambda pair: (pair[0], pair[1].passes, -pair[1].step),
    ):
        limit = quicker_than if best is None else best[0]
        if least > limit:
            break
        if (kind.passes + 1) * SLACK * a_pass.get((kind.step, kind.crossfeed), 0.0) > limit:
            continue
        finish = finish_within(problem, kind, 0.0)
        if finish is None:
            continue
        a_pass[kind.step, kind.crossfeed] = finish.minutes / (kind.passes + finish.spark_outs)
        found = _with_finish(problem, space, kind, finish, begun=begun[int(covers(problem, kind))], quicker_than=limit)
        if found is not None and (best is None or found[0] < best[0] - 1e-9 or found[1] < best[1]):
            best = (*found, kind)
    return None if best is None else best[2:]


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


def _begun(problem: Problem, space: Space) -> NDArray[np.int8]:
    """Room to note how roughings begin: before a finish that covers them or not, by first step, place and chamfer."""
    firsts = min(problem.graduations, space.most_downfeed, MOST_NOTED) + 1
    places = len(space.crossfeeds) * len(problem.speeds)
    return np.zeros((2, firsts, places, len(space.chamfers)), np.int8)


def _with_finish(
    problem: Problem, space: Space, kind: FinishKind, least: Finish, *, begun: NDArray[np.int8], quicker_than: float
) -> tuple[float, float, Rough] | None:
    """The quickest roughing before one finish: minutes in all, share of a heat limit used, and the roughing."""
    steps = _steps(problem, space, kind)
    if not len(steps):
        return None
    order = _in_order(problem, space, steps, least, quicker_than=quicker_than)
    if order is None:
        return None
    edges = [float(chamfer if chamfer > 0 else problem.grain) for chamfer in space.chamfers]
    given = Given(
        problem.graduation, np.array(edges), max(edges), DRESSES[space.dress].sharpness, float(problem.dress_minutes)
    )
    unknown = np.full(int(problem.graduations * problem.graduation / LEFT_STEP_MM) + 2, -1.0)
    finishes = Finishes(rough_heat(problem, kind), most_left(problem, kind), unknown, unknown.copy(), begun)
    face, fluid, table = face_of(problem, bounded=True), fluid_of(problem.coolant), side_flow_table()
    found, at = Found(quicker_than, np.inf, -1, 0), 0
    while True:
        found, at, key = walk(face, fluid, table, order, given, finishes, found, at)
        if key < 0:
            break
        within = finish_within(problem, kind, key * LEFT_STEP_MM)
        finishes.minutes[key] = np.inf if within is None else within.minutes
        finishes.heat_used[key] = np.inf if within is None else dict(within.used)["temperature"]
    if found.at < 0:
        return None
    return (
        found.minutes,
        found.heat_used,
        Rough(
            int(order.passes[found.at]),
            int(order.first[found.at]),
            int(order.step[found.at]),
            float(order.crossfeed[found.at]),
            float(order.table[found.at]),
            float(space.chamfers[found.chamfer]),
            space.dress,
        ),
    )


def _in_order(
    problem: Problem, space: Space, steps: NDArray[np.int64], least: Finish, *, quicker_than: float
) -> Order | None:
    """All roughings that could take less than ``quicker_than`` [min]."""
    crossfeed, table = np.array(space.crossfeeds), np.array(problem.speeds)
    strokes = np.array([problem.strokes(each) for each in space.crossfeeds])
    pass_minutes = strokes[:, None] * (problem.stroke / table + problem.machine.reversal_s)[None, :] / 60
    dresses = (1 + (steps[:, 0] > 0))[:, None, None] * problem.dress_minutes
    bound = (steps[:, 0][:, None, None] * pass_minutes + dresses + least.minutes).ravel()
    here = np.flatnonzero(bound < quicker_than)
    if not here.size:
        return None
    here = here[np.argsort(bound[here], kind="stable")]
    row, column, speed = np.unravel_index(here, (len(steps), *pass_minutes.shape))
    return Order(
        bound[here],
        pass_minutes[column, speed],
        steps[row, 0],
        steps[row, 1],
        steps[row, 2],
        crossfeed[column],
        table[speed],
        column * table.size + speed,
    )


def _steps(problem: Problem, space: Space, kind: FinishKind) -> NDArray[np.int64]:
    """Passes, first step and further step in graduations: the least downfeed for each number of passes."""
    rough = problem.graduations - kind.total
    if rough < 0:
        return np.empty((0, 3), np.int64)
    if rough == 0:
        return np.array([[0, 0, 0]], np.int64)
    rows, before = [], 0
    for passes in range(max(1, space.passes[0]), min(rough, space.passes[1]) + 1):
        step = -(-rough // passes)
        if step == before or not space.least_downfeed <= step <= space.most_downfeed:
            continue
        before = step
        rows.append(split(rough, step))
    return np.array(rows, np.int64).reshape(-1, 3)
