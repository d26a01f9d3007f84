"""A job's run as its landing is estimated from."""

from decimal import Decimal

from zesty_lark.core.landing.asked import Run as LandingRun
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.landing_acts import Dial
from zesty_lark.core.work.landing_run import landing_of, of_what_waits
from zesty_lark.core.work.run import Run
from zesty_lark.store.models import Job


def landing_run(
    job: Job, job_state: JobState, run: Run, *, goal_mm: Decimal, graduation_mm: Decimal
) -> LandingRun | None:
    """Return a run of the log as its landing is estimated from; ``None`` where none is.

    Of a load that is being measured it is of the pieces that were, and are not in: the others are measured before
    anything is cut.
    """
    dial = Dial(graduation_mm, job.machine.coolant)  # type: ignore[arg-type]
    return landing_of(job_state, of_what_waits(run), goal_mm, dial)
