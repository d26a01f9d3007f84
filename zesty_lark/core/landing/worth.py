"""What a run comes to if it is measured now: in, under, or with how good a chance for the next stop, compiled."""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.landing.asked import Run
from zesty_lark.core.landing.cloud import Cloud
from zesty_lark.core.landing.moves import DIAL_GRADUATIONS
from zesty_lark.core.landing.weigh import NEW_SHARE
from zesty_lark.core.quantities.compiled import compiled, inlined

Floats = NDArray[np.float64]

NEXT_STOP = 0.95
"""A landing that takes one stop more is worth this share of one at once."""
LANDS_WITHIN_MM = 0.0003
"""How far a last setting comes down from where it was thought, beside the dial [mm]."""
FAR_MM = 0.06
"""From so far above half of the chances are gone: heat, wear and springs are not known well enough."""
AFTER_DRESS = 0.85
"""Where the settings fall badly a dress moves them: so good is that, where they are no coarser than the zone."""
SMOOTH_MM = 0.0001
"""So far a run stands for its neighbours when those under the limit are counted [mm]."""


class Wanted(NamedTuple):
    """The limit nothing may go under, the guarded zone [mm], the new part of the uncertainty of a stop, how well a last
    setting lands, and a setting [mm]."""

    under: float
    lower: float
    upper: float
    stop_u: float
    lands: float
    setting: float


class Chances(NamedTuple):
    """Of the runs the share that is read as in, and that is truly under; and what it is worth with the stop after."""

    inside: float
    under: float
    worth: float


def wanted_of(run: Run) -> Wanted:
    """Return what a run is judged by."""
    dial = DIAL_GRADUATIONS * run.graduation_mm
    return Wanted(
        run.lower_mm,
        run.lower_mm + run.guard_mm,
        run.upper_mm - run.guard_mm,
        NEW_SHARE * run.measure_u_mm / math.sqrt(run.readings_a_stop),
        math.hypot(dial, LANDS_WITHIN_MM),
        run.setting_mm,
    )


@inlined
def _up_to(value: float) -> float:
    """The share of a normal law that is no larger."""
    return 0.5 * math.erfc(-value * 0.7071067811865476)


@compiled
def chances(cloud: Cloud, wanted: Wanted) -> Chances:
    """Count over the cloud; with several pieces every one counts, and the first under is one too many."""
    size, lean, bias, runs = cloud.size, cloud.lean, cloud.bias, cloud.bias.size
    pieces = size.shape[0] // 2
    inside, under, worth = 0.0, 0.0, 0.0
    for i in range(runs):
        none_under = 1.0
        for piece in range(pieces):
            high, low = size[2 * piece, i], size[2 * piece + 1, i]
            if low > high:
                high, low = low, high
            none_under *= 1.0 - _up_to((wanted.under - low) / SMOOTH_MM)
            reads_high, reads_low = high + bias[i], low + bias[i]
            not_high = _up_to((wanted.upper - reads_high) / wanted.stop_u)
            not_low = _up_to((reads_low - wanted.lower) / wanted.stop_u)
            inside += not_high * not_low / pieces
            above = (1.0 - not_high) * not_low
            worth += not_high * not_low / pieces
            if above > 0.001:
                taper = max(0.0, lean[2 * piece + 1, i] - lean[2 * piece, i])
                worth += NEXT_STOP * above * _lands(reads_high, taper, wanted) / pieces
        under += 1.0 - none_under
    return Chances(inside / runs, under / runs, worth / runs)


@compiled
def _lands(high: float, taper: float, wanted: Wanted) -> float:
    """How good the chances are that the next settings down bring a piece in whose highest place is read so, and which
    has such a taper once it is clean."""
    middle, room = high - taper / 2, (wanted.upper - wanted.lower) - taper
    if room <= 0:
        return 0.0
    down = middle - (wanted.upper + wanted.lower) / 2
    off = abs(down - round(down / wanted.setting) * wanted.setting)
    lands = _up_to((room / 2 - off) / wanted.lands) - _up_to((-room / 2 - off) / wanted.lands)
    lands = max(lands, AFTER_DRESS * min(1.0, room / wanted.setting))
    return lands / (1.0 + (max(down, 0.0) / FAR_MM) ** 2)
