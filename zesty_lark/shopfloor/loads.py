"""How much room there is for a load: the chuck, and how many pieces go up on it together."""

from zesty_lark.core.part.surfaces import lying_of
from zesty_lark.core.planning.means import LoadIn
from zesty_lark.core.squaring.nest import capacity, in_rows
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
    along, across = _room(job, job_state, surface, gap_mm, lead_in=lead_in)
    return max(along * across, 1)


def load_in(job: Job, job_state: JobState, surface: int, quantity: int, *, gap_mm: float) -> LoadIn:
    """Return how so many pieces lie together with a face up; of more than have room, as many as have."""
    along, across = _room(job, job_state, surface, gap_mm, lead_in=True)
    if quantity <= 1 or along * across <= 1:
        return LoadIn()
    columns, rows, a_load = in_rows(quantity, along, across)
    return LoadIn(columns, rows, gap_mm, a_load)


def _room(job: Job, job_state: JobState, surface: int, gap_mm: float, *, lead_in: bool) -> tuple[int, int]:
    """How many have room along and across the travel; one in a fixture."""
    if not job_state.on_magnet(job_state.runs[surface]):
        return 1, 1
    lying, (length, width) = lying_of(job.part.block(), surface), chuck_size(job)
    return capacity(
        length_mm=lying.along_mm,
        width_mm=lying.across_mm,
        chuck_length_mm=length,
        chuck_width_mm=width,
        gap_mm=gap_mm,
        lead_in=lead_in,
    )
