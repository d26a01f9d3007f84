"""Each chuck's log: the grinding of the chuck itself."""

from sqlalchemy.orm import Session

from zesty_lark.core.things.chuck import ChuckFolding, ChuckState, ChuckStepDone, check_chuck_entry
from zesty_lark.core.things.log import ThingEntry, ThingError
from zesty_lark.store import known_logs, thing_logs
from zesty_lark.store.models import ChuckRow, MachineRow, Person
from zesty_lark.store.thing_logs import Telling


def _log_of(session: Session, chuck: ChuckRow) -> known_logs.Log:
    return thing_logs.log_of(session, "chuck", chuck.id, fold=ChuckFolding)


def state_of(session: Session, chuck: ChuckRow) -> ChuckState:
    """Return where a chuck stands."""
    state: ChuckState = known_logs.state_of(session, _log_of(session, chuck))
    return state


def append(session: Session, chuck: ChuckRow, person: Person, entry: ThingEntry) -> ChuckState:
    """Log a step of grinding a chuck, once, and return where it stands then. What was sent before is not logged again.

    Raises
    ------
    ThingError
        If another step comes first, or its id is none or was used for something else.
    """
    session.refresh(chuck, with_for_update=True)

    def check(now: ChuckState) -> None:
        check_chuck_entry(entry, now)
        if isinstance(entry.what, ChuckStepDone) and chuck.machine.on_chuck is not None:
            raise ThingError(f"{chuck.machine.on_chuck} is up on {chuck.name}. Take it off first.")

    told = Telling(_log_of(session, chuck), entry, person, chuck.machine)
    after: ChuckState = thing_logs.append(session, told, check).after
    return after


def being_ground(session: Session, machine: MachineRow) -> str:
    """Return why nothing goes up on a machine's chuck while the chuck itself is ground; empty when it may."""
    return "" if machine.chuck is None else state_of(session, machine.chuck).being_ground(machine.chuck.name)
