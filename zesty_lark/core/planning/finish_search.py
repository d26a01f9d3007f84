"""What is worked out of a finish for each setting, compiled: its cutting, spark-outs, hollow, roughness and size
lost."""

import math
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.planning.cutting import Bounds, Cutting, Face, Setting, Worn
from zesty_lark.core.planning.kernel import (
    front_lost,
    kept_share,
    overlaps_of,
    ra,
    rise,
    slices_of,
    steps_across,
    still_left,
    swelling_um,
    time_constant,
)
from zesty_lark.core.planning.passes import cut, heat_of, last_pass, wear
from zesty_lark.core.process.evaluate import Fluid
from zesty_lark.core.process.finish import FINISH_R1_UM
from zesty_lark.core.quantities.compiled import compiled

Floats = NDArray[np.float64]
Marks = NDArray[np.bool_]

MOST_SPARK_OUTS = 60
LIMITS = ("temperature", "power", "hold", "flatness", "finish", "size", "swelling")


class Grid(NamedTuple):
    """Settings of a finish in order of time, as arrays or as the numbers of one: crossfeed [mm], table [mm/s], dress
    (index into ``KINDS``), a pass [s]."""

    crossfeed: Any
    table: Any
    dress: Any
    seconds: Any


class Dress(NamedTuple):
    """The dresses' sharpness, lead [mm] and depth [mm], and the thickest chip whose marks are no rougher than wanted
    [µm]."""

    sharpness: tuple[float, float, float]
    lead: tuple[float, float, float]
    depth: tuple[float, float, float]
    most_chip_um: tuple[float, float, float]


class Wanted(NamedTuple):
    """What a finish must keep to: share of the temperature limit, power [W], hold safety, hollow [µm], Ra [µm], size
    [mm], overlap, swelling [µm]; the face's heat losses [W/m²K], the edge a dress leaves [mm], the crown of a kelvin
    and the crown that is held down [µm]."""

    heat_share: float
    power: float
    hold: float
    hollow_um: float
    ra_um: float
    size: float
    overlap: float
    swelling_um: float
    losses: float
    edge: float
    crown_um_k: float
    held_um: float


class Finished(NamedTuple):
    """A setting worked out: its cutting, spark-outs, what the springs and the wheel keep back [mm], hollow, the crown
    that is not held, swelling at the last pass that feeds and Ra [µm], and the share it uses of each of ``LIMITS``."""

    done: Cutting
    spark_outs: int
    left: float
    lost: float
    hollow_um: float
    crown_um: float
    swelling_um: float
    ra_um: float
    used: tuple[float, float, float, float, float, float, float]


class Search(NamedTuple):
    """What is the same for every setting: the face, the share of a wipe that is cut, the fluid, the limits and the
    dresses."""

    face: Face
    cut_ratio: float
    fluid: Fluid
    wanted: Wanted
    dresses: Dress


class Cuts(NamedTuple):
    """What a finish takes: passes, the first and the further steps, what roughing left to the springs [mm], and how
    much warmer the part may be as it begins, for its size and for its flatness [K]."""

    passes: int
    first: float
    step: float
    left: float
    warm: float
    warm_flat: float


@compiled
def quickest(
    search: Search, table: Floats, cuts: Cuts, grid: Grid, unfit: Marks, too_much: Marks, bounded: bool
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
        made = finished(search, table, cuts, one)
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
    search: Search,
    table: Floats,
    cuts: Cuts,
    grid: Grid,
    unfit: Marks,
    minutes: Floats,
    share: Floats,
    heat_j: Floats,
    crown_um: Floats,
) -> None:
    """The time, the largest used share, the last pass's heat and the crown of every setting that is not known to be
    unfit."""
    for i in range(grid.seconds.size):
        if not unfit[i]:
            made = finished(search, table, cuts, Grid(grid.crossfeed[i], grid.table[i], grid.dress[i], grid.seconds[i]))
            minutes[i], share[i] = (cuts.passes + made.spark_outs) * grid.seconds[i], max(made.used)
            heat_j[i], crown_um[i] = made.done.last_heat_j, made.crown_um


@compiled
def finished(search: Search, table: Floats, cuts: Cuts, one: Grid) -> Finished:
    """Work out one setting of a finish."""
    face, wanted, dresses = search.face, search.wanted, search.dresses
    kept = kept_share(search.cut_ratio, overlaps_of(face.wheel_width, one.crossfeed))
    setting = Setting(
        cuts.first,
        cuts.step,
        cuts.passes,
        one.crossfeed,
        one.table,
        wanted.edge,
        dresses.sharpness[one.dress],
        cuts.left,
        one.seconds,
        kept,
    )
    bounded = face.most_worn <= 1
    within = Bounds(wanted.heat_share if bounded else np.inf, np.inf)
    worn = wear(face, search.fluid, table, within, setting, 0)
    lost = cuts.step * front_lost(
        slices_of(face.wheel_width, one.crossfeed),
        worn.last.kappa * steps_across(face.across, one.crossfeed) * cuts.passes,
    )
    spark_outs, still = 1, still_left(worn.last.left, 0.0, kept)
    while spark_outs < MOST_SPARK_OUTS and still + lost > wanted.size and lost < wanted.size and kept > 0:
        spark_outs, still = spark_outs + 1, still_left(still, 0.0, kept)
    if bounded and (worn.broken or still + lost > wanted.size or _is_out(search, table, one, setting, worn)):
        seen = cut(face, search.fluid, table, Bounds(-1.0, np.inf), setting, worn)
        return Finished(seen, 1, still, lost, 0.0, 0.0, 0.0, 0.0, _shares(search, seen, np.inf))
    done = cut(face, search.fluid, table, within, setting, worn)
    cooled = math.exp(-cuts.passes * one.seconds / time_constant(face.thick, face.losses))
    swollen = swelling_um(face.thick, cuts.warm * cooled + done.rise)
    crown = max(0.0, wanted.crown_um_k * (cuts.warm_flat * cooled + done.rise) - wanted.held_um)
    hollow = swelling_um(face.thick, rise(done.last_heat_j, one.seconds, face.thick, face.area, wanted.losses))
    rough = ra(FINISH_R1_UM, dresses.lead[one.dress], dresses.depth[one.dress], done.last_chip_um)
    overlap = face.wheel_width / one.crossfeed * (1 + 1e-9)
    return Finished(
        done,
        spark_outs,
        still,
        lost,
        hollow,
        crown,
        swollen,
        rough,
        _shares(search, done, 0.0)[:3]
        + (
            max(hollow, crown) / wanted.hollow_um,
            max(rough / wanted.ra_um, wanted.overlap / overlap if overlap < wanted.overlap else 0.0),
            (still + lost) / wanted.size,
            swollen / wanted.swelling_um,
        ),
    )


@compiled
def _is_out(search: Search, table: Floats, one: Grid, setting: Setting, worn: Worn) -> bool:
    """Whether a setting's last pass alone is over a limit: too rough, or too much heat for flatness or swelling."""
    face, wanted = search.face, search.wanted
    last = last_pass(face, search.fluid, table, setting, worn)
    heat_j = heat_of(face, setting, last)
    warmer = rise(heat_j, one.seconds, face.thick, face.area, wanted.losses)
    by_last = rise(heat_j, one.seconds, face.thick, face.body, face.losses)
    return bool(
        last.chip_um > search.dresses.most_chip_um[one.dress] * (1 + 1e-9)
        or swelling_um(face.thick, warmer) > wanted.hollow_um
        or swelling_um(face.thick, by_last) > wanted.swelling_um
    )


@compiled
def _shares(search: Search, done: Cutting, others: float) -> tuple[float, float, float, float, float, float, float]:
    """The shares that the cutting uses of heat, power and hold; the others as told."""
    wanted = search.wanted
    return (
        done.heat_share / wanted.heat_share,
        done.power / wanted.power,
        wanted.hold / max(done.hold, 1e-12),
        others,
        others,
        others,
        others,
    )
