"""What is measured and seen weighs the runs of the cloud; what fits none of them is asked about, never absorbed."""

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.landing.asked import Run, Sparks
from zesty_lark.core.landing.cloud import GOES_ON_WITH, TOUCH_OFF_MM, Cloud, drawn
from zesty_lark.core.landing.moves import swells_mm

Floats = NDArray[np.float64]
Reading = tuple[float, float]
"""Of one piece the highest and the lowest place [mm]."""

NEW_SHARE = 0.81
"""Of a reading's uncertainty so much is new each time; the rest is the gauge's own error."""
DIRT = 1 / 50
DIRT_MM = np.linspace(0.003, 0.010, 15)
"""One reading in fifty has dirt under part or gauge, which only adds."""
APART_U = 4.0
"""Two readings of a stop that differ by more than so many times their uncertainty are not both clean."""
SURPRISE_SD = 4.0
"""A measurement so far from what was expected is asked again."""
NONE_MM, EVEN_MM = 0.0004, 0.0015
"""Sparks die under about this depth, and are even over that."""
MISSEEN = 0.05


def of_a_stop(readings: list[Reading], u_mm: float) -> Floats:
    """Return what the readings of a piece come to, highest and lowest: their mean, or the lower where two differ by
    more than 4 u."""
    table = np.array(readings, dtype=float)
    apart = np.ptp(table, axis=0) > APART_U * u_mm
    return np.asarray(np.where(apart, table.min(axis=0), table.mean(axis=0)))


def expected(cloud: Cloud, run: Run, piece: int) -> Floats:
    """Return what each run would read of a piece, as warm as it is, shape (2, runs)."""
    return np.asarray(cloud.size[2 * piece : 2 * piece + 2] + cloud.rise * swells_mm(run) + cloud.bias)


def surprises(cloud: Cloud, run: Run, readings: list[Reading], piece: int) -> bool:
    """Whether what was read is further from what was expected than anything usual explains."""
    fits, read = expected(cloud, run, piece), of_a_stop(readings, run.measure_u_mm)
    spread = np.sqrt(fits.var(axis=1) + (NEW_SHARE * run.measure_u_mm) ** 2 / len(readings))
    return bool((np.abs(read - fits.mean(axis=1)) > SURPRISE_SD * spread).any())


def measured(cloud: Cloud, run: Run, readings: list[Reading], dice: np.random.Generator, *, piece: int) -> Cloud:
    """Weigh the runs by readings of a piece, each clean or with dirt under it, and go on with those that fit."""
    fits, sd = expected(cloud, run, piece), NEW_SHARE * run.measure_u_mm
    speaks = np.zeros(cloud.runs)
    for reading in readings:
        off = (np.array(reading)[:, None] - fits) / sd
        clean = -0.5 * (off**2).sum(axis=0)
        dirty = -0.5 * ((off[:, None, :] - DIRT_MM[None, :, None] / sd) ** 2).sum(axis=0)
        both = np.concatenate((clean[None] + np.log(1 - DIRT), dirty + np.log(DIRT / DIRT_MM.size)), axis=0)
        top = both.max(axis=0)
        speaks += top + np.log(np.exp(both - top).sum(axis=0))
    return drawn(cloud, np.exp(speaks - speaks.max()), GOES_ON_WITH, dice)


def zero_taken_anew(cloud: Cloud, run: Run, readings: list[Reading], dice: np.random.Generator, *, piece: int) -> Cloud:
    """Something else happened: the size is what was read, and where the wheel stands is known as after a touch-off
    there; what else is up has come along."""
    found = drawn(cloud, np.ones(cloud.runs), GOES_ON_WITH, dice)
    rows = slice(2 * piece, 2 * piece + 2)
    size = of_a_stop(readings, run.measure_u_mm)[:, None] - found.bias - found.rise * swells_mm(run)
    size = size + NEW_SHARE * run.measure_u_mm / np.sqrt(len(readings)) * dice.standard_normal(size.shape)
    moved = size[0] - found.size[2 * piece]
    found.size[:] += moved
    found.size[rows] = size
    found.at[:] += moved + TOUCH_OFF_MM * dice.standard_normal(found.runs)
    return found


def sparks_likely(cloud: Cloud, sparks: Sparks) -> Floats:
    """How likely each run would show such sparks in its last pass, by how much it cut."""
    gone = np.exp(-((cloud.took / NONE_MM) ** 2))
    even = 1 - np.exp(-((cloud.took / EVEN_MM) ** 2))
    return np.asarray({"none": gone, "even": even, "dying": np.maximum(1 - gone - even, 0.0)}[sparks])


def seen(cloud: Cloud, likely: Floats, dice: np.random.Generator) -> Cloud:
    """Weigh the runs by what was seen; eyes are wrong now and then."""
    return drawn(cloud, MISSEEN + (1 - MISSEEN) * likely, min(cloud.runs, GOES_ON_WITH), dice)
