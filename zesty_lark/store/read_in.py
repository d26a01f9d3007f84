"""Logs that were written out before, appended whole: in their order, each with who read it in."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from zesty_lark.core.part.prints import THICKNESS
from zesty_lark.core.work.entries import Measured, SignedOff, Undone
from zesty_lark.core.work.entry import ENTRY_ID, Entry
from zesty_lark.core.work.folding import Folding
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import Planned
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.rules import addressed, check_entry, with_asked_and_got
from zesty_lark.store import job_states, learning, log_rows, shoplog, summaries
from zesty_lark.store.database import first
from zesty_lark.store.jobs import by_number
from zesty_lark.store.models import InstrumentRow, Job, LogEntry, LogReading, Person
from zesty_lark.store.models.log import columns_of

IDS_AT_ONCE = ROWS_AT_ONCE = 1000


@dataclass(frozen=True)
class ReadIn:
    """Who read entries in, when and from which file; ``judge`` says what a measurement is here, by its readings."""

    by: Person
    at: datetime
    source: str = ""
    judge: Callable[[Job, JobState, Measured, InstrumentRow | None], Measured] | None = None


@dataclass(frozen=True)
class _ReadEntry:
    """An entry of a file, ready to be inserted with many others: by whom, with which gauge, and what it told."""

    entry: Entry
    person: Person
    instrument: InstrumentRow | None
    told: list[learning.Told]

    def columns(self, job: Job, read_in: ReadIn) -> dict[str, Any]:
        """Every column of its row but the number."""
        plan = getattr(self.entry, "plan", None)
        return columns_of(self.entry) | {
            "kind": self.entry.kind.value,
            "job_id": job.id,
            "by_id": self.person.id,
            "machine_id": job.machine_id,
            "instrument_id": None if self.instrument is None else self.instrument.id,
            "plan_id": None if plan is None else plan.plan_id,
            "read_in_by_id": read_in.by.id,
            "read_in_at": read_in.at,
            "read_in_from": read_in.source,
            "pieces": log_rows.pieces_text(self.entry),
            "asks": log_rows.asks_text(self.entry),
        }


def read_back(
    session: Session,
    job: Job,
    entries: Sequence[Entry],
    people: dict[str, Person],
    *,
    instruments: dict[str, InstrumentRow],
    read_in: ReadIn,
) -> int:
    """Append entries that were written out before, each with who read it in; return how many were new.

    Raises
    ------
    LogError
        If an entry is in the file twice, or differs from the one of that id here; if the new ones do not all come after
        what the job already has; or if one cannot be.
    """
    locked = by_number(session, job.number, lock=True)
    assert locked is not None
    fold = job_states.held_fold(session, locked)
    fresh = _not_here(entries, fold.entries)
    _refuse_another_s(session, fresh)
    job_state, rows = fold.state(), dict[str, _ReadEntry]()
    growing = Folding(fold.spec, fold.entries)
    for entry in fresh:
        person = people[entry.by]
        if isinstance(entry, Planned):
            entry = replace(entry, plan=shoplog.keep_plan(session, locked, person, entry.plan, at=entry.at))
        entry = with_asked_and_got(addressed(entry, job_state), job_state)
        check_entry(entry, job_state)
        gauge = instruments.get(getattr(entry, "instrument", None) or "")
        if isinstance(entry, Measured) and read_in.judge is not None:
            entry = read_in.judge(locked, job_state, entry, gauge)
        growing.add(replace(entry, seq=growing.last_seq + 1))
        before, job_state = job_state, growing.state()
        told = learning.told(entry, locked, before=before, after=job_state)
        rows[entry.entry_id] = _ReadEntry(entry, person, gauge, told)
        if isinstance(entry, Undone):
            learning.forget(session, entry)
            if entry.supersedes in rows:
                rows[entry.supersedes] = replace(rows[entry.supersedes], told=[])
    _insert_all(session, locked, list(rows.values()), read_in)
    summaries.keep(session, locked, job_state)
    return len(fresh)


def _insert_all(session: Session, job: Job, made: Sequence[_ReadEntry], read_in: ReadIn) -> None:
    """Insert entries in their order, their readings, and what they told; many in one statement each."""
    whole: dict[str, Any] = dict.fromkeys(
        column.key for column in LogEntry.__mapper__.column_attrs if column.key != "seq"
    )
    whole |= {"characteristic": THICKNESS, "clock_doubt": False}
    whole |= dict.fromkeys(("note", "how", "side", "screen", "read_in_from"), "")
    for at in range(0, len(made), ROWS_AT_ONCE):
        some = made[at : at + ROWS_AT_ONCE]
        numbered = session.scalars(
            insert(LogEntry).returning(LogEntry.seq, sort_by_parameter_order=True),
            [whole | each.columns(job, read_in) for each in some],
        ).all()
        placed = list(zip(numbered, some, strict=True))
        readings = [{"seq": seq} | reading for seq, each in placed for reading in log_rows.readings_of(each.entry)]
        if readings:
            session.execute(insert(LogReading), readings)
        for seq, each in placed:
            learning.keep(session, seq, each.told)
        session.flush()


def _refuse_another_s(session: Session, fresh: Sequence[Entry]) -> None:
    """An id is used once in the whole shop; all are looked up together."""
    for entry in fresh:
        if not ENTRY_ID.fullmatch(entry.entry_id):
            raise LogError(f"“{entry.entry_id[:40]}” is no id of an entry: 8 to 36 letters, digits and dashes.")
    ids = [entry.entry_id for entry in fresh]
    for at in range(0, len(ids), IDS_AT_ONCE):
        some = ids[at : at + IDS_AT_ONCE]
        taken = first(session, select(LogEntry.entry_id).where(LogEntry.entry_id.in_(some)))
        if taken is not None:
            raise LogError(f"The file's entry {taken} is another job's here; nothing was read in.")


def _not_here(entries: Sequence[Entry], here: Sequence[Entry]) -> list[Entry]:
    """The entries of a file that are new; those that are here already have to be the same and to come first. A sign-off
    comes with no file."""
    known = {entry.entry_id: entry for entry in here}
    seen: set[str] = set()
    entries = [entry for entry in entries if entry.entry_id in known or not isinstance(entry, SignedOff)]
    for entry in entries:
        if entry.entry_id in seen:
            raise LogError(f"The file has the entry {entry.entry_id} twice; nothing was read in.")
        seen.add(entry.entry_id)
        if entry.entry_id in known and not _same(entry, known[entry.entry_id]):
            raise LogError(f"The file's entry {entry.entry_id} is not what was logged here; nothing was read in.")
    fresh = [entry for entry in entries if entry.entry_id not in known]
    if fresh and (fresh != list(entries)[-len(fresh) :] or set(known) - seen):
        raise LogError("The file's entries do not follow on from this job's log; nothing was read in.")
    return fresh


def _same(entry: Entry, here: Entry) -> bool:
    """Whether a file's entry is the one that is here; what was read in was judged and reckoned anew, and
    may differ in that."""
    if isinstance(entry, Measured) and isinstance(here, Measured) and here.read_in_at is not None:
        entry = replace(entry, verdict=here.verdict, uncertainty_mm=here.uncertainty_mm)
        entry = replace(entry, asked_mm=here.asked_mm, got_mm=here.got_mm)
    return _content(entry) == _content(here)


def _content(entry: Entry) -> Entry:
    """What an entry says: without what this shop gave it."""
    told = replace(entry, read_in_by="", read_in_at=None, read_in_from="")
    plain = replace(told, seq=0, machine=None, screen="", clock_doubt=False)
    return replace(plain, plan=replace(plain.plan, plan_id=0)) if isinstance(plain, Planned) else plain
