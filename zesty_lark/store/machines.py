"""Each machine's log: what is on its spindle and on its chuck, and its zero; kept beside it on the machine's row."""

from sqlalchemy import update
from sqlalchemy.orm import Session
from sqlalchemy.orm.attributes import set_committed_value

from zesty_lark.core.things.log import ThingEntry, ThingError, ThingUndone
from zesty_lark.core.things.machine import MachineFolding, MachineState, check_taken_back
from zesty_lark.store import known_logs, thing_logs
from zesty_lark.store.models import MachineRow, Person
from zesty_lark.store.thing_logs import Telling


def _log_of(session: Session, machine: MachineRow) -> known_logs.Log:
    return thing_logs.log_of(session, "machine", machine.id, fold=MachineFolding)


def state_of(session: Session, machine: MachineRow) -> MachineState:
    """Return where a machine stands."""
    state: MachineState = known_logs.state_of(session, _log_of(session, machine))
    return state


def hold(session: Session, machine: MachineRow) -> None:
    """Keep a machine for this transaction: what is done at it waits."""
    session.refresh(machine, with_for_update=True)


def tell(
    session: Session, machine: MachineRow, person: Person, entry: ThingEntry, *, job_seq: int | None = None
) -> MachineState:
    """Log on a machine what was done at it; whoever tells holds it.

    Raises
    ------
    ThingError
        If something is taken back that the machine has gone on from.
    """

    def check(now: MachineState) -> None:
        if isinstance(entry.what, ThingUndone):
            check_taken_back(entry.what.supersedes, now, machine.name)

    told = Telling(_log_of(session, machine), entry, person, machine, job_seq)
    state: MachineState = thing_logs.append(session, told, check).after
    keep(session, machine, state)
    return state


def keep(session: Session, machine: MachineRow, state: MachineState) -> None:
    """Write beside a machine what lists and rules need of its log."""
    now = {"spindle": state.wheel, "on_chuck": None if state.load is None else state.load.job}
    if any(getattr(machine, name) != value for name, value in now.items()):
        session.execute(
            update(MachineRow)
            .where(MachineRow.id == machine.id)
            .values(**now)
            .execution_options(synchronize_session=False)
        )
        for name, value in now.items():
            set_committed_value(machine, name, value)


def take_back(
    session: Session, machine: MachineRow, person: Person, entry: ThingEntry, *, job_seq: int | None = None
) -> None:
    """Take back what a machine was told with an entry, where it was told anything; ``ThingError`` if it has gone on."""
    what = entry.what
    if not isinstance(what, ThingUndone):
        raise ThingError("Only what was told before is taken back.")
    if any(each.entry_id == what.supersedes for each in state_of(session, machine).history):
        hold(session, machine)
        tell(session, machine, person, entry, job_seq=job_seq)
