"""The shop log: read it, and append to it once.

Everything that is logged goes through ``append``: it holds the job, drops what was sent before, refuses what was
sent from a screen that was behind, and asks the core whether the entry can be.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cache, partial
from typing import Any

from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session, joinedload
from sqlalchemy.orm.interfaces import ORMOption

from zesty_lark.core.things.rack.mounting_steps import MOUNTING
from zesty_lark.core.work.entries import Measured, Undone, ZeroLost
from zesty_lark.core.work.entry import MOST_ENTRIES, Entry
from zesty_lark.core.work.folding import Folding
from zesty_lark.core.work.halting import CRASH
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import Dressed, Halted, LeftMachine, Placed, Planned
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.on_machine import OnMachine
from zesty_lark.core.work.plans import MAGNET, PlanSteps
from zesty_lark.core.work.rules import addressed, check_entry
from zesty_lark.core.work.run import Run
from zesty_lark.store import chucks, known_logs, learning, machines, summaries, telling
from zesty_lark.store.jobs import by_number
from zesty_lark.store.models import InstrumentRow, Job, LogEntry, LogReading, MachineRow, Person, PlanRow, PlanStepRow
from zesty_lark.store.models.log import columns_of
from zesty_lark.store.once import came_in, sent_before
from zesty_lark.store.telling import TOUCHES_MACHINE

PAGE = 100
MOST_PAGES, MOST_WORDS = 10_000, 6


class AnotherUp(LogError):
    """Another job's load is up on the machine; ``job`` is its number."""

    def __init__(self, job: str, machine: str) -> None:
        super().__init__(
            f"{job} is up on {machine}. Putting this up takes it off, and its zero is lost: say that it is off the "
            "chuck, and press again."
        )
        self.job = job


class BehindError(ValueError):
    """The screen that sent this had not seen the newest entries."""


@dataclass(frozen=True)
class Appended:
    """What became of an entry: where the job stands now, and whether the entry was there before."""

    job_state: JobState
    already: bool


@dataclass(frozen=True)
class Draft:
    """An entry on its way into the log.

    Attributes
    ----------
    entry : Entry
        Its ``seq``, ``by``, ``machine`` and ``instrument`` are filled in here.
    seen : int or None
        The newest entry the sender had seen; ``None`` when that does not matter (a note).
    instrument : InstrumentRow or None
        The gauge of a measurement.
    after : str
        The id of the entry that this one was made after, where its sender had not been answered yet: it has to be the
        newest.
    takes_off : str
        The job whose load comes off the chuck for this one, as its sender said.
    """

    entry: Entry
    seen: int | None = None
    instrument: InstrumentRow | None = None
    after: str = ""
    takes_off: str = ""


def entries_of(session: Session, job: Job, after: int = 0) -> list[Entry]:
    """Return a job's log, oldest first, from the entry after a number on, in a fixed number of statements."""
    found = select(LogEntry).where(LogEntry.job_id == job.id, LogEntry.seq > after).order_by(LogEntry.seq)
    rows = session.scalars(found.options(*_names_only()))
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
    found = select(LogEntry).where(LogEntry.job_id == job.id)
    for word in words.split()[:MOST_WORDS]:
        columns = (LogEntry.kind, LogEntry.note, LogEntry.characteristic, LogEntry.how, LogEntry.item)
        like = [column.contains(word, autoescape=True) for column in columns]
        by = select(Person.id).where(Person.name.contains(word, autoescape=True))
        gauge = select(InstrumentRow.id).where(InstrumentRow.name.contains(word, autoescape=True))
        found = found.where(or_(*like, LogEntry.by_id.in_(by), LogEntry.instrument_id.in_(gauge)))
    found = found.order_by(LogEntry.seq.desc()).limit(PAGE + 1).offset((page - 1) * PAGE)
    rows = session.scalars(found.options(*_names_only())).all()
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


def _log(session: Session, job: Job) -> known_logs.Log:
    return known_logs.Log(("job", job.id), job.part.spec(), lambda after: entries_of(session, job, after), Folding)


def held_fold(session: Session, job: Job) -> Folding:
    """Return the fold of a job's whole log, for whoever holds the job and adds to its log in this transaction."""
    fold: Folding = known_logs.hold(session, _log(session, job))
    return fold


def state_of(session: Session, job: Job) -> JobState:
    """Return where a job stands."""
    job_state: JobState = known_logs.state_of(session, _log(session, job))
    return replace(job_state, on=on_machine(job))


def append(session: Session, job: Job, person: Person, draft: Draft) -> Appended:
    """Log one entry, once.

    Raises
    ------
    BehindError
        If the sender had not seen the newest entry.
    LogError
        If the entry cannot be as things stand, its id is none, or was used for something else.
    """
    if isinstance(draft.entry, TOUCHES_MACHINE):
        machines.hold(session, job.machine)
    locked = by_number(session, job.number, lock=True)
    assert locked is not None

    other = on_machine(locked).other_up

    def make(fold: Folding) -> Entry:
        entry = _may_be_added(session, locked, draft, fold)
        return _insert(session, locked, person, entry, instrument=draft.instrument)

    sent = partial(_sent_before, session, draft.entry, locked)
    added = known_logs.append(session, _log(session, locked), sent=sent, make=make)
    if added.entry is None:
        return Appended(replace(added.after, on=on_machine(locked)), already=True)
    _after_adding(session, locked, added.entry, before=added.before, after=added.after)
    if isinstance(added.entry, Placed) and other:
        _take_off(session, locked, person, added.entry, number=other)
    _tell_who_is_up(session, locked, person, added.entry)
    if isinstance(added.entry, Undone):
        told = _told(session, added.entry)
        if told is not None:
            take_back_told(session, told[0], person, told[1], entry_id=added.entry.entry_id, at=added.entry.at)
    return Appended(replace(added.after, on=on_machine(locked)), already=False)


def _after_adding(session: Session, job: Job, entry: Entry, *, before: JobState, after: JobState) -> None:
    learning.learn(session, entry.seq, entry, job, before=before, after=after)
    telling.tell(session, job, entry, before=before, after=after)
    summaries.keep(session, job, replace(after, on=on_machine(job)))


def tell_job(session: Session, job: Job, person: Person, entry: Entry) -> None:
    """Log in a job what was done to it elsewhere, and was checked there: its load taken off, its wheel dressed, its
    zero lost. Nothing more is told by it."""
    locked = by_number(session, job.number, lock=True)
    assert locked is not None

    def make(fold: Folding) -> Entry:
        return _insert(session, locked, person, addressed(entry, fold.state()))

    sent = partial(_sent_before, session, entry, locked)
    added = known_logs.append(session, _log(session, locked), sent=sent, make=make)
    summaries.keep(session, locked, replace(added.after, on=on_machine(locked)))


def _take_off(session: Session, job: Job, person: Person, placed: Placed, *, number: str) -> None:
    """Another job's load came off for one that was put up: it is told, and begins again with putting it up."""
    other = by_number(session, number)
    up = None if other is None else state_of(session, other).up
    if other is None or up is None:
        return
    note = f"taken off for {job.number} on {job.machine.name}, by {person.name}"
    entry_id = telling.told_id(placed.entry_id)
    told = LeftMachine(entry_id=entry_id, at=placed.at, setup=up[0], load=up[1], surface=up[2], note=note)
    tell_job(session, other, person, told)


def _tell_who_is_up(session: Session, job: Job, person: Person, entry: Entry) -> None:
    """What one job logs of the wheel or the machine moves, or loses, the zero of another whose load is up."""
    number = on_machine(job).other_up
    other = by_number(session, number) if number else None
    up = None if other is None else state_of(session, other).up
    if other is None or up is None:
        return
    if isinstance(entry, Dressed):
        told: Entry = replace(entry, setup=up[0], load=up[1], surface=up[2], note=f"for {job.number}")
    elif isinstance(entry, Halted) and entry.seen == CRASH:
        told = ZeroLost(entry_id="", at=entry.at, note=f"a crash, logged in {job.number}.")
    else:
        return
    tell_job(session, other, person, replace(told, entry_id=telling.told_id(entry.entry_id), seq=0, screen=""))


def _told(session: Session, undone: Undone) -> tuple[Job, str] | None:
    """The other job that was told of an act that is taken back, and under which id; ``None`` when none was."""
    entry_id = telling.told_id(undone.supersedes)
    number = session.scalar(
        select(Job.number).join(LogEntry, LogEntry.job_id == Job.id).where(LogEntry.entry_id == entry_id)
    )
    other = None if number is None else by_number(session, number)
    return None if other is None else (other, entry_id)


def check_told(session: Session, job: Job, entry_id: str) -> bool:
    """Tell whether a job was told something that still holds; ``LogError`` if it has gone on since."""
    history = state_of(session, job).history
    holds = any(each.entry_id == entry_id for each in history)
    if holds and history[-1].entry_id != entry_id:
        raise LogError(f"{job.number} has gone on since. That cannot be taken back from here.")
    return holds


def take_back_told(session: Session, job: Job, person: Person, supersedes: str, *, entry_id: str, at: datetime) -> None:
    """Take back what a job was told, where it was, by an act under ``entry_id``.

    Raises
    ------
    LogError
        If the job has gone on since.
    """
    if not check_told(session, job, supersedes):
        return
    made = Undone(entry_id=telling.told_id(entry_id), at=at, supersedes=supersedes)
    tell_job(session, job, person, made)


def on_machine(job: Job) -> OnMachine:
    """Return what a job's machine knows now."""
    machine, wheel = job.machine, job.wheel
    step = next((each for each in MOUNTING if each.key == wheel.next_step), None)
    unready = "" if step is None or step.key == "dress" else step.name.lower()
    return OnMachine(job.number, machine.name, wheel.name, machine.spindle, unready, machine.on_chuck)


def _may_be_added(session: Session, job: Job, draft: Draft, fold: Folding) -> Entry:
    """Return an entry as it is logged, where it can be as things stand."""
    now: JobState = replace(fold.state(), on=on_machine(job))
    if len(fold.entries) >= MOST_ENTRIES:
        raise LogError(
            f"This job’s log has {MOST_ENTRIES:,} entries, as many as its file can hold. Go on in a job of its own."
        )
    newest = fold.entries[-1].entry_id if fold.entries else ""
    if draft.after != newest if draft.after else draft.seen is not None and draft.seen != now.last_seq:
        raise BehindError(
            "Something was logged on this job since this screen was drawn. "
            "Look at where it stands now, then press again."
        )
    entry = with_gap(addressed(_timed(session, draft.entry, fold), now), now)
    check_entry(entry, now)
    if isinstance(entry, Undone):
        telling.check_take_back(session, job, entry, now)
        told = _told(session, entry)
        if told is not None:
            check_told(session, *told)
    if isinstance(entry, Placed):
        _may_go_up(session, job, now.runs[entry.surface], draft.takes_off)
    return entry


def _may_go_up(session: Session, job: Job, run: Run, takes_off: str) -> None:
    """Nothing goes up on a chuck that is ground itself, under another's load, or in a fixture that is in use."""
    busy = chucks.being_ground(session, job.machine)
    if busy:
        raise LogError(busy)
    other = on_machine(job).other_up
    if other and other != takes_off:
        raise AnotherUp(other, job.machine.name)
    holder = MAGNET if run.plan is None else run.plan.holder
    if holder != MAGNET:
        _refuse_in_use(session, job, holder)


def _refuse_in_use(session: Session, job: Job, holder: str) -> None:
    """A fixture holds one load."""
    up = session.scalars(
        select(MachineRow.on_chuck).where(MachineRow.on_chuck.is_not(None), MachineRow.id != job.machine_id)
    )
    for number in up.all():
        other = by_number(session, str(number))
        at = None if other is None else state_of(session, other).at
        if at is not None and at.plan is not None and at.plan.holder == holder:
            raise LogError(f"{holder} holds {number} on {other.machine.name}. Take that off first.")  # type: ignore[union-attr]


def _insert(
    session: Session, job: Job, person: Person, entry: Entry, *, instrument: InstrumentRow | None = None
) -> Entry:
    row = _row(session, job, person, entry, instrument=instrument)
    session.add(row)
    session.flush()
    return row.to_core()


def _timed(session: Session, entry: Entry, fold: Folding) -> Entry:
    """An entry lies after the one before it, as its clock has it, or that clock is in doubt; the order is the log's."""
    how = came_in(session)
    last = next((each.at for each in reversed(fold.entries) if each.read_in_at is None), None)
    doubt = how.clock_doubt or (last is not None and entry.at + how.waited < last)
    return replace(entry, clock_doubt=True) if doubt else entry


def _sent_before(session: Session, entry: Entry, job: Job) -> bool:
    same = {"job_id": job.id, "kind": entry.kind.value}
    return sent_before(session, LogEntry, entry.entry_id, same=same, refused=LogError)


def with_gap(entry: Entry, job_state: JobState) -> Entry:
    """Keep asked against got with a measurement of the size of what is up, that follows a cut."""
    if not isinstance(entry, Measured) or not entry.readings or entry.surface is None:
        return entry
    surface, piece = job_state.spec.wanted.surfaces.get(entry.surface), job_state.pieces.get(entry.piece)
    if surface is None or piece is None or surface.size != entry.characteristic:
        return entry
    size = piece.sizes[surface.size]
    if not size.asked_mm:
        return entry
    return replace(
        entry, asked_mm=size.asked_mm, got_mm=size.feed_to(surface.furthest((entry.greatest_mm, entry.least_mm)))
    )


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
        readings=[LogReading(**reading) for reading in readings_of(entry)],
        **columns_of(entry),
    )


def pieces_text(entry: Entry) -> str | None:
    """Return the pieces of an entry as they are kept."""
    return ",".join(str(piece) for piece in getattr(entry, "pieces", ())) or None


def readings_of(entry: Entry) -> list[dict[str, Any]]:
    """Return the readings of an entry as they are kept."""
    return [
        {"position": position, "place": reading.place, "value_mm": reading.value_mm}
        for position, reading in enumerate(getattr(entry, "readings", ()), start=1)
    ]


def release_plan(
    session: Session,
    job: Job,
    person: Person,
    plan: PlanSteps,
    *,
    entry_id: str,
    at: datetime,
    seen: int | None,
    pieces: tuple[int, ...] = (),
) -> Appended:
    """Keep a surface's plan and log its release in one transaction; sending it again keeps and logs nothing.

    ``pieces`` are put up together; without any, all that are next.

    Raises
    ------
    BehindError, LogError
        As ``append``.
    """
    probe = Planned(entry_id=entry_id, at=at, by=person.sign_in_name, surface=plan.surface, plan=plan, pieces=pieces)
    if by_number(session, job.number, lock=True) is not None and _sent_before(session, probe, job):
        return Appended(state_of(session, job), already=True)
    entry = replace(probe, plan=keep_plan(session, job, person, plan, at=at))
    return append(session, job, person, Draft(entry, seen))


def keep_plan(session: Session, job: Job, person: Person, plan: PlanSteps, *, at: datetime) -> PlanSteps:
    """Insert a plan; return it with its number."""
    row = PlanRow(
        job_id=job.id,
        surface=plan.surface,
        method=plan.method,
        stock_mm=plan.stock_mm,
        left_on_mm=plan.left_on_mm,
        keeps_wheel_height=plan.keeps_wheel_height,
        holder=plan.holder,
        hold_safety=plan.hold_safety,
        rise_c=plan.rise_c,
        reason=plan.reason,
        until_clean=plan.until_clean,
        created_by_id=person.id,
        created_at=at,
        steps=[PlanStepRow.of(step) for step in plan.steps],
    )
    session.add(row)
    session.flush()
    return replace(plan, plan_id=row.id)


def summarise(session: Session, job: Job) -> None:
    """Write a job's summary anew, from its log."""
    summaries.keep(session, job, state_of(session, job))
    summaries.keep_words(session, job)


def rebuild(session: Session, *, every: bool = True) -> int:
    """Write the summaries anew from the logs, of every job or only of those that have none; return of how many."""
    found = list(session.scalars(select(Job).order_by(Job.id))) if every else summaries.without(session)
    for job in found:
        summarise(session, job)
    for machine in session.scalars(select(MachineRow)):
        machines.keep(session, machine, machines.state_of(session, machine))
    return len(found)
