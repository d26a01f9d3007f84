"""What stands beside the act at the machine: the wheel's use, the power meter's word, time left, the share cleaned."""

from dataclasses import dataclass
from decimal import Decimal

import numpy as np
from sqlalchemy.orm import Session

from zesty_lark.core.measure.maps.feather import cleaned
from zesty_lark.core.process.evaluate import limit_at
from zesty_lark.core.process.materials import material_of
from zesty_lark.core.process.power_watch import PowerWatch, Spindle, watch_power
from zesty_lark.core.quantities.units import micrometres
from zesty_lark.core.squaring.handling import USUAL
from zesty_lark.core.wheel.dressing import DRESSES
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.landing_run import Ahead, ahead
from zesty_lark.core.work.plans import FEEDS, PlanStep
from zesty_lark.core.work.run import Run
from zesty_lark.core.work.time_left import TimeLeft, time_left
from zesty_lark.core.work.wheel_use import Pass
from zesty_lark.shopfloor.landing import landing_run
from zesty_lark.shopfloor.stock import goal_of, graduation_of
from zesty_lark.store import learning, maps
from zesty_lark.store.models import Job

CONTACT_H = 10e-3 / 3600
"""The contact at which the steel's limit is told beside the meter: 10 ms [h]."""
TEMPER_H = 2.0
MOST_POINTS = 20_000


@dataclass(frozen=True)
class Companion:
    """What stands beside the act.

    Attributes
    ----------
    left : TimeLeft or None
        Of the plan that is being run.
    worn_share : float
        The share of the wheel's face that its worn front has reached.
    strokes_to_dress : int or None
        Until it reaches a third, or until the meter's line reaches the caution; whichever is sooner.
    by_power : bool
        The meter decides that.
    dress_mm : Decimal
        What the next dress takes off the radius [mm].
    power : PowerWatch or None
    clean : float or None
        The share cleaned at the collar's depth, by the newest map of the face.
    ahead : Ahead or None
        What the size is expected to be at the next measurement, as the plan goes.
    """

    left: TimeLeft | None
    worn_share: float
    strokes_to_dress: int | None
    by_power: bool
    dress_mm: Decimal
    power: PowerWatch | None
    clean: float | None
    ahead: Ahead | None = None


def companion(session: Session, job: Job, job_state: JobState, run: Run | None) -> Companion:
    """Return what stands beside the act of a run."""
    wheel, use = job_state.spec.wheel, job_state.wheel_use
    left = None
    if run is not None and run.plan is not None:
        times = learning.times(session, job.machine, USUAL)
        left = time_left(run, times, is_flip=job_state.up is not None)
    power = _power(job, job_state)
    made = None if run is None else next_pass(job_state, run)
    strokes = None if made is None or wheel is None else use.strokes_to_dress(made, wheel)
    by_power = False
    if power is not None and power.volume_left_mm3_mm is not None and made is not None and wheel is not None:
        by_meter = use.strokes_to_volume(power.volume_left_mm3_mm, made, wheel)
        by_power = strokes is None or by_meter < strokes
        strokes = by_meter if by_power else strokes
    return Companion(
        left,
        0.0 if wheel is None else use.share(wheel),
        strokes,
        by_power,
        use.dress_mm(job.machine.graduation_mm),
        power,
        None if run is None else share_cleaned(session, job, run),
        None if run is None else expected(job, job_state, run),
    )


def expected(job: Job, job_state: JobState, run: Run) -> Ahead | None:
    """Return what a run's plan comes to at its next measurement; ``None`` before its zero is known."""
    rate = abs(job_state.spec.wanted.surfaces[run.surface].per_feed)
    deep = graduation_of(job, run.surface) * rate
    landing = landing_run(job, job_state, run, goal_mm=goal_of(job, job_state, run), graduation_mm=deep)
    return None if landing is None else ahead(landing, job_state, run)


def next_pass(job_state: JobState, run: Run) -> Pass | None:
    """The feeding pass that comes next, for its strokes."""
    step = _feed(run)
    lying = job_state.spec.lying_mm.get(run.surface)
    if step is None or step.crossfeed_mm is None or step.table_mm_s is None or lying is None:
        return None
    load = max(1, len(run.pieces))
    return Pass(float(step.step_mm), float(step.crossfeed_mm), float(step.table_mm_s), lying[0] * load, lying[1])


def _feed(run: Run) -> PlanStep | None:
    steps = run.plan.steps[run.done :] if run.plan else ()
    return next((step for step in steps if step.kind in FEEDS), None)


def _power(job: Job, job_state: JobState) -> PowerWatch | None:
    """What the power meter tells of the wheel, where there is one."""
    wheel, machine, use = job_state.spec.wheel, job.machine, job_state.wheel_use
    if wheel is None or not job_state.powers:
        return None
    hardness = job.part.hardness_hrc
    temper = material_of(job.part.material).temper(None if hardness is None else float(hardness))
    return watch_power(
        job_state.powers,
        Spindle(wheel.diameter_mm, wheel.rpm, machine.coolant, job_state.idle_w),  # type: ignore[arg-type]
        fresh=DRESSES.get(use.dress, DRESSES["general"]).sharpness,  # type: ignore[call-overload]
        reference_mm3_mm=wheel.dulls_mm3_mm,
        limit_c=limit_at(temper, TEMPER_H, CONTACT_H),
    )


def share_cleaned(session: Session, job: Job, run: Run) -> float | None:
    """Return the share of a face that is cleaned at the collar's depth, by its newest map; ``None`` without one."""
    row = maps.newest_of(session, job, run.surface)
    if row is None or run.plan is None:
        return None
    points = np.asarray(row.whole.points, dtype=float)
    if not 3 <= len(points) <= MOST_POINTS:
        return None
    depth = micrometres(max(run.depth_mm - run.held_back_mm, Decimal(0)))
    share, _ = cleaned(points[:, 0], points[:, 1], points[:, 2], np.array([depth]))
    return float(share[0])
