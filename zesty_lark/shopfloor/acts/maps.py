"""A map of a surface or a chuck: laid out, read point by point, brought in whole, marked, taken out of use."""

from collections.abc import Mapping
from datetime import datetime
from decimal import Decimal

from sqlalchemy.orm import Session

from zesty_lark.core.measure.maps.layout import Layout
from zesty_lark.core.measure.maps.surface_map import SurfaceMap
from zesty_lark.core.work.job_state import JobState
from zesty_lark.shopfloor.gauges import doubt_of
from zesty_lark.shopfloor.rights import NotYours, check_use
from zesty_lark.store import maps
from zesty_lark.store.maps import Begun, MapReading
from zesty_lark.store.models import InstrumentRow, Job, Person, SurfaceMapRow
from zesty_lark.store.models.people import Role
from zesty_lark.store.models.shop import IN_USE

LONGEST_REASON = 400
DEEPEST_UM = Decimal(10_000)


class MapRefused(ValueError):
    """A map that is not taken, kept or changed so; of which field, in words."""

    def __init__(self, field: str, why: str) -> None:
        super().__init__(why)
        self.field = field


def _check_who(person: Person | None, job: Job | None) -> None:
    """A job's map is taken by whoever may measure on it, a chuck's by anybody but who is learning."""
    if person is None:
        raise NotYours("Somebody has to take a map.")
    if job is not None:
        check_use(person, job, "inspect")
    elif person.role == Role.APPRENTICE:
        raise NotYours("A chuck is mapped by a machinist, an inspector or a lead.")


def _check_gauge(session: Session, gauge: InstrumentRow | None) -> None:
    doubt = "" if gauge is None else doubt_of(session, gauge)
    if doubt:
        raise MapRefused("instrument", doubt)


def check_map_of(begun: Begun, job_state: JobState | None) -> None:
    """Raise ``MapRefused`` unless it is of a piece and a surface that the job has, or of a chuck in the machine's
    frame."""
    if begun.chuck is not None and begun.frame != "machine":
        raise MapRefused(
            "frame", "A chuck is mapped on its machine, in its frame: with the indicator on the wheelhead."
        )
    if job_state is not None and begun.piece not in job_state.pieces:
        raise MapRefused("piece", f"This job has no piece {begun.piece}.")
    if job_state is not None and begun.surface not in job_state.spec.wanted.surfaces:
        raise MapRefused("surface", f"The print has no face {begun.surface}.")


def lay_out_map(session: Session, begun: Begun, layout: Layout, job_state: JobState | None = None) -> SurfaceMapRow:
    """Lay a map out; it is read point by point from here."""
    _check_who(begun.by, begun.job)
    check_map_of(begun, job_state)
    _check_gauge(session, begun.instrument)
    return maps.begin(session, begun, layout)


def bring_map_in(session: Session, begun: Begun, whole: SurfaceMap, job_state: JobState | None = None) -> SurfaceMapRow:
    """Keep a map that was read elsewhere; one that drifted too far is kept as refused."""
    _check_who(begun.by, begun.job)
    check_map_of(begun, job_state)
    _check_gauge(session, begun.instrument)
    try:
        return maps.add_whole(session, begun, whole)
    except ValueError as error:
        raise MapRefused("file", str(error)) from error


def read_point(
    session: Session, person: Person, row: SurfaceMapRow, reading: MapReading, *, at: datetime, job: Job | None
) -> bool:
    """Keep a reading, once; after the closing one the map is in use, or refused for its drift."""
    _check_who(person, job)
    try:
        return maps.read(session, row, reading, person, at=at)
    except ValueError as error:
        raise MapRefused("value", str(error)) from error


def withdraw_map(session: Session, person: Person, row: SurfaceMapRow, reason: str, *, job: Job | None) -> None:
    """Take a map out of use, or give up taking it, with a reason; it stays."""
    _check_who(person, job)
    why = reason.strip()[:LONGEST_REASON]
    if not why:
        raise MapRefused("reason", "Why is it withdrawn? The map stays in use until that is said.")
    if not maps.withdraw(session, row, f"{why} ({person.name})"):
        raise MapRefused("reason", "It is not in use any more.")


def mark_map(
    session: Session,
    person: Person,
    row: SurfaceMapRow,
    *,
    seen: Mapping[int, bool],
    depth_um: Decimal,
    job: Job | None,
) -> None:
    """Keep what the wheel was seen to leave of a map in use, at a depth below its high point [µm]."""
    _check_who(person, job)
    if row.state != IN_USE:
        raise MapRefused("depth", "Only a map in use is compared with what was seen.")
    if not 0 < depth_um < DEEPEST_UM:
        why = "How far below the high point has the wheel gone? Set the feather line there first."
        raise MapRefused("depth", why)
    maps.mark_seen(session, row, seen, depth_um)
