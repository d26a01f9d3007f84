"""What is done to a wheel of the rack: mounted, rung, balanced, dressed, put out of use."""

from sqlalchemy.orm import Session

from zesty_lark.core.things.log import ThingEntry
from zesty_lark.shopfloor.rights import NotYours
from zesty_lark.store import racks
from zesty_lark.store.models import MachineRow, Person, WheelRow
from zesty_lark.store.models.people import Role

HANDS = (Role.LEAD, Role.MACHINIST)


def log_on_wheel(
    session: Session, person: Person, wheel: WheelRow, entry: ThingEntry, *, machine: MachineRow | None
) -> None:
    """Log an entry on a wheel's own log; ``ThingError`` where it cannot be as things stand."""
    if person.role not in HANDS:
        raise NotYours("What is done to a wheel of the rack is logged by a machinist or a lead.")
    racks.append(session, wheel, person, entry, machine=machine)
