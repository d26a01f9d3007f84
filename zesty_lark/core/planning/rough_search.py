"""Roughings tried one after the other, compiled: the quickest within every limit that a finish can follow."""

import math
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.planning.kernel import overlaps_of, still_left
from zesty_lark.core.planning.passes import Bounds, Face, Setting, breaks_at_once, follow, least_dresses
from zesty_lark.core.process.evaluate import Fluid
from zesty_lark.core.quantities.compiled import compiled

Floats = NDArray[np.float64]

LEFT_STEP_MM = 5e-4
"""What roughing leaves is rounded up to this for choosing the finish."""
MOST_SPARK_OUTS = 100
UNTRIED, BEGINS, BREAKS = 0, 1, 2
"""How a roughing begins: within its limits on heat, power and hold or not, which a first step decides however many
passes follow."""
MOST_NOTED = 256
"""First steps under this many graduations are noted once one was tried."""


class Found(NamedTuple):
    """The quickest so far: its minutes, the most it uses of a temperature limit, its place in the order and its chamfer
    (index); no place when there is none."""

    minutes: float
    heat_used: float
    at: int
    chamfer: int


class Order(NamedTuple):
    """Roughings in order of the least time they could take, as arrays: that time and a pass [min], passes, first and
    further steps [graduations], crossfeed [mm], table [mm/s], and the place of these two among all."""

    bound: Any
    pass_minutes: Any
    passes: Any
    first: Any
    step: Any
    crossfeed: Any
    table: Any
    place: Any


class Finishes(NamedTuple):
    """What is known of a finish: the heat share roughing may use before it and the most it may leave to the springs
    [mm]; by what is left (in ``LEFT_STEP_MM``) the minutes, negative if not known, and the share of the heat limit; and
    how roughings begin, by first step, place and chamfer."""

    heat_share: float
    most_left: float
    minutes: Floats
    heat_used: Floats
    begun: NDArray[np.int8]


class Given(NamedTuple):
    """What is the same for all: graduation [mm], the edges that chamfers leave or, without one, a grain [mm], and the
    widest; sharpness, minutes to dress."""

    graduation: float
    edges: Floats
    widest: float
    sharpness: float
    dress_minutes: float


@compiled
def walk(
    face: Face, fluid: Fluid, table: Floats, order: Order, given: Given, finishes: Finishes, found: Found, start: int
) -> tuple[Found, int, int]:
    """Try roughings from ``start``; stop at the end, or where a finish must be known: return its place and what is
    left."""
    for at in range(start, order.bound.size):
        if order.bound[at] > found.minutes:
            break
        within = Bounds(finishes.heat_share, _spare(order, given, found, at))
        if least_dresses(face, _setting(order, given, at, given.widest)) > within.dresses:
            continue
        for chamfer in range(given.edges.size):
            setting = _setting(order, given, at, given.edges[chamfer])
            if least_dresses(face, setting) > within.dresses:
                continue
            note = (min(order.first[at], MOST_NOTED), order.place[at], chamfer)
            if setting.passes > 0 and _breaks(face, fluid, table, within, setting, finishes.begun, note):
                continue
            done = follow(face, fluid, table, within, setting)
            if (
                done.dresses > within.dresses
                or done.heat_share > finishes.heat_share
                or done.power > face.most_power
                or done.hold < face.least_hold
                or done.worn_share > face.most_worn
            ):
                continue
            spark_outs, left = rough_spark_outs(
                face, order.crossfeed[at], done.left, order.passes[at], finishes.most_left
            )
            key = int(math.ceil(left / LEFT_STEP_MM - 1e-6))
            if finishes.minutes[key] < 0:
                return found, at, key
            minutes = (
                (order.passes[at] + spark_outs) * order.pass_minutes[at]
                + finishes.minutes[key]
                + (done.dresses + 1 + (order.passes[at] > 0)) * given.dress_minutes
            )
            used = max(done.heat_share / finishes.heat_share, finishes.heat_used[key])
            if minutes < found.minutes - 1e-9 or (minutes < found.minutes + 1e-9 and used < found.heat_used):
                found = Found(minutes, used, at, chamfer)
    return found, 0, -1


@compiled
def _spare(order: Order, given: Given, found: Found, at: int) -> float:
    """The dresses between passes that a roughing may have and still be quicker."""
    if given.dress_minutes <= 0:
        return np.inf
    return np.floor((found.minutes - order.bound[at]) / given.dress_minutes + 1e-9)  # type: ignore[no-any-return]


@compiled
def _setting(order: Order, given: Given, at: int, edge: float) -> Setting:
    return Setting(
        order.first[at] * given.graduation,
        order.step[at] * given.graduation,
        order.passes[at],
        order.crossfeed[at],
        order.table[at],
        edge,
        given.sharpness,
        0.0,
    )


@compiled
def _breaks(
    face: Face,
    fluid: Fluid,
    table: Floats,
    within: Bounds,
    setting: Setting,
    begun: NDArray[np.int8],
    note: tuple[int, int, int],
) -> bool:
    """Whether a roughing breaks a limit as it begins: ``begun`` tells it of what was tried before with the same first
    step, place and chamfer, ``note``."""
    if begun[note] == UNTRIED or note[0] == MOST_NOTED:
        begun[note] = BREAKS if breaks_at_once(face, fluid, table, within, setting) else BEGINS
    return bool(begun[note] == BREAKS)


@compiled
def rough_spark_outs(face: Face, crossfeed: float, left: float, passes: int, most_left: float) -> tuple[int, float]:
    """Spark-outs after roughing until no more than ``most_left`` is left."""
    overlaps, spark_outs = overlaps_of(face.wheel_width, crossfeed), 0
    while passes > 0 and left > most_left and spark_outs < MOST_SPARK_OUTS:
        left = still_left(left, 0.0, face.cut_ratio, overlaps)
        spark_outs += 1
    return spark_outs, left
