"""Record: the job's story, and what is decided of it."""

from typing import Any

from flask import redirect, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.work.entries import Ended, PieceEnd, SignedOff, Waived
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.store import shoplog
from zesty_lark.store.models.people import Role
from zesty_lark.store.shoplog import Draft
from zesty_lark.web.record.context import LogFileForm, blueprint, history_page
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.forms import DecisionForm, ReasonForm
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.wording import entry_id, now


@blueprint.get("/jobs/<number>/record")
@access(job="look")
def history(number: str) -> ResponseReturnValue:
    """The story and where the job stands."""
    return history_page(LogFileForm()), 200


@blueprint.post("/jobs/<number>/record/sign-off")
@access(Role.INSPECTOR, Role.LEAD, job="inspect", takes=ReasonForm)
def sign_off(number: str) -> ResponseReturnValue:
    return _log(number, SignedOff(**_said(), note=request.form.get("note", "").strip()[:500]))


@blueprint.post("/jobs/<number>/record/waive")
@access(Role.LEAD, job="work", takes=DecisionForm)
def waive(number: str) -> ResponseReturnValue:
    """Waive a characteristic by name, of one piece or of all, with a reason."""
    return _log(
        number,
        Waived(
            **_said(),
            characteristic=request.form.get("characteristic", "")[:20],
            piece=request.form.get("piece", type=int),
            note=_reason(),
        ),
    )


@blueprint.post("/jobs/<number>/record/end")
@access(Role.LEAD, job="work", takes=DecisionForm)
def end(number: str) -> ResponseReturnValue:
    """Scrap a piece, or pass it as it is, with a reason."""
    ends: dict[str, PieceEnd] = {"scrapped": "scrapped", "passed": "passed"}
    return _log(
        number,
        Ended(
            **_said(),
            piece=request.form.get("piece", 0, type=int),
            end=ends.get(request.form.get("end", ""), "scrapped"),
            note=_reason(),
        ),
    )


def _said() -> dict[str, Any]:
    """What every entry says of itself."""
    return {"entry_id": request.form.get("entry_id", "") or entry_id(), "at": now()}


def _reason() -> str:
    return request.form.get("reason", "").strip()[:500]


def _log(number: str, entry: Entry) -> ResponseReturnValue:
    try:
        shoplog.append(
            database.session(), guard.job(), guard.person(), Draft(entry, request.form.get("seen", default=0, type=int))
        )
    except (LogError, shoplog.BehindError) as error:
        return history_page(LogFileForm(), wrong=str(error)), 409
    return redirect(url_for("record.history", number=number), 303)
