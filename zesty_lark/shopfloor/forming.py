"""Angles, radii and slots as they were measured, into the job's log."""

from dataclasses import dataclass, replace
from datetime import datetime
from decimal import ROUND_UP, Decimal

from zesty_lark.core.measure.angles import MeasuredAngle, MeasuredRadius, SlotWidths
from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.part.sizes import Reading, Verdict, verdict
from zesty_lark.core.part.surfaces import surfaces_of
from zesty_lark.core.quantities.units import SMALLEST_MM
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.job_state import JobState
from zesty_lark.shopfloor.stock import judged
from zesty_lark.store.models import InstrumentRow, Job

Found = MeasuredAngle | MeasuredRadius | SlotWidths


@dataclass(frozen=True)
class Shaped:
    """What was found of a piece on its way into the log: of which characteristic, with what and how."""

    asked: Characteristic
    found: Found
    gauge: InstrumentRow
    piece: int
    how: str
    left_mm: Decimal | None = None
    """The slot's left wall from its datum, where a position is told [mm]."""

    @property
    def readings(self) -> tuple[Reading, ...]:
        """An angle [°], a radius, a slot's width at its four places, or where its middle is [mm]."""
        if isinstance(self.found, SlotWidths) and self.left_mm is not None:
            return (Reading("middle", (self.left_mm + self.found.mean_mm / 2).quantize(SMALLEST_MM)),)
        if isinstance(self.found, SlotWidths):
            return tuple(Reading(place, width) for place, width in self.found.widths_mm.items())
        if isinstance(self.found, MeasuredAngle):
            return (Reading("angle", _exact(self.found.angle_deg)),)
        return (Reading("radius", _exact(self.found.radius_mm)),)

    @property
    def uncertainty(self) -> Decimal:
        """U, k = 2, in the unit of the readings."""
        if isinstance(self.found, SlotWidths):
            return self.found.u_mm
        u = self.found.u_deg if isinstance(self.found, MeasuredAngle) else self.found.u_mm
        return Decimal(repr(u)).quantize(SMALLEST_MM, ROUND_UP)


def _exact(value: float) -> Decimal:
    return Decimal(repr(value)).quantize(SMALLEST_MM)


def shape_entry(job: Job, shaped: Shaped, *, entry_id: str, at: datetime) -> Measured:
    """Return the log's entry of an angle, a radius or a slot; of an angle readings, limits and U are in degrees. A size
    that is still being ground is not yet what it has to be, not out."""
    limits, u, readings = shaped.asked.limits, shaped.uncertainty, shaped.readings
    told = {verdict(each.value_mm, limits.lower_mm, limits.upper_mm, u) for each in readings}
    late = at.date() > shaped.gauge.due_on
    word: Verdict = "out" if "out" in told else "unsure" if "unsure" in told or late else "in"
    entry = Measured(
        entry_id=entry_id,
        at=at,
        surface=shaped.asked.surfaces[0],
        characteristic=shaped.asked.name,
        piece=shaped.piece,
        readings=readings,
        instrument=shaped.gauge.name,
        uncertainty_mm=u,
        verdict=word,
        how=shaped.how[:200],
    )
    surface = surfaces_of(job.part.block()).get(shaped.asked.surfaces[0])
    if shaped.asked.kind != "size" or surface is None or surface.size != shaped.asked.name:
        return entry
    return replace(entry, verdict=judged(job, entry, shaped.asked, overdue=late).verdict)


def left_wall_mm(job_state: JobState, position: Characteristic) -> Decimal | None:
    """Return where a slot's left wall was last measured to be, from its datum [mm]; ``None`` while it was not."""
    size = job_state.spec.wanted.surfaces[position.surfaces[1]].size
    measured = (each for each in reversed(job_state.history) if isinstance(each, Measured))
    newest = next((each for each in measured if each.characteristic == size), None)
    return None if newest is None else newest.middle_mm
