"""A job as JSON: written whole, read back with every field checked.

Exact lengths travel as decimal strings in millimetres, times as ISO 8601 in UTC.
"""

import json
from dataclasses import fields
from datetime import UTC, date, datetime
from decimal import Decimal
from typing import Annotated, Any, Literal

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, ValidationError, model_validator

from zesty_lark.core.bench.layout import loaded
from zesty_lark.core.shop import Amount, Instrument, Machine, Name, UnitName, Wheel
from zesty_lark.core.sizes import Reading, size_contradictions
from zesty_lark.core.work.entries import ENTRY_ID, ENTRY_TYPES, Entry, Kind, PieceEnd, RouteChange
from zesty_lark.core.work.plans import PlanStep, PlanSteps, School, StepKind
from zesty_lark.core.work.prints import CharacteristicKind
from zesty_lark.core.work.record import JobRecord
from zesty_lark.exchange.earlier import newest_job

__all__ = ["JobFileError", "entry_from", "entry_values", "read_job", "write_job"]

MOST_ENTRIES = 20_000
MOST_POINTS = 200_000

AnyLength = Annotated[Decimal, Field(max_digits=14, decimal_places=7, allow_inf_nan=False)]
Degrees = Annotated[Decimal, Field(ge=-20, le=200, max_digits=5, decimal_places=2)]
Characteristic = Annotated[str, Field(min_length=1, max_length=20)]
FaceNumber = Annotated[int, Field(ge=1, le=6)]
SurfaceNumber = Annotated[int, Field(ge=1, le=999)]
PieceNumber = Annotated[int, Field(ge=1, le=9999)]
SetUpKey = Annotated[str, Field(max_length=20)]


class JobFileError(ValueError):
    """The file is no job file; the message says where and why."""


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", str_max_length=4000)


class _Job(_Strict):
    number: Annotated[str, Field(pattern=r"^[A-Za-z0-9][A-Za-z0-9._-]{0,19}$")]
    title: Name
    print_unit: UnitName
    due_on: date | None
    owner: str
    machine: Name
    wheel: Name


class _Part(_Strict):
    quantity: Annotated[int, Field(ge=1, le=9999)]
    material: Name
    hardness_hrc: Annotated[Decimal, Field(ge=10, le=72, max_digits=5, decimal_places=2)] | None
    parallel_mm: Amount | None
    square_mm: Amount | None = None
    flat_mm: Amount | None = None
    ra_um: Annotated[Decimal, Field(gt=0, lt=100, max_digits=7, decimal_places=4)] | None = None
    mark_corner: str
    reference_face: Literal[1, 2]
    min_skin_mm: Amount
    first_share: Annotated[Decimal, Field(ge=0, le=1, max_digits=5, decimal_places=4)] | None
    remarks: str
    bow_mm: Amount | None = None
    bow_shape: Literal["middle_up", "ends_up"] = "middle_up"
    leave_mm: Amount = Decimal(0)
    route: Annotated[str, Field(max_length=20_000)] | None = None
    features: Annotated[str, Field(max_length=20_000)] | None = None


class _Piece(_Strict):
    number: PieceNumber
    thickness_mm: Amount | None = None
    width_mm: Amount | None = None
    length_mm: Amount | None = None


def _check_size(target_mm: Decimal, tol_minus_mm: Decimal, tol_plus_mm: Decimal) -> None:
    for field, words in size_contradictions(target_mm, tol_minus_mm, tol_plus_mm).items():
        raise ValueError(f"{field}: {words}")


class _Characteristic(_Strict):
    position: Annotated[int, Field(ge=1, le=200)]
    name: Characteristic
    kind: CharacteristicKind
    surface: SurfaceNumber
    to_surface: SurfaceNumber | None = None
    nominal: Amount
    tol_minus: Amount
    tol_plus: Amount

    @model_validator(mode="after")
    def _goes_together(self) -> "_Characteristic":
        _check_size(self.nominal, self.tol_minus, self.tol_plus)
        return self


class _Size(_Strict):
    axis: Literal["length", "width", "thickness"]
    target_mm: Amount
    tol_minus_mm: Amount
    tol_plus_mm: Amount
    measured_max_mm: Amount
    measured_min_mm: Amount

    @model_validator(mode="after")
    def _goes_together(self) -> "_Size":
        _check_size(self.target_mm, self.tol_minus_mm, self.tol_plus_mm)
        return self


class _Face(_Strict):
    face: FaceNumber
    condition: str
    cleanup_mm: Amount
    purpose: Literal["bearing", "plain"]


class _Person(_Strict):
    sign_in_name: Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9._-]{0,39}$")]
    name: Name
    role: Literal["machinist", "lead", "inspector", "apprentice"]


class _Step(_Strict):
    number: Annotated[int, Field(ge=1, le=10_000)]
    kind: StepKind
    step_mm: Amount
    depth_mm: Amount
    crossfeed_mm: Amount | None = None
    table_mm_s: Amount | None = None
    what: Annotated[str, Field(max_length=120)] = ""
    amount: AnyLength | None = None
    minutes: Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)] = 0.0


class _Plan(_Strict):
    surface: SurfaceNumber
    school: School
    stock_mm: Amount
    left_on_mm: Amount
    keeps_wheel_height: bool
    holder: Name = "magnet"
    hold_safety: Annotated[Decimal, Field(ge=0, max_digits=8, decimal_places=2)] | None = None
    rise_c: Annotated[Decimal, Field(ge=0, max_digits=6, decimal_places=2)] = Decimal(0)
    reason: Annotated[str, Field(max_length=500)] = ""
    until_clean: bool = False
    steps: Annotated[list[_Step], Field(max_length=10_000)]


class _Reading(_Strict):
    place: Name
    value_mm: AnyLength


class _Entry(_Strict):
    entry_id: Annotated[str, Field(pattern=f"^{ENTRY_ID.pattern}$")]
    kind: Kind
    at: AwareDatetime
    by: str
    surface: SurfaceNumber | None = None
    setup: SetUpKey = ""
    load: Annotated[int, Field(ge=0, le=9999)] = 0
    pieces: Annotated[list[PieceNumber], Field(max_length=9999)] = []
    piece: PieceNumber | None = None
    change: RouteChange | None = None
    end: PieceEnd | None = None
    machine: str | None = None
    plan: _Plan | None = None
    reading_mm: AnyLength | None = None
    amount_mm: AnyLength | None = None
    count: Annotated[int, Field(ge=1, le=50)] | None = None
    note: str = ""
    step: Annotated[int, Field(ge=1, le=10_000)] | None = None
    item: Annotated[str, Field(min_length=1, max_length=80)] | None = None
    answer: Annotated[str, Field(max_length=20)] | None = None
    seen: Annotated[str, Field(min_length=1, max_length=20)] | None = None
    side: Annotated[str, Field(max_length=20)] | None = None
    power_w: Annotated[Decimal, Field(ge=0, max_digits=9, decimal_places=1, allow_inf_nan=False)] | None = None
    characteristic: Characteristic | None = None
    supersedes: str | None = None
    instrument: str | None = None
    part_c: Degrees | None = None
    gauge_c: Degrees | None = None
    room_c: Degrees | None = None
    readings: Annotated[list[_Reading], Field(max_length=200)] = []
    uncertainty_mm: AnyLength | None = None
    verdict: Literal["in", "not yet", "unsure", "out"] | None = None
    asked_mm: AnyLength | None = None
    got_mm: AnyLength | None = None
    how: Annotated[str, Field(max_length=200)] | None = None
    map_key: Annotated[str, Field(pattern=f"^{ENTRY_ID.pattern}$")] | None = None


class _SetUp(_Strict):
    setup: SetUpKey
    layout: Annotated[str, Field(max_length=60_000)]

    @model_validator(mode="after")
    def _is_one(self) -> "_SetUp":
        loaded(self.layout)
        return self


Height = Annotated[float, Field(gt=-1e9, lt=1e9, allow_inf_nan=False)]
Micrometres = Annotated[Decimal, Field(ge=-100_000_000, le=100_000_000, decimal_places=4, allow_inf_nan=False)]


class _Map(_Strict):
    key: Annotated[str, Field(pattern=f"^{ENTRY_ID.pattern}$")]
    piece: PieceNumber | None = None
    surface: SurfaceNumber | None = None
    frame: Literal["machine", "plate"]
    points: Annotated[list[tuple[Height, Height, Height]], Field(min_length=3, max_length=MOST_POINTS)]
    closing_um: Micrometres | None = None
    plate_um: Annotated[Decimal, Field(ge=0, le=9999, decimal_places=3, allow_inf_nan=False)] = Decimal(0)
    state: Literal["in use", "refused", "withdrawn"]
    note: Annotated[str, Field(max_length=500)] = ""
    taken_at: AwareDatetime
    by: str | None = None
    instrument: str | None = None


class _JobFile(_Strict):
    format: Literal["zesty-lark job 8"]
    job: _Job
    part: _Part
    sizes: Annotated[list[_Size], Field(min_length=3, max_length=3)]
    faces: Annotated[list[_Face], Field(min_length=6, max_length=6)]
    machine: Machine
    wheel: Wheel
    instruments: Annotated[list[Instrument], Field(max_length=200)]
    people: Annotated[list[_Person], Field(max_length=200)]
    pieces: Annotated[list[_Piece], Field(max_length=9999)] = []
    characteristics: Annotated[list[_Characteristic], Field(max_length=200)] = []
    set_ups: Annotated[list[_SetUp], Field(max_length=200)] = []
    maps: Annotated[list[_Map], Field(max_length=200)] = []
    entries: Annotated[list[_Entry], Field(max_length=MOST_ENTRIES)]


NOT_WRITTEN = frozenset({"seq", "read_in_by", "read_in_at", "screen"})
"""What an entry has of the shop it is in: another shop gives it its own."""


def write_job(record: JobRecord) -> str:
    """Write a job as JSON."""
    file = _JobFile(
        format="zesty-lark job 8",
        job=_Job(**record.job),
        part=_Part(**record.part),
        sizes=[_Size(**size) for size in record.sizes],
        faces=[_Face(**face) for face in record.faces],
        machine=record.machine,
        wheel=record.wheel,
        instruments=list(record.instruments),
        people=[_Person(**each) for each in record.people],
        pieces=[_Piece(**each) for each in record.pieces],
        characteristics=[_Characteristic(**each) for each in record.characteristics],
        set_ups=[_SetUp(**each) for each in record.set_ups],
        maps=[_Map(**each) for each in record.maps],
        entries=[_Entry(**entry_values(entry)) for entry in record.entries],
    )
    return file.model_dump_json(indent=1, exclude_unset=True)


def read_job(text: str) -> JobRecord:
    """Read a job from JSON.

    Raises
    ------
    JobFileError
        If it is no JSON, or a field is missing, unknown or not what it must be; the first one is named.
    """
    try:
        file = _JobFile.model_validate(newest_job(json.loads(text)), strict=False)
    except (json.JSONDecodeError, RecursionError) as error:
        raise JobFileError("This is not a job file that can be read: the file is no JSON.") from error
    except ValidationError as error:
        first = error.errors(include_url=False, include_input=False)[0]
        where = ".".join(str(part) for part in first["loc"]) or "the file"
        raise JobFileError(f"This is not a job file that can be read: {where}: {_sentence(first['msg'])}") from error
    return JobRecord(
        job=file.job.model_dump(),
        part=file.part.model_dump(),
        sizes=[size.model_dump() for size in file.sizes],
        faces=[face.model_dump() for face in file.faces],
        machine=file.machine,
        wheel=file.wheel,
        instruments=file.instruments,
        people=[each.model_dump() for each in file.people],
        entries=[_core_entry(entry) for entry in file.entries],
        pieces=[each.model_dump() for each in file.pieces],
        characteristics=[each.model_dump() for each in file.characteristics],
        set_ups=[each.model_dump() for each in file.set_ups],
        maps=[each.model_dump() for each in file.maps],
    )


def _sentence(words: str) -> str:
    return f"{words.removeprefix('Value error, ').removesuffix('.')}."


def entry_values(entry: Entry) -> dict[str, Any]:
    """Return an entry's fields as plain values; those that its kind does not have are left out."""
    values = {field.name: getattr(entry, field.name) for field in fields(entry) if field.name not in NOT_WRITTEN}
    values |= {"kind": entry.kind, "at": entry.at.astimezone(UTC)}
    if "plan" in values:
        plan = values["plan"]
        values["plan"] = {name: getattr(plan, name) for name in _Plan.model_fields if name != "steps"}
        values["plan"]["steps"] = [{name: getattr(step, name) for name in _Step.model_fields} for step in plan.steps]
    if "readings" in values:
        values["readings"] = [{"place": reading.place, "value_mm": reading.value_mm} for reading in values["readings"]]
    if "pieces" in values:
        values["pieces"] = list(values["pieces"])
    return values


def entry_from(values: dict[str, Any]) -> Entry:
    """Return an entry from plain values.

    Raises
    ------
    JobFileError
        If a field is not what it must be, or its kind lacks one or has no such field.
    """
    try:
        return _core_entry(_Entry.model_validate(values))
    except ValidationError as error:
        first = error.errors(include_url=False, include_input=False)[0]
        raise JobFileError(f"{'.'.join(str(part) for part in first['loc'])}: {_sentence(first['msg'])}") from error


def _core_entry(entry: _Entry) -> Entry:
    kind = ENTRY_TYPES[entry.kind]
    known = {field.name for field in fields(kind)}
    given = {name: getattr(entry, name) for name in entry.model_fields_set if getattr(entry, name) not in (None, [])}
    unknown = sorted(set(given) - known - {"kind"})
    if unknown:
        raise JobFileError(f"An entry “{entry.kind}” has no {unknown[0]}.")
    values = {name: value for name, value in given.items() if name in known} | {"at": _utc(entry.at)}
    if entry.plan is not None:
        plan = entry.plan.model_dump()
        plan["steps"] = tuple(PlanStep(**step) for step in plan["steps"])
        values["plan"] = PlanSteps(plan_id=0, **plan)
    if "readings" in values:
        values["readings"] = tuple(Reading(reading.place, reading.value_mm) for reading in entry.readings)
    if "pieces" in values:
        values["pieces"] = tuple(entry.pieces)
    try:
        return kind(**values)
    except TypeError as error:
        raise JobFileError(f"An entry “{entry.kind}” lacks something it has to have: {error}.") from error


def _utc(moment: datetime) -> datetime:
    return moment.astimezone(UTC)
