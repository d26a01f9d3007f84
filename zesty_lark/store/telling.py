"""What one act tells the things that it touches: its machine, the wheel on it, and the job whose load it takes off.

Everything that is told is told here, in the transaction of the act itself.
"""

from uuid import NAMESPACE_URL, uuid5

from sqlalchemy import select
from sqlalchemy.orm import Session

from zesty_lark.core.things.log import Said, ThingEntry, ThingError, ThingUndone
from zesty_lark.core.things.machine import Crashed, LoadOff, LoadUp, WheelLess, ZeroSet, check_taken_back
from zesty_lark.core.work.entries import SignedOff, Undone
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.halting import CRASH
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import Dressed, Halted, LeftMachine, Placed, TouchedOff, WentOn
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.store import machines, racks
from zesty_lark.store.models import Job, Person

TOUCHES_MACHINE = (Placed, TouchedOff, Dressed, LeftMachine, Halted, WentOn, SignedOff, Undone)
"""What changes a machine: it is held before the job, so that two who act on one machine wait for each other."""


def told_id(entry_id: str) -> str:
    """Return the id of what an act tells another job: the one whose load is up, or comes off; there is never a
    second."""
    return str(uuid5(NAMESPACE_URL, f"{entry_id}/told"))


def tell(session: Session, job: Job, entry: Entry, *, before: JobState, after: JobState) -> None:
    """Tell the things that an entry of a job touches.

    Raises
    ------
    LogError
        If it takes something back that a machine, or another job, has gone on from.
    """
    try:
        if isinstance(entry, Undone):
            _take_back(session, job, entry, before=before, after=after)
            return
        said = _said(job, entry, before, after)
        if said is not None:
            _tell_machine(session, job, entry, said)
        racks.follow(session, job, entry, after)
    except ThingError as error:
        raise LogError(str(error)) from error


def _said(job: Job, entry: Entry, before: JobState, after: JobState) -> Said | None:
    """What an entry of a job says to its machine."""
    if isinstance(entry, Placed):
        pieces = after.runs[entry.surface].pieces
        return LoadUp(job=job.number, setup=entry.setup, load=entry.load, surface=entry.surface, pieces=pieces)
    if before.up is not None and after.up is None:
        return LoadOff(job=job.number)
    if isinstance(entry, Halted) and entry.seen == CRASH:
        return Crashed(job=job.number, wheel=job.machine.spindle or "")
    if isinstance(entry, TouchedOff):
        return ZeroSet(job=job.number, surface=entry.surface, reading_mm=entry.reading_mm)
    if isinstance(entry, Dressed):
        return WheelLess(wheel=job.wheel.name, amount_mm=entry.amount_mm)
    return None


def _tell_machine(session: Session, job: Job, entry: Entry, said: Said) -> None:
    told = ThingEntry(entry_id=entry.entry_id, at=entry.at, what=said, of_job=True)
    machines.tell(session, job.machine, _by(session, entry), told, job_seq=entry.seq)


def _by(session: Session, entry: Entry) -> Person:
    by = session.scalar(select(Person).where(Person.sign_in_name == entry.by))
    assert by is not None
    return by


def _take_back(session: Session, job: Job, undone: Undone, *, before: JobState, after: JobState) -> None:
    """Take back what the things were told; what they were not told by this job is taken back where it was said."""
    ids = [entry.entry_id for entry in machines.state_of(session, job.machine).history]
    by = _by(session, undone)
    if undone.supersedes in ids:
        told = ThingEntry(
            entry_id=undone.entry_id, at=undone.at, what=ThingUndone(supersedes=undone.supersedes), of_job=True
        )
        machines.tell(session, job.machine, by, told, job_seq=undone.seq)
    elif before.up != after.up:
        _up_again(session, job, undone, after)
    racks.take_back(session, job, undone)


def check_take_back(session: Session, job: Job, undone: Undone, now: JobState) -> None:
    """Refuse to take back what a machine has gone on from, or was logged elsewhere.

    Raises
    ------
    LogError
    """
    taken = next((entry for entry in now.history if entry.entry_id == undone.supersedes), None)
    machine = job.machine
    try:
        check_taken_back(undone.supersedes, machines.state_of(session, machine), machine.name)
    except ThingError as error:
        raise LogError(str(error)) from error
    if isinstance(taken, LeftMachine) and machine.on_chuck not in (None, job.number):
        raise LogError(f"{machine.on_chuck} is up on {machine.name} now. That cannot be taken back from here.")
    if isinstance(taken, Dressed) and taken.read_in_at is None and not racks.repeats(session, undone.supersedes):
        raise LogError("That dress was logged elsewhere, with the wheel or in another job: take it back there.")


def _up_again(session: Session, job: Job, undone: Undone, after: JobState) -> None:
    """A load that was taken off elsewhere is up after all, where nothing else is."""
    if after.up is None:
        said: Said = LoadOff(job=job.number)
    else:
        setup, load, surface = after.up
        pieces = after.runs[surface].pieces
        said = LoadUp(job=job.number, setup=setup, load=load, surface=surface, pieces=pieces)
    _tell_machine(session, job, undone, said)
