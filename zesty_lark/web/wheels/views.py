"""Wheels: the rack, and one wheel's life."""

from flask import render_template
from flask.typing import ResponseReturnValue

from zesty_lark.core.things.log import ThingNote, ThingUndone
from zesty_lark.core.things.rack.entries import PutOut, TakenDown
from zesty_lark.core.things.rack.telling import entry_words
from zesty_lark.shopfloor import wheels
from zesty_lark.shopfloor.wheels import OnRack
from zesty_lark.store import racks
from zesty_lark.store.models.people import Role
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.forms import UndoForm
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.wheels import rack_wheel
from zesty_lark.web.shared.wording import entry_id
from zesty_lark.web.wheels.context import About, about, blueprint, logged, said_in
from zesty_lark.web.wheels.forms import NoteForm

SHOWN, MOST_SHOWN = 9, 200


@blueprint.get("/wheels")
@access()
def rack() -> ResponseReturnValue:
    """Every wheel of the shop, drawn to one scale."""
    found = wheels.rack(database.session())
    widest = max((float(each.row.new_diameter_mm or each.row.diameter_mm) for each in found), default=1.0)
    return render_template("wheels/rack.html", wheels=[(each, _drawn(each, widest)) for each in found], may=_may_keep())


def _may_keep() -> bool:
    return guard.person().role in (Role.LEAD, Role.MACHINIST)


def _drawn(wheel: OnRack, widest: float) -> str:
    row = wheel.row
    return rack_wheel(
        float(row.diameter_mm),
        float(row.width_mm),
        float(row.bore_mm),
        new=None if row.new_diameter_mm is None else float(row.new_diameter_mm),
        least=None if row.least_diameter_mm is None else float(row.least_diameter_mm),
        widest=widest,
        words=f"{row.name}: {row.diameter_mm:.1f} mm across, {row.width_mm:.1f} mm wide",
    )


@blueprint.get("/wheels/<int:key>")
@access()
def sheet(key: int) -> ResponseReturnValue:
    """A wheel: what it is, what is left of it, what it is next, and all that happened to it."""
    return _sheet(about(key))


def _sheet(of: About, wrong: str = "") -> ResponseReturnValue:
    session = database.session()
    note, undo = NoteForm(formdata=None), UndoForm(formdata=None)
    note.entry_id.data = undo.entry_id.data = entry_id()
    history = of.wheel.stands.history[::-1]
    page = render_template(
        "wheels/sheet.html",
        about=of,
        drawn=_drawn(of.wheel, float(of.row.new_diameter_mm or of.row.diameter_mm)),
        note=note,
        undo=undo,
        wrong=wrong,
        history=[(entry, entry_words(entry, of.machine)) for entry in history[:SHOWN]],
        older=[(each, entry_words(each, of.machine)) for each in history[SHOWN:MOST_SHOWN]],
        more=max(len(history) - MOST_SHOWN, 0),
        jobs=racks.recent_jobs(session, of.row),
    )
    return page, 422 if wrong else 200


@blueprint.post("/wheels/<int:key>/note")
@access(Role.LEAD, Role.MACHINIST, takes=NoteForm)
def note(key: int) -> ResponseReturnValue:
    """Write a note."""
    of, form = about(key), NoteForm()
    if not (form.note.data or "").strip():
        return _sheet(of, "There is nothing in the note.")
    return logged(of, said_in(form, ThingNote(), of, form.note.data or ""), lambda words: _sheet(of, words), "sheet")


@blueprint.post("/wheels/<int:key>/put-out")
@access(Role.LEAD, Role.MACHINIST, takes=NoteForm)
def put_out(key: int) -> ResponseReturnValue:
    """Put it out of use for good."""
    of, form = about(key), NoteForm()
    return logged(of, said_in(form, PutOut(), of, form.note.data or ""), lambda words: _sheet(of, words), "sheet")


@blueprint.post("/wheels/<int:key>/take-down")
@access(Role.LEAD, Role.MACHINIST, takes=NoteForm)
def take_down(key: int) -> ResponseReturnValue:
    """It is taken off its machine."""
    of, form = about(key), NoteForm()
    what = TakenDown(from_flange=form.flange.data == "yes")
    return logged(of, said_in(form, what, of, form.note.data or ""), lambda words: _sheet(of, words), "sheet")


@blueprint.post("/wheels/<int:key>/undo")
@access(Role.LEAD, Role.MACHINIST, takes=UndoForm)
def undo(key: int) -> ResponseReturnValue:
    """Take the last entry back."""
    of, form = about(key), UndoForm()
    what = ThingUndone(supersedes=form.supersedes.data or "")
    return logged(of, said_in(form, what, of), lambda words: _sheet(of, words), "sheet")
