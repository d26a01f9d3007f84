"""A job's maps, out of the store and into it, as they travel in its file."""

import json
from collections.abc import Mapping, Sequence
from decimal import Decimal
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from zesty_lark.core.maps.analysis import map_analyse
from zesty_lark.core.work.rules import LogError
from zesty_lark.store.models import InstrumentRow, Job, Person, SurfaceMapRow
from zesty_lark.store.models.maps import TAKING

__all__ = ["read_in", "written"]


def written(session: Session, job: Job) -> list[dict[str, Any]]:
    """Return a job's maps that are taken, oldest first, as plain values."""
    rows = session.scalars(
        select(SurfaceMapRow)
        .where(SurfaceMapRow.job_id == job.id, SurfaceMapRow.state != TAKING, SurfaceMapRow.count.is_not(None))
        .order_by(SurfaceMapRow.id)
    )
    return [
        {
            "key": row.key,
            "piece": row.piece,
            "surface": row.surface,
            "frame": row.frame,
            "points": [tuple(point) for point in json.loads(row.points or "[]")],
            "closing_um": row.closing_um,
            "plate_um": row.plate_um,
            "state": row.state,
            "note": row.note,
            "taken_at": row.taken_at,
            "by": None if row.by is None else row.by.sign_in_name,
            "instrument": None if row.instrument is None else row.instrument.name,
        }
        for row in rows
    ]


def read_in(
    session: Session,
    job: Job,
    maps: Sequence[Mapping[str, Any]],
    *,
    people: Mapping[str, Person],
    instruments: Mapping[str, InstrumentRow],
) -> None:
    """Take maps in; one that is here already is left alone.

    Raises
    ------
    LogError
        If a map's points are none that can be.
    """
    here = set(session.scalars(select(SurfaceMapRow.key).where(SurfaceMapRow.key.in_([each["key"] for each in maps]))))
    for each in maps:
        if each["key"] in here:
            continue
        points = [list(point) for point in each["points"]]
        try:
            found = map_analyse(points=points, frame=each["frame"])
        except ValueError as error:
            raise LogError(f"A map in the file cannot be: {error}.") from error
        row = SurfaceMapRow(
            job_id=job.id,
            points=json.dumps(points),
            seen="",
            count=len(points),
            range_um=Decimal(repr(round(found.range_um, 4))),
            by_id=None if each["by"] is None else people[each["by"]].id,
            instrument_id=None if each["instrument"] is None else instruments[each["instrument"]].id,
            **{
                name: each[name]
                for name in ("key", "piece", "surface", "frame", "closing_um", "plate_um", "state", "note", "taken_at")
            },
        )
        session.add(row)
    session.flush()
