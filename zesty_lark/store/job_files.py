"""A job with its whole log, out of the store and into it."""

from collections.abc import Mapping
from dataclasses import asdict, replace
from datetime import datetime
from typing import Any

from pydantic import ValidationError
from sqlalchemy.orm import Session

from zesty_lark.core.calc import input_error_words
from zesty_lark.core.part.prints import SIZES
from zesty_lark.core.part.sizes import Size
from zesty_lark.core.part.taken_in import CharacteristicIn, FaceIn, SizeIn, TakeIn, differences, take_in_wrong
from zesty_lark.core.squaring.choices import loaded
from zesty_lark.core.wheel.mounting import mounting_stops
from zesty_lark.core.work.record import JobRecord
from zesty_lark.store import jobs, log_rows, map_files, people, set_ups, shop
from zesty_lark.store.models import InstrumentRow, Job, MachineRow, Person, WheelRow
from zesty_lark.store.models.people import Role
from zesty_lark.store.read_in import ReadIn, read_back


class ReadInError(ValueError):
    """The record contradicts itself or what the store has; the message says how."""


def _columns(row: Any, *leave: str) -> dict[str, Any]:
    return {
        column.key: getattr(row, column.key)
        for column in row.__mapper__.column_attrs
        if column.key not in ("id", *leave)
    }


def write_out(session: Session, job: Job) -> JobRecord:
    """Return a job and everything its log refers to."""
    entries = log_rows.entries_of(session, job)
    maps = map_files.written(session, job)
    named = {getattr(entry, "instrument", None) for entry in entries} | {one_map["instrument"] for one_map in maps}
    who = {entry.by for entry in entries} | {job.owner.sign_in_name} | {each["by"] for each in maps}
    part = job.part
    return JobRecord(
        job={
            "number": job.number,
            "title": job.title,
            "print_unit": job.print_unit,
            "due_on": job.due_on,
            "owner": job.owner.sign_in_name,
            "machine": job.machine.name,
            "wheel": job.wheel.name,
        },
        part=_columns(part, "job_id"),
        sizes=[_columns(size, "part_id") for size in part.sizes],
        faces=[_columns(face, "part_id") for face in part.faces],
        machine=job.machine.to_core(),
        wheel=job.wheel.to_core(),
        instruments=[each.to_core() for each in shop.listed(session, InstrumentRow) if each.name in named],
        people=[
            {"sign_in_name": person.sign_in_name, "name": person.name, "role": person.role}
            for person in people.everyone(session)
            if person.sign_in_name in who
        ],
        entries=entries,
        pieces=[_columns(piece, "part_id") for piece in part.pieces],
        characteristics=[_columns(row, "part_id") for row in part.more],
        set_ups=[{"setup": row.setup, "layout": row.layout} for row in job.set_ups],
        maps=maps,
    )


def read_in(session: Session, record: JobRecord, into: ReadIn) -> tuple[Job, int]:
    """Take a job and its log in from a record; what is here already is left alone.

    Returns
    -------
    Job
        The job.
    int
        How many log entries were new.

    Raises
    ------
    ReadInError
        If the record contradicts itself, or the job here has other sizes.
    LogError
        If its log cannot follow on from what is here.
    """
    reader, at = into.by, into.at
    known_people = {person["sign_in_name"]: _person(session, person, at) for person in record.people}
    _check_names(record, known_people)
    machine = shop.by_name(session, MachineRow, record.machine.name) or shop.keep(
        session, MachineRow, asdict(record.machine)
    )
    wheel = shop.by_name(session, WheelRow, record.wheel.name) or shop.keep(session, WheelRow, asdict(record.wheel))
    stops = mounting_stops(wheel.mounted(), machine.rpm, record.part["material"])
    if stops:
        raise ReadInError(f"{stops[0]} Nothing was read in.")
    gauges = {
        instrument.name: shop.by_name(session, InstrumentRow, instrument.name)
        or shop.keep(session, InstrumentRow, asdict(instrument))
        for instrument in record.instruments
    }
    what = _checked(record, known_people[record.job["owner"]].id, machine.id, wheel.id)
    job = jobs.by_number(session, what.number)
    if job is None:
        job = jobs.take_in(session, what, at)
    else:
        _refuse_another(job, what)
    layouts = {set_up["setup"]: set_up["layout"] for set_up in record.set_ups}
    set_ups.read_in(session, job, reader, layouts=layouts, at=at)
    map_files.read_in(session, job, record.maps, people=known_people, instruments=gauges)
    return job, read_back(session, job, record.entries, known_people, instruments=gauges, read_in=into)


def _refuse_another(job: Job, what: TakeIn) -> None:
    """A job of that number that is here already has to be the one in the file."""
    here = jobs.take_in_of(job)
    own = {name: getattr(here, name) for name in ("owner_id", "machine_id", "wheel_id")}
    differs = differences(here, replace(what, **own))
    if differs:
        raise ReadInError(f"There is a job {job.number} here with another {', '.join(differs)}; nothing was read in.")


def _person(session: Session, values: Mapping[str, Any], at: datetime) -> Person:
    """Return a person by name; one who is not known is kept without a way to sign in."""
    return people.by_sign_in_name(session, values["sign_in_name"]) or people.add_person(
        session,
        sign_in_name=values["sign_in_name"],
        name=values["name"],
        role=Role(values["role"]),
        password=None,
        at=at,
    )


def _check_names(record: JobRecord, known: Mapping[str, Person]) -> None:
    named = {entry.by for entry in record.entries} | {record.job["owner"]} | {one_map["by"] for one_map in record.maps}
    missing = named - {None} - set(known)
    gauges = {getattr(entry, "instrument", None) for entry in record.entries} - {None}
    gauges |= {each["instrument"] for each in record.maps} - {None}
    missing |= gauges - {instrument.name for instrument in record.instruments}
    if missing:
        raise ReadInError(f"The file names {', '.join(sorted(missing))} without saying who or what that is.")
    if len({face["face"] for face in record.faces}) != len(record.faces):
        raise ReadInError("The file has to describe each of the six faces once.")
    if len({size["axis"] for size in record.sizes}) != len(record.sizes):
        raise ReadInError("The file gives a size twice.")
    numbers = [piece["number"] for piece in record.pieces]
    if len(set(numbers)) != len(numbers):
        raise ReadInError("The file has a piece twice.")
    try:
        _ = record.part["route"] and loaded(record.part["route"])
    except ValueError as error:
        raise ReadInError("The file’s route cannot be read.") from error


def _checked(record: JobRecord, owner_id: int, machine_id: int, wheel_id: int) -> TakeIn:
    """What was taken in, as far as a part can be like that."""
    try:
        what = _take_in(record, owner_id, machine_id, wheel_id)
    except ValidationError as error:
        raise ReadInError(f"The file’s part cannot be: {input_error_words(error)}. Nothing was read in.") from error
    for words in take_in_wrong(what).values():
        raise ReadInError(f"{words} Nothing was read in.")
    return what


def _take_in(record: JobRecord, owner_id: int, machine_id: int, wheel_id: int) -> TakeIn:
    job = {name: record.job[name] for name in ("number", "title", "print_unit", "due_on")}
    return TakeIn(
        **job,
        owner_id=owner_id,
        machine_id=machine_id,
        wheel_id=wheel_id,
        **record.part,
        sizes={
            size["axis"]: SizeIn(
                Size(size["target_mm"], size["tol_minus_mm"], size["tol_plus_mm"]),
                size["measured_max_mm"],
                size["measured_min_mm"],
            )
            for size in record.sizes
        },
        faces={face["face"]: FaceIn(face["condition"], face["cleanup_mm"], face["purpose"]) for face in record.faces},
        pieces={
            piece["number"]: {axis: piece[f"{axis}_mm"] for axis in SIZES if piece[f"{axis}_mm"] is not None}
            for piece in record.pieces
        },
        more=tuple(
            CharacteristicIn(**{name: value for name, value in characteristic.items() if name != "position"})
            for characteristic in record.characteristics
        ),
    )
