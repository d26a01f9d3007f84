"""The rack's logs: each wheel's, appended to once, and what is kept with them in the same transaction."""

import json
from collections.abc import Callable, Mapping, Sequence
from decimal import Decimal

from sqlalchemy import and_, or_, select, update
from sqlalchemy.orm import Session, joinedload

from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.things.rack.entries import (
    RackDress,
    RackEntry,
    RackUndone,
    ShapedWheel,
    TakenDown,
    loaded_entry,
    said_of,
)
from zesty_lark.core.things.rack.fold import WheelState
from zesty_lark.core.things.rack.folding import WheelFolding, WheelSpec
from zesty_lark.core.things.rack.mounting_steps import steps_for
from zesty_lark.core.things.rack.rules import RackError, check_rack_entry
from zesty_lark.core.wheel.marking import marking
from zesty_lark.core.work.entries import Undone
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import Dressed
from zesty_lark.store import known_logs
from zesty_lark.store.database import first
from zesty_lark.store.models import Job, JobSummary, LogEntry, MachineRow, Person, WheelEntryRow, WheelRow
from zesty_lark.store.once import came_in, sent_before

MOST_JOBS = 10


def entries_of(session: Session, wheel: WheelRow, after: int = 0) -> list[RackEntry]:
    """Return a wheel's log after a number, oldest first."""
    return _read(session, {wheel.id: after}).get(wheel.id, [])


def _read(session: Session, after: Mapping[int, int]) -> dict[int, list[RackEntry]]:
    """The logs of wheels, each after a number, in one statement."""
    new = (and_(WheelEntryRow.wheel_id == wheel, WheelEntryRow.seq > seq) for wheel, seq in after.items())
    names = (
        joinedload(WheelEntryRow.by).load_only(Person.name),
        joinedload(WheelEntryRow.machine).load_only(MachineRow.name),
    )
    found: dict[int, list[RackEntry]] = {}
    if after:
        rows = session.scalars(select(WheelEntryRow).where(or_(*new)).options(*names).order_by(WheelEntryRow.seq))
        for row in rows:
            found.setdefault(row.wheel_id, []).append(_entry(row))
    return found


def _entry(row: WheelEntryRow) -> RackEntry:
    return RackEntry(
        entry_id=row.entry_id,
        at=row.at,
        what=loaded_entry(row.kind, json.loads(row.said)),
        by=row.by.name,
        machine=None if row.machine is None else row.machine.name,
        note=row.note,
        of_job=row.job_seq is not None,
        seq=row.seq,
    )


def _spec(wheel: WheelRow, rpm: Mapping[str, float]) -> WheelSpec:
    try:
        bond = marking(text=wheel.marking).bond
    except InputError:
        bond = None
    return WheelSpec(steps_for(bond), None if wheel.mass_g is None else float(wheel.mass_g), rpm)


def _speeds(session: Session) -> dict[str, float]:
    """The speeds of the shop's machines, by name [rpm]."""
    return {name: float(rpm) for name, rpm in session.execute(select(MachineRow.name, MachineRow.rpm))}


def _log(wheel: WheelRow, rpm: Mapping[str, float], read: Callable[[int], list[RackEntry]]) -> known_logs.Log:
    return known_logs.Log(("wheel", wheel.id), _spec(wheel, rpm), read, WheelFolding)


def state_of(session: Session, wheel: WheelRow) -> WheelState:
    """Return where a wheel stands."""
    state: WheelState = known_logs.state_of(session, _log_of(session, wheel))
    return state


def _log_of(session: Session, wheel: WheelRow) -> known_logs.Log:
    return _log(wheel, _speeds(session), lambda after: entries_of(session, wheel, after))


def states_of(session: Session, wheels: Sequence[WheelRow]) -> dict[int, WheelState]:
    """Return where wheels stand, by their number; what is not known of their logs is read in one statement."""
    known = known_logs.folds_of(session, [("wheel", each.id) for each in wheels])
    rpm = _speeds(session)
    fresh = _read(session, {wheel: seq for (_, wheel), seq in known.items()})

    def read_of(wheel: WheelRow) -> Callable[[int], list[RackEntry]]:
        def read(after: int) -> list[RackEntry]:
            if after < known["wheel", wheel.id]:
                return entries_of(session, wheel, after)
            return [each for each in fresh.get(wheel.id, []) if each.seq > after]

        return read

    return {each.id: known_logs.state_of(session, _log(each, rpm, read_of(each))) for each in wheels}


def append(
    session: Session, wheel: WheelRow, person: Person, entry: RackEntry, *, machine: MachineRow | None = None
) -> WheelState:
    """Log something of a wheel, once, and return where it stands then. What was sent before is not logged again.

    Raises
    ------
    RackError
        If it cannot be as the wheel stands, or its id is none or was used for something else.
    """
    session.refresh(wheel, with_for_update=True)
    log = _log_of(session, wheel)
    now: WheelState = known_logs.hold(session, log).state()
    same = {"wheel_id": wheel.id, "kind": entry.what.kind}
    if sent_before(session, WheelEntryRow, entry.entry_id, same=same, refused=RackError):
        return now
    rpm = None if machine is None else float(machine.rpm)
    check_rack_entry(entry, now, wheel.mounted(), rpm, radius_left_mm=_radius_left(wheel))
    busy = at_work(session, wheel)
    if busy is not None and isinstance(entry.what, RackDress | ShapedWheel | TakenDown):
        raise RackError(
            f"{wheel.name} is at work on {busy.number}, whose collar moves with it. Dress it there, or take the "
            "load off first."
        )
    _insert(session, wheel, person, entry, machine=machine)
    session.flush()
    after: WheelState = known_logs.hold(session, log).state()
    _take_off(session, wheel, after.taken_off_mm - now.taken_off_mm)
    if bool(after.scrapped) != wheel.scrapped:
        session.execute(_changed(wheel.id).values(scrapped=bool(after.scrapped), version=WheelRow.version + 1))
    due = after.next_step
    step = None if not after.known else "" if due is None else due.key
    session.execute(_changed(wheel.id).values(mounted_on=after.machine, next_step=step))
    session.refresh(wheel)
    return after


def _changed(wheel_id: int):  # type: ignore[no-untyped-def]
    return update(WheelRow).where(WheelRow.id == wheel_id).execution_options(synchronize_session=False)


def _radius_left(wheel: WheelRow) -> Decimal | None:
    if wheel.least_diameter_mm is None:
        return wheel.diameter_mm / 2 - wheel.bore_mm / 2
    return max((wheel.diameter_mm - wheel.least_diameter_mm) / 2, Decimal(0))


def _insert(
    session: Session,
    wheel: WheelRow,
    person: Person,
    entry: RackEntry,
    *,
    machine: MachineRow | None,
    job_seq: int | None = None,
) -> None:
    session.add(
        WheelEntryRow(
            entry_id=entry.entry_id,
            digest=came_in(session).digest,
            wheel_id=wheel.id,
            kind=entry.what.kind,
            said=json.dumps(said_of(entry.what)),
            note=entry.note[:300],
            at=entry.at,
            by_id=person.id,
            machine_id=None if machine is None else machine.id,
            job_seq=job_seq,
        )
    )


def _take_off(session: Session, wheel: WheelRow, off_mm: Decimal) -> None:
    """So much more has come off its radius; less, when something was taken back [mm]."""
    if not off_mm:
        return
    session.flush()
    left = max(wheel.off_mm + off_mm, Decimal(0))
    if 2 * left >= wheel.measured_mm:
        return  # a log that says so was written for another wheel than was set down
    session.execute(_changed(wheel.id).values(off_mm=left, version=WheelRow.version + 1))
    session.refresh(wheel)


def ground(session: Session, wheel_id: int, volume_mm3: Decimal) -> None:
    """So much more was ground with a wheel [mm³]; less, when a measurement is taken back."""
    session.execute(
        _changed(wheel_id)
        .values(ground_mm3=WheelRow.ground_mm3 + volume_mm3)
        .where(WheelRow.ground_mm3 + volume_mm3 >= 0)
    )


def follow(session: Session, job: Job, row: LogEntry, after: JobState) -> None:
    """Repeat in the wheel's log what a job's log says of it: a dress, or that it was taken back."""
    entry = row.to_core()
    if isinstance(entry, Dressed):
        _follow_dress(session, job, entry, after.wheel_use.dress)
    elif isinstance(entry, Undone):
        _take_back_dress(session, job, entry)


def _follow_dress(session: Session, job: Job, entry: Dressed, dress: str) -> None:
    wheel = job.wheel
    _hold(session, wheel)
    kind = dress if dress in ("rough", "fine") else "general"
    said = RackDress(dress=kind, amount_mm=entry.amount_mm or None, job=job.number)  # type: ignore[arg-type]
    kept = RackEntry(entry_id=entry.entry_id, at=entry.at, what=said, note=entry.note, of_job=True)
    _insert(session, wheel, _who(session, entry), kept, machine=job.machine, job_seq=entry.seq)
    if wheel.next_step == "dress":
        session.execute(_changed(wheel.id).values(next_step=""))
    _take_off(session, wheel, entry.amount_mm or Decimal(0))


def _hold(session: Session, wheel: WheelRow) -> None:
    """Keep a wheel, and its log as it is folded, for this transaction."""
    session.refresh(wheel, with_for_update=True)
    known_logs.hold(session, _log_of(session, wheel))


def _who(session: Session, entry: Entry) -> Person:
    by = session.scalar(select(Person).where(Person.sign_in_name == entry.by))
    assert by is not None
    return by


def _take_back_dress(session: Session, job: Job, undone: Undone) -> None:
    """A job's dress is taken back in the wheel's log too, and what it took off is put back."""
    row = session.scalar(
        select(WheelEntryRow).where(WheelEntryRow.entry_id == undone.supersedes, WheelEntryRow.job_seq.is_not(None))
    )
    if row is None:
        return
    wheel = session.get(WheelRow, row.wheel_id)
    assert wheel is not None
    _hold(session, wheel)
    said = RackUndone(supersedes=row.entry_id)
    kept = RackEntry(entry_id=undone.entry_id, at=undone.at, what=said, of_job=True)
    _insert(session, wheel, _who(session, undone), kept, machine=job.machine, job_seq=undone.seq)
    _take_off(session, wheel, -Decimal(json.loads(row.said)["amount_mm"] or 0))


def at_work(session: Session, wheel: WheelRow) -> Job | None:
    """Return the job with a load up that a wheel grinds; ``None`` when there is none."""
    found = (
        select(Job)
        .join(JobSummary, JobSummary.job_id == Job.id)
        .where(JobSummary.finished_at.is_(None), JobSummary.up.is_not(None), Job.wheel_id == wheel.id)
        .order_by(JobSummary.last_at.desc())
    )
    return first(session, found)


def recent_jobs(session: Session, wheel: WheelRow) -> list[Job]:
    """Return the newest jobs that a wheel was taken for."""
    found = select(Job).where(Job.wheel_id == wheel.id).order_by(Job.id.desc()).limit(MOST_JOBS)
    return list(session.scalars(found))
