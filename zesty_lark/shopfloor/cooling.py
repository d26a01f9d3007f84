"""The cooling of a part since its last pass: a clock that starts by itself."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from zesty_lark.core.measure.cooling import Wait, allowed_rise, waits_for
from zesty_lark.core.measure.thickness import HOT_SHARE
from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.part.surfaces import lying_of
from zesty_lark.core.process.materials import material_of
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import PassFed, SparkedOut
from zesty_lark.shopfloor.measuring import rise_of, surface_of
from zesty_lark.store.models import Job


@dataclass(frozen=True)
class Clock:
    """The cooling of a part since its last pass: when that was, how much warmer than the room it was predicted to be,
    how much is allowed [K], and for each way of lying when it has come within that."""

    since: datetime
    rise_c: float
    allowed_c: float
    ready: tuple[tuple[Wait, datetime], ...]


def clock_of(job: Job, job_state: JobState, asked: Characteristic) -> Clock | None:
    """Return the cooling clock of a size: it starts by itself with the last pass; ``None`` when nothing warm is up."""
    if asked.kind != "size":
        return None
    surface = surface_of(job_state, asked)
    rise = rise_of(job_state.runs[surface], job_state)
    last = next(
        (
            entry.at
            for entry in reversed(job_state.history)
            if isinstance(entry, PassFed | SparkedOut) and entry.surface == surface
        ),
        None,
    )
    if rise <= 0 or last is None:
        return None
    lying = lying_of(job.part.block(), surface)
    allowed = allowed_rise(float(asked.limits.target_mm), float(asked.limits.width_mm), HOT_SHARE)
    waits = waits_for(
        rise_c=rise,
        allowed_c=allowed,
        length_mm=float(lying.along_mm),
        width_mm=float(lying.across_mm),
        height_mm=float(lying.height_mm),
        density_kg_m3=material_of(job.part.material).density_kg_m3,
    )
    return Clock(last, rise, allowed, tuple((wait, last + timedelta(seconds=wait.wait_s)) for wait in waits))
