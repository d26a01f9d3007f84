"""The rack's logs: each wheel's, appended to once, and what is kept with them in the same transaction."""

from collections.abc import Callable, Mapping, Sequence
from decimal import Decimal

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.things.log import Said, ThingEntry, ThingUndone
from zesty_lark.core.things.rack.entries import RackDress, Struck
from zesty_lark.core.things.rack.fold import WheelState
from zesty_lark.core.things.rack.folding import WheelFolding, WheelSpec
from zesty_lark.core.things.rack.mounting_steps import steps_for
from zesty_lark.core.things.rack.rules import check_rack_entry
from zesty_lark.core.wheel.marking import marking
from zesty_lark.core.work.entries import Undone
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.halting import CRASH
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import Dressed, Halted
from zesty_lark.store import known_logs, thing_logs
from zesty_lark.store.database import first
from zesty_lark.store.known_logs import Log
from zesty_lark.store.models import Job, JobSummary, MachineRow, Person, WheelRow
from zesty_lark.store.thing_logs import Telling

MOST_JOBS = 10


def entries_of(session: Session, wheel: WheelRow, after: int = 0) -> list[ThingEntry]:
    """Return a wheel's log after a number, oldest first."""
    return thing_logs.entries_of(session, "wheel", {wheel.id: after}).get(wheel.id, [])


def _spec(wheel: WheelRow, rpm: Mapping[str, float]) -> WheelSpec:
    try:
        bond = marking(text=wheel.marking).bond
    except InputError:
        bond = None
    return WheelSpec(steps_for(bond), None if wheel.mass_g is None else float(wheel.mass_g), rpm)


def _speeds(session: Session) -> dict[str, float]:
    """The speeds of the shop's machines, by name [rpm]."""
    return {name: float(rpm) for name, rpm in session.execute(select(MachineRow.name, MachineRow.rpm))}


def state_of(session: Session, wheel: WheelRow) -> WheelState:
    """Return where a wheel stands."""
    state: WheelState = known_logs.state_of(session, _log_of(session, wheel))
    return state


def _log_of(session: Session, wheel: WheelRow) -> known_logs.Log:
    return thing_logs.log_of(session, "wheel", wheel.id, fold=WheelFolding, spec=_spec(wheel, _speeds(session)))


def states_of(session: Session, wheels: Sequence[WheelRow]) -> dict[int, WheelState]:
    """Return where wheels stand, by their number; what is not known of their logs is read in one statement."""
    known = known_logs.folds_of(session, [("wheel", each.id) for each in wheels])
    rpm = _speeds(session)
    fresh = thing_logs.entries_of(session, "wheel", {wheel: seq for (_, wheel), seq in known.items()})

    def read_of(wheel: WheelRow) -> Callable[[int], list[ThingEntry]]:
        def read(after: int) -> list[ThingEntry]:
            if after < known["wheel", wheel.id]:
                return entries_of(session, wheel, after)
            return [each for each in fresh.get(wheel.id, []) if each.seq > after]

        return read

    logs = {each.id: Log(("wheel", each.id), _spec(each, rpm), read_of(each), WheelFolding) for each in wheels}
    return {key: known_logs.state_of(session, log) for key, log in logs.items()}


def append(
    session: Session, wheel: WheelRow, person: Person, entry: ThingEntry, *, machine: MachineRow | None = None
) -> WheelState:
    """Log something of a wheel, once, and return where it stands then. What was sent before is not logged again.

    Raises
    ------
    ThingError
        If it cannot be as the wheel stands, or its id is none or was used for something else.
    """
    session.refresh(wheel, with_for_update=True)

    def check(now: WheelState) -> None:
        rpm = None if machine is None else float(machine.rpm)
        left, flange = _radius_left(wheel), wheel.flange_id is not None
        spindle = None if machine is None else machine.spindle
        check_rack_entry(entry, now, wheel.mounted(), rpm, radius_left_mm=left, has_flange=flange, spindle=spindle)

    added = thing_logs.append(session, Telling(_log_of(session, wheel), entry, person, machine), check)
    now: WheelState = added.before
    after: WheelState = added.after
    if added.entry is None:
        return after
    _keep_beside(session, wheel, now, after)
    return after


def _keep_beside(session: Session, wheel: WheelRow, now: WheelState, after: WheelState) -> None:
    """Write beside a wheel what lists and rules need of its log."""
    _take_off(session, wheel, after.taken_off_mm - now.taken_off_mm)
    if bool(after.scrapped) != wheel.scrapped:
        session.execute(_changed(wheel.id).values(scrapped=bool(after.scrapped), version=WheelRow.version + 1))
    due = after.next_step
    step = None if not after.known else "" if due is None else due.key
    session.execute(_changed(wheel.id).values(mounted_on=after.machine, next_step=step))
    session.refresh(wheel)


def _changed(wheel_id: int):  # type: ignore[no-untyped-def]
    return update(WheelRow).where(WheelRow.id == wheel_id).execution_options(synchronize_session=False)


def _radius_left(wheel: WheelRow) -> Decimal | None:
    if wheel.least_diameter_mm is None:
        return wheel.diameter_mm / 2 - wheel.bore_mm / 2
    return max((wheel.diameter_mm - wheel.least_diameter_mm) / 2, Decimal(0))


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


def follow(session: Session, job: Job, entry: Entry, after: JobState) -> None:
    """Repeat in the wheel's log what a job's log says of it: a dress, a crash."""
    if isinstance(entry, Dressed):
        dress = after.wheel_use.dress
        kind = dress if dress in ("rough", "fine") else "general"
        said = RackDress(dress=kind, amount_mm=entry.amount_mm or None, job=job.number)  # type: ignore[arg-type]
        _repeat(session, job, job.wheel, entry=entry, said=said)
    elif isinstance(entry, Halted) and entry.seen == CRASH:
        on = session.scalar(select(WheelRow).where(WheelRow.name == job.machine.spindle))
        if on is not None:
            _repeat(session, job, on, entry=entry, said=Struck(job=job.number))


def _repeat(session: Session, job: Job, wheel: WheelRow, *, entry: Entry, said: Said) -> None:
    """Log on a wheel what was logged in a job, and checked there."""
    session.refresh(wheel, with_for_update=True)
    by = session.scalar(select(Person).where(Person.sign_in_name == entry.by))
    assert by is not None
    told = ThingEntry(entry_id=entry.entry_id, at=entry.at, what=said, note=entry.note, of_job=True)
    telling = Telling(_log_of(session, wheel), told, by, job.machine, job_seq=entry.seq)
    added = thing_logs.append(session, telling)
    _keep_beside(session, wheel, added.before, added.after)


def repeats(session: Session, entry_id: str) -> bool:
    """Tell whether a wheel's log repeats an entry of a job."""
    return thing_logs.repeated(session, "wheel", entry_id) is not None


def take_back(session: Session, job: Job, undone: Undone) -> None:
    """Take back in the wheel's log too what it repeats of a job's."""
    found = thing_logs.repeated(session, "wheel", undone.supersedes)
    if found is not None:
        wheel = session.get_one(WheelRow, found[0])
        _repeat(session, job, wheel, entry=undone, said=ThingUndone(supersedes=undone.supersedes))


def at_work(session: Session, wheel: WheelRow) -> Job | None:
    """Return the job with a load up that a wheel grinds; ``None`` when there is none."""
    query = (
        select(Job)
        .join(JobSummary, JobSummary.job_id == Job.id)
        .where(JobSummary.finished_at.is_(None), JobSummary.up.is_not(None), Job.wheel_id == wheel.id)
        .order_by(JobSummary.last_at.desc())
    )
    return first(session, query)


def recent_jobs(session: Session, wheel: WheelRow) -> list[Job]:
    """Return the newest jobs that a wheel was taken for."""
    query = select(Job).where(Job.wheel_id == wheel.id).order_by(Job.id.desc()).limit(MOST_JOBS)
    return list(session.scalars(query))
