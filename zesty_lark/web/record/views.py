"""Record: the job's story, and what is decided of it."""

from collections.abc import Callable

from flask import redirect, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.work.entries import PieceEnd
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.shopfloor.acts import record
from zesty_lark.shopfloor.acts.acting import Acting
from zesty_lark.store import shoplog
from zesty_lark.store.models.people import Role
from zesty_lark.store.shoplog import Appended
from zesty_lark.web.record.context import LogFileForm, blueprint, history_page
from zesty_lark.web.shared.acting import acting
from zesty_lark.web.shared.forms import DecisionForm, ReasonForm
from zesty_lark.web.shared.guard import access


@blueprint.get("/jobs/<number>/record")
@access(job="look")
def history(number: str) -> ResponseReturnValue:
    """The story and where the job stands."""
    return history_page(LogFileForm()), 200


@blueprint.post("/jobs/<number>/record/sign-off")
@access(Role.INSPECTOR, Role.LEAD, job="inspect", takes=ReasonForm)
def sign_off(number: str) -> ResponseReturnValue:
    return _done(number, lambda who: record.sign_off(who, note=request.form.get("note", "")))


@blueprint.post("/jobs/<number>/record/waive")
@access(Role.LEAD, job="work", takes=DecisionForm)
def waive(number: str) -> ResponseReturnValue:
    """Waive a characteristic by name, of one piece or of all, with a reason."""
    name, piece = request.form.get("characteristic", ""), request.form.get("piece", type=int)
    return _done(number, lambda who: record.waive(who, characteristic=name, piece=piece, reason=_reason()))


@blueprint.post("/jobs/<number>/record/end")
@access(Role.LEAD, job="work", takes=DecisionForm)
def end(number: str) -> ResponseReturnValue:
    """Scrap a piece, or pass it as it is, with a reason."""
    ends: dict[str, PieceEnd] = {"scrapped": "scrapped", "passed": "passed"}
    how, piece = ends.get(request.form.get("end", ""), "scrapped"), request.form.get("piece", 0, type=int)
    return _done(number, lambda who: record.end_piece(who, piece=piece, end=how, reason=_reason()))


def _reason() -> str:
    return request.form.get("reason", "")


def _done(number: str, act: Callable[[Acting], Appended]) -> ResponseReturnValue:
    try:
        act(acting())
    except (LogError, shoplog.BehindError) as error:
        return history_page(LogFileForm(), wrong=str(error)), 409
    return redirect(url_for("record.history", number=number), 303)
