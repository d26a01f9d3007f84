"""What is to be looked at before the wheel touches a load: as it is put up, and as its list stands."""

from datetime import datetime

from sqlalchemy.orm import Session

from zesty_lark.core.setup.before import Listed, before, in_their_order, needed, needed_at_least
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.looking import WARM_UP
from zesty_lark.core.work.run import Run
from zesty_lark.shopfloor.forming_up import formed_keys, is_formed
from zesty_lark.shopfloor.setting_up import LaidOut, in_force
from zesty_lark.store import set_ups
from zesty_lark.store.models import Job


def asked(session: Session, job: Job, job_state: JobState, run: Run, *, now: datetime) -> tuple[str, ...]:
    """Return what a load's set-up wants looked at as it is put up; but not a warm-up run that this day had."""
    keys = _wanted(session, job, job_state, run, now=now)
    warm = set_ups.warmed_up_today(session, job, now)
    return tuple(key for key in keys if key != WARM_UP or warm is None)


def _wanted(session: Session, job: Job, job_state: JobState, run: Run, *, now: datetime) -> list[str]:
    """By its layout and the plan in force; while that is still worked out elsewhere, what it wants however it is laid
    out."""
    if is_formed(job_state, run.surface):
        return formed_keys(job, run.surface)
    laid_out = in_force(session, job, job_state, run, now=now)
    if laid_out is not None:
        return list(needed(laid_out.checked))
    return [] if run.plan is None else list(needed_at_least(run.plan, job.machine.coolant))


def list_of(session: Session, laid_out: LaidOut, now: datetime) -> list[Listed]:
    """Return the list before the touch-off of a set-up's load; nothing while it has no plan. Of one that is up, what
    its putting-up asked stays on it, whatever is moved on the page since."""
    job_state = laid_out.job_state
    run = job_state.runs.get(laid_out.face)
    if run is None or run.plan is None or run.setup != laid_out.setup.key:
        return []
    up = run.asks if job_state.is_up(run) else ()
    keys = in_their_order((*up, *needed(laid_out.checked)))
    return before(job_state, run, keys, warm_at=set_ups.warmed_up_today(session, laid_out.job, now))
