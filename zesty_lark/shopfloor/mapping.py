"""Maps at work: what one is of, what it proves of the print, and what it says of a chuck."""

from dataclasses import dataclass
from datetime import datetime
from decimal import ROUND_UP, Decimal

from sqlalchemy.orm import Session

from zesty_lark.core.measure.budget import Budget
from zesty_lark.core.measure.maps.chuck import MapInTime, Outlook, outlook
from zesty_lark.core.measure.maps.surface_map import SurfaceMap
from zesty_lark.core.measure.thickness import Gauge, form_budget
from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.part.sizes import Reading, judge_zone
from zesty_lark.core.part.surfaces import lying_of
from zesty_lark.core.quantities.units import MICROMETRE_MM, SMALLEST_MM, micrometres
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.job_state import JobState
from zesty_lark.store import maps
from zesty_lark.store.models import ChuckRow, Job, SurfaceMapRow
from zesty_lark.store.models.shop import IN_USE


@dataclass(frozen=True)
class Proves:
    """A characteristic that a map in the plate's frame tells of: what it is [mm], U [mm], its budget, and why it is no
    proof, where it is none."""

    asked: Characteristic
    value_mm: Decimal
    budget: Budget
    why_not: str = ""


def size_of_surface(job: Job, surface: int) -> tuple[float, float]:
    """Return a surface's length along and width across as it lies [mm]."""
    lying = lying_of(job.part.block(), surface)
    return float(lying.along_mm), float(lying.across_mm)


def proves(row: SurfaceMapRow, job_state: JobState) -> list[Proves]:
    """Return what a map tells of the print: flat by its minimum zone, parallel by its range over the plate."""
    if row.state != IN_USE or row.surface is None or row.instrument is None:
        return []
    whole, surface = row.whole, row.surface
    budget = form_budget(Gauge.of(row.instrument.to_core(), row.taken_at.date()), plate_um=float(row.plate_um))
    found = []
    for asked in job_state.spec.wanted.characteristics:
        um = _told(asked, surface, whole)
        if um is not None:
            why = "" if row.frame == "plate" else "It shares the machine's own way errors: no proof."
            value = (Decimal(repr(um)) * MICROMETRE_MM).quantize(SMALLEST_MM, ROUND_UP)
            found.append(Proves(asked, value, budget, why))
    return found


def _told(asked: Characteristic, surface: int, whole: SurfaceMap) -> float | None:
    if asked.kind == "flat" and asked.surfaces[0] == surface:
        return whole.analysis.minzone_flatness_um
    if asked.kind == "parallel" and surface in asked.surfaces:
        return whole.parallel_um
    return None


def measured_by(row: SurfaceMapRow, told: Proves, job_state: JobState, *, entry_id: str, at: datetime) -> Measured:
    """Return the log's entry of what a map proves."""
    assert row.instrument is not None and row.surface is not None
    overdue = at.date() > row.instrument.due_on
    readings = (Reading("whole surface", told.value_mm),)
    u = told.budget.expanded_mm
    return Measured(
        entry_id=entry_id,
        at=at,
        surface=row.surface,
        characteristic=told.asked.name,
        piece=row.piece or 1,
        readings=readings,
        instrument=row.instrument.name,
        uncertainty_mm=u,
        verdict=judge_zone(readings, told.asked.allowed_mm, u, overdue=overdue),
        how=f"map of {row.count} points over the plate",
        map_key=row.key,
    )


def chuck_outlook(session: Session, chuck: ChuckRow, now: datetime) -> Outlook | None:
    """Return whether a chuck is to be ground; ``None`` when it has no map in use."""
    rows = [row for row in maps.of_chuck(session, chuck) if row.state == IN_USE]
    history = [MapInTime(row.taken_at, _range_of(row)) for row in reversed(rows)]
    return outlook(history, float(chuck.flat_limit_um), now) if history else None


def _range_of(row: SurfaceMapRow) -> float:
    return float(row.range_um) if row.range_um is not None else row.whole.analysis.range_um


def depths_of(row: SurfaceMapRow, job_state: JobState | None) -> list[float]:
    """Return the depth after each pass of the plan in force of the surface that a map is of [µm]; even steps without a
    plan."""
    run = job_state.runs.get(row.surface) if job_state is not None and row.surface is not None else None
    if run is not None and run.plan is not None and run.plan.passes:
        return [micrometres(step.depth_mm) for step in run.plan.passes]
    whole = row.whole.analysis.range_um
    return [whole * part / 8 for part in range(1, 9)]
