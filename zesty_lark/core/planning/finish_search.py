"""What is worked out of a finish for each setting, compiled: its cutting, spark-outs, hollow, roughness and size
lost."""

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.planning.kernel import (
    front_lost,
    overlaps_of,
    ra,
    rise,
    slices_of,
    steps_across,
    still_left,
    swelling_um,
)
from zesty_lark.core.planning.passes import Bounds, Cutting, Face, Setting, follow
from zesty_lark.core.process.evaluate import Fluid
from zesty_lark.core.process.finish import FINISH_R1_UM
from zesty_lark.core.quantities.compiled import compiled

Floats = NDArray[np.float64]

MOST_SPARK_OUTS = 60
LIMITS = ("temperature", "power", "hold", "flatness", "finish", "size")


class Grid(NamedTuple):
    """Settings of a finish in order of time, as arrays or as the numbers of one: crossfeed [mm], table [mm/s], dress
    (index into ``KINDS``), a pass [s]."""

    crossfeed: Any
    table: Any
    dress: Any
    seconds: Any


class Dress(NamedTuple):
    """The dresses' sharpness, lead [mm] and depth [mm]."""

    sharpness: Floats
    lead: Floats
    depth: Floats


class Wanted(NamedTuple):
    """What a finish must keep to: share of the temperature limit, power [W], hold safety, hollow [µm], Ra [µm], size
    [mm], overlap; the face's heat losses [W/m²K] and the edge a dress leaves [mm]."""

    heat_share: float
    power: float
    hold: float
    hollow_um: float
    ra_um: float
    size: float
    overlap: float
    losses: float
    edge: float


class Finished(NamedTuple):
    """A setting worked out: its cutting, spark-outs, what the springs and the wheel keep back [mm], hollow and Ra
    [µm], and the share it uses of each of ``LIMITS``."""

    done: Cutting
    spark_outs: int
    left: float
    lost: float
    hollow_um: float
    ra_um: float
    used: tuple[float, float, float, float, float, float]


class Search(NamedTuple):
    """What is the same for every setting: the face, the fluid, the side flow's table, the limits and the dresses."""

    face: Face
    fluid: Fluid
    side_flow: Floats
    wanted: Wanted
    dresses: Dress


class Cuts(NamedTuple):
    """What a finish takes: passes, the first and the further steps, and what roughing left to the springs [mm]."""

    passes: int
    first: float
    step: float
    left: float


@compiled
def quickest(
    search: Search, cuts: Cuts, grid: Grid, unfit: NDArray[np.bool_], too_much: NDArray[np.bool_], bounded: bool
) -> int:
    """The place of the quickest setting within the limits; if none is, -1, or when not ``bounded`` that of the least
    wrong.

    What is not within them when nothing is left to the springs is marked ``unfit`` and not tried again: what is left
    only makes the passes deeper, so hotter, rougher, with more wear and spark-outs. Where heat, power or hold is
    beyond its limit then, that is marked ``too_much``: no further pass makes those less.
    """
    best, best_seconds, best_share = -1, np.inf, np.inf
    for i in range(grid.seconds.size):
        if (cuts.passes + 1) * grid.seconds[i] > best_seconds and best_share <= 1:
            break
        if unfit[i]:
            continue
        one = Grid(grid.crossfeed[i], grid.table[i], grid.dress[i], grid.seconds[i])
        made = finished(search, cuts, one)
        share, seconds = max(made.used), (cuts.passes + made.spark_outs) * one.seconds
        unfit[i] = share > 1 and cuts.left == 0 and bounded
        too_much[i] = unfit[i] and max(made.used[0], made.used[1], made.used[2]) > 1
        if share <= 1:
            better = (
                best_share > 1
                or seconds < best_seconds - 1e-9
                or (seconds <= best_seconds + 1e-9 and share < best_share)
            )
        else:
            better = not bounded and best_share > 1 and share < best_share
        if better:
            best, best_seconds, best_share = i, seconds, share
    return best


@compiled
def every(
    search: Search, cuts: Cuts, grid: Grid, unfit: NDArray[np.bool_], minutes: Floats, share: Floats, heat_j: Floats
) -> None:
    """The time, the largest used share and the last pass's heat of every setting that is not known to be unfit."""
    for i in range(grid.seconds.size):
        if not unfit[i]:
            made = finished(search, cuts, Grid(grid.crossfeed[i], grid.table[i], grid.dress[i], grid.seconds[i]))
            minutes[i], share[i] = (cuts.passes + made.spark_outs) * grid.seconds[i], max(made.used)
            heat_j[i] = made.done.last_heat_j


@compiled
def finished(search: Search, cuts: Cuts, one: Grid) -> Finished:
    """Work out one setting of a finish."""
    face, wanted, dresses = search.face, search.wanted, search.dresses
    done = follow(
        face,
        search.fluid,
        search.side_flow,
        Bounds(wanted.heat_share if face.most_worn <= 1 else np.inf, np.inf),
        Setting(
            cuts.first,
            cuts.step,
            cuts.passes,
            one.crossfeed,
            one.table,
            wanted.edge,
            dresses.sharpness[one.dress],
            cuts.left,
        ),
    )
    lost = cuts.step * front_lost(
        slices_of(face.wheel_width, one.crossfeed),
        done.last_kappa * steps_across(face.across, one.crossfeed) * cuts.passes,
    )
    overlaps, spark_outs = overlaps_of(face.wheel_width, one.crossfeed), 1
    still = still_left(done.left, 0.0, face.cut_ratio, overlaps)
    while spark_outs < MOST_SPARK_OUTS and still + lost > wanted.size and lost < wanted.size and face.cut_ratio < 1:
        spark_outs, still = spark_outs + 1, still_left(still, 0.0, face.cut_ratio, overlaps)
    hollow = swelling_um(face.height, rise(done.last_heat_j, one.seconds, face.height, face.area, wanted.losses))
    rough = ra(FINISH_R1_UM, dresses.lead[one.dress], dresses.depth[one.dress], done.last_chip_um)
    overlap = face.wheel_width / one.crossfeed * (1 + 1e-9)
    return Finished(
        done,
        spark_outs,
        still,
        lost,
        hollow,
        rough,
        (
            done.heat_share / wanted.heat_share,
            done.power / wanted.power,
            wanted.hold / max(done.hold, 1e-12),
            hollow / wanted.hollow_um,
            max(rough / wanted.ra_um, wanted.overlap / overlap if overlap < wanted.overlap else 0.0),
            (still + lost) / wanted.size,
        ),
    )
