"""The next cut after a measurement, by the run's estimate."""

from decimal import Decimal

from zesty_lark.core.landing.asked import Run
from zesty_lark.core.landing.landed import landed
from zesty_lark.core.measure.next_cut import NextCut
from zesty_lark.core.measure.thickness import Judgement

LIKELY = 0.5
"""A cut after which it is in as likely as not is worth it without another reading."""


def estimated_cut(landing: Run, judged: Judgement, feed_mm: Decimal) -> NextCut:
    """Return what the estimate says to do, in whole graduations of the dial; nothing where the measurement itself comes
    first: a warm part, a gauge past its date or one that can call nothing in.

    Parameters
    ----------
    landing : Run
        The run, its last act the measurement.
    judged : Judgement
        What the readings came to.
    feed_mm : Decimal
        A graduation of the dial [mm].
    """
    if not judged.over and (judged.hot or judged.overdue or judged.hopeless):
        return NextCut("nothing")
    return cut_of_landing(landing, feed_mm)


def cut_of_landing(landing: Run, feed_mm: Decimal) -> NextCut:
    """Return the same by the estimate alone."""
    made = landed(landing)
    decided, way = made.decision, made.decision.way
    if decided.reason in ("surprise", "sparks"):
        return NextCut("read again", surprised=True)
    if way is None:
        return NextCut("read again" if decided.end is None else "nothing")
    graduations = round((made.to_mm - made.depth_mm) / landing.setting_mm)
    return NextCut(
        "take" if graduations else "spark out",
        graduations * feed_mm,
        certain=way.chances.inside >= LIKELY,
        chance_in=round(way.chances.inside, 4),
        chance_under=round(way.chances.under, 5),
        zero_anew=decided.reason == "zero anew",
    )
