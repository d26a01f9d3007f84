"""What is known of roughings before they are tried: which could be quicker, and cannot be over a limit at once."""

import math
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.planning.cutting import Face, Setting
from zesty_lark.core.planning.kernel import kinematics
from zesty_lark.core.planning.passes import begins
from zesty_lark.core.planning.wearing import STEEL, wear_of
from zesty_lark.core.process.evaluate import Condition, Fluid
from zesty_lark.core.quantities.compiled import compiled, inlined
from zesty_lark.core.wheel.wear import DRESS_SHARE

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]

UNTRIED = 0.0
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
    least at the loosest and how much longer at each [min]; by what is left
    (in ``LEFT_STEP_MM``) the minutes, negative if not known, and the share of the heat limit; the most it may be left
    by the springs [mm]; and the thickest chip of roughing that it takes the marks of, and the thickest that it would
    after a rougher dress [µm]: up to that the rougher dress is cooler and as quick."""

    heat_share: Floats
    least: float
    longer: Floats
    minutes: Floats
    heat_used: Floats
    most_left: float
    most_chip_um: float
    least_chip_um: float


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
    broken, ``UNTRIED`` until it is asked for, and the same after a rougher dress, which is less; the thinnest and the
    thickest chip it can have [µm]; the least that it wears of a third of the face, and how wide it wears the edge at
    the most [mm]."""

    steps: Whole
    below: Whole
    above: Whole
    looked_at: Whole
    share: Floats
    cooler: Floats
    thin_um: Floats
    thick_um: Floats
    least_worn: Floats
    most_worn: Floats


def nothing_known(cells: Cells, chamfers: int, most: int, cooler: Known | None) -> Known:
    """Room for what is learned of cells and chamfers, with steps up to so many graduations; and what is known of the
    same after a rougher dress."""
    steps = [1]
    while steps[-1] < most:
        steps.append(min(most, max(steps[-1] + 1, int(steps[-1] * NEXT_STEP))))
    tried, count = np.array(steps), cells.table.size
    every = np.arange(most + 1)
    below = np.maximum(np.searchsorted(tried, every, side="right") - 1, 0)
    above = np.searchsorted(tried, every, side="left")
    share, (thin, thick, least, most_worn) = np.zeros((len(steps), count, chamfers)), np.empty((4, len(steps), count))
    less = share if cooler is None else cooler.share
    return Known(tried, below, above, np.zeros(len(steps), np.int64), share, less, thin, thick, least, most_worn)


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
def share_at_least(share: Floats, wide: bool, cell: int, chamfer: int, lower: int, first: int) -> float:
    """The share of the temperature limit that a roughing uses at least as its first two passes begin, infinite where
    power or hold is broken then; ``lower`` is the place of the further step among those looked at, ``first`` that of
    the first.

    Heat, power and force rise with depth: what a smaller step on a fresh edge comes to is the least. A second pass is
    told by it where the crossfeed is ``wide``, wider than the edge can be then: it is only duller.
    """
    least = share[first, cell, chamfer]
    if wide:
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
    found, levels, share, cooler = 0, finishes.heat_share.size, known.share, known.cooler
    crossfeed, edges, most_worn = cells.crossfeed, given.edges, known.most_worn
    thin_um, thick_um, least_worn, minutes = known.thin_um, known.thick_um, known.least_worn, cells.minutes
    heat_share, longer, dress = finishes.heat_share, finishes.longer, given.dress_minutes
    for row in range(steps.shape[0]):
        passes, first, step = steps[row, 0], steps[row, 1], steps[row, 2]
        if passes > 0:
            for one in (known.below[step], known.above[step]):
                _look(face, cells, given, known, one, counts[row])
        begin, lower, upper = known.below[first], known.below[step], known.above[step]
        for cell in range(counts[row]):
            least = passes * minutes[cell] + fixed[row]
            if passes > 0:
                if thin_um[lower, cell] > finishes.most_chip_um or thick_um[upper, cell] <= finishes.least_chip_um:
                    continue
                dresses = max(0.0, math.ceil((passes - 1) * least_worn[lower, cell] - 1e-9) - 1.0)
                loosest, _ = room(least + dresses * dress, longer, quickest)
                if loosest == levels:
                    continue
                coolest = np.inf
                for chamfer in range(share.shape[2]):
                    wide = passes > 1 and crossfeed[cell] >= edges[chamfer] + most_worn[upper, cell]
                    known_share = share_at_least(cooler, wide, cell, chamfer, lower, begin)
                    if known_share <= heat_share[loosest]:
                        if share[begin, cell, chamfer] == UNTRIED:
                            at = (begin, cell, chamfer)
                            share[at] = _begins(face, fluid, table, cells, given, known, at)
                        again = wide and share[begin, cell, chamfer] <= heat_share[loosest]
                        if again and share[lower, cell, chamfer] == UNTRIED:
                            at = (lower, cell, chamfer)
                            share[at] = _begins(face, fluid, table, cells, given, known, at)
                        known_share = share_at_least(share, wide, cell, chamfer, lower, begin)
                    coolest = min(coolest, known_share)
                    if coolest <= heat_share[loosest]:
                        break
                if coolest > heat_share[loosest]:
                    continue
            bound[found], rows[found], places[found] = least, row, cell
            found += 1
    return bound[:found], rows[:found], places[:found]


@compiled
def _look(face: Face, cells: Cells, given: Given, known: Known, number: int, count: int) -> None:
    """Look at what one of the steps wears, and at its chips, in the first ``count`` cells."""
    depth, third = known.steps[number] * given.graduation, face.wheel_width * DRESS_SHARE
    for cell in range(known.looked_at[number], count):
        across = cells.feeding[cell] * cells.crossfeed[cell]
        taken = depth * (1.0 - cells.kept[cell])
        here = (cells.crossfeed[cell], cells.table[cell], cells.seconds[cell], cells.kept[cell])
        narrow = setting_of((0, 0.0, 0.0), here, given.narrowest, given.sharpness)
        wide = setting_of((0, 0.0, 0.0), here, given.widest, given.sharpness)
        known.thin_um[number, cell] = _chip(face, wide, taken, third)
        known.thick_um[number, cell] = _chip(face, narrow, depth, 0.0)
        known.least_worn[number, cell] = min(1.0, wear_of(face, wide, taken, given.widest + third) * across / third)
        known.most_worn[number, cell] = min(third, wear_of(face, narrow, depth, given.narrowest) * across)
    known.looked_at[number] = max(known.looked_at[number], count)


@compiled
def _begins(
    face: Face, fluid: Fluid, table: Floats, cells: Cells, given: Given, known: Known, at: tuple[int, int, int]
) -> float:
    """The share of the temperature limit that one of the steps uses in a cell with a chamfer, as it begins."""
    if at[0] > 0 and known.share[at[0] - 1, at[1], at[2]] > 1.0:
        return float(known.share[at[0] - 1, at[1], at[2]])
    cell = at[1]
    here = (cells.crossfeed[cell], cells.table[cell], cells.seconds[cell], cells.kept[cell])
    setting = setting_of((0, 0.0, 0.0), here, given.edges[at[2]], given.sharpness)
    return begins(face, fluid, table, setting, known.steps[at[0]] * given.graduation)


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
