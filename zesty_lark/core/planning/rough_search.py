"""Roughings tried one after the other, compiled: the quickest within every limit that a finish can follow."""

import math

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.planning.cutting import Bounds, Face
from zesty_lark.core.planning.kernel import still_left
from zesty_lark.core.planning.passes import cut, wear
from zesty_lark.core.planning.rough_known import Finishes, Found, Given, Known, Order, room, setting_of, share_at_least
from zesty_lark.core.planning.wearing import least_dresses
from zesty_lark.core.process.evaluate import Fluid
from zesty_lark.core.quantities.compiled import compiled

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]

LEFT_STEP_MM = 5e-4
"""What roughing leaves is rounded up to this for choosing the finish."""
MOST_SPARK_OUTS = 100


@compiled
def walk(
    face: Face,
    fluid: Fluid,
    table: Floats,
    order: Order,
    given: Given,
    finishes: Finishes,
    known: Known,
    found: Found,
    start: int,
) -> tuple[int, int, int]:
    """Try roughings from ``start``; stop at the end, or where a finish must be known: return its place, what is left
    and the level. A level looks no further than what is quicker than its quickest."""
    levels, dress, edges = finishes.heat_share.size, given.dress_minutes, given.edges
    heat_share, longer, share = finishes.heat_share, finishes.longer, known.share
    crossfeed, speed, seconds, kept = order.cells.crossfeed, order.cells.table, order.cells.seconds, order.cells.kept
    for at in range(start, order.bound.size):
        if room(order.bound[at], longer, found.minutes)[0] == levels:
            break
        row, cell = order.row[at], order.cell[at]
        passes, first, step = order.steps[row, 0], order.steps[row, 1], order.steps[row, 2]
        begin, lower, upper = known.below[first], known.below[step], known.above[step]
        down = (passes, first * given.graduation, step * given.graduation)
        for chamfer in range(edges.size):
            begins_at = 0.0
            if passes > 0:
                wide = passes > 1 and crossfeed[cell] >= edges[chamfer] + known.most_worn[upper, cell]
                begins_at = share_at_least(share, wide, cell, chamfer, lower, begin)
            if begins_at > heat_share[0]:
                continue
            here = (crossfeed[cell], speed[cell], seconds[cell], kept[cell])
            setting = setting_of(down, here, edges[chamfer], given.sharpness)
            least = least_dresses(face, setting)
            lowest, spare = room(order.bound[at] + least * dress, longer, found.minutes)
            if lowest == levels or begins_at > heat_share[lowest]:
                continue
            dresses = np.inf if dress <= 0 else least + np.floor(spare / dress + 1e-9)
            within = Bounds(heat_share[lowest], dresses)
            worn = wear(face, fluid, table, within, setting, 1)
            if worn.broken:
                continue
            done = cut(face, fluid, table, within, setting, worn)
            if (
                done.dresses > within.dresses
                or done.heat_share > within.heat_share
                or done.power > face.most_power
                or done.hold < face.least_hold
                or done.worn_share > face.most_worn
                or (passes > 0 and done.last_chip_um > finishes.most_chip_um)
            ):
                continue
            spark_outs, left = rough_spark_outs(done.left, setting.kept, setting.passes, finishes.most_left)
            key = int(math.ceil(left / LEFT_STEP_MM - 1e-6))
            roughing = (setting.passes + spark_outs) * order.cells.minutes[order.cell[at]] + (
                done.dresses + 1 + (setting.passes > 0)
            ) * dress
            for level in range(lowest, levels):
                if done.heat_share > heat_share[level] or roughing > found.minutes[level] or longer[level] == np.inf:
                    continue
                if finishes.minutes[level, key] < 0:
                    return at, key, level
                minutes = roughing + finishes.minutes[level, key]
                used = max(done.heat_share / heat_share[level], finishes.heat_used[level, key])
                now = found.minutes[level]
                if minutes < now - 1e-9 or (minutes < now + 1e-9 and used < found.heat_used[level]):
                    found.minutes[level], found.heat_used[level] = minutes, used
                    found.at[level], found.chamfer[level], found.key[level] = at, chamfer, key
    return 0, -1, 0


@compiled
def rough_spark_outs(left: float, kept: float, passes: int, most_left: float) -> tuple[int, float]:
    """Spark-outs after roughing until no more than ``most_left`` is left; each leaves the share that is kept."""
    spark_outs = 0
    while passes > 0 and left > most_left and spark_outs < MOST_SPARK_OUTS:
        left = still_left(left, 0.0, kept)
        spark_outs += 1
    return spark_outs, left
