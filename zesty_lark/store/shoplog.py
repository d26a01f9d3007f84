"""The shop log: append to it, once.

Everything that is logged goes through ``append``: it holds the job, drops what was sent before, refuses what was
sent from a screen that was behind, and asks the core whether the entry can be.
"""

from dataclasses import dataclass, replace
from datetime import datetime
from functools import partial

from sqlalchemy import select
from sqlalchemy.orm import Session

from zesty_lark.core.work.entries import Undone
from zesty_lark.core.work.entry import MOST_ENTRIES, Entry
from zesty_lark.core.work.folding import Folding
from zesty_lark.core.work.going_up import Claims, check_goes_up
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import Placed, Planned
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.plans import MAGNET, PlanSteps
from zesty_lark.core.work.rules import addressed, check_entry, with_asked_and_got
from zesty_lark.core.work.run import Run
from zesty_lark.store import chucks, known_logs, learning, machines, summaries, telling, told_jobs
from zesty_lark.store.job_states import log_of, on_machine, state_of
from zesty_lark.store.jobs import by_number
from zesty_lark.store.log_rows import insert, is_there
from zesty_lark.store.models import InstrumentRow, Job, MachineRow, Person, PlanRow, PlanStepRow
from zesty_lark.store.once import came_in
from zesty_lark.store.telling import TOUCHES_MACHINE


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

    was_up = on_machine(locked).other_up

    def make(fold: Folding) -> Entry:
        entry = _may_be_added(session, locked, draft, fold)
        return insert(session, locked, person, entry, instrument=draft.instrument)

    sent = partial(is_there, session, draft.entry, locked)
    added = known_logs.append(session, log_of(session, locked), sent=sent, make=make)
    if added.entry is None:
        return Appended(replace(added.after, on=on_machine(locked)), already=True)
    _after_adding(session, locked, added.entry, before=added.before, after=added.after)
    told_jobs.follow(session, locked, person, added.entry, was_up=was_up)
    return Appended(replace(added.after, on=on_machine(locked)), already=False)


def _after_adding(session: Session, job: Job, entry: Entry, *, before: JobState, after: JobState) -> None:
    learning.learn(session, entry.seq, entry, job, before=before, after=after)
    telling.tell(session, job, entry, before=before, after=after)
    summaries.keep(session, job, replace(after, on=on_machine(job)))


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
    entry = with_asked_and_got(addressed(_timed(session, draft.entry, fold), now), now)
    check_entry(entry, now)
    if isinstance(entry, Undone):
        telling.check_take_back(session, job, entry, now)
        told_jobs.check_undone(session, entry)
    if isinstance(entry, Placed):
        check_goes_up(on_machine(job), _claims(session, job, now.runs[entry.surface]), draft.takes_off)
    return entry


def _claims(session: Session, job: Job, run: Run) -> Claims:
    """What else claims the chuck, or the fixture that a run is planned in."""
    holder = MAGNET if run.plan is None else run.plan.holder
    return Claims(
        chucks.being_ground(session, job.machine), holder, None if holder == MAGNET else _held_in(session, job, holder)
    )


def _held_in(session: Session, job: Job, holder: str) -> tuple[str, str] | None:
    """The job whose load a fixture holds on another machine, and the machine."""
    up = session.scalars(
        select(MachineRow.on_chuck).where(MachineRow.on_chuck.is_not(None), MachineRow.id != job.machine_id)
    )
    for number in up.all():
        other = by_number(session, str(number))
        at = None if other is None else state_of(session, other).at
        if other is not None and at is not None and at.plan is not None and at.plan.holder == holder:
            return other.number, other.machine.name
    return None


def _timed(session: Session, entry: Entry, fold: Folding) -> Entry:
    """An entry lies after the one before it, as its clock has it, or that clock is in doubt; the order is the log's."""
    how = came_in(session)
    last = next((each.at for each in reversed(fold.entries) if each.read_in_at is None), None)
    doubt = how.clock_doubt or (last is not None and entry.at + how.waited < last)
    return replace(entry, clock_doubt=True) if doubt else entry


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
    if by_number(session, job.number, lock=True) is not None and is_there(session, probe, job):
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
        push_n=plan.push_n,
        created_by_id=person.id,
        created_at=at,
        steps=[PlanStepRow.of(step) for step in plan.steps],
    )
    session.add(row)
    session.flush()
    return replace(plan, plan_id=row.id)
