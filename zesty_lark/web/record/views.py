"""Record: the job's story, the sheets, and the files that go out and come back in."""

from dataclasses import dataclass
from mimetypes import guess_type
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from flask import Blueprint, Response, current_app, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from flask_wtf.file import FileField
from markupsafe import Markup

from zesty_lark.core.angles import dms_text
from zesty_lark.core.dial import on_collar
from zesty_lark.core.faces import OPPOSITE
from zesty_lark.core.maps.view import plate_of
from zesty_lark.core.units import micrometres
from zesty_lark.core.work.entries import Ended, Entry, Kind, Measured, PieceEnd, SignedOff, Waived
from zesty_lark.core.work.folding import in_force
from zesty_lark.core.work.plans import FEEDS
from zesty_lark.core.work.prints import Characteristic
from zesty_lark.core.work.rules import LogError, check_entry
from zesty_lark.core.work.telling import ShownUnits, pieces_words, step_words, tell
from zesty_lark.exchange.job_json import JobFileError, write_job
from zesty_lark.exchange.log_csv import read_log, write_log
from zesty_lark.exchange.log_xlsx import read_log_xlsx, write_log_xlsx
from zesty_lark.exchange.pdf import sheet_pdf
from zesty_lark.shopfloor.mapping import size_of_surface
from zesty_lark.store import job_files, learning, maps, people, shop, shoplog
from zesty_lark.store.models import InstrumentRow, SurfaceMapRow
from zesty_lark.store.models.people import Role
from zesty_lark.store.models.shop import IN_USE
from zesty_lark.store.read_in import ReadIn, read_back
from zesty_lark.store.shoplog import Draft
from zesty_lark.web.shared import assets, database, guard
from zesty_lark.web.shared.forms import DecisionForm, PostedForm, ReasonForm
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.plan_ladder import plan_ladder
from zesty_lark.web.shared.svg.surface import Shown, surface_plate
from zesty_lark.web.shared.svg.zone import zone
from zesty_lark.web.shared.wording import entry_id, now, units

__all__ = ["blueprint"]

MOST_MAPS = 6
"""Maps that are drawn on a report."""

blueprint = Blueprint("record", __name__, static_folder="static", static_url_path="/static/record")


class LogFileForm(PostedForm):
    file = FileField("Shop log (CSV or XLSX)")


@blueprint.get("/jobs/<number>/record")
@access(job="look")
def history(number: str) -> ResponseReturnValue:
    return _history_page(LogFileForm()), 200


def _history_page(form: LogFileForm, wrong: str = "") -> str:
    job, standing = guard.job(), guard.standing()
    words = units(job)
    entries = shoplog.entries_of(database.session(), job)
    holding = {entry.entry_id for entry in in_force(entries)}
    names = {who.sign_in_name: who.name for who in people.everyone(database.session())}
    told = [
        (
            entry,
            tell(entry, words, len(standing.pieces)),
            names.get(entry.by, entry.by),
            entry.entry_id in holding or entry.kind is Kind.UNDONE,
        )
        for entry in entries
    ]
    refusal = _may_sign()
    return render_template(
        "record/history.html",
        told=told,
        gaps=standing.gaps,
        form=form,
        wrong=wrong,
        may_sign=refusal == "",
        sign_refusal=refusal,
        proofs=_proofs(),
        may_decide=guard.person().role == Role.LEAD and standing.signed_off is None,
        unproved=sorted({name for _, name in standing.unproved()}),
        learned=learning.cut_ratio(database.session(), job.machine, job.wheel),
    )


@dataclass(frozen=True)
class Proved:
    """A characteristic of the print and how it stands on each piece."""

    asked: Characteristic
    words: str
    verdicts: dict[int, str]
    measured: dict[int, Measured]
    waived: dict[int, Waived]

    def figures(self, number: int, words: ShownUnits) -> tuple[str, str]:
        """What was measured on a piece, and its U, in the units of the print; an angle in degrees."""
        entry = self.measured.get(number)
        if entry is None:
            return "–", "–"
        if self.asked.kind == "angle":
            return dms_text(float(entry.greatest_mm)), f"{float(entry.uncertainty_mm) * 3600:.1f}″"
        if self.asked.is_zone:
            return words.fine(entry.um), words.fine(entry.u_um)
        return (
            f"{words.size_number(entry.least_mm)} to {words.size(entry.greatest_mm)}",
            words.size_number(entry.uncertainty_mm),
        )

    @property
    def unproved(self) -> list[int]:
        """The pieces on which it has no "in" and was not waived."""
        return [number for number, verdict in self.verdicts.items() if verdict != "in" and number not in self.waived]


def _proofs() -> list[Proved]:
    """Every characteristic of the print, and the verdict on it of each piece that no lead has ended."""
    standing = guard.standing()
    measured: dict[tuple[str, int], Measured] = {
        (entry.characteristic, entry.piece): entry
        for entry in standing.history
        if isinstance(entry, Measured) and entry.verdict
    }
    return [
        Proved(
            each,
            _asked(each),
            {number: standing.pieces[number].verdicts.get(each.name, "not measured") for number in standing.live},
            {
                number: measured[each.name, number]
                for number in standing.live
                if (each.name, number) in measured and each.name in standing.pieces[number].verdicts
            },
            {number: piece.waived[each.name] for number, piece in standing.pieces.items() if each.name in piece.waived},
        )
        for each in standing.brief.wanted.characteristics
    ]


def _may_sign() -> str:
    """Return why the part cannot be signed off now by whoever is here; empty when it can."""
    if guard.person().role not in (Role.LEAD, Role.INSPECTOR):
        return "An inspector or a lead signs off."
    try:
        check_entry(SignedOff(entry_id="", at=now()), guard.standing())
    except LogError as error:
        return str(error)
    return ""


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
        return _history_page(LogFileForm(), wrong=str(error)), 409
    return redirect(url_for("record.history", number=number), 303)


@blueprint.get("/jobs/<number>/record/log.csv")
@access(job="look")
def log_csv(number: str) -> ResponseReturnValue:
    return _file(write_log(shoplog.entries_of(database.session(), guard.job())), f"{number}-log.csv", "text/csv")


@blueprint.get("/jobs/<number>/record/log.xlsx")
@access(job="look")
def log_xlsx(number: str) -> ResponseReturnValue:
    written = write_log_xlsx(shoplog.entries_of(database.session(), guard.job()))
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
    """Read a log back in; what the job has already is not doubled."""
    form = LogFileForm()
    job, session = guard.job(), database.session()
    try:
        entries = _log_in(form)
        known = {who.sign_in_name: who for who in people.everyone(session)}
        unknown = {entry.by for entry in entries} - set(known)
        if unknown:
            raise JobFileError(f"The log names {', '.join(sorted(unknown))}, who is not known here.")
        gauges = {row.name: row for row in shop.listed(session, InstrumentRow)}
        fresh = read_back(session, job, entries, known, instruments=gauges, read_in=ReadIn(guard.person(), now()))
    except UnicodeDecodeError:
        return _history_page(form, wrong="That is not a text file in UTF-8; a log file is CSV."), 422
    except (JobFileError, LogError) as error:
        return _history_page(form, wrong=str(error)), 422
    flash(f"{fresh} entries read in." if fresh else "Every entry of the file was here already; nothing was added.")
    return redirect(url_for("record.history", number=number), 303)


def _log_in(form: LogFileForm) -> list[Entry]:
    """The entries of the file that was sent: a workbook by its name, else CSV."""
    if not form.validate() or not form.file.data:
        return read_log("")
    data = form.file.data.read()
    is_book = (form.file.data.filename or "").lower().endswith(".xlsx")
    return read_log_xlsx(data) if is_book else read_log(data.decode("utf-8"))


@blueprint.get("/jobs/<number>/record/pass-sheet<any('', '.pdf'):form>")
@access(job="look")
def pass_sheet(number: str, form: str) -> ResponseReturnValue:
    return _sheet("record/pass_sheet.html", form, f"{number}-pass-sheet.pdf", **_pass_sheet())


def _pass_sheet() -> dict[str, object]:
    job, standing = guard.job(), guard.standing()
    words = units(job)
    run = standing.at or standing.runs[OPPOSITE[job.part.reference_face]]
    rows: list[tuple[object, ...]] = []
    drawn: str = ""
    if run.plan is not None:
        for step in run.plan.steps:
            reading = run.offset_mm + step.depth_mm if step.kind in FEEDS else None
            revs, collar = on_collar(reading, job.machine.per_rev_mm) if reading is not None else (None, None)
            rows.append(
                (
                    step,
                    step_words(step, words),
                    None if reading is None else words.collar_number(reading),
                    revs,
                    None if collar is None else words.collar_number(collar),
                    step.number <= run.done,
                    step.number in run.skipped,
                )
            )
        drawn = plan_ladder(job, standing, run, progress=False, height=520)
    pieces = f", {pieces_words(run.pieces)}" if len(standing.pieces) > 1 else ""
    return {"run": run, "rows": rows, "ladder": drawn, "pieces": pieces}


@blueprint.get("/jobs/<number>/record/inspection<any('', '.pdf'):form>")
@access(job="look")
def inspection(number: str, form: str) -> ResponseReturnValue:
    return _sheet("record/inspection.html", form, f"{number}-inspection.pdf", **_inspection())


def _inspection() -> dict[str, object]:
    job, standing = guard.job(), guard.standing()
    proofs = _proofs()
    first = next(
        (each.measured[min(each.measured)] for each in proofs if each.asked.kind == "size" and each.measured), None
    )
    size = standing.brief.wanted.named(first.characteristic) if first is not None else None
    picture = (
        ""
        if first is None or size is None
        else zone(first.true_readings, size.limits, first.uncertainty_mm, units(job))
    )
    names = {who.sign_in_name: who.name for who in people.everyone(database.session())}
    return {
        "last": first,
        "picture": picture,
        "names": names,
        "proofs": proofs,
        "ended": [entry for entry in standing.history if isinstance(entry, Ended)],
        "gauges": _gauges(),
        "maps": _maps(),
    }


def _gauges() -> list[tuple[InstrumentRow, bool]]:
    """The gauges that verdicts in force rest on, and whether each was within its dates when it was last used."""
    used = {entry.instrument: entry for entry in guard.standing().history if isinstance(entry, Measured)}
    rows = shop.listed(database.session(), InstrumentRow)
    return [(row, used[row.name].at.date() <= row.due_on) for row in rows if row.name in used]


def _maps() -> list[tuple[SurfaceMapRow, Markup]]:
    """The newest map in use of each surface of each piece, drawn."""
    job, found = guard.job(), dict[tuple[object, ...], tuple[SurfaceMapRow, Markup]]()
    for row in maps.of_job(database.session(), job):
        key = (row.piece, row.surface, row.frame)
        if row.state != IN_USE or key in found or len(found) == MOST_MAPS:
            continue
        shown = Shown(size=size_of_surface(job, row.surface or 1), title=f"Map of face {row.surface}")
        found[key] = (row, surface_plate(plate_of(row.whole), shown))
    return list(found.values())


def _asked(asked: Characteristic) -> str:
    """What the print asks of a characteristic, in its words."""
    words, limits = units(guard.job()), asked.limits
    if asked.kind == "angle":
        return (
            f"{limits.target_mm.normalize():f}°  −{limits.tol_minus_mm.normalize():f}°  "
            f"+{limits.tol_plus_mm.normalize():f}°"
        )
    if asked.is_zone:
        return f"within {words.fine(micrometres(asked.allowed_mm))}"
    return f"{words.size(limits.target_mm)}  −{words.size(limits.tol_minus_mm)}  +{words.size(limits.tol_plus_mm)}"


def _sheet(template: str, form: str, name: str, **values: object) -> ResponseReturnValue:
    html = render_template(template, printed_at=now(), as_pdf=form == ".pdf", **values)
    if form != ".pdf":
        return html
    pdf = sheet_pdf(html, fetch=_asset)
    return Response(pdf, content_type="application/pdf", headers={"Content-Disposition": f'inline; filename="{name}"'})


def _asset(url: str) -> tuple[bytes, str]:
    """Return one of our own static files by its address."""
    asked = assets.plain(urlsplit(url).path).removeprefix("/static/").lstrip("/")
    for folder, name in ((blueprint.static_folder, asked.removeprefix("record/")), (current_app.static_folder, asked)):
        root = Path(folder or "").resolve()
        path = (root / name).resolve()
        if path.is_relative_to(root) and path.is_file():
            return path.read_bytes(), guess_type(path.name)[0] or "application/octet-stream"
    raise LookupError(f"no such asset: {url}")
