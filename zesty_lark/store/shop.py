"""Machines, wheels, fixtures, chucks and instruments: what a shop has."""

import json
from collections.abc import Mapping, Sequence
from datetime import datetime
from decimal import Decimal
from typing import Any, TypeVar

from sqlalchemy import select
from sqlalchemy.orm import Session

from zesty_lark.store.models import Chuck, ChuckMap, Fixture, Instrument, MachineRow, WheelRow
from zesty_lark.store.models.shop import IN_USE

__all__ = ["MachineTaken", "NameTaken", "add_map", "by_name", "find", "keep", "listed", "withdraw_map"]

WITHDRAWN = "withdrawn"
Row = TypeVar("Row", MachineRow, WheelRow, Instrument, Fixture, Chuck)


class NameTaken(ValueError):
    """Something of this kind has that name already."""


class MachineTaken(ValueError):
    """The machine has a chuck already."""


def listed(session: Session, shelf: type[Row]) -> list[Row]:
    """Return everything on a shelf by name."""
    return list(session.scalars(select(shelf).order_by(shelf.name)))


def find(session: Session, shelf: type[Row], key: int) -> Row | None:
    """Return one thing by key."""
    return session.get(shelf, key)


def by_name(session: Session, shelf: type[Row], name: str) -> Row | None:
    """Return one thing by name."""
    return session.scalar(select(shelf).where(shelf.name == name))


def keep(session: Session, shelf: type[Row], values: Mapping[str, Any], row: Row | None = None) -> Row:
    """Add a thing to a shelf, or change one.

    Raises
    ------
    NameTaken
        If another one has the name.
    MachineTaken
        If a chuck's machine has another.
    """
    other = by_name(session, shelf, values["name"])
    if other is not None and other is not row:
        raise NameTaken(f"There is a “{values['name']}” already; give this one another name.")
    if shelf is Chuck:
        on_it = session.scalar(select(Chuck).where(Chuck.machine_id == values["machine_id"]))
        if on_it is not None and on_it is not row:
            raise MachineTaken(f"{on_it.name} is on that machine.")
    if row is None:
        row = shelf()
        session.add(row)
    for field, value in values.items():
        setattr(row, field, value)
    session.flush()
    return row


def add_map(session: Session, chuck: Chuck, points: Sequence[Sequence[float]], at: datetime, *,
            closing_um: Decimal | None = None, state: str = IN_USE, note: str = "") -> ChuckMap:
    """Keep a map of a chuck: points [x mm, y mm, z µm] as they were read, and the closing reading [µm]; one that drifted too far
    is kept as refused."""
    row = ChuckMap(chuck_id=chuck.id, taken_at=at, points=json.dumps([list(point) for point in points]), closing_um=closing_um,
                   state=state, note=note)
    chuck.maps.append(row)
    session.flush()
    return row


def withdraw_map(session: Session, chuck: Chuck, key: int, why: str) -> ChuckMap | None:
    """Take a map out of use; it stays with its reason. Returns it, or ``None`` when the chuck has no such map in use."""
    row = next((each for each in chuck.maps if each.id == key and each.state == IN_USE), None)
    if row is not None:
        row.state, row.note = WITHDRAWN, why
        session.flush()
    return row
