"""What is done to a wheel of the rack: mounted, rung, balanced, dressed, put out of use."""

from typing import Any

from pydantic import ValidationError

from zesty_lark.core.calc import input_error_words
from zesty_lark.core.things.kinds import loaded_entry
from zesty_lark.core.things.log import ThingEntry, ThingError
from zesty_lark.core.things.rack.entries import FoundOn
from zesty_lark.core.things.rack.fold import WheelState
from zesty_lark.shopfloor.acts.acting import InShop, shop_act
from zesty_lark.shopfloor.rights import NotYours
from zesty_lark.store import rack_log, shop
from zesty_lark.store.models import MachineRow, WheelRow
from zesty_lark.store.models.people import Role


@shop_act(Role.LEAD, Role.MACHINIST, refusal="What is done to a wheel of the rack is logged by a machinist or a lead.")
def log_on_wheel(
    acting: InShop, *, wheel: str, kind: str, said: dict[str, Any], machine: str | None = None, note: str = ""
) -> WheelState:
    """Log an entry of a kind on a wheel's own log, with what such an entry says; ``ThingError`` where it cannot be as
    things stand."""
    if kind == FoundOn.kind and acting.person.role != Role.LEAD:
        raise NotYours("A lead says of a wheel that it was on its machine when its record began.")
    row = shop.by_name(acting.session, WheelRow, wheel)
    if row is None:
        raise ThingError(f"There is no wheel “{wheel[:40]}”.")
    on = None if machine is None else shop.by_name(acting.session, MachineRow, machine)
    if machine is not None and on is None:
        raise ThingError(f"There is no machine “{machine[:40]}”.")
    try:
        what = loaded_entry("wheel", kind, said)
    except ValidationError as error:
        raise input_error_words(error) from error
    entry = ThingEntry(entry_id=acting.entry_id, at=acting.at, what=what, machine=machine, note=note)
    return rack_log.append(acting.session, row, acting.person, entry, machine=on)
