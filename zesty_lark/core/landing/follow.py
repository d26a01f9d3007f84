"""Follow a run act by act: the cloud as it is now, how deep, how it was last measured, and whether that agreed."""

from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from zesty_lark.core.landing.asked import Act, PassKind, Run
from zesty_lark.core.landing.cloud import SEED, Cloud, begin, dressed
from zesty_lark.core.landing.moves import approached, draws, fed, feed_of
from zesty_lark.core.landing.weigh import (
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
READINGS = 2
"""A stop is read twice, lifted, wiped and put back between."""
Agrees = Literal["yes", "sparks", "asked again", "zero anew"]


@dataclass
class Followed:
    """A run as far as it was logged.

    Attributes
    ----------
    cloud : Cloud
    settings : int
        How deep the wheel was set under the touch-off.
    kind : PassKind
        Of the last pass.
    rough_since_dress : bool
        Whether the wheel has roughed since it was dressed.
    readings : list of Reading
        Of this stop; none once something was done after it.
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
    kind: PassKind = "finish"
    rough_since_dress: bool = False
    readings: list[Reading] = field(default_factory=list)
    stops: int = 0
    agrees: Agrees = "yes"
    fed: bool = False

    @property
    def read(self) -> Floats:
        """What the readings of this stop come to, by piece, highest and lowest [mm]."""
        return of_a_stop(self.readings[-READINGS:], self.u_mm)

    u_mm: float = 0.0


def follow(run: Run) -> Followed:
    """Follow all the acts of a run."""
    dice = np.random.default_rng(SEED)
    now = Followed(begin(run, dice), u_mm=run.measure_u_mm)
    for act in run.acts:
        _ACTS[act.act](now, run, act, dice)
    return now


def _goes_on(now: Followed) -> None:
    if now.readings:
        now.fed = False
    now.readings, now.agrees = [], "yes"


def _pass(now: Followed, run: Run, act: Act, dice: np.random.Generator) -> None:
    _goes_on(now)
    assert act.kind is not None and act.to_mm is not None
    settings = run.settings(act.to_mm)
    by = max(settings - now.settings, 0) * run.setting_mm
    spark_out = act.act == "spark_out"
    fed(now.cloud, feed_of(run, act.kind, act.to_mm, by, spark_out=spark_out), draws(now.cloud, dice))
    now.fed = now.fed or by > 0
    now.settings, now.kind = max(settings, now.settings), act.kind
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
    """Take a reading; with the second of a stop the cloud is weighed, and one that surprises is read again clean."""
    assert act.greatest_mm is not None and act.least_mm is not None
    now.readings.append(((act.greatest_mm, act.least_mm),) * len(run.pieces))
    if len(now.readings) % READINGS:
        return
    pair = now.readings[-READINGS:]
    surprised = surprises(now.cloud, run, now.read, READINGS)
    if now.agrees == "asked again":
        before, now.readings = now.readings[:-READINGS], pair
        if surprised and _confirmed(before, pair, run):
            now.cloud, now.agrees = zero_taken_anew(now.cloud, run, now.read, dice), "zero anew"
        elif surprised:
            return
        else:
            now.cloud, now.agrees = measured(now.cloud, run, pair, dice), "yes"
    elif surprised and now.agrees in ("yes", "sparks"):
        now.agrees = "asked again"
    else:
        now.cloud, now.agrees = (
            measured(now.cloud, run, pair, dice),
            "zero anew" if now.agrees == "zero anew" else "yes",
        )
    now.stops += len(now.readings) == READINGS and now.agrees != "asked again"


def _confirmed(first: list[Reading], again: list[Reading], run: Run) -> bool:
    """Whether a repeat says the same as what surprised."""
    apart = np.abs(of_a_stop(first[-READINGS:], run.measure_u_mm) - of_a_stop(again, run.measure_u_mm))
    return bool((apart <= 4 * run.measure_u_mm).all())


_ACTS = {
    "pass": _pass,
    "spark_out": _pass,
    "dress": _dress,
    "approach": _approach,
    "cool": _cool,
    "seen": _seen,
    "measured": _measured,
}
