"""The sheets: pass sheet and inspection report, on the screen and as PDF."""

from collections.abc import Sequence
from mimetypes import guess_type
from pathlib import Path
from urllib.parse import urlsplit

from flask import Response, current_app, render_template
from flask.typing import ResponseReturnValue
from markupsafe import Markup

from zesty_lark.core.measure.maps.view import plate_of
from zesty_lark.core.part.dial import on_collar
from zesty_lark.core.part.faces import OPPOSITE
from zesty_lark.core.work.entries import CautionWaived, Ended, Measured, Waived, ZeroLost
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.machine_acts import Halted
from zesty_lark.core.work.plans import FEEDS
from zesty_lark.core.work.telling import brief_step_words, pieces_words, tell
from zesty_lark.exchange.pdf import sheet_pdf
from zesty_lark.shopfloor.mapping import size_of_surface
from zesty_lark.store import maps, people, shop
from zesty_lark.store.models import InstrumentRow, SurfaceMapRow
from zesty_lark.store.models.shop import IN_USE
from zesty_lark.web.record.context import blueprint
from zesty_lark.web.record.proofs import proofs
from zesty_lark.web.shared import assets, database, guard
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.plan_ladder import plan_ladder
from zesty_lark.web.shared.svg.surface import Shown, surface_plate
from zesty_lark.web.shared.svg.zone import zone
from zesty_lark.web.shared.wording import now, units

__all__: list[str] = []

MOST_MAPS = 6
"""Maps that are drawn on a report."""


@blueprint.get("/jobs/<number>/record/pass-sheet<any('', '.pdf'):form>")
@access(job="look")
def pass_sheet(number: str, form: str) -> ResponseReturnValue:
    return _sheet("record/pass_sheet.html", form, f"{number}-pass-sheet.pdf", **_pass_sheet())


def _pass_sheet() -> dict[str, object]:
    job, job_state = guard.job(), guard.job_state()
    words = units(job)
    run = job_state.at or job_state.runs[OPPOSITE[job.part.reference_face]]
    rows: list[tuple[object, ...]] = []
    drawn: str = ""
    if run.plan is not None:
        for step in run.plan.steps:
            reading = run.offset_mm + step.depth_mm if step.kind in FEEDS else None
            revs, collar = on_collar(reading, job.machine.per_rev_mm) if reading is not None else (None, None)
            rows.append(
                (
                    step,
                    brief_step_words(step, words),
                    None if reading is None else words.collar_number(reading),
                    revs,
                    None if collar is None else words.collar_number(collar),
                    step.number <= run.done,
                    step.number in run.skipped,
                )
            )
        drawn = plan_ladder(job, job_state, run, progress=False, height=520)
    pieces = f", {pieces_words(run.pieces)}" if len(job_state.pieces) > 1 else ""
    return {"run": run, "rows": rows, "ladder": drawn, "pieces": pieces}


@blueprint.get("/jobs/<number>/record/inspection<any('', '.pdf'):form>")
@access(job="look")
def inspection(number: str, form: str) -> ResponseReturnValue:
    return _sheet("record/inspection.html", form, f"{number}-inspection.pdf", **_inspection())


def _inspection() -> dict[str, object]:
    job, job_state = guard.job(), guard.job_state()
    proved = proofs()
    first = next(
        (each.measured[min(each.measured)] for each in proved if each.asked.kind == "size" and each.measured), None
    )
    size = job_state.spec.wanted.named(first.characteristic) if first is not None else None
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
        "proofs": proved,
        "read_in": _read_in(job_state.history),
        "ended": [entry for entry in job_state.history if isinstance(entry, Ended)],
        "happened": [(entry, tell(entry, units(job))) for entry in job_state.history if isinstance(entry, HAPPENED)],
        "gauges": _gauges(),
        "maps": _maps(),
    }


HAPPENED = (Halted, ZeroLost, Waived, CautionWaived)
"""What stands on the report whatever the verdicts say."""


def _read_in(history: Sequence[Entry]) -> list[Entry]:
    """The first of what was read in from each file that the report rests on."""
    found: dict[tuple[str, str], Entry] = {}
    for entry in history:
        if entry.read_in_at is not None and isinstance(entry, Measured | Waived | Ended):
            found.setdefault((entry.read_in_from, entry.read_in_by), entry)
    return list(found.values())


def _gauges() -> list[tuple[InstrumentRow, bool]]:
    """The gauges that verdicts in force rest on, and whether each was within its dates when it was last used."""
    used = {entry.instrument: entry for entry in guard.job_state().history if isinstance(entry, Measured)}
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
