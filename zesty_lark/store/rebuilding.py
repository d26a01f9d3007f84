"""What is kept beside the logs for lists, written anew from them."""

from sqlalchemy import select
from sqlalchemy.orm import Session

from zesty_lark.store import machines, summaries
from zesty_lark.store.job_states import state_of
from zesty_lark.store.models import Job, MachineRow


def summarise(session: Session, job: Job) -> None:
    """Write a job's summary anew, from its log."""
    summaries.keep(session, job, state_of(session, job))
    summaries.keep_words(session, job)


def rebuild(session: Session, *, every: bool = True) -> int:
    """Write the summaries anew from the logs, of every job or only of those that have none; return of how many."""
    found = list(session.scalars(select(Job).order_by(Job.id))) if every else summaries.without(session)
    for job in found:
        summarise(session, job)
    for machine in session.scalars(select(MachineRow)):
        machines.keep(session, machine, machines.state_of(session, machine))
    return len(found)
