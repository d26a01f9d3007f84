"""How a run comes to its size: the estimate from its own log, the next cut it asks for, and the chances of what is
planned."""

from dataclasses import dataclass, replace
from decimal import Decimal

from zesty_lark.core.landing.asked import Run as LandingRun
from zesty_lark.core.landing.landed import chances_until, landed
from zesty_lark.core.landing.worth import Chances
from zesty_lark.core.measure.next_cut import NextCut
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.landing_acts import Dial
from zesty_lark.core.work.landing_run import USUAL_U_MM, ahead_of, landing_of
from zesty_lark.core.work.run import Run
from zesty_lark.store.models import Job

LIKELY = 0.5
"""A cut after which it is in as likely as not is worth it without another reading."""


@dataclass(frozen=True)
class Ahead:
    """What is expected at the next measurement, as the plan goes: in of a hundred, under of a thousand; ``risky`` when
    that is more than is taken."""

    inside: float
    under: float
    risky: bool


MOST_UNDER = 0.0015
"""From here on going under is said to be likely enough to stop before it: what is taken is 1 in 1,000, rounded."""


def landing_run(
    job: Job, job_state: JobState, run: Run, *, goal_mm: Decimal, graduation_mm: Decimal
) -> LandingRun | None:
    """Return a run of the log as its landing is estimated from; ``None`` where none is.

    Of a load that is being measured it is of the pieces that were, and are not in: the others are measured before
    anything is cut.
    """
    if run.proofs:
        waiting = [number for number in run.pieces if number in run.proofs and run.proofs[number].verdict != "in"]
        run = replace(run, pieces=tuple(waiting))
    newest = next(
        (
            entry.uncertainty_mm
            for entry in reversed(job_state.history)
            if isinstance(entry, Measured) and entry.surface == run.surface and entry.uncertainty_mm
        ),
        USUAL_U_MM,
    )
    return landing_of(job_state, run, goal_mm, Dial(graduation_mm, newest, job.machine.coolant))  # type: ignore[arg-type]


def next_cut_of(landing: LandingRun, feed_mm: Decimal) -> NextCut:
    """Return what the estimate says to do after a measurement, in whole graduations of the dial.

    Parameters
    ----------
    landing : LandingRun
    feed_mm : Decimal
        A graduation of the dial [mm].
    """
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


def ahead(landing: LandingRun, job_state: JobState, run: Run) -> Ahead | None:
    """Return what the plan in force comes to at its next measurement; ``None`` when there is nothing left to do."""
    acts = ahead_of(run, landing, abs(float(job_state.spec.wanted.surfaces[run.surface].per_feed)))
    if not acts:
        return None
    found: Chances = chances_until(landing, acts)
    return Ahead(round(found.inside, 4), round(found.under, 5), found.under > MOST_UNDER)
