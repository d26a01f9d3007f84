"""What is known of roughings before they are tried: which could be quicker, and cannot be over a limit at once."""

import math
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.planning.kernel import kinematics
from zesty_lark.core.planning.passes import STEEL, Face, Setting, begins, wear_of
from zesty_lark.core.process.evaluate import Condition, Fluid
from zesty_lark.core.quantities.compiled import compiled, inlined
from zesty_lark.core.wheel.wear import DRESS_SHARE

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]

NEXT_STEP = 1.3
"""Of the steps that are looked at beforehand each is this many times the last, or a graduation more."""


class Found(NamedTuple):
    """The quickest so far, by level: its minutes, the most it uses of a temperature limit, its place in the order, its
    chamfer (index) and what it leaves to the springs (in ``LEFT_STEP_MM``); no place, -1, when there is none."""

    minutes: Floats
    heat_used: Floats
    at: Whole
    chamfer: Whole
    key: Whole


class Cells(NamedTuple):
    """Crossfeeds [mm], table speeds [mm/s], a pass [s] and [min], the share that the springs hold back in it, and how
    many of its strokes feed into a piece; in order of time."""

    crossfeed: Any
    table: Any
    seconds: Any
    minutes: Any
    kept: Any
    feeding: Any


class Order(NamedTuple):
    """Roughings in order of the least time they could take [min]: that time, its row of the steps and its place among
    the cells, as arrays; the steps, each passes, first and further step [graduations]; and the cells."""

    bound: Floats
    row: Whole
    cell: Whole
    steps: Whole
    cells: Cells


class Finishes(NamedTuple):
    """What is known of a finish, by level from the loosest: the heat share roughing may use before it; what it takes at
    least at the loosest and how much longer at each [min], infinite where there is none; by what is left
    (in ``LEFT_STEP_MM``) the minutes, negative if not known, and the share of the heat limit; the most it may be left
    by the springs [mm], and the thickest chip of roughing that it takes the marks of [µm]."""

    heat_share: Floats
    least: float
    longer: Floats
    minutes: Floats
    heat_used: Floats
    most_left: float
    most_chip_um: float


class Given(NamedTuple):
    """What is the same for all: graduation [mm], the edges that chamfers leave or, without one, a grain [mm], and the
    narrowest and the widest; sharpness, minutes to dress."""

    graduation: float
    edges: Floats
    narrowest: float
    widest: float
    sharpness: float
    dress_minutes: float


class Known(NamedTuple):
    """What some steps come to in each cell: the steps [graduations]; for each number of graduations the last of them
    that is no larger and the first that is no smaller; how many cells were looked at. By step and cell: the share of
    the temperature limit that a pass uses as it begins on a fresh edge, by chamfer, infinite where power or hold is
    broken; the thinnest chip it can have [µm]; the least that it wears of a third of the face; and, by chamfer, whether
    the crossfeed is wider than the edge can be after a first pass."""

    steps: Whole
    below: Whole
    above: Whole
    looked_at: Whole
    share: Floats
    chip_um: Floats
    least_worn: Floats
    wide: NDArray[np.bool_]


def nothing_known(cells: Cells, chamfers: int, most: int) -> Known:
    """Room for what is learned of cells and chamfers, with steps up to so many graduations."""
    steps = [1]
    while steps[-1] < most:
        steps.append(min(most, max(steps[-1] + 1, int(steps[-1] * NEXT_STEP))))
    tried, count = np.array(steps), cells.table.size
    every = np.arange(most + 1)
    below = np.maximum(np.searchsorted(tried, every, side="right") - 1, 0)
    above = np.searchsorted(tried, every, side="left")
    share, wide = np.empty((len(steps), count, chamfers)), np.empty((len(steps), count, chamfers), np.bool_)
    chip, worn = np.empty((len(steps), count)), np.empty((len(steps), count))
    return Known(tried, below, above, np.zeros(len(steps), np.int64), share, chip, worn, wide)


@inlined
def room(minutes: float, longer: Floats, quickest: Floats) -> tuple[int, float]:
    """The loosest level at which a roughing that takes at least so long could still be the quickest, or how many levels
    there are; and how much longer it may take at one of them [min]."""
    loosest, longest = longer.size, -1.0
    for level in range(longer.size - 1, -1, -1):
        spare = quickest[level] - longer[level] - minutes
        if spare >= 0:
            loosest, longest = level, max(longest, spare)
    return loosest, longest


@inlined
def share_at_least(
    share: Floats, wide: NDArray[np.bool_], cell: int, chamfer: int, passes: int, lower: int, upper: int, first: int
) -> float:
    """The share of the temperature limit that a roughing uses at least as its first two passes begin, infinite where
    power or hold is broken then; ``lower`` and ``upper`` are the places of the further step among those looked at,
    ``first`` that of the first.

    Heat, power and force rise with depth: what a smaller step on a fresh edge comes to is the least. A second pass is
    told by it where the crossfeed is wider than the edge can be then: it is only duller.
    """
    least = share[first, cell, chamfer]
    if passes > 1 and wide[upper, cell, chamfer]:
        least = max(least, share[lower, cell, chamfer])
    return float(least)


@inlined
def setting_of(
    steps: tuple[int, float, float], cell: tuple[float, float, float, float], edge: float, sharpness: float
) -> Setting:
    """The setting of passes, first and further step [mm], in a cell of crossfeed [mm], table [mm/s], a pass [s] and the
    share that is kept, on an edge [mm]."""
    return Setting(steps[1], steps[2], steps[0], cell[0], cell[1], edge, sharpness, 0.0, cell[2], cell[3])


@compiled
def could_be_quicker(
    face: Face,
    fluid: Fluid,
    table: Floats,
    steps: Whole,
    cells: Cells,
    given: Given,
    finishes: Finishes,
    known: Known,
    quickest: Floats,
    fixed: Floats,
) -> tuple[Floats, Whole, Whole]:
    """Which steps and cells could be quicker than the quickest of a level, and within its limits: what each takes at
    least [min], its row of the steps and its cell; ``fixed`` is what a row takes beside its passes."""
    slowest, counts = np.max(quickest), np.zeros(steps.shape[0], np.int64)
    for row in range(steps.shape[0]):
        if steps[row, 0] == 0:
            counts[row] = 1
        else:
            counts[row] = np.searchsorted(cells.minutes, (slowest - fixed[row]) / steps[row, 0], side="right")
    bound, rows, places = np.empty(counts.sum()), np.empty(counts.sum(), np.int64), np.empty(counts.sum(), np.int64)
    found, levels, share, wide = 0, finishes.heat_share.size, known.share, known.wide
    chip_um, least_worn, minutes = known.chip_um, known.least_worn, cells.minutes
    heat_share, longer, dress = finishes.heat_share, finishes.longer, given.dress_minutes
    for row in range(steps.shape[0]):
        passes, first, step = steps[row, 0], steps[row, 1], steps[row, 2]
        if passes > 0:
            for one in (known.below[first], known.below[step], known.above[step]):
                look(face, fluid, table, cells, given, known, one, counts[row])
        begin, lower, upper = known.below[first], known.below[step], known.above[step]
        for cell in range(counts[row]):
            least = passes * minutes[cell] + fixed[row]
            if passes > 0:
                if chip_um[lower, cell] > finishes.most_chip_um:
                    continue
                dresses = max(0.0, math.ceil((passes - 1) * least_worn[lower, cell] - 1e-9) - 1.0)
                loosest, _ = room(least + dresses * dress, longer, quickest)
                if loosest == levels:
                    continue
                coolest = np.inf
                for chamfer in range(share.shape[2]):
                    coolest = min(coolest, share_at_least(share, wide, cell, chamfer, passes, lower, upper, begin))
                if coolest > heat_share[loosest]:
                    continue
            bound[found], rows[found], places[found] = least, row, cell
            found += 1
    return bound[:found], rows[:found], places[:found]


@compiled
def look(
    face: Face, fluid: Fluid, table: Floats, cells: Cells, given: Given, known: Known, number: int, count: int
) -> None:
    """Look at one of the steps in the first ``count`` cells."""
    depth, third = known.steps[number] * given.graduation, face.wheel_width * DRESS_SHARE
    for cell in range(known.looked_at[number], count):
        across = cells.feeding[cell] * cells.crossfeed[cell]
        taken = depth * (1.0 - cells.kept[cell])
        here = (cells.crossfeed[cell], cells.table[cell], cells.seconds[cell], cells.kept[cell])
        narrow = setting_of((0, 0.0, 0.0), here, given.narrowest, given.sharpness)
        wide = setting_of((0, 0.0, 0.0), here, given.widest, given.sharpness)
        known.chip_um[number, cell] = _chip(face, wide, taken, third)
        known.least_worn[number, cell] = min(1.0, wear_of(face, wide, taken, given.widest + third) * across / third)
        most_worn = min(third, wear_of(face, narrow, depth, given.narrowest) * across)
        for chamfer in range(given.edges.size):
            edge = given.edges[chamfer]
            known.wide[number, cell, chamfer] = cells.crossfeed[cell] >= edge + most_worn
            if number > 0 and cell < known.looked_at[number - 1] and known.share[number - 1, cell, chamfer] > 1.0:
                known.share[number, cell, chamfer] = known.share[number - 1, cell, chamfer]
            else:
                setting = setting_of((0, 0.0, 0.0), here, edge, given.sharpness)
                known.share[number, cell, chamfer] = begins(face, fluid, table, setting, depth)
    known.looked_at[number] = max(known.looked_at[number], count)


@compiled
def _chip(face: Face, setting: Setting, depth: float, worn: float) -> float:
    """The chip of a pass on an edge that is worn by so much [µm]."""
    meets = kinematics(
        Condition(
            face.wheel_diameter,
            face.wheel_rpm,
            setting.table,
            depth,
            setting.crossfeed,
            setting.edge + worn,
            setting.sharpness,
        ),
        STEEL,
    )
    return float(meets.equivalent_chip_um)
