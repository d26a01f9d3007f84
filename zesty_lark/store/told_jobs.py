"""What one job's act tells another job: its load taken off, its wheel dressed, its zero lost."""

from dataclasses import replace
from datetime import datetime
from functools import partial

from sqlalchemy import select
from sqlalchemy.orm import Session

from zesty_lark.core.work.entries import Undone, ZeroLost
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.folding import Folding
from zesty_lark.core.work.halting import CRASH
from zesty_lark.core.work.machine_acts import Dressed, Halted, LeftMachine, Placed
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.rules import addressed
from zesty_lark.store import known_logs, summaries, telling
from zesty_lark.store.job_states import log_of, on_machine, state_of
from zesty_lark.store.jobs import by_number
from zesty_lark.store.log_rows import insert, is_there
from zesty_lark.store.models import Job, LogEntry, Person


def tell_job(session: Session, job: Job, person: Person, entry: Entry) -> None:
    """Log in a job what was done to it elsewhere, and was checked there: its load taken off, its wheel dressed, its
    zero lost. Nothing more is told by it."""
    locked = by_number(session, job.number, lock=True)
    assert locked is not None

    def make(fold: Folding) -> Entry:
        return insert(session, locked, person, addressed(entry, fold.state()))

    sent = partial(is_there, session, entry, locked)
    added = known_logs.append(session, log_of(session, locked), sent=sent, make=make)
    summaries.keep(session, locked, replace(added.after, on=on_machine(locked)))


def follow(session: Session, job: Job, person: Person, entry: Entry, *, was_up: str) -> None:
    """Tell other jobs what an entry of this one did to them; ``was_up`` was up on the machine before it."""
    if isinstance(entry, Placed) and was_up:
        _take_off(session, job, person, entry, number=was_up)
    _tell_who_is_up(session, job, person, entry)
    if isinstance(entry, Undone):
        told = _told(session, entry)
        if told is not None:
            take_back_told(session, told[0], person, told[1], entry_id=entry.entry_id, at=entry.at)


def check_undone(session: Session, undone: Undone) -> None:
    """Refuse to take back what another job that was told of it has gone on from.

    Raises
    ------
    LogError
    """
    told = _told(session, undone)
    if told is not None:
        check_told(session, *told)


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
    holds = any(entry.entry_id == entry_id for entry in history)
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
