"""Whoever acts on a page: the person signed in, on the job the address names, with what the page had seen."""

from flask import request

from zesty_lark.shopfloor.acts.acting import Acting, InShop
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.presses import pressed_at
from zesty_lark.web.shared.wording import entry_id, now


def in_shop(*, entry_id_given: str | None = None) -> InShop:
    """Return who changes something of the shop by this request, under the id that came with it."""
    given = request.form.get("entry_id", "") if entry_id_given is None else entry_id_given
    return InShop(database.session(), guard.person(), now(), given or entry_id(), guard.this_sign_in())


def acting(*, at_machine: bool = False) -> Acting:
    """Return who acts by this request; at a machine the screen is named, and the press has to bring its own id."""
    given, after = request.form.get("entry_id", ""), request.form.get("after", "")
    return Acting(
        database.session(),
        guard.person(),
        guard.job(),
        pressed_at(),
        given if at_machine else given or entry_id(),
        request.form.get("seen", type=int),
        after if at_machine else "",
        guard.screen() if at_machine else "",
    )
