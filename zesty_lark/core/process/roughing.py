"""The quickest roughing that a finish can follow: settings in order of the least time they could take, tried until nothing
left could be quicker.

For each number of passes the least downfeed, for each number of strokes the least crossfeed, each table speed and chamfer.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.compiled import compiled
from zesty_lark.core.process.cutting import Bounds, Cutting, Face, Settings, face_of, follow
from zesty_lark.core.process.evaluate import Fluid, fluid_of
from zesty_lark.core.process.finishing import FINISH_HEAT_SHARE, FinishKind, best_finish
from zesty_lark.core.process.kernel import side_flow_table
from zesty_lark.core.process.plan_input import Asked, DressKind
from zesty_lark.core.wheel.dressing import DRESSES

__all__ = ["Found", "LEFT_STEP_MM", "Space", "covers", "most_left", "quickest", "rough_blanks", "rough_heat"]

Floats = NDArray[np.float64]

COVERING_MM = 0.025
"""A finish allowance of this much lets roughing go to the whole temperature limit."""
LEFT_STEP_MM = 5e-4
"""What roughing leaves is rounded up to this for choosing the finish."""
MOST_BLANKS = 100


@dataclass(frozen=True)
class Space:
    """What may be chosen: finishes; passes or the most of a downfeed [graduations]; crossfeeds [mm], chamfers [mm], dress."""

    finishes: Sequence[FinishKind]
    crossfeeds: Sequence[float]
    chamfers: Sequence[float]
    dress: DressKind
    least_downfeed: int = 1
    most_downfeed: int = 10**9
    passes: tuple[int, int] = (1, 10**9)


class Found(NamedTuple):
    """The quickest so far: its minutes, the most it uses of a temperature limit, its place in the order and its chamfer
    (index); no place when there is none."""

    minutes: float
    heat_used: float
    at: int
    chamfer: int


class Order(NamedTuple):
    """Roughings in order of the least time they could take, as arrays: that time and a pass [min], the finish they lead to
    (index), passes, first and further steps [mm], crossfeed [mm], table [mm/s], and the row kept of them in ``broken``."""

    bound: Any
    pass_minutes: Any
    finish: Any
    passes: Any
    first: Any
    step: Any
    crossfeed: Any
    table: Any
    row: Any


class Finishes(NamedTuple):
    """What is known of the finishes: the heat share roughing may use before each and the most it may leave to the springs
    [mm]; and by what is left (in ``LEFT_STEP_MM``) the minutes, negative if not known, and the share of the heat limit."""

    heat_share: Floats
    most_left: Floats
    minutes: Floats
    heat_used: Floats


class Given(NamedTuple):
    """What is the same for all: chamfers and the edge of a dress without one [mm], sharpness, minutes to dress, cut ratio."""

    chamfers: Floats
    edge: float
    sharpness: float
    dress_minutes: float


def covers(asked: Asked, kind: FinishKind) -> bool:
    """Whether a finish is deep enough to take off what roughing may have heated."""
    return kind.passes * kind.step * asked.graduation >= COVERING_MM - 1e-12


def most_left(asked: Asked, kind: FinishKind) -> float:
    """What roughing may leave to the springs before a finish [mm]: a finish step, or anything before one that covers it."""
    return math.inf if covers(asked, kind) else kind.step * asked.graduation * (1 + 1e-9)


def rough_heat(asked: Asked, kind: FinishKind) -> float:
    """The share of the temperature limit that roughing may use before a finish."""
    return max((1.0 if covers(asked, kind) else FINISH_HEAT_SHARE) - asked.margin, 1e-9)


def quickest(asked: Asked, space: Space, quicker_than: float) -> tuple[Settings, FinishKind, float] | None:
    """Return the quickest roughing that takes less than ``quicker_than`` [min] with its finish: its settings, the finish, and
    its chamfer [mm]; ``None`` if there is none. Of equally quick ones the coolest."""
    shape = (_rows(asked, space), len(space.chamfers))
    broken = asked.broken.setdefault(_same_grid(space), np.zeros(shape, np.bool_))
    order = _in_order(asked, space, quicker_than, broken.all(axis=1))
    if order is None:
        return None
    given = Given(np.array(space.chamfers, np.float64), float(asked.grain), DRESSES[space.dress].sharpness,
                  float(asked.dress_minutes))
    finishes = _finishes(asked, space)
    face, fluid, table = face_of(asked, careless=False), fluid_of(asked.coolant), side_flow_table()
    found, at = Found(quicker_than, np.inf, -1, 0), 0
    while True:
        found, at, key = _walk(face, fluid, table, order, given, finishes, broken, found, at)
        if key < 0:
            break
        index = int(order.finish[at])
        finish = best_finish(asked, space.finishes[index], key * LEFT_STEP_MM)
        finishes.minutes[index, key] = finish.minutes if finish.worst <= 1 else np.inf
        finishes.heat_used[index, key] = dict(finish.used)["temperature"]
    if found.at < 0:
        return None
    return _settings(order, given, found), space.finishes[int(order.finish[found.at])], float(given.chamfers[found.chamfer])


def _settings(order: Order, given: Given, found: Found) -> Settings:
    at, chamfer = found.at, given.chamfers[found.chamfer]
    return Settings(*(np.array([each]) for each in (
        order.first[at], order.step[at], order.passes[at], order.crossfeed[at], order.table[at],
        chamfer if chamfer > 0 else given.edge, given.sharpness, 0.0)))


@compiled
def _walk(face: Face, fluid: Fluid, table: Floats, order: Order, given: Given, finishes: Finishes,
          broken: NDArray[np.bool_], found: Found, start: int) -> tuple[Found, int, int]:
    """Try roughings from ``start``; stop at the end, or where a finish must be known: return its place and what is left."""
    for at in range(start, order.bound.size):
        if order.bound[at] > found.minutes:
            break
        for chamfer in range(given.chamfers.size):
            if broken[order.row[at], chamfer]:
                continue
            done, spare = _rough(face, fluid, table, order, given, finishes, found, at, chamfer)
            if done.dresses > spare:
                continue
            index = order.finish[at]
            if (done.heat_share > finishes.heat_share[index] or done.power > face.most_power
                    or done.tangential > face.most_tangential or done.worn_share > face.most_worn):
                broken[order.row[at], chamfer] = True
                continue
            blanks, left = rough_blanks(face, order.crossfeed[at], done.left, order.passes[at], finishes.most_left[index])
            key = int(math.ceil(left / LEFT_STEP_MM - 1e-6))
            if finishes.minutes[index, key] < 0:
                return found, at, key
            minutes = ((order.passes[at] + blanks) * order.pass_minutes[at] + finishes.minutes[index, key]
                       + (done.dresses + 1 + (order.passes[at] > 0)) * given.dress_minutes)
            used = max(done.heat_share / finishes.heat_share[index], finishes.heat_used[index, key])
            if minutes < found.minutes - 1e-9 or (minutes < found.minutes + 1e-9 and used < found.heat_used):
                found = Found(minutes, used, at, chamfer)
    return found, 0, -1


@compiled
def _rough(face: Face, fluid: Fluid, table: Floats, order: Order, given: Given, finishes: Finishes, found: Found, at: int,
           chamfer: int) -> tuple[Cutting, float]:
    """Follow a roughing as long as it keeps to the limits and could still be quicker; and the dresses it may have for that."""
    spare = np.floor((found.minutes - order.bound[at]) / given.dress_minutes + 1e-9) if given.dress_minutes > 0 else np.inf
    edge = given.chamfers[chamfer] if given.chamfers[chamfer] > 0 else given.edge
    return follow(face, fluid, table, Bounds(finishes.heat_share[order.finish[at]], spare), Settings(
        order.first[at], order.step[at], order.passes[at], order.crossfeed[at], order.table[at], edge, given.sharpness,
        0.0)), spare


@compiled
def rough_blanks(face: Face, crossfeed: float, left: float, passes: int, most_left: float) -> tuple[int, float]:
    """Blanks after roughing until no more than ``most_left`` is left."""
    keeps, blanks = (1 - face.cut_ratio) ** max(1, int(face.wheel_width / crossfeed + 1e-9)), 0
    while passes > 0 and left > most_left and blanks < MOST_BLANKS:
        left *= keeps
        blanks += 1
    return blanks, left


def _finishes(asked: Asked, space: Space) -> Finishes:
    """Nothing is known yet of the finishes but what they ask of roughing; none asks for blanks that covers what it left."""
    keys = int(asked.graduations * asked.graduation / LEFT_STEP_MM) + 2
    unknown = np.full((len(space.finishes), keys), -1.0)
    return Finishes(np.array([rough_heat(asked, kind) for kind in space.finishes]),
                    np.array([most_left(asked, kind) for kind in space.finishes]), unknown, unknown.copy())


def _same_grid(space: Space) -> tuple[Any, ...]:
    return (tuple(space.finishes), tuple(space.crossfeeds), tuple(space.chamfers), space.dress, space.least_downfeed,
            space.most_downfeed, space.passes)


def _rows(asked: Asked, space: Space) -> int:
    return sum(len(_steps(asked, space, kind)) for kind in space.finishes) * len(space.crossfeeds) * len(asked.speeds)


def _in_order(asked: Asked, space: Space, quicker_than: float, broken: NDArray[np.bool_]) -> Order | None:
    """All roughings that could take less than ``quicker_than`` [min], without those known to break a limit."""
    crossfeed, table = np.array(space.crossfeeds), np.array(asked.speeds)
    strokes = np.array([asked.strokes(each) for each in space.crossfeeds])
    pass_minutes = strokes[:, None] * (asked.stroke / table + asked.machine.reversal_s)[None, :] / 60
    parts, before = [], 0
    for index, kind in enumerate(space.finishes):
        steps = _steps(asked, space, kind)
        size = (len(steps), *pass_minutes.shape)
        least = best_finish(asked, kind, 0.0)
        dresses = (1 + (steps[:, 0] > 0))[:, None, None] * asked.dress_minutes
        bound = (steps[:, 0][:, None, None] * pass_minutes + dresses + (least.minutes if least.worst <= 1 else np.inf)).ravel()
        here = np.flatnonzero((bound < quicker_than) & ~broken[before:before + bound.size])
        row, column, speed = np.unravel_index(here, size) if here.size else (here, here, here)
        step = steps[row] * asked.graduation
        parts.append((bound[here], pass_minutes[column, speed], np.full(here.size, index), steps[row, 0], step[:, 1],
                      step[:, 2], crossfeed[column], table[speed], here + before))
        before += math.prod(size)
    whole = [np.concatenate(each) for each in zip(*parts, strict=True)]
    if not whole or not whole[0].size:
        return None
    sort = np.argsort(whole[0], kind="stable")
    return Order(*(each[sort] for each in whole))


def _steps(asked: Asked, space: Space, kind: FinishKind) -> NDArray[np.int64]:
    """Passes, first step and further step in graduations: the least downfeed for each number of passes."""
    rough = asked.graduations - kind.passes * kind.step
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
        count = -(-rough // step)
        rows.append((count, rough - step * (count - 1), step))
    return np.array(rows, np.int64).reshape(-1, 3)
