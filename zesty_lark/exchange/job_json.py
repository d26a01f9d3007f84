"""A job as JSON: written whole, read back with every field checked."""

import json
from dataclasses import fields
from datetime import UTC, datetime
from typing import Any

from pydantic import ValidationError

from zesty_lark.core.part.sizes import Reading
from zesty_lark.core.quantities.refusals import refusals
from zesty_lark.core.work.entries import ENTRY_TYPES
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.plans import PlanStep, PlanSteps
from zesty_lark.core.work.record import JobRecord
from zesty_lark.exchange.job_shape import (
    CharacteristicShape,
    EntryShape,
    FaceShape,
    JobFile,
    JobShape,
    MapShape,
    PartShape,
    PersonShape,
    PieceShape,
    PlanShape,
    SetUpShape,
    SizeShape,
    StepShape,
)


class JobFileError(ValueError):
    """The file is no job file; the message says where and why."""


LISTS = ("pieces", "asks")
NOT_WRITTEN = frozenset({"seq", "read_in_by", "read_in_at", "read_in_from", "clock_doubt", "screen"})
"""What an entry has of the shop it is in: another shop gives it its own."""


def write_job(record: JobRecord) -> str:
    """Write a job as JSON."""
    file = JobFile(
        format="zesty-lark job 10",
        job=JobShape(**record.job),
        part=PartShape(**record.part),
        sizes=[SizeShape(**size) for size in record.sizes],
        faces=[FaceShape(**face) for face in record.faces],
        machine=record.machine,
        wheel=record.wheel,
        instruments=list(record.instruments),
        people=[PersonShape(**person) for person in record.people],
        pieces=[PieceShape(**piece) for piece in record.pieces],
        characteristics=[CharacteristicShape(**characteristic) for characteristic in record.characteristics],
        set_ups=[SetUpShape(**set_up) for set_up in record.set_ups],
        maps=[MapShape(**one_map) for one_map in record.maps],
        entries=[EntryShape(**entry_values(entry)) for entry in record.entries],
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
        file = JobFile.model_validate(json.loads(text), strict=False)
    except (json.JSONDecodeError, RecursionError) as error:
        raise JobFileError("This is not a job file that can be read: the file is no JSON.") from error
    except ValidationError as error:
        raise JobFileError(f"This is not a job file that can be read: {_fault(error, 'the file')}") from error
    return JobRecord(
        job=file.job.model_dump(),
        part=file.part.model_dump(),
        sizes=[size.model_dump() for size in file.sizes],
        faces=[face.model_dump() for face in file.faces],
        machine=file.machine,
        wheel=file.wheel,
        instruments=file.instruments,
        people=[person.model_dump() for person in file.people],
        entries=[_core_entry(entry) for entry in file.entries],
        pieces=[piece.model_dump() for piece in file.pieces],
        characteristics=[characteristic.model_dump() for characteristic in file.characteristics],
        set_ups=[set_up.model_dump() for set_up in file.set_ups],
        maps=[one_map.model_dump() for one_map in file.maps],
    )


def _fault(error: ValidationError, whole: str) -> str:
    """The first thing that is wrong: where, else in the whole, and what as a sentence."""
    first = refusals(error)[0]
    return f"{first.where or whole}: {first.words}."


def entry_values(entry: Entry) -> dict[str, Any]:
    """Return an entry's fields as plain values; those that its kind does not have are left out."""
    values = {field.name: getattr(entry, field.name) for field in fields(entry) if field.name not in NOT_WRITTEN}
    values |= {"kind": entry.kind, "at": entry.at.astimezone(UTC)}
    if "plan" in values:
        plan = values["plan"]
        values["plan"] = {name: getattr(plan, name) for name in PlanShape.model_fields if name != "steps"}
        values["plan"]["steps"] = [
            {name: getattr(step, name) for name in StepShape.model_fields} for step in plan.steps
        ]
    if "readings" in values:
        values["readings"] = [{"place": reading.place, "value_mm": reading.value_mm} for reading in values["readings"]]
    return values | {name: list(values[name]) for name in LISTS if name in values}


def entry_from(values: dict[str, Any]) -> Entry:
    """Return an entry from plain values.

    Raises
    ------
    JobFileError
        If a field is not what it must be, or its kind lacks one or has no such field.
    """
    try:
        return _core_entry(EntryShape.model_validate(values))
    except ValidationError as error:
        raise JobFileError(_fault(error, "the entry")) from error


def _core_entry(entry: EntryShape) -> Entry:
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
    values |= {name: tuple(values[name]) for name in LISTS if name in values}
    try:
        return kind(**values)
    except TypeError as error:
        raise JobFileError(f"An entry “{entry.kind}” lacks something it has to have: {error}.") from error


def _utc(moment: datetime) -> datetime:
    return moment.astimezone(UTC)
