"""How much room there is for a load: the chuck, and how many pieces go up on it together."""

from zesty_lark.core.part.surfaces import lying_of
from zesty_lark.core.squaring.nest import capacity
from zesty_lark.core.work.job_state import JobState
from zesty_lark.store.models import Job


def chuck_size(job: Job) -> tuple[float, float]:
    """Return the chuck along and across the travel [mm]; the travel itself where no chuck is known."""
    chuck = job.machine.chuck
    if chuck is None:
        return float(job.machine.travel_long_mm), float(job.machine.travel_cross_mm)
    return float(chuck.length_mm), float(chuck.width_mm)


def room_in(job: Job, job_state: JobState, surface: int, gap_mm: float = 2.0, *, lead_in: bool = True) -> int:
    """Return how many pieces go up together with a face up: as many as lie on the chuck, with their lead-in blocks or
    without; in a fixture one."""
    if not job_state.on_magnet(job_state.runs[surface]):
        return 1
    lying, (length, width) = lying_of(job.part.block(), surface), chuck_size(job)
    along, across = capacity(
        length_mm=lying.along_mm,
        width_mm=lying.across_mm,
        chuck_length_mm=length,
        chuck_width_mm=width,
        gap_mm=gap_mm,
        lead_in=lead_in,
    )
    return max(along * across, 1)
