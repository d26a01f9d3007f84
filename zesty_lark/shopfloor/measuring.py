"""A measurement before it is logged: which surface it is of, its uncertainty, and the verdict."""

from dataclasses import dataclass, replace
from datetime import datetime
from decimal import Decimal

from zesty_lark.core.measure.thickness import Gauge, expanded_uncertainty, judge, temperature_u
from zesty_lark.core.sizes import Reading, Verdict, judge_zone
from zesty_lark.core.work.entries import PART_WARM, Measured
from zesty_lark.core.work.prints import Characteristic
from zesty_lark.core.work.standing import Run, Standing
from zesty_lark.shopfloor.stock import judged
from zesty_lark.store.models import InstrumentRow, Job

__all__ = ["Taken", "characteristic_of", "due", "measurement", "surface_of"]

SMALL_MM = 1.0
"""A deviation of form is measured over next to no length [mm]."""


@dataclass(frozen=True)
class Taken:
    """Readings as they were taken, with the part's temperature, the gauge's and the room's [°C] where somebody took
    them."""

    characteristic: str
    piece: int
    readings: tuple[Reading, ...]
    part_c: Decimal | None = None
    gauge_c: Decimal | None = None
    room_c: Decimal | None = None
    warm: bool = False


def characteristic_of(standing: Standing, name: str) -> Characteristic:
    """Return a characteristic by its name; the size of what is at work, or the first of the print, when there is
    none."""
    wanted = standing.brief.wanted
    found = wanted.named(name)
    if found is None and standing.at is not None:
        found = wanted.size_of(standing.at.surface)
    return found or wanted.characteristics[0]


def surface_of(standing: Standing, asked: Characteristic) -> int:
    """Return the surface a measurement of a characteristic is of: the one at work where it bounds that size."""
    at = standing.at
    if at is not None and asked.kind == "size" and standing.brief.wanted.surfaces[at.surface].size == asked.name:
        return at.surface
    return asked.surfaces[0]


def due(standing: Standing, piece: int) -> list[str]:
    """Return the characteristics of a piece that can be proved now: not proved yet, and every surface they relate is
    done."""
    here, asked = standing.pieces[piece], standing.brief.wanted.surfaces
    return [
        each.name
        for each in standing.brief.wanted.characteristics
        if each.name in here.unproved(standing.brief.wanted)
        and not any(here.wants(asked[surface]) for surface in each.surfaces if surface in asked)
    ]


def measurement(
    job: Job, standing: Standing, gauge: InstrumentRow, taken: Taken, *, entry_id: str, at: datetime
) -> Measured:
    """Return the entry of a measurement, with its uncertainty and its verdict."""
    asked = characteristic_of(standing, taken.characteristic)
    surface = surface_of(standing, asked)
    tool = Gauge.of(gauge.to_core(), at.date())
    length = float(max(reading.value_mm for reading in taken.readings)) if asked.kind == "size" else SMALL_MM
    rise = _rise(standing.runs[surface], standing) if asked.kind == "size" else 0.0
    uncertainty = expanded_uncertainty(
        tool, max(length, SMALL_MM), temperature_u_c=temperature_u(taken=taken.part_c is not None, rise_c=rise)
    )
    entry = Measured(
        entry_id=entry_id,
        at=at,
        surface=surface,
        characteristic=asked.name,
        piece=taken.piece,
        readings=taken.readings,
        instrument=gauge.name,
        part_c=taken.part_c,
        gauge_c=taken.gauge_c,
        room_c=taken.room_c,
        note=PART_WARM if taken.warm else "",
        uncertainty_mm=uncertainty,
    )
    return replace(entry, verdict=_verdict(job, standing, entry, asked, overdue=tool.overdue))


def _verdict(job: Job, standing: Standing, entry: Measured, asked: Characteristic, *, overdue: bool) -> Verdict | None:
    """The verdict on what was measured; a size that was only measured to see what is left for the other side has
    none."""
    if asked.is_zone:
        return judge_zone(entry.readings, asked.allowed_mm, entry.uncertainty_mm, overdue=overdue)
    surface = standing.brief.wanted.surfaces[entry.surface or 0]
    if surface.size != asked.name:
        return judge(entry.true_readings, asked.limits, entry.uncertainty_mm, overdue=overdue).verdict
    return None if surface.reference else judged(job, entry, asked, overdue=overdue).verdict


def _rise(run: Run, standing: Standing) -> float:
    """How much warmer the part may still be than its surroundings: what its plan predicts, unless it was left to cool
    [K]."""
    if run.plan is None or not run.fed or not standing.is_up(run):
        return 0.0
    cooled = any(step.kind == "cool" and step.number not in run.skipped for step in run.plan.steps[: run.done])
    return 0.0 if cooled else float(run.plan.rise_c)
