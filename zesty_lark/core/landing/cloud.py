"""The cloud: a few thousand runs as this one may be, each with its own cut ratio, heat, wear, offsets, head and sizes.

What is not known, as standard uncertainties, is an own estimate until a machine's log says better.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.landing.asked import Run

Floats = NDArray[np.float64]

BEGINS_WITH, GOES_ON_WITH = 16_000, 4_000
"""So many runs are thought of before the first measurement, and so many after it: then less is open."""
SEED = 20_260_101
TOUCH_OFF_MM = 0.003
"""Where the high spot is met."""
DRESS_MM, DRESS_GRADUATIONS = 0.0015, 0.4
"""What a dress really took off, and where the wheel is found again: about half a graduation either way."""
HEAT_SHARE, WEAR_SHARE = 0.35, 0.5
"""Heat and wear are known to such a factor, log-normal."""
MOST_AFRESH = 2.0
"""Just after a dress a wheel wears up to so much more, as a share of what it wears usually."""
MOST_DULL = 0.3
"""A dull wheel may cut less by so much of its cut ratio."""
TAPER_MM = 0.002
"""Highest less lowest place once all is clean, and how much higher one piece may stand than another."""
TAPER_KEPT = 0.5
"""So many of the runs keep the taper that was measured before."""
LEAST_FORCE_MM = 0.0005
"""Up to so much is not cut at all."""
WORN_HEADS = 0.3
"""So many machines have a head that stays."""
WIDE_SHARE, WIDER = 0.15, 2.0
"""In so many runs the cut ratio is off by twice what is said of it: what is written down may be of another wheel."""
LEAST_RATIO, MOST_RATIO = 0.06, 0.98
BIAS_SHARE = 0.58
"""Of a reading's uncertainty so much is the gauge's own error, which stays; the rest is new each time."""
DEGREE = 0.98
"""Runs drawn twice are moved apart so little that mean and spread stay."""


class Cloud(NamedTuple):
    """Runs as this one may be, by place and run or by run [mm, K].

    ``size`` is cold; ``lean`` how much lower the wheel passes over a place than over the first; ``at`` where the wheel
    would be with the collar at the touch-off; ``worn`` what it has worn since; ``dial`` what the reading is set wrong
    by, ``stays`` how much higher the head stands than it was set; ``least`` the depth that is not cut; ``bias`` the
    gauge's own error; ``took`` what the last pass cut at the first place.
    """

    size: Floats
    lean: Floats
    at: Floats
    cut_ratio: Floats
    heat: Floats
    wear: Floats
    afresh: Floats
    dull: Floats
    dulled: Floats
    least: Floats
    worn_head: Floats
    stays: Floats
    dial: Floats
    worn: Floats
    rise: Floats
    bias: Floats
    took: Floats

    @property
    def runs(self) -> int:
        """How many."""
        return int(self.at.size)

    def chosen(self, which: NDArray[np.int64]) -> "Cloud":
        """Return a cloud of some of the runs, each its own copy."""
        return Cloud(*(np.ascontiguousarray(each[..., which]) for each in self))

    def copy(self) -> "Cloud":
        """Return the same runs, to be moved on their own."""
        return Cloud(*(each.copy() for each in self))


def begin(run: Run, dice: np.random.Generator) -> Cloud:
    """Return the runs as they may be at the touch-off, on the highest place of all that is under the collar."""
    n, u = BEGINS_WITH, run.measure_u_mm
    sizes, leans = [], []
    for number, piece in enumerate(run.pieces):
        known = u if piece.known_u_mm is None else piece.known_u_mm
        high = piece.greatest_mm + known * dice.standard_normal(n)
        low = np.minimum(high, high - (piece.greatest_mm - piece.least_mm) + u * dice.standard_normal(n))
        kept = np.where(dice.random(n) < TAPER_KEPT, min(piece.greatest_mm - piece.least_mm, 3 * TAPER_MM), 0.0)
        stands = TAPER_MM * dice.standard_normal(n) if number else np.zeros(n)
        sizes += [high, low]
        leans += [stands, stands + np.abs(kept + TAPER_MM * dice.standard_normal(n))]
    size = np.array(sizes)
    cut_ratio = run.prior.cut_ratio + run.prior.cut_ratio_u * dice.standard_normal(n) * np.where(
        dice.random(n) < WIDE_SHARE, WIDER, 1.0
    )
    nothing = np.zeros(n)
    return Cloud(
        size,
        np.array(leans),
        size.max(axis=0) + TOUCH_OFF_MM * dice.standard_normal(n),
        np.clip(cut_ratio, LEAST_RATIO, MOST_RATIO),
        np.exp(HEAT_SHARE * dice.standard_normal(n)),
        np.exp(WEAR_SHARE * dice.standard_normal(n)),
        MOST_AFRESH * dice.random(n),
        MOST_DULL * dice.random(n),
        nothing.copy(),
        LEAST_FORCE_MM * dice.random(n),
        (dice.random(n) < WORN_HEADS).astype(float),
        nothing.copy(),
        nothing.copy(),
        nothing.copy(),
        nothing.copy(),
        BIAS_SHARE * u * np.sqrt(3) * (2 * dice.random(n) - 1),
        nothing.copy(),
    )


def dressed(cloud: Cloud, run: Run, dice: np.random.Generator) -> None:
    """Dress the wheel: where it is found again is not known, and it wears quickly at first."""
    n = cloud.runs
    cloud.at[:] += DRESS_MM * dice.standard_normal(n)
    cloud.at[:] += DRESS_GRADUATIONS * run.graduation_mm * dice.standard_normal(n)
    cloud.afresh[:], cloud.dulled[:] = MOST_AFRESH * dice.random(n), 0.0
    if run.ways.dress_levels:
        cloud.worn[:] = 0.0


def drawn(cloud: Cloud, weights: Floats, most: int, dice: np.random.Generator) -> Cloud:
    """Return runs drawn by their weights, those drawn twice moved a little apart.

    Parameters
    ----------
    cloud : Cloud
    weights : Floats, shape (runs,)
        What speaks for each, of any scale.
    most : int
        How many to go on with.
    dice : Generator
    """
    shares = np.cumsum(weights)
    places = (np.arange(most) + dice.random()) / most * shares[-1]
    found = cloud.chosen(np.minimum(np.searchsorted(shares, places), weights.size - 1))
    _apart(found, dice)
    return found


def _apart(cloud: Cloud, dice: np.random.Generator) -> None:
    """Move runs apart with what they have in common kept: shrunk to their mean, and spread again as they were."""
    rows = [*cloud.size, *cloud.lean[1:], cloud.at, np.log(cloud.heat), np.log(cloud.wear)]
    rows += [np.log(cloud.cut_ratio / (1 - cloud.cut_ratio)), cloud.least, cloud.bias, cloud.worn, cloud.dull]
    table = np.array(rows)
    mean = table.mean(axis=1, keepdims=True)
    scale = np.maximum(table.std(axis=1, keepdims=True), 1e-12)
    common = np.cov((table - mean) / scale) + 1e-9 * np.eye(len(rows))
    spread = np.linalg.cholesky(common) @ dice.standard_normal(table.shape)
    table = mean + DEGREE * (table - mean) + np.sqrt(1 - DEGREE**2) * spread * scale
    places = len(cloud.size)
    cloud.size[:], cloud.lean[1:] = table[:places], table[places : 2 * places - 1]
    at, heat, wear, ratio, least, bias, worn, dull = table[2 * places - 1 :]
    cloud.at[:], cloud.heat[:], cloud.wear[:], cloud.bias[:] = at, np.exp(heat), np.exp(wear), bias
    cloud.cut_ratio[:] = np.clip(1 / (1 + np.exp(-ratio)), LEAST_RATIO, MOST_RATIO)
    cloud.least[:], cloud.worn[:], cloud.dull[:] = np.abs(least), worn, np.clip(dull, 0, MOST_DULL)
