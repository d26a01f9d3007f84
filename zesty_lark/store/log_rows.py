"""The rows of a job's log: read whole, a page at a time, or only how far it has come; and written."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any

from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session, joinedload
from sqlalchemy.orm.interfaces import ORMOption

from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.store.models import InstrumentRow, Job, LogEntry, LogReading, MachineRow, Person, PlanRow
from zesty_lark.store.models.log import columns_of
from zesty_lark.store.once import came_in, sent_before

PAGE = 100
MOST_PAGES, MOST_WORDS = 10_000, 6


def entries_of(session: Session, job: Job, after: int = 0) -> list[Entry]:
    """Return a job's log, oldest first, from the entry after a number on, in a fixed number of statements."""
    query = select(LogEntry).where(LogEntry.job_id == job.id, LogEntry.seq > after).order_by(LogEntry.seq)
    rows = session.scalars(query.options(*_names_only()))
    return [row.to_core() for row in rows]


@dataclass(frozen=True)
class LogPage:
    """A stretch of a job's log, newest first: which page it is, and whether there are older entries."""

    entries: list[Entry]
    page: int
    more: bool


def page_of(session: Session, job: Job, *, page: int = 1, words: str = "") -> LogPage:
    """Return a page of a job's log, newest first; only entries whose kind, remark, size, person or gauge has all of the
    words."""
    page = min(max(page, 1), MOST_PAGES)
    query = select(LogEntry).where(LogEntry.job_id == job.id)
    for word in words.split()[:MOST_WORDS]:
        columns = (LogEntry.kind, LogEntry.note, LogEntry.characteristic, LogEntry.how, LogEntry.item)
        like = [column.contains(word, autoescape=True) for column in columns]
        by = select(Person.id).where(Person.name.contains(word, autoescape=True))
        gauge = select(InstrumentRow.id).where(InstrumentRow.name.contains(word, autoescape=True))
        query = query.where(or_(*like, LogEntry.by_id.in_(by), LogEntry.instrument_id.in_(gauge)))
    query = query.order_by(LogEntry.seq.desc()).limit(PAGE + 1).offset((page - 1) * PAGE)
    rows = session.scalars(query.options(*_names_only())).all()
    return LogPage([row.to_core() for row in rows[:PAGE]], page, len(rows) > PAGE)


@cache
def _names_only() -> tuple[ORMOption, ...]:
    """Of whom and what an entry points to, it tells the name."""
    return (
        joinedload(LogEntry.by).load_only(Person.sign_in_name),
        joinedload(LogEntry.read_in_by).load_only(Person.name),
        joinedload(LogEntry.machine).load_only(MachineRow.name),
        joinedload(LogEntry.instrument).load_only(InstrumentRow.name),
    )


def newest_entries(session: Session, jobs: Sequence[int], machines: Sequence[int]) -> dict[str, dict[int, int]]:
    """Return the number of the newest entry of each job, and of what was logged on each machine; one statement each."""
    found: dict[str, dict[int, int]] = {"job": {}, "machine": {}}
    for kind, column, keys in (("job", LogEntry.job_id, jobs), ("machine", LogEntry.machine_id, machines)):
        if keys:
            rows = session.execute(select(column, func.max(LogEntry.seq)).where(column.in_(keys)).group_by(column))
            found[kind] = {key: int(seq) for key, seq in rows if key is not None}
    return found


def insert(
    session: Session, job: Job, person: Person, entry: Entry, *, instrument: InstrumentRow | None = None
) -> Entry:
    """Write an entry; return it with its number."""
    row = _row(session, job, person, entry, instrument=instrument)
    session.add(row)
    session.flush()
    return row.to_core()


def _row(session: Session, job: Job, person: Person, entry: Entry, *, instrument: InstrumentRow | None) -> LogEntry:
    plan = getattr(entry, "plan", None)
    return LogEntry(
        kind=entry.kind.value,
        job_id=job.id,
        digest=came_in(session).digest,
        by=person,
        machine=job.machine,
        instrument=instrument,
        plan=session.get(PlanRow, plan.plan_id) if plan is not None else None,
        pieces=pieces_text(entry),
        asks=asks_text(entry),
        readings=[LogReading(**reading) for reading in readings_of(entry)],
        **columns_of(entry),
    )


def pieces_text(entry: Entry) -> str | None:
    """Return the pieces of an entry as they are kept."""
    return ",".join(str(piece) for piece in getattr(entry, "pieces", ())) or None


def asks_text(entry: Entry) -> str | None:
    """Return what is to be looked at as it is kept."""
    return ",".join(getattr(entry, "asks", ())) or None


def readings_of(entry: Entry) -> list[dict[str, Any]]:
    """Return the readings of an entry as they are kept."""
    return [
        {"position": position, "place": reading.place, "value_mm": reading.value_mm}
        for position, reading in enumerate(getattr(entry, "readings", ()), start=1)
    ]


def is_there(session: Session, entry: Entry, job: Job) -> bool:
    """Tell whether an entry was logged before; ``LogError`` if its id was used for something else."""
    same = {"job_id": job.id, "kind": entry.kind.value}
    return sent_before(session, LogEntry, entry.entry_id, same=same, refused=LogError)
