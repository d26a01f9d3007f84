"""What runs on a machine, in the few words that a wall display has."""

from dataclasses import dataclass

from sqlalchemy.orm import Session

from zesty_lark.core.work.halting import FIRST_ACT, STOPS, StopCondition
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.next_act import Next, next_act
from zesty_lark.core.work.run import Run
from zesty_lark.core.work.summary import next_words
from zesty_lark.shopfloor.companion import Companion, companion
from zesty_lark.store import job_states, summaries
from zesty_lark.store.models import Job, MachineRow


@dataclass(frozen=True)
class Wall:
    """The job that runs on a machine: where it stands, what comes next, what stands beside it, and what it stands
    still for."""

    job: Job
    job_state: JobState
    next: Next
    run: Run | None
    words: str
    beside: Companion
    stop: StopCondition | None

    @property
    def first(self) -> str:
        """The first safe act of the stop it stands still for."""
        return FIRST_ACT if self.stop is None else self.stop.first


def wall_of(session: Session, machine: MachineRow) -> Wall | None:
    """Return what a machine's wall display shows: the job that is up on it, the one logged last if there are several;
    ``None`` when nothing is up."""
    job = summaries.running_on(session, machine)
    if job is None:
        return None
    job_state = job_states.state_of(session, job)
    what = next_act(job_state)
    run = job_state.runs.get(what.surface) if what.surface is not None else None
    stop = None if job_state.halted is None else STOPS.get(job_state.halted.seen, STOPS["other"])
    beside = companion(session, job, job_state, run)
    return Wall(job, job_state, what, run, next_words(what, job_state), beside, stop)
