"""A map as JSON, every field checked."""

import json
from typing import Annotated, Literal

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, ValidationError

from zesty_lark.core.measure.maps.bounds import MOST_POINTS
from zesty_lark.core.quantities.refusals import refusals
from zesty_lark.exchange.maps.record import MapFileError, MapRecord, checked_map

FORMAT: Literal["zesty-lark map 1"] = "zesty-lark map 1"
Figure = Annotated[float, Field(allow_inf_nan=False)]


class _MapFile(BaseModel):
    model_config = ConfigDict(extra="forbid", str_max_length=200)

    format: Literal["zesty-lark map 1"]
    frame: Literal["machine", "plate"]
    title: str = ""
    taken_at: AwareDatetime | None = None
    by: str = ""
    instrument: str = ""
    patches: Annotated[list[Annotated[str, Field(max_length=30)]], Field(max_length=40)] = []
    patch_of: Annotated[list[int], Field(max_length=MOST_POINTS)] = []
    closing_um: Figure | None = None
    points: Annotated[list[tuple[Figure, Figure, Figure]], Field(max_length=MOST_POINTS)]


def write_json(record: MapRecord) -> bytes:
    """Write a map as JSON; its figures read back bit by bit."""
    whole = record.whole
    file = _MapFile(
        format=FORMAT,
        frame=whole.frame,
        title=record.title[:200],
        taken_at=record.taken_at,
        by=record.by,
        instrument=record.instrument,
        patches=list(whole.patches),
        patch_of=list(whole.patch_of),
        closing_um=whole.closing_um,
        points=list(whole.points),
    )
    return json.dumps(file.model_dump(mode="json"), ensure_ascii=False).encode()


def read_json(data: bytes) -> MapRecord:
    """Read a map from JSON.

    Raises
    ------
    MapFileError
        If it is none; the first field that is wrong is named.
    """
    try:
        file = _MapFile.model_validate_json(data)
    except ValidationError as error:
        first = refusals(error)[0]
        raise MapFileError(f"This is no map file: {first.where or 'the file'}: {first.words}.") from error
    whole = checked_map(
        file.points, file.frame, closing_um=file.closing_um, patch_of=file.patch_of, patches=file.patches
    )
    return MapRecord(whole, file.title, file.taken_at, file.by, file.instrument)
