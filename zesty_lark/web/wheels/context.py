"""What every page of a wheel knows: the wheel, where it stands, and its machine."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, abort, redirect, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.things.log import Said, ThingEntry, ThingError, said_of
from zesty_lark.core.things.rack.entries import BalanceTrial, Checked, FoundOn, RackDress, ShapedWheel
from zesty_lark.shopfloor import wheels
from zesty_lark.shopfloor.acts.wheels import log_on_wheel
from zesty_lark.shopfloor.units import as_unit
from zesty_lark.shopfloor.wheels import OnRack
from zesty_lark.store import shop
from zesty_lark.store.models import MachineRow, WheelRow
from zesty_lark.store.models.people import Role
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.acting import in_shop
from zesty_lark.web.shared.forms import EntryForm
from zesty_lark.web.shared.wording import entry_id, now

blueprint = Blueprint("wheels", __name__, static_folder="static", static_url_path="/static/wheels")


@dataclass(frozen=True)
class About:
    """The wheel of a page, its machine, and whether this person may log of it."""

    wheel: OnRack
    machine: MachineRow | None
    may: bool

    @property
    def row(self) -> WheelRow:
        """The wheel as it is kept."""
        return self.wheel.row

    @property
    def unit(self) -> str:
        """What its machine's dial is cut in."""
        return "mm" if self.machine is None else as_unit(self.machine.dial_unit)

    @property
    def clockwise(self) -> bool:
        """Whether it turns clockwise seen from the front."""
        return self.machine is None or self.machine.wheel_turns == "clockwise"

    def at(self, what: Said) -> MachineRow | None:
        """The machine that an entry is about: what is done there, and whatever is said of a wheel that is on one."""
        there = isinstance(what, Checked | FoundOn | BalanceTrial | RackDress | ShapedWheel)
        return self.machine if there or self.wheel.stands.machine is not None else None

    def url(self, page: str, **more: Any) -> str:
        """A page of this wheel; of a wheel that is on none, with the machine that is meant."""
        on = None if self.machine is None or self.wheel.stands.machine else self.machine.id
        return url_for(f"wheels.{page}", key=self.row.id, machine=on, **more)


def about(key: int) -> About:
    """Return what a page is about."""
    session = database.session()
    row = shop.find(session, WheelRow, key) or abort(404, "There is no wheel with that number.")
    wheel = wheels.on_rack(session, row)
    machine = wheels.machine_of(session, wheel, request.args.get("machine", type=int))
    return About(wheel, machine, guard.person().role in (Role.LEAD, Role.MACHINIST))


def said_in(form: EntryForm, what: Said, of: About, note: str = "") -> ThingEntry:
    """An entry as a form sends it."""
    on = of.at(what)
    return ThingEntry(
        entry_id=form.entry_id.data or entry_id(),
        at=now(),
        what=what,
        machine=None if on is None else on.name,
        note=note.strip()[:300],
    )


def logged(of: About, entry: ThingEntry, again: Callable[[str], ResponseReturnValue], to: str) -> ResponseReturnValue:
    """Log it and go on to a page; where it cannot be, the page ``again`` with the sentence."""
    try:
        log_on_wheel(
            in_shop(entry_id_given=entry.entry_id),
            wheel=of.row.name,
            kind=entry.what.kind,
            said=said_of(entry.what),
            machine=entry.machine,
            note=entry.note,
        )
    except ThingError as error:
        return again(str(error))
    return redirect(of.url(to), 303)
