"""The logs of things: read, and appended to once by whoever holds the thing."""

import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy import and_, or_, select
from sqlalchemy.orm import Session, joinedload

from zesty_lark.core.things.kinds import ThingKind
from zesty_lark.core.things.log import ThingEntry, ThingError, said_of
from zesty_lark.store import known_logs
from zesty_lark.store.known_logs import Added
from zesty_lark.store.models import MachineRow, Person, ThingEntryRow
from zesty_lark.store.once import came_in, sent_before

LONGEST_NOTE = 500


@dataclass(frozen=True)
class Telling:
    """An entry on its way into a thing's log: who logs it, on which machine, and the number of the entry of a job's log
    that it repeats."""

    log: known_logs.Log
    entry: ThingEntry
    person: Person
    machine: MachineRow | None = None
    job_seq: int | None = None


def entries_of(session: Session, thing: ThingKind, after: Mapping[int, int]) -> dict[int, list[ThingEntry]]:
    """Return the logs of things of a kind, by their number, each from the entry after a number on, in one statement."""
    if not after:
        return {}
    new = (and_(ThingEntryRow.thing_id == key, ThingEntryRow.seq > seq) for key, seq in after.items())
    names = (
        joinedload(ThingEntryRow.by).load_only(Person.name),
        joinedload(ThingEntryRow.machine).load_only(MachineRow.name),
    )
    rows = session.scalars(
        select(ThingEntryRow).where(ThingEntryRow.thing == thing, or_(*new)).options(*names).order_by(ThingEntryRow.seq)
    )
    logs: dict[int, list[ThingEntry]] = {}
    for row in rows:
        logs.setdefault(row.thing_id, []).append(row.to_core())
    return logs


def log_of(session: Session, thing: ThingKind, key: int, *, fold: Any, spec: Any = None) -> known_logs.Log:
    """Return a thing's log, with the type that folds it and what that has to know beside it."""
    return known_logs.Log((thing, key), spec, lambda after: entries_of(session, thing, {key: after}).get(key, []), fold)


def append(session: Session, told: Telling, check: Callable[[Any], None] | None = None) -> Added:
    """Log something of a thing, once, for whoever holds the thing; what was sent before is not logged again.

    Parameters
    ----------
    session : Session
    told : Telling
    check : callable, optional
        Raises ``ThingError`` where the entry cannot be as the thing stands; without one it was checked where it comes
        from.

    Raises
    ------
    ThingError
        If it cannot be as the thing stands, or its id is none or was used for something else.
    """
    thing, key = told.log.key
    entry = told.entry

    def sent() -> bool:
        same = {"thing_id": key, "kind": entry.what.kind}
        among = ThingEntryRow.thing == thing
        return sent_before(session, ThingEntryRow, entry.entry_id, same=same, refused=ThingError, among=among)

    def make(fold: known_logs.Grows) -> ThingEntry:
        if check is not None:
            check(fold.state())
        row = _row(session, told)
        session.add(row)
        session.flush()
        return row.to_core()

    return known_logs.append(session, told.log, sent=sent, make=make)


def repeated(session: Session, thing: ThingKind, entry_id: str) -> tuple[int, ThingEntry] | None:
    """Return what repeats an entry of a job's log, and the number of the thing in whose log it is."""
    row = session.scalar(
        select(ThingEntryRow).where(
            ThingEntryRow.thing == thing, ThingEntryRow.entry_id == entry_id, ThingEntryRow.job_seq.is_not(None)
        )
    )
    return None if row is None else (row.thing_id, row.to_core())


def _row(session: Session, told: Telling) -> ThingEntryRow:
    entry = told.entry
    return ThingEntryRow(
        entry_id=entry.entry_id,
        digest=came_in(session).digest,
        thing=told.log.key[0],
        thing_id=told.log.key[1],
        kind=entry.what.kind,
        said=json.dumps(said_of(entry.what)),
        note=entry.note[:LONGEST_NOTE],
        at=entry.at,
        by=told.person,
        machine=told.machine,
        job_seq=told.job_seq,
    )
