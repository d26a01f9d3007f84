"""Each gauge's log: what it was found to do."""

from sqlalchemy.orm import Session

from zesty_lark.core.things.gauge import GaugeFolding, GaugeState, check_gauge_entry
from zesty_lark.core.things.log import ThingEntry
from zesty_lark.store import known_logs, thing_logs
from zesty_lark.store.models import InstrumentRow, Person
from zesty_lark.store.thing_logs import Telling


def _log_of(session: Session, gauge: InstrumentRow) -> known_logs.Log:
    return thing_logs.log_of(session, "gauge", gauge.id, fold=GaugeFolding)


def state_of(session: Session, gauge: InstrumentRow) -> GaugeState:
    """Return what a gauge was found to do."""
    state: GaugeState = known_logs.state_of(session, _log_of(session, gauge))
    return state


def append(session: Session, gauge: InstrumentRow, person: Person, entry: ThingEntry) -> GaugeState:
    """Log a check of a gauge, once, and return what it was found to do. What was sent before is not logged again.

    Raises
    ------
    ThingError
        If its id is none, or was used for something else.
    """
    session.refresh(gauge, with_for_update=True)
    told = Telling(_log_of(session, gauge), entry, person)
    after: GaugeState = thing_logs.append(session, told, lambda now: check_gauge_entry(entry, now)).after
    return after
