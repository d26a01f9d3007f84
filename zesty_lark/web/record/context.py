"""The record's own: its blueprint and its form, and the page itself, a stretch of the story at a time."""

from flask import Blueprint, render_template, request, url_for
from flask_wtf.file import FileField

from zesty_lark.core.work.entries import SignedOff
from zesty_lark.core.work.entry import Kind
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.rules import check_entry
from zesty_lark.core.work.telling import tell
from zesty_lark.store import learning, log_rows, people
from zesty_lark.store.models.people import Role
from zesty_lark.web.record.proofs import proofs
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.incoming import AgreedForm
from zesty_lark.web.shared.wording import now, units

blueprint = Blueprint("record", __name__, static_folder="static", static_url_path="/static/record")
LONGEST_SEARCH = 80


class LogFileForm(AgreedForm):
    """A log to be read back in."""

    file = FileField("Shop log (CSV or XLSX)")


def history_page(form: LogFileForm, wrong: str = "") -> str:
    """Show the story, newest first, and where the job stands."""
    job, job_state, words = guard.job(), guard.job_state(), units(guard.job())
    looked_for = request.args.get("q", "").strip()[:LONGEST_SEARCH]
    found = log_rows.page_of(database.session(), job, page=request.args.get("page", 1, type=int), words=looked_for)
    holding = {entry.entry_id for entry in job_state.history}
    names = {who.sign_in_name: who.name for who in people.everyone(database.session())}
    told = [
        (
            entry,
            tell(entry, words, len(job_state.pieces)),
            names.get(entry.by, entry.by),
            entry.entry_id in holding or entry.kind is Kind.UNDONE,
        )
        for entry in found.entries
    ]
    refusal = _may_sign()
    return render_template(
        "record/history.html",
        told=told,
        looked_for=looked_for,
        newer=_page_url(found.page - 1, looked_for) if found.page > 1 else "",
        older=_page_url(found.page + 1, looked_for) if found.more else "",
        shortfalls=job_state.shortfalls,
        form=form,
        wrong=wrong,
        may_sign=refusal == "",
        sign_refusal=refusal,
        proofs=proofs(),
        may_decide=guard.person().role == Role.LEAD and job_state.signed_off is None,
        unproved=sorted({name for _, name in job_state.unproved()}),
        learned=learning.cut_ratio(database.session(), job.machine, job.wheel),
    )


def _page_url(page: int, looked_for: str) -> str:
    return url_for("record.history", number=guard.job().number, page=page, q=looked_for or None)


def _may_sign() -> str:
    """Return why the part cannot be signed off now by whoever is here; empty when it can."""
    if guard.person().role not in (Role.LEAD, Role.INSPECTOR):
        return "An inspector or a lead signs off."
    try:
        check_entry(SignedOff(entry_id="", at=now()), guard.job_state())
    except LogError as error:
        return str(error)
    return ""
