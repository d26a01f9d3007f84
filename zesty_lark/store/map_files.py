"""A job's maps, out of the store and into it, as they travel in its file."""

import json
from collections.abc import Mapping, Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from zesty_lark.core.measure.maps.surface_map import SurfaceMap
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.store.maps import places_text, range_of, seen_text
from zesty_lark.store.models import InstrumentRow, Job, Person, SurfaceMapRow
from zesty_lark.store.models.maps import TAKING

_AS_THEY_ARE = (
    "key",
    "piece",
    "surface",
    "frame",
    "closing_um",
    "plate_um",
    "state",
    "note",
    "taken_at",
    "seen_depth_um",
)


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
            "points": list(row.whole.points),
            "closing_um": row.closing_um,
            "plate_um": row.plate_um,
            "state": row.state,
            "note": row.note,
            "taken_at": row.taken_at,
            "by": None if row.by is None else row.by.sign_in_name,
            "instrument": None if row.instrument is None else row.instrument.name,
            "patches": list(row.whole.patches),
            "patch_of": list(row.whole.patch_of),
            "seen": row.seen_places,
            "seen_depth_um": row.seen_depth_um,
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
    for one_map in maps:
        if one_map["key"] in here:
            continue
        try:
            whole = _whole(one_map)
            range_um = range_of(whole)
        except ValueError as error:
            raise LogError(f"A map in the file cannot be: {error}.") from error
        row = SurfaceMapRow(
            job_id=job.id,
            points=json.dumps([list(point) for point in whole.points]),
            layout=places_text(whole),
            seen=seen_text(one_map["seen"]),
            count=len(whole.points),
            range_um=range_um,
            by_id=None if one_map["by"] is None else people[one_map["by"]].id,
            instrument_id=None if one_map["instrument"] is None else instruments[one_map["instrument"]].id,
            **{name: one_map[name] for name in _AS_THEY_ARE},
        )
        session.add(row)
    session.flush()


def _whole(told: Mapping[str, Any]) -> SurfaceMap:
    closing = None if told["closing_um"] is None else float(told["closing_um"])
    points = tuple((float(x), float(y), float(z)) for x, y, z in told["points"])
    return SurfaceMap(told["frame"], points, closing, tuple(told["patch_of"]), tuple(told["patches"]))
