"""The log and the job as files, out and back in."""

from flask import Response, flash, redirect, render_template, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.exchange.job_json import JobFileError, write_job
from zesty_lark.exchange.log_csv import read_log, write_log
from zesty_lark.exchange.log_xlsx import read_log_xlsx, write_log_xlsx
from zesty_lark.shopfloor.reading_in import Differs, Source, read_log_in
from zesty_lark.store import job_files, log_rows
from zesty_lark.store.job_files import ReadInError
from zesty_lark.store.models.people import Role
from zesty_lark.web.record.context import LogFileForm, blueprint, history_page
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.incoming import is_sent, named, read_file
from zesty_lark.web.shared.wording import now

__all__: list[str] = []


@blueprint.get("/jobs/<number>/record/log.csv")
@access(job="look")
def log_csv(number: str) -> ResponseReturnValue:
    return _file(write_log(log_rows.entries_of(database.session(), guard.job())), f"{number}-log.csv", "text/csv")


@blueprint.get("/jobs/<number>/record/log.xlsx")
@access(job="look")
def log_xlsx(number: str) -> ResponseReturnValue:
    written = write_log_xlsx(log_rows.entries_of(database.session(), guard.job()))
    return Response(
        written,
        content_type="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
        headers={"Content-Disposition": f'attachment; filename="{number}-log.xlsx"'},
    )


@blueprint.get("/jobs/<number>/record/job.json")
@access(job="look")
def job_json(number: str) -> ResponseReturnValue:
    return _file(write_job(job_files.write_out(database.session(), guard.job())), f"{number}.json", "application/json")


def _file(text: str, name: str, kind: str) -> Response:
    return Response(
        text, content_type=f"{kind}; charset=utf-8", headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )


@blueprint.post("/jobs/<number>/record/log.csv")
@access(Role.LEAD, job="work", takes=LogFileForm)
def read_log_back(number: str) -> ResponseReturnValue:
    """Read a log back in, each figure judged anew; what the job has already is not doubled."""
    form = LogFileForm()
    if not form.validate() or not is_sent(form):
        return history_page(form, wrong="Which file? A log is CSV or XLSX."), 422
    try:
        entries = read_file(form, log_from, list)
        source = Source(guard.person(), now(), named(form), agreed=bool(form.agreed.data))
        fresh = read_log_in(database.session(), guard.job(), entries, source)
    except Differs as error:
        return render_template("shared/differs.html", form=form, differences=error.differences), 422
    except (JobFileError, LogError, ReadInError) as error:
        return history_page(form, wrong=str(error)), 422
    flash(f"{fresh} entries read in." if fresh else "Every entry of the file was here already; nothing was added.")
    return redirect(url_for("record.history", number=number), 303)


def log_from(name: str, data: bytes) -> list[Entry]:
    """The entries of a file: a workbook by its name, else CSV.

    Raises
    ------
    JobFileError
        If it is none.
    """
    if name.lower().endswith(".xlsx"):
        return read_log_xlsx(data)
    try:
        return read_log(data.decode("utf-8"))
    except UnicodeDecodeError as error:
        raise JobFileError("That is not a text file in UTF-8; a log file is CSV.") from error
