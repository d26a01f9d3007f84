"""Each chuck's log: the grinding of the chuck itself."""

from sqlalchemy.orm import Session

from zesty_lark.core.things.chuck import ChuckFolding, ChuckState, check_chuck_entry
from zesty_lark.core.things.log import ThingEntry
from zesty_lark.store import known_logs, thing_logs
from zesty_lark.store.models import ChuckRow, Person
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
    told = Telling(_log_of(session, chuck), entry, person, chuck.machine)
    after: ChuckState = thing_logs.append(session, told, lambda now: check_chuck_entry(entry, now)).after
    return after
