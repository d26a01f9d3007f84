"""The formulas of one condition and one pass, compiled from the very lines that are used one by one: for the searches
and arrays that need them a million times.

The side flow F(ξ) is read from a table of cubics over √ξ, each through F and its slope F' = E1(ξ²)/√π at both ends; it
is within 2 parts in 10⁸ between its ends.
"""

import math
from functools import cache
from math import sqrt
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.process import evaluate, finish, holding, side_flow, springs, warmth
from zesty_lark.core.process import strokes as layout
from zesty_lark.core.process.evaluate import Condition, Constants, Energy, Fluid, Heat, Kinematics
from zesty_lark.core.quantities.compiled import compiled, inlined
from zesty_lark.core.wheel import dressing, wear

Floats = NDArray[np.float64]

LEAST, MOST, PIECES = 1e-6, 7.0, 4096
START, STOP = LEAST**0.5, MOST**0.5
PER_UNIT = PIECES / (STOP - START)

exponential_integral = compiled(side_flow.exponential_integral)
kinematics = inlined(evaluate.kinematics)
rubbing = inlined(evaluate.rubbing)
energy = inlined(evaluate.energy)
band_width = inlined(evaluate.band_width)
temperature = inlined(evaluate.temperature)
limit_at = inlined(evaluate.limit_at)
slide, tip, clamped = inlined(holding.slide), inlined(holding.tip), inlined(holding.clamped)
steps_across = inlined(layout.steps_across)
overlaps_of, kept_share = compiled(springs.overlaps_of), compiled(springs.kept_share)
still_left = inlined(springs.still_left)
kappa, chip_grinding_ratio = inlined(wear.kappa), inlined(wear.chip_grinding_ratio)
slices_of, front_lost = compiled(wear.slices_of), compiled(wear.front_lost)
sharpness = inlined(dressing.sharpness)
ra = inlined(finish.ra)
time_constant, swelling_um = inlined(warmth.time_constant), inlined(warmth.swelling_um)
rise = inlined(warmth.rise)


@cache
def side_flow_table() -> Floats:
    """Return the cubics' coefficients, ``(PIECES, 4)``, rising powers of the place within a piece."""
    return _cubics()


@compiled
def _cubics() -> Floats:
    table = np.empty((PIECES, 4))
    for piece in range(PIECES):
        here, there = START + piece / PER_UNIT, START + (piece + 1) / PER_UNIT
        begin, end, slope, slope_end = _value(here), _value(there), _slope(here), _slope(there)
        table[piece, 0], table[piece, 1] = begin, slope
        table[piece, 2] = 3 * (end - begin) - 2 * slope - slope_end
        table[piece, 3] = 2 * (begin - end) + slope + slope_end
    return table


@compiled
def _value(root: float) -> Any:
    xi = root * root
    return math.erf(xi) + xi / math.sqrt(math.pi) * float(exponential_integral(xi * xi))


@compiled
def _slope(root: float) -> Any:
    """F's rise over a piece at the slope it has at √ξ."""
    return exponential_integral(root**4) / math.sqrt(math.pi) * 2 * root / PER_UNIT


@inlined
def side_flow_read(table: Floats, xi: float) -> Any:
    """Return F(ξ) from the table; beyond its ends, what it is there."""
    place = (sqrt(min(max(xi, LEAST), MOST)) - START) * PER_UNIT
    piece = min(int(place), PIECES - 1)
    t = place - piece
    return table[piece, 0] + t * (table[piece, 1] + t * (table[piece, 2] + t * table[piece, 3]))


@inlined
def heated(given: Condition, fluid: Fluid, fixed: Constants, table: Floats) -> tuple[Kinematics, Energy, Heat]:
    """Evaluate one condition."""
    cut = kinematics(given, fixed)
    takes = energy(given, fluid, fixed, cut, rubbing(fixed, cut))
    return (
        cut,
        takes,
        temperature(given, fluid, fixed, cut, takes, side_flow_read(table, band_width(given, fixed, cut))),
    )
