"""A pass moves every run of the cloud, compiled: heat, head, springs and wear by the planner's own formulas."""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.landing.asked import PassFigures, PassKind, Run
from zesty_lark.core.landing.cloud import Cloud
from zesty_lark.core.quantities.compiled import compiled
from zesty_lark.core.quantities.steel import STEEL_EXPANSION

Floats = NDArray[np.float64]

SPARK_OUT_HEAT = 0.3
"""A spark-out warms the part by this share of what a pass does."""
DIAL_GRADUATIONS = 0.1
"""How well a reading is set [graduations]."""
STAYS_ONE_IN, STAYS_MM = 8.0, 0.0025
"""A worn head stays at one setting in so many, by up to so much [mm]."""
LETS_GO = 0.3
"""How often a head that stayed lets go in a pass at the same reading."""
SOON_KEPT = 0.5
"""How much of the quick wear after a dress is left a pass later."""
DULLS = 0.1
"""How far a full pass goes towards the wheel being as dull as it gets."""
TAKES = 3
"""Numbers drawn for a pass and run."""


class Feed(NamedTuple):
    """One pass: its depth under the touch-off and how far it fed [mm], how often it wipes each place, what it warms the
    part by [K] and how much of the rise before is kept, its wear for each millimetre cut, its whole step [mm]; the
    dial's graduation [mm]; and the swelling of a kelvin [mm]."""

    to_mm: float
    fed_mm: float
    wipes: float
    rise_c: float
    kept: float
    wear: float
    step_mm: float
    graduation_mm: float
    swells_mm: float


def feed_of(
    run: Run, kind: PassKind, to_mm: float, fed_mm: float, *, spark_out: bool = False, own: PassFigures | None = None
) -> Feed:
    """Return the figures of one pass or spark-out of a run; its ``own`` where they are not those of its kind."""
    figures = own or run.figures(kind)
    return Feed(
        to_mm,
        fed_mm,
        float(figures.wipes(run.wheel_width_mm)),
        figures.rise_c * (SPARK_OUT_HEAT if spark_out else 1.0),
        run.rise_kept,
        figures.wear_mm / figures.step_mm,
        figures.step_mm,
        run.graduation_mm,
        swells_mm(run),
    )


def swells_mm(run: Run) -> float:
    """What a part of a run swells by, a kelvin [mm]."""
    return float(STEEL_EXPANSION) * run.goal_mm


def draws(cloud: Cloud, dice: np.random.Generator) -> Floats:
    """Return what is new in one pass, by run: how the dial is set (normal), whether the head stays, by how much."""
    return np.stack((dice.standard_normal(cloud.runs), dice.random(cloud.runs), dice.random(cloud.runs)))


def approached(cloud: Cloud, graduation_mm: float, new: Floats) -> None:
    """Raise the wheel and come down to the same reading again: a head that stayed has let go."""
    cloud.stays[:] = 0.0
    cloud.dial[:] = DIAL_GRADUATIONS * graduation_mm * new[0]


@compiled
def fed(cloud: Cloud, feed: Feed, new: Floats) -> None:
    """Run one pass in every run of the cloud, in place; ``new`` is what ``draws`` gave, shape (3, runs)."""
    size, lean, at, cut_ratio, heat, wear = cloud.size, cloud.lean, cloud.at, cloud.cut_ratio, cloud.heat, cloud.wear
    afresh, dull, dulled, least, worn_head = cloud.afresh, cloud.dull, cloud.dulled, cloud.least, cloud.worn_head
    stays, dial, worn, rise, took = cloud.stays, cloud.dial, cloud.worn, cloud.rise, cloud.took
    places = size.shape[0]
    for i in range(at.size):
        if feed.fed_mm > 0.0:
            dial[i] = DIAL_GRADUATIONS * feed.graduation_mm * new[0, i]
            stays[i] = 0.0
            if worn_head[i] > 0.5 and new[1, i] * STAYS_ONE_IN < 1.0:
                stays[i] = min(feed.fed_mm, STAYS_MM * new[2, i])
        elif stays[i] > 0.0 and new[1, i] < LETS_GO:
            stays[i] = 0.0
        rise[i] = rise[i] * feed.kept + feed.rise_c * heat[i]
        swollen = rise[i] * feed.swells_mm
        wheel = at[i] - feed.to_mm + worn[i] + dial[i] + stays[i]
        share = 1.0 - math.pow(1.0 - cut_ratio[i] * (1.0 - dulled[i]), feed.wipes)
        for place in range(places):
            over = size[place, i] + swollen - (wheel - lean[place, i]) - least[i]
            cut = share * over if over > 0.0 else 0.0
            size[place, i] -= cut
            if place == 0:
                took[i] = cut
        worn[i] += feed.wear * took[i] * wear[i] * (1.0 + afresh[i])
        afresh[i] *= SOON_KEPT
        dulled[i] += DULLS * min(1.0, took[i] / feed.step_mm) * (dull[i] - dulled[i])
