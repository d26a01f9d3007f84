"""Machines, wheels, fixtures, chucks and instruments: what a shop has."""

from collections.abc import Mapping
from typing import Any, TypeVar

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session, lazyload

from zesty_lark.core.quantities.refusals import refusals
from zesty_lark.core.things.shop import field_names
from zesty_lark.store.models import (
    AccessoryRow,
    BlockSetRow,
    ChuckRow,
    FixtureRow,
    FlangeRow,
    InstrumentRow,
    MachineRow,
    SensorRow,
    WheelRow,
)

Row = TypeVar(
    "Row", MachineRow, WheelRow, FlangeRow, InstrumentRow, FixtureRow, ChuckRow, AccessoryRow, BlockSetRow, SensorRow
)


class NameTaken(ValueError):
    """Something of this kind has that name already."""


class MachineTaken(ValueError):
    """The machine has a chuck already."""


class ChangedMeanwhile(ValueError):
    """Someone else changed a thing since it was opened; ``now`` has what differs, as it is now."""

    def __init__(self, version: int, now: Mapping[str, Any]) -> None:
        super().__init__("someone else changed it since it was opened")
        self.version, self.now = version, now


class DoesNotFit(ValueError):
    """A field of a thing cannot be; ``said`` has a sentence for each such field."""

    def __init__(self, said: Mapping[str, str]) -> None:
        super().__init__("; ".join(f"{field}: {words}" for field, words in said.items()))
        self.said = said


def listed(session: Session, shelf: type[Row]) -> list[Row]:
    """Return everything on a shelf by name."""
    return list(session.scalars(select(shelf).order_by(shelf.name)))


def find(session: Session, shelf: type[Row], key: int) -> Row | None:
    """Return one thing by key."""
    return session.get(shelf, key)


def by_name(session: Session, shelf: type[Row], name: str) -> Row | None:
    """Return one thing by name."""
    return session.scalar(select(shelf).where(shelf.name == name))


def sensor_of(session: Session, machine_id: int, kind: str) -> SensorRow | None:
    """Return what reads a machine's position or power; ``None`` where nothing does."""
    return session.scalar(select(SensorRow).where(SensorRow.machine_id == machine_id, SensorRow.kind == kind))


def sensors_of(session: Session, machine_id: int) -> dict[str, SensorRow]:
    """Return what reads a machine, by what it reads."""
    query = select(SensorRow).where(SensorRow.machine_id == machine_id).options(lazyload(SensorRow.machine))
    rows = session.scalars(query)
    return {row.kind: row for row in rows}


def keep(
    session: Session, shelf: type[Row], values: Mapping[str, Any], row: Row | None = None, *, version: int | None = None
) -> Row:
    """Add a thing to a shelf, or change one as it was at a ``version``.

    Raises
    ------
    ChangedMeanwhile
        If it is no longer at that version and differs from what is to be kept.
    NameTaken
        If another one has the name.
    MachineTaken
        If a chuck's machine has another, or a sensor's machine is read by one of its kind.
    DoesNotFit
        If it is no such thing as its type asks for.
    """
    if row is not None and version is not None and row.version != version:
        differs = {name: getattr(row, name) for name, value in values.items() if getattr(row, name) != value}
        if differs:
            raise ChangedMeanwhile(row.version, differs)
    other = by_name(session, shelf, values["name"]) if "name" in values else None
    if other is not None and other is not row:
        raise NameTaken(f"There is a “{values['name']}” already; give this one another name.")
    if shelf is ChuckRow:
        on_it = session.scalar(select(ChuckRow).where(ChuckRow.machine_id == values["machine_id"]))
        if on_it is not None and on_it is not row:
            raise MachineTaken(f"{on_it.name} is on that machine.")
    if shelf is SensorRow:
        read_by = sensor_of(session, values["machine_id"], values["kind"])
        if read_by is not None and read_by is not row:
            raise MachineTaken(f"{read_by.name} reads that of this machine already.")
    row = shelf() if row is None else row
    checked = _checked(shelf, row, values)
    for field, value in values.items():
        setattr(row, field, getattr(checked, field, value))
    session.add(row)
    session.flush()
    return row


def _checked(shelf: type[Row], row: Row, values: Mapping[str, Any]) -> Any:
    """Whatever path a thing comes by, it is what its checked type asks for."""
    names = field_names(shelf.describes)
    before = {name: getattr(row, name) for name in names if row.id is not None}
    try:
        return shelf.describes(**before | {name: values[name] for name in names if name in values})
    except ValidationError as error:
        raise DoesNotFit({each.where: each.sentence for each in refusals(error)}) from error
