"""What to do until the next stop: among depths, spark-outs and a dress, what most likely ends inside the zone, now or
with one stop more; only what hardly ever goes under is looked at.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from zesty_lark.core.landing.asked import Act, PassKind, Run
from zesty_lark.core.landing.cloud import SEED, Cloud, dressed
from zesty_lark.core.landing.follow import Followed
from zesty_lark.core.landing.moves import Floats, approached, draws, fed, feed_of, swells_mm
from zesty_lark.core.landing.worth import Chances, Wanted, chances, wanted_of
from zesty_lark.core.process.finish import found_again_mm
from zesty_lark.core.process.warmth import COOL_SHARE

MOST_UNDER = 0.001
"""The chance of going under that is taken, each time."""
TRIED_WITH = 1_500
LEFT_STEPS = 3
"""What roughing leaves: so many finish steps, and at least what a dress may be out by."""
FEW_PASSES = 6
"""So many finish passes take off what is not worth roughing."""
TRIED_DEPTHS = 24
FAR_SD = 3.5
SPARK_OUT_COSTS, PASS_COSTS, UNDER_COSTS = 0.002, 0.0005, 20.0
LEAST_GAIN = 0.03
"""A way that leaves less than this chance to get in is none."""


@dataclass(frozen=True)
class Way:
    """What to do until the next stop, how many spark-outs of it, its chances, and what that is worth."""

    acts: tuple[Act, ...]
    spark_outs: int
    chances: Chances
    worth: float

    def worth_of(self, comes_to: float) -> float:
        """What it is worth, where it comes to so much: spark-outs, passes and the risk of going under count."""
        passes = sum(act.act == "pass" for act in self.acts)
        risk = UNDER_COSTS * self.chances.under
        return comes_to - SPARK_OUT_COSTS * self.spark_outs - PASS_COSTS * passes - risk


def choose(run: Run, now: Followed) -> Way | None:
    """Return the best way on, or ``None`` when no cut is allowed any more."""
    dice = np.random.default_rng([SEED, len(run.acts)])
    start = replace(now, cloud=_thinned(now.cloud))
    wanted = wanted_of(run)
    ways = [
        way for begun in _beginnings(run, start, dice) for way in _landings(run, begun, wanted, dice, blank=start.fed)
    ]
    allowed = [way for way in ways if way.chances.under <= MOST_UNDER and way.worth > LEAST_GAIN]
    return max(allowed, key=lambda way: way.worth, default=None)


def chances_of(run: Run, now: Followed, acts: Sequence[Act]) -> Chances:
    """Return what some acts come to, until it is measured after them: whatever way a skilled hand goes."""
    dice = np.random.default_rng([SEED, len(run.acts)])
    cloud, depth = _thinned(now.cloud), now.settings * run.setting_mm
    for act in acts:
        if act.act == "dress":
            dressed(cloud, run, dice)
        elif act.act == "cool":
            cloud.rise[:] = 0.0
        elif act.act == "approach":
            approached(cloud, run.graduation_mm, draws(cloud, dice))
        elif act.to_mm is not None and act.kind is not None:
            by, blank = max(act.to_mm - depth, 0.0), act.act == "spark_out"
            fed(cloud, feed_of(run, act.kind, act.to_mm, by, spark_out=blank, own=act.figures), draws(cloud, dice))
            depth = max(act.to_mm, depth)
    return chances(cloud, wanted_of(run))


def _thinned(cloud: Cloud) -> Cloud:
    """So many of the runs as ways are tried with."""
    return cloud.chosen(np.arange(0, cloud.runs, max(1, cloud.runs // TRIED_WITH)))


@dataclass(frozen=True)
class _Begun:
    """Where a landing starts: the cloud, how deep [settings], and what led there."""

    cloud: Cloud
    settings: int
    acts: tuple[Act, ...]


def _beginnings(run: Run, now: Followed, dice: np.random.Generator) -> Iterator[_Begun]:
    """Roughing and the dress after it, where there is so much to take; else as it is, or dressed once more."""
    here = _Begun(now.cloud, now.settings, ())
    deepest = _rough_to(run, now)
    if deepest is not None:
        yield _roughed(run, here, deepest, dice)
    elif now.rough_since_dress:
        yield _with_dress(run, here, dice)
    else:
        yield here
        if now.stops and run.ways.dress:
            yield _with_dress(run, replace(here, cloud=now.cloud.copy()), dice)


def _rough_to(run: Run, now: Followed) -> int | None:
    """How deep roughing goes [settings]; nothing when what is left is for the finish."""
    left = max(LEFT_STEPS * run.finish.step_mm, found_again_mm(run.graduation_mm))
    stands = float((now.cloud.at + now.cloud.worn).mean())
    deepest = int((stands - run.goal_mm - left) / run.setting_mm)
    takes = (deepest - now.settings) * run.setting_mm
    least = 0.0 if now.rough_since_dress else max(run.rough.step_mm, FEW_PASSES * run.finish.step_mm)
    return deepest if takes > least else None


def _roughed(run: Run, here: _Begun, deepest: int, dice: np.random.Generator) -> _Begun:
    """Roughing and the dress after it; where heat or wear make that too risky it stays further above."""
    least = here.settings + 1
    while True:
        tried = _with_dress(run, _rough_passes(run, here, deepest, dice), dice)
        lowest = float(np.quantile(tried.cloud.size.min(axis=0), MOST_UNDER / 2))
        short = math.ceil((run.goal_mm - lowest) / run.setting_mm)
        if short <= 0 or deepest <= least:
            return tried
        deepest = max(least, deepest - short)


def _rough_passes(run: Run, here: _Begun, deepest: int, dice: np.random.Generator) -> _Begun:
    """Passes as alike as the settings allow."""
    cloud, acts, depth = here.cloud.copy(), list(here.acts), here.settings
    passes = -(-(deepest - depth) // run.steps("rough"))
    for to in (here.settings + (deepest - here.settings) * number // passes for number in range(1, passes + 1)):
        _feed(run, cloud, "rough", between=(depth, to), dice=dice)
        acts.append(_pass(run, "rough", to))
        depth = to
    return _Begun(cloud, depth, tuple(acts))


def _with_dress(run: Run, here: _Begun, dice: np.random.Generator) -> _Begun:
    """Cool where the part is warm, and dress."""
    acts = list(here.acts)
    if float(here.cloud.rise.mean()) * swells_mm(run) > COOL_SHARE * run.zone_mm:
        here.cloud.rise[:] = 0.0
        acts.append(Act("cool"))
    dressed(here.cloud, run, dice)
    return replace(here, acts=(*acts, Act("dress", off_mm=run.graduation_mm)))


def _landings(run: Run, begun: _Begun, wanted: Wanted, dice: np.random.Generator, *, blank: bool) -> Iterator[Way]:
    """Every depth that may be the last before the stop, with one to three spark-outs; without a feed only where
    ``blank`` allows it: what the last spark-outs did not bring, no more of them will."""
    steps, cloud, depth, acts = run.steps("finish"), begun.cloud, begun.settings, begun.acts
    news = [draws(cloud, dice) for _ in range(2 + max(run.ways.spark_outs))]
    for last in _depths(run, begun, wanted):
        while last - depth > steps:
            cloud = cloud.copy()
            _feed(run, cloud, "finish", between=(depth, depth + steps), dice=dice)
            depth += steps
            acts = (*acts, _pass(run, "finish", depth))
        tried, done = cloud.copy(), acts
        if last > depth:
            fed(tried, feed_of(run, "finish", last * run.setting_mm, (last - depth) * run.setting_mm), news[0])
            done = (*acts, _pass(run, "finish", last))
        found = list(_sparked_out(run, tried, last, done, wanted=wanted, news=news[1:]))
        if done:
            yield from found
        elif blank:  # nothing is fed: it is worth what spark-outs bring in, not what reading it once more would
            before = chances(cloud, wanted).inside
            yield from (replace(way, worth=way.worth_of(way.chances.inside - before)) for way in found)
        if min(way.chances.under for way in found) > MOST_UNDER:
            return


def _depths(run: Run, begun: _Begun, wanted: Wanted) -> list[int]:
    """The depths to look at, from the shallowest: from well above the zone on, as fine as the zone asks."""
    cloud = begun.cloud
    stands = cloud.at + cloud.worn
    spread = FAR_SD * float(np.sqrt(stands.var() + cloud.size[0].var())) + (wanted.upper - wanted.lower)
    middle = (wanted.upper + wanted.lower) / 2
    first = int((float(stands.mean()) - middle - spread) / run.setting_mm)
    last = math.ceil((float(stands.mean()) - middle + spread) / run.setting_mm)
    first = max(begun.settings, first)
    stride = max(1, (last - first) // TRIED_DEPTHS)
    return [*range(first, max(last, first) + 1, stride)]


def _sparked_out(
    run: Run, cloud: Cloud, last: int, acts: tuple[Act, ...], *, wanted: Wanted, news: list[Floats]
) -> Iterator[Way]:
    """Approach the last reading again, spark out once and more often, and see what it comes to."""
    if run.ways.approach:
        approached(cloud, run.graduation_mm, news[0])
        acts = (*acts, Act("approach"))
    feed = feed_of(run, "finish", last * run.setting_mm, 0.0, spark_out=True)
    blank = Act("spark_out", kind="finish", to_mm=_depth(run, last))
    for number in range(1, max(run.ways.spark_outs) + 1):
        fed(cloud, feed, news[number])
        if number in run.ways.spark_outs:
            come_to = chances(cloud, wanted)
            way = Way((*acts, *[blank] * number), number, come_to, 0.0)
            yield replace(way, worth=way.worth_of(come_to.worth))


def _feed(run: Run, cloud: Cloud, kind: PassKind, *, between: tuple[int, int], dice: np.random.Generator) -> None:
    """Feed from one depth to another [settings]."""
    depth, to = between
    fed(cloud, feed_of(run, kind, to * run.setting_mm, (to - depth) * run.setting_mm), draws(cloud, dice))


def _depth(run: Run, settings: int) -> float:
    return round(settings * run.setting_mm, 9)


def _pass(run: Run, kind: PassKind, settings: int) -> Act:
    return Act("pass", kind=kind, to_mm=_depth(run, settings))
