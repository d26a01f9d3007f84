"""The rack's logs: each wheel's, appended to once, and what is kept with them in the same transaction."""

import json
from collections.abc import Sequence
from decimal import Decimal

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session, joinedload

from zesty_lark.core.quantities import InputError
from zesty_lark.core.rack.entries import RackDress, RackEntry, RackUndone, ShapedWheel, TakenDown, loaded_entry, said_of
from zesty_lark.core.rack.fold import WheelStanding, wheel_standing
from zesty_lark.core.rack.mounting_steps import steps_for
from zesty_lark.core.rack.rules import RackError, check_rack_entry
from zesty_lark.core.wheel.balance import permissible
from zesty_lark.core.wheel.marking import marking
from zesty_lark.core.work.entries import Dressed, Entry, Undone
from zesty_lark.core.work.standing import Standing
from zesty_lark.store.database import first
from zesty_lark.store.models import Job, JobSummary, LogEntry, MachineRow, Person, WheelEntryRow, WheelRow
from zesty_lark.store.once import came_in, sent_before

__all__ = ["append", "at_work", "entries_of", "follow", "ground", "most_gmm", "recent_jobs", "standing_of", "standings"]

MOST_ENTRIES = 2_000
MOST_JOBS = 10
NEWEST_OF_EACH = 150


def entries_of(session: Session, wheel: WheelRow) -> list[RackEntry]:
    """Return a wheel's log, oldest first: its newest entries where there are very many."""
    found = select(WheelEntryRow).where(WheelEntryRow.wheel_id == wheel.id)
    names = (
        joinedload(WheelEntryRow.by).load_only(Person.name),
        joinedload(WheelEntryRow.machine).load_only(MachineRow.name),
    )
    rows = session.scalars(found.options(*names).order_by(WheelEntryRow.seq.desc()).limit(MOST_ENTRIES)).all()
    return [_entry(row) for row in reversed(rows)]


def _entry(row: WheelEntryRow) -> RackEntry:
    return RackEntry(
        entry_id=row.entry_id,
        at=row.at,
        what=loaded_entry(row.kind, json.loads(row.said)),
        by=row.by.name,
        machine=None if row.machine is None else row.machine.name,
        note=row.note,
        of_job=row.job_seq is not None,
    )


def most_gmm(wheel: WheelRow, rpm: float | None) -> float | None:
    """The unbalance that may be left in a wheel and its flange at a speed [g·mm]; ``None`` when its mass or the speed
    is not known."""
    if wheel.mass_g is None or rpm is None:
        return None
    return permissible(mass_g=float(wheel.mass_g), wheel_rpm=rpm).most_gmm


def standing_of(session: Session, wheel: WheelRow) -> WheelStanding:
    """Return where a wheel stands."""
    return _standing(wheel, entries_of(session, wheel), _rpm(session, wheel))


def _rpm(session: Session, wheel: WheelRow) -> float | None:
    """The speed of the machine that it was last logged on [rpm]."""
    found = (
        select(MachineRow.rpm)
        .join(WheelEntryRow, WheelEntryRow.machine_id == MachineRow.id)
        .where(WheelEntryRow.wheel_id == wheel.id)
        .order_by(WheelEntryRow.seq.desc())
    )
    return first(session, found)


def _standing(wheel: WheelRow, entries: Sequence[RackEntry], rpm: float | None) -> WheelStanding:
    try:
        bond = marking(text=wheel.marking).bond
    except InputError:
        bond = None
    return wheel_standing(entries, steps_for(bond), most_gmm(wheel, rpm))


def standings(session: Session, wheels: Sequence[WheelRow]) -> dict[int, WheelStanding]:
    """Return where wheels stand, by their number, in one statement: by the newest entries of each."""
    place = func.row_number().over(partition_by=WheelEntryRow.wheel_id, order_by=WheelEntryRow.seq.desc())
    ranked = (
        select(WheelEntryRow.seq.label("seq"), place.label("place"))
        .where(WheelEntryRow.wheel_id.in_([each.id for each in wheels]))
        .subquery()
    )
    newest = select(ranked.c.seq).where(ranked.c.place <= NEWEST_OF_EACH)
    rows = session.scalars(
        select(WheelEntryRow).where(WheelEntryRow.seq.in_(newest)).order_by(WheelEntryRow.seq.desc())
    ).all()
    of: dict[int, list[WheelEntryRow]] = {}
    for row in reversed(rows):
        of.setdefault(row.wheel_id, []).append(row)
    made = {}
    for wheel in wheels:
        own = of.get(wheel.id, [])
        rpm = next((float(row.machine.rpm) for row in reversed(own) if row.machine is not None), None)
        made[wheel.id] = _standing(wheel, [_entry(row) for row in own], rpm)
    return made


def append(
    session: Session, wheel: WheelRow, person: Person, entry: RackEntry, *, machine: MachineRow | None = None
) -> WheelStanding:
    """Log something of a wheel, once, and return where it stands then. What was sent before is not logged again.

    Raises
    ------
    RackError
        If it cannot be as the wheel stands, or its id is none or was used for something else.
    """
    session.refresh(wheel, with_for_update=True)
    now = standing_of(session, wheel)
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
    after = standing_of(session, wheel)
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


def follow(session: Session, job: Job, row: LogEntry, after: Standing) -> None:
    """Repeat in the wheel's log what a job's log says of it: a dress, or that it was taken back."""
    entry = row.to_core()
    if isinstance(entry, Dressed):
        _follow_dress(session, job, entry, after.wheel_use.dress)
    elif isinstance(entry, Undone):
        _take_back_dress(session, job, entry)


def _follow_dress(session: Session, job: Job, entry: Dressed, dress: str) -> None:
    wheel = job.wheel
    session.refresh(wheel, with_for_update=True)
    kind = dress if dress in ("rough", "fine") else "general"
    said = RackDress(dress=kind, amount_mm=entry.amount_mm or None, job=job.number)  # type: ignore[arg-type]
    kept = RackEntry(entry_id=entry.entry_id, at=entry.at, what=said, note=entry.note, of_job=True)
    _insert(session, wheel, _who(session, entry), kept, machine=job.machine, job_seq=entry.seq)
    if wheel.next_step == "dress":
        session.execute(_changed(wheel.id).values(next_step=""))
    _take_off(session, wheel, entry.amount_mm or Decimal(0))


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
    session.refresh(wheel, with_for_update=True)
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
