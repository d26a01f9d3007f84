"""Where jobs stand: the folds of their logs, with what their machines know."""

from dataclasses import replace

from sqlalchemy.orm import Session

from zesty_lark.core.things.rack.mounting_steps import MOUNTING
from zesty_lark.core.work.folding import Folding
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.on_machine import OnMachine
from zesty_lark.store import known_logs
from zesty_lark.store.log_rows import entries_of
from zesty_lark.store.models import Job


def log_of(session: Session, job: Job) -> known_logs.Log:
    """Return a job's log, as it is read and folded."""
    return known_logs.Log(("job", job.id), job.part.spec(), lambda after: entries_of(session, job, after), Folding)


def held_fold(session: Session, job: Job) -> Folding:
    """Return the fold of a job's whole log, for whoever holds the job and adds to its log in this transaction."""
    fold: Folding = known_logs.hold(session, log_of(session, job))
    return fold


def state_of(session: Session, job: Job) -> JobState:
    """Return where a job stands."""
    job_state: JobState = known_logs.state_of(session, log_of(session, job))
    return replace(job_state, on=on_machine(job))


def on_machine(job: Job) -> OnMachine:
    """Return what a job's machine knows now."""
    machine, wheel = job.machine, job.wheel
    step = next((each for each in MOUNTING if each.key == wheel.next_step), None)
    unready = "" if step is None or step.key == "dress" else step.name.lower()
    return OnMachine(job.number, machine.name, wheel.name, machine.spindle, unready, machine.on_chuck)
