"""Surface maps: laid out, read one reading after the other, kept, withdrawn; and what the wheel was seen to leave."""

import json
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from uuid import uuid4

from sqlalchemy import select
from sqlalchemy.orm import Session, lazyload

from zesty_lark.core.measure.maps.analysis import Frame
from zesty_lark.core.measure.maps.bounds import FINEST_UM, MOST_MAPS, MOST_POINTS_A_JOB, check_points, height_wrong
from zesty_lark.core.measure.maps.layout import Layout, Place
from zesty_lark.core.measure.maps.surface_map import SurfaceMap, Taking
from zesty_lark.store.database import first
from zesty_lark.store.models import ChuckRow, InstrumentRow, Job, MapReadingRow, Person, SurfaceMapRow
from zesty_lark.store.models.maps import TAKING
from zesty_lark.store.models.shop import IN_USE
from zesty_lark.store.once import came_in, sent_before

REFUSED, WITHDRAWN = "refused", "withdrawn"
MOST_LISTED = 60


@dataclass(frozen=True)
class Begun:
    """What a map is of and how it is read: a chuck, or a surface of a piece of a job; in which frame, with what, on a
    plate that is flat within ``plate_um``; by whom and when."""

    frame: Frame
    at: datetime
    by: Person | None = None
    chuck: ChuckRow | None = None
    job: Job | None = None
    piece: int | None = None
    surface: int | None = None
    instrument: InstrumentRow | None = None
    plate_um: Decimal = Decimal(0)
    note: str = ""


@dataclass(frozen=True)
class MapReading:
    """One reading on its way in: the sender's id, the place's number, the height [µm], the gauge's own line."""

    entry_id: str
    number: int
    value_um: Decimal
    source: str = ""


def by_key(session: Session, key: str) -> SurfaceMapRow | None:
    """Return a map by its key."""
    return session.scalar(select(SurfaceMapRow).where(SurfaceMapRow.key == key))


def of_job(session: Session, job: Job, most: int = MOST_LISTED) -> list[SurfaceMapRow]:
    """Return a job's maps, the newest first."""
    return list(
        session.scalars(
            select(SurfaceMapRow).where(SurfaceMapRow.job_id == job.id).order_by(SurfaceMapRow.id.desc()).limit(most)
        )
    )


def newest_of(session: Session, job: Job, surface: int) -> SurfaceMapRow | None:
    """Return the last map of a surface of a job that is in use."""
    query = (
        select(SurfaceMapRow)
        .options(lazyload(SurfaceMapRow.by), lazyload(SurfaceMapRow.instrument))
        .where(SurfaceMapRow.job_id == job.id, SurfaceMapRow.surface == surface, SurfaceMapRow.state == IN_USE)
    )
    return first(session, query.order_by(SurfaceMapRow.id.desc()))


def of_chuck(session: Session, chuck: ChuckRow, most: int = MOST_LISTED) -> list[SurfaceMapRow]:
    """Return a chuck's maps, the newest first."""
    return list(
        session.scalars(
            select(SurfaceMapRow)
            .where(SurfaceMapRow.chuck_id == chuck.id)
            .order_by(SurfaceMapRow.id.desc())
            .limit(most)
        )
    )


def begin(session: Session, begun: Begun, layout: Layout) -> SurfaceMapRow:
    """Lay a map out; it is taken reading by reading from here."""
    row = _row(begun, TAKING)
    row.layout = _layout_text(layout.places, layout.patches)
    session.add(row)
    session.flush()
    return row


def _row(begun: Begun, state: str) -> SurfaceMapRow:
    return SurfaceMapRow(
        key=str(uuid4()),
        chuck_id=None if begun.chuck is None else begun.chuck.id,
        job_id=None if begun.job is None else begun.job.id,
        piece=begun.piece,
        surface=begun.surface,
        frame=begun.frame,
        plate_um=begun.plate_um,
        state=state,
        note=begun.note,
        seen="",
        taken_at=begun.at,
        by_id=None if begun.by is None else begun.by.id,
        instrument_id=None if begun.instrument is None else begun.instrument.id,
    )


def _layout_text(places: Iterable[Place], patches: Sequence[str]) -> str:
    return json.dumps({"places": [[place.x_mm, place.y_mm, place.patch] for place in places], "patches": list(patches)})


def places_text(whole: SurfaceMap) -> str | None:
    """Return where a map with patches was read, as it is kept; of any other the points tell it."""
    if not whole.patches:
        return None
    places = (Place(x, y, patch) for (x, y, _), patch in zip(whole.points, whole.patch_of, strict=True))
    return _layout_text(places, whole.patches)


def read(session: Session, row: SurfaceMapRow, reading: MapReading, by: Person, *, at: datetime) -> bool:
    """Keep a reading; what was sent before is not kept again. After the closing one the map is in use, or refused for
    its drift with its readings kept. Returns whether it was new.

    Raises
    ------
    ValueError
        If the map is no longer being taken, or has no such place.
    """
    session.refresh(row, with_for_update=True)
    same = {"map_id": row.id, "number": reading.number}
    if sent_before(session, MapReadingRow, reading.entry_id, same=same, refused=ValueError):
        return False
    if row.state != TAKING:
        raise ValueError("This map is not being taken any more.")
    if height_wrong(reading.value_um):
        raise ValueError(height_wrong(reading.value_um))
    if not 0 <= reading.number <= len(row.places.places):
        raise ValueError("This map has no such place.")
    row.taken.append(
        MapReadingRow(
            entry_id=reading.entry_id,
            digest=came_in(session).digest,
            map_id=row.id,
            number=reading.number,
            value_um=reading.value_um.quantize(FINEST_UM),
            source=reading.source,
            at=at,
            by_id=by.id,
        )
    )
    row.taken_at = at
    if row.taking.next is None:
        _finish(row, row.taking)
    session.flush()
    return True


def _finish(row: SurfaceMapRow, taking: Taking) -> None:
    frame: Frame = "plate" if row.frame == "plate" else "machine"
    _keep(row, taking.whole(frame))


def _keep(row: SurfaceMapRow, whole: SurfaceMap) -> None:
    """Keep a whole map as it was read; one that drifted too far is refused."""
    row.range_um = range_of(whole)
    row.points = json.dumps([list(point) for point in whole.points])
    row.closing_um = None if whole.closing_um is None else Decimal(repr(whole.closing_um)).quantize(FINEST_UM)
    row.count, row.state = len(whole.points), IN_USE
    if whole.drift is not None and not whole.drift.accepted:
        row.state = REFUSED
        row.note = (
            f"The first point came back {whole.drift.drift_um:+.1f} µm: the map is refused. Read it again. {row.note}"
        ).strip()[:500]


def add_whole(session: Session, begun: Begun, whole: SurfaceMap) -> SurfaceMapRow:
    """Keep a map that was read elsewhere; one that drifted too far is kept as refused.

    Raises
    ------
    ValueError
        If a figure of it is beyond what a map may have, or the job has as many maps, or points of maps, as it may.
    """
    check_points(whole.points)
    if begun.job is not None:
        _refuse_more(session, begun.job, len(whole.points))
    row = _row(begun, IN_USE)
    row.layout = places_text(whole)
    _keep(row, whole)
    session.add(row)
    session.flush()
    return row


def _refuse_more(session: Session, job: Job, points: int) -> None:
    """Refuse what would not go into the job's file and out of it again."""
    counts = session.scalars(select(SurfaceMapRow.count).where(SurfaceMapRow.job_id == job.id)).all()
    maps, had = len(counts), sum(each or 0 for each in counts)
    if maps >= MOST_MAPS:
        raise ValueError(f"This job has {MOST_MAPS} maps already, as many as its file can hold.")
    if had + points > MOST_POINTS_A_JOB:
        raise ValueError(
            f"The maps of this job have {had:,} points already; with these they would have more than the "
            f"{MOST_POINTS_A_JOB:,} that its file can hold. Bring in a coarser one."
        )


def add(
    session: Session,
    chuck: ChuckRow,
    points: Sequence[Sequence[float]],
    at: datetime,
    *,
    closing_um: Decimal | None = None,
) -> SurfaceMapRow:
    """Keep a map of a chuck: points [x mm, y mm, z µm] as they were read, and the closing reading [µm]."""
    table = tuple((float(x), float(y), float(z)) for x, y, z in points)
    whole = SurfaceMap("machine", table, None if closing_um is None else float(closing_um))
    row = add_whole(session, Begun("machine", at, chuck=chuck), whole)
    session.expire(chuck, ["maps"])
    return row


def withdraw(session: Session, row: SurfaceMapRow, why: str) -> bool:
    """Take a map out of use, or give up taking it; it stays with its reason. Returns whether it was in use."""
    if row.state not in (IN_USE, TAKING):
        return False
    if row.state == TAKING:
        row.points = json.dumps([])
    row.state, row.note = WITHDRAWN, why[:500]
    session.flush()
    return True


def mark_seen(session: Session, row: SurfaceMapRow, seen: Mapping[int, bool], depth_um: Decimal) -> None:
    """Keep what the wheel was seen to leave at a depth below the map's high point [µm]."""
    row.seen, row.seen_depth_um = seen_text(seen), depth_um
    session.flush()


def range_of(whole: SurfaceMap) -> Decimal:
    """Return what a whole map comes to, as it is kept for lists [µm].

    Raises
    ------
    ValueError
        If its points are no map.
    """
    return Decimal(repr(round(whole.analysis.range_um, 4)))


def seen_text(seen: Mapping[int, bool]) -> str:
    """Return what was seen, by place, as it is kept."""
    return json.dumps({str(place): ground for place, ground in sorted(seen.items())}) if seen else ""
