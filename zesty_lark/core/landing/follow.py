"""Follow a run act by act: the cloud as it is now, how deep, how it was last measured, and whether that agreed."""

from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from zesty_lark.core.landing.asked import Act, Run
from zesty_lark.core.landing.cloud import SEED, Cloud, begin, dressed
from zesty_lark.core.landing.moves import approached, draws, fed, feed_of
from zesty_lark.core.landing.weigh import (
    APART_U,
    Floats,
    Reading,
    measured,
    of_a_stop,
    seen,
    sparks_likely,
    surprises,
    zero_taken_anew,
)

HARDLY = 0.02
"""Sparks that hardly any of the runs would show fit none: it is measured before anything else."""
Agrees = Literal["yes", "sparks", "asked again", "zero anew"]


@dataclass
class Followed:
    """A run as far as it was logged.

    Attributes
    ----------
    cloud : Cloud
    settings : int
        How deep the wheel was set under the touch-off.
    rough_since_dress : bool
        Whether the wheel has roughed since it was dressed.
    readings : dict of int to list of Reading
        Of this stop, by piece; none once something was done after it.
    stops : int
        How often it was measured.
    fed : bool
        Whether it has been fed down since the stop before, or the beginning.
    agrees : Agrees
        Whether the last stop was as expected; if not, whether that was asked again and confirmed; or that the sparks
        were not as they should have been.
    """

    cloud: Cloud
    settings: int = 0
    rough_since_dress: bool = False
    readings: dict[int, list[Reading]] = field(default_factory=dict)
    stops: int = 0
    agrees: Agrees = "yes"
    fed: bool = False

    def read(self, run: Run) -> Floats:
        """What the readings of this stop come to, by piece that was measured, highest and lowest [mm]."""
        lasts = (readings[-run.readings_a_stop :] for readings in self.readings.values())
        return np.array([of_a_stop(each, run.measure_u_mm) for each in lasts])


def follow(run: Run) -> Followed:
    """Follow all the acts of a run."""
    dice = np.random.default_rng(SEED)
    now = Followed(begin(run, dice))
    for act in run.acts:
        _ACTS[act.act](now, run, act, dice)
    return now


def _goes_on(now: Followed) -> None:
    if now.readings:
        now.fed = False
    now.readings, now.agrees = {}, "yes"


def _pass(now: Followed, run: Run, act: Act, dice: np.random.Generator) -> None:
    assert act.kind is not None and act.to_mm is not None
    settings = run.settings(act.to_mm)
    by = max(settings - now.settings, 0) * run.setting_mm
    spark_out = act.act == "spark_out"
    if not spark_out or now.agrees != "asked again":  # without a feed what surprised can still be read again
        _goes_on(now)
    feed = feed_of(run, act.kind, act.to_mm, by, spark_out=spark_out, own=act.figures)
    fed(now.cloud, feed, draws(now.cloud, dice))
    now.fed = now.fed or by > 0
    now.settings = max(settings, now.settings)
    now.rough_since_dress = now.rough_since_dress or act.kind == "rough"


def _dress(now: Followed, run: Run, act: Act, dice: np.random.Generator) -> None:
    _goes_on(now)
    dressed(now.cloud, run, dice)
    now.rough_since_dress = False


def _approach(now: Followed, run: Run, act: Act, dice: np.random.Generator) -> None:
    _goes_on(now)
    approached(now.cloud, run.graduation_mm, draws(now.cloud, dice))


def _cool(now: Followed, run: Run, act: Act, dice: np.random.Generator) -> None:
    now.cloud.rise[:] = 0.0


def _seen(now: Followed, run: Run, act: Act, dice: np.random.Generator) -> None:
    assert act.sparks is not None
    likely = sparks_likely(now.cloud, act.sparks)
    if float(likely.mean()) < HARDLY:
        now.agrees = "sparks"
    else:
        now.cloud = seen(now.cloud, likely, dice)


def _measured(now: Followed, run: Run, act: Act, dice: np.random.Generator) -> None:
    """Take a reading; with the last of a piece at a stop the cloud is weighed, and one that surprises is read again."""
    assert act.greatest_mm is not None and act.least_mm is not None
    piece, count = act.piece or 0, run.readings_a_stop
    begins = not now.readings
    readings = now.readings.setdefault(piece, [])
    readings.append((act.greatest_mm, act.least_mm))
    now.stops += begins
    if len(readings) % count:
        return
    these, before = readings[-count:], readings[:-count]
    surprised = surprises(now.cloud, run, these, piece)
    if now.agrees == "asked again" and before:
        now.readings[piece] = these
        if surprised and not _confirmed(before[-count:], these, run):
            return
        if surprised:
            now.cloud, now.agrees = zero_taken_anew(now.cloud, run, these, dice, piece=piece), "zero anew"
            return
        now.agrees = "yes"
    elif surprised and now.agrees in ("yes", "sparks"):
        now.agrees = "asked again"
        return
    now.cloud = measured(now.cloud, run, these, dice, piece=piece)
    now.agrees = "zero anew" if now.agrees == "zero anew" else "yes"


def _confirmed(first: list[Reading], again: list[Reading], run: Run) -> bool:
    """Whether a repeat says the same as what surprised."""
    apart = np.abs(of_a_stop(first, run.measure_u_mm) - of_a_stop(again, run.measure_u_mm))
    return bool((apart <= APART_U * run.measure_u_mm).all())


_ACTS = {
    "pass": _pass,
    "spark_out": _pass,
    "dress": _dress,
    "approach": _approach,
    "cool": _cool,
    "seen": _seen,
    "measured": _measured,
}
