"""What is done to a wheel of the rack, told to the machine it is on and to the job whose load is up there."""

from decimal import Decimal

from sqlalchemy import select
from sqlalchemy.orm import Session

from zesty_lark.core.things.log import ThingEntry, ThingError, ThingUndone
from zesty_lark.core.things.machine import WheelLess, WheelOff, WheelOn
from zesty_lark.core.things.rack.entries import RackDress, ShapedWheel
from zesty_lark.core.things.rack.fold import WheelState
from zesty_lark.core.work.entries import ZeroLost
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.machine_acts import Dressed
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.store import job_states, machines, racks, telling, told_jobs
from zesty_lark.store.jobs import by_number
from zesty_lark.store.models import Job, MachineRow, Person, WheelRow


def append(
    session: Session, wheel: WheelRow, person: Person, entry: ThingEntry, *, machine: MachineRow | None = None
) -> WheelState:
    """Log something of a wheel, once, and tell whom it touches; return where the wheel stands then.

    Raises
    ------
    ThingError
        As ``racks.append``; or if something is taken back that the machine, or a job on it, has gone on from.
    """
    there = _machine_of(session, wheel) or machine
    if there is not None:
        machines.hold(session, there)
    before = racks.state_of(session, wheel)
    after = racks.append(session, wheel, person, entry, machine=machine)
    if after.history == before.history:
        return after
    try:
        _tell(session, wheel, person, entry, before=before, after=after)
    except LogError as error:
        raise ThingError(str(error)) from error
    return after


def _machine_of(session: Session, wheel: WheelRow) -> MachineRow | None:
    if wheel.mounted_on is None:
        return None
    return session.scalar(select(MachineRow).where(MachineRow.name == wheel.mounted_on))


def _tell(
    session: Session, wheel: WheelRow, person: Person, entry: ThingEntry, *, before: WheelState, after: WheelState
) -> None:
    row = session.scalar(select(MachineRow).where(MachineRow.name == (before.machine or after.machine)))
    if row is None:
        return
    up = None if row.on_chuck is None else by_number(session, row.on_chuck)
    if isinstance(entry.what, ThingUndone):
        _take_back(session, row, up, person, entry=entry)
        return
    amount = entry.what.amount_mm if isinstance(entry.what, RackDress | ShapedWheel) else None
    if before.machine != after.machine:
        said = WheelOff(wheel=wheel.name) if after.machine is None else WheelOn(wheel=wheel.name)
    elif isinstance(entry.what, RackDress | ShapedWheel):
        said = WheelLess(wheel=wheel.name, amount_mm=amount)  # type: ignore[assignment]
    else:
        return
    machines.tell(session, row, person, ThingEntry(entry_id=entry.entry_id, at=entry.at, what=said))
    if up is not None:
        told_jobs.tell_job(session, up, person, _to_job(session, up, wheel, entry, amount=amount, said=said))


def _to_job(
    session: Session, up: Job, wheel: WheelRow, entry: ThingEntry, *, amount: Decimal | None, said: object
) -> Entry:
    """What the job whose load is up is told: a dress it goes on from, or that its zero is lost."""
    entry_id = telling.told_id(entry.entry_id)
    if isinstance(said, WheelLess):
        place = job_states.state_of(session, up).up
        assert place is not None
        setup, load, surface = place
        note = f"{wheel.name}, logged with the wheel"
        return Dressed(
            entry_id=entry_id, at=entry.at, setup=setup, load=load, surface=surface, amount_mm=amount, note=note
        )
    done = "taken off" if isinstance(said, WheelOff) else "mounted"
    return ZeroLost(entry_id=entry_id, at=entry.at, note=f"{wheel.name} was {done}.")


def _take_back(session: Session, row: MachineRow, up: Job | None, person: Person, *, entry: ThingEntry) -> None:
    machines.take_back(session, row, person, ThingEntry(entry_id=entry.entry_id, at=entry.at, what=entry.what))
    if up is not None and isinstance(entry.what, ThingUndone):
        told = telling.told_id(entry.what.supersedes)
        told_jobs.take_back_told(session, up, person, told, entry_id=entry.entry_id, at=entry.at)
