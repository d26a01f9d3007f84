"""What is to be looked at before the wheel touches a load: as it is put up, and as its list stands."""

from datetime import datetime

from sqlalchemy.orm import Session

from zesty_lark.core.setup.before import Listed, before, in_their_order, needed, needed_at_least
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.plans import MAGNET
from zesty_lark.core.work.run import Run
from zesty_lark.shopfloor.forming_up import formed_keys, is_formed
from zesty_lark.shopfloor.setting_up import LaidOut, in_force
from zesty_lark.store import set_ups
from zesty_lark.store.models import Job


def asked(session: Session, job: Job, job_state: JobState, run: Run, *, now: datetime) -> tuple[str, ...]:
    """Return what a load's set-up wants looked at, by its layout and the plan in force; while that is still worked out
    elsewhere, what it wants however it is laid out."""
    if is_formed(job_state, run.surface):
        return tuple(formed_keys(job, run.surface))
    laid_out = in_force(session, job, job_state, run, now=now)
    if laid_out is None:
        holder = MAGNET if run.plan is None else run.plan.holder
        return tuple(needed_at_least(holder, job.machine.coolant))
    return tuple(needed(laid_out.checked))


def list_of(session: Session, laid_out: LaidOut, now: datetime) -> list[Listed]:
    """Return the list before the touch-off of a set-up's load; nothing while it has no plan. Of one that is up, what
    its putting-up asked stays on it, whatever is moved on the page since."""
    job_state = laid_out.job_state
    run = job_state.runs.get(laid_out.face)
    if run is None or run.plan is None or run.setup != laid_out.setup.key:
        return []
    today = now.astimezone().replace(hour=0, minute=0, second=0, microsecond=0)
    warm = set_ups.warmed_up_at(session, laid_out.job, today)
    up = run.asks if job_state.is_up(run) else ()
    return before(job_state, run, in_their_order((*up, *needed(laid_out.checked))), warm_at=warm)
