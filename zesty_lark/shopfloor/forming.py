"""Angles, radii and slots as they were measured, into the job's log."""

from datetime import datetime
from decimal import ROUND_UP, Decimal

from zesty_lark.core.measure.angles import MeasuredAngle, MeasuredRadius, SlotWidths
from zesty_lark.core.sizes import Reading, verdict
from zesty_lark.core.units import SMALLEST_MM
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.prints import Characteristic
from zesty_lark.store.models import InstrumentRow

__all__ = ["angle_entry", "length_entry"]


def angle_entry(
    asked: Characteristic,
    found: MeasuredAngle,
    gauge: InstrumentRow,
    *,
    piece: int,
    entry_id: str,
    at: datetime,
    how: str,
) -> Measured:
    """Return the log's entry of an angle; its reading, limits and U are in degrees."""
    value = Decimal(repr(found.angle_deg)).quantize(SMALLEST_MM)
    u = Decimal(repr(found.u_deg)).quantize(SMALLEST_MM, ROUND_UP)
    return _entry(asked, (Reading("angle", value),), u, gauge, piece=piece, entry_id=entry_id, at=at, how=how)


def length_entry(
    asked: Characteristic,
    found: MeasuredRadius | SlotWidths,
    gauge: InstrumentRow,
    *,
    piece: int,
    entry_id: str,
    at: datetime,
    how: str,
) -> Measured:
    """Return the log's entry of a radius, or of a slot's width at its four places."""
    if isinstance(found, SlotWidths):
        readings = tuple(Reading(place, width) for place, width in found.widths_mm.items())
        u = found.u_mm
    else:
        readings = (Reading("radius", Decimal(repr(found.radius_mm)).quantize(SMALLEST_MM)),)
        u = Decimal(repr(found.u_mm)).quantize(SMALLEST_MM, ROUND_UP)
    return _entry(asked, readings, u, gauge, piece=piece, entry_id=entry_id, at=at, how=how)


def _entry(
    asked: Characteristic,
    readings: tuple[Reading, ...],
    u: Decimal,
    gauge: InstrumentRow,
    *,
    piece: int,
    entry_id: str,
    at: datetime,
    how: str,
) -> Measured:
    limits = asked.limits
    told = {verdict(each.value_mm, limits.lower_mm, limits.upper_mm, u) for each in readings}
    word = "out" if "out" in told else "unsure" if "unsure" in told or at.date() > gauge.due_on else "in"
    return Measured(
        entry_id=entry_id,
        at=at,
        surface=asked.surfaces[0],
        characteristic=asked.name,
        piece=piece,
        readings=readings,
        instrument=gauge.name,
        uncertainty_mm=u,
        verdict=word,  # type: ignore[arg-type]
        how=how[:200],
    )
