"""Maps as files: out as CSV, JSON, XLSX or X3P, in from the same, or pasted."""

from decimal import Decimal

from flask import Response, render_template, request
from flask.typing import ResponseReturnValue

from zesty_lark.core.measure.maps.analysis import Frame, points_from_text
from zesty_lark.core.measure.maps.surface_map import USUAL_RANGE_UM, SurfaceMap
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.exchange.maps.files import FORMATS, read_map
from zesty_lark.exchange.maps.record import MapFileError, MapRecord
from zesty_lark.shopfloor import long_work
from zesty_lark.shopfloor.acts import maps as acts
from zesty_lark.store.maps import Begun
from zesty_lark.store.models.maps import TAKING
from zesty_lark.web.maps import looking
from zesty_lark.web.maps.context import About, about, both, gauge_of, the_map, with_gauges
from zesty_lark.web.maps.forms import BringInForm
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.incoming import is_sent, read_file
from zesty_lark.web.shared.wording import now

__all__: list[str] = []

KINDS = ", ".join(FORMATS)


@both(f"/<key>/file.<any({KINDS}):suffix>", methods=["GET"])
@access(job="look")
def file(key: str, suffix: str, number: str = "", chuck: int = 0) -> ResponseReturnValue:
    """A map as a file."""
    of = about()
    row = the_map(of)
    if row.state == TAKING or len(row.whole.points) < 3:
        return looking.back(of, row, "It is not taken yet: there is nothing to write.")
    record = MapRecord(
        row.whole,
        f"{of.name}{'' if row.surface is None else f' face {row.surface}, piece {row.piece}'}",
        row.taken_at,
        "" if row.by is None else row.by.name,
        "" if row.instrument is None else row.instrument.name,
    )
    name = f"{of.name}-map-{row.taken_at:%Y%m%d-%H%M}.{suffix}".replace(" ", "-")
    written = FORMATS[suffix]
    return Response(
        written.write(record),
        content_type=written.media,
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )


@both("/bring-in", methods=["GET"])
@access(job="look")
def bring_in_page(number: str = "", chuck: int = 0) -> ResponseReturnValue:
    """The form that a map from a file is brought in with."""
    form = BringInForm(formdata=None)
    form.surface.data = request.args.get("surface", type=int) or 1
    return _bring_in_page(about(), form)


def _bring_in_page(of: About, form: BringInForm) -> str:
    with_gauges(form)
    return render_template("maps/bring_in.html", about=of, form=form)


@both("/bring-in", methods=["POST"])
@access(job="inspect", takes=BringInForm)
def bring_in(number: str = "", chuck: int = 0) -> ResponseReturnValue:
    """Take a map in from a file, or as it was pasted; what is no map changes nothing."""
    of, form = about(writes=True), BringInForm()
    with_gauges(form)
    if not form.validate():
        return _bring_in_page(of, form), 422
    try:
        record = _record(form)
    except (MapFileError, InputError) as error:
        form.file.errors = [str(error)]
        return _bring_in_page(of, form), 422
    if not _makes_sense(form, record):
        return _bring_in_page(of, form), 422
    whole = record.whole
    if form.closing_um.number is not None and whole.closing_um is None:
        whole = SurfaceMap(whole.frame, whole.points, float(form.closing_um.number), whole.patch_of, whole.patches)
    begun = Begun(
        whole.frame,
        record.taken_at if record.taken_at is not None and record.taken_at <= now() else now(),
        guard.person(),
        of.chuck,
        of.job,
        form.piece.data if of.job else None,
        form.surface.data if of.job else None,
        gauge_of(form),
        (form.plate_um.number or Decimal(0)) if whole.frame == "plate" else Decimal(0),
        f"Brought in{f' from a file by {record.by}' if record.by else ''}."[:200],
    )
    try:
        row = acts.bring_map_in(database.session(), begun, whole, of.job_state)
    except acts.MapRefused as error:
        form[error.field].errors = [str(error)]
        return _bring_in_page(of, form), 422
    return looking.back(of, row, f"The map is kept: {row.state}.")


def _record(form: BringInForm) -> MapRecord:
    """The map that was sent; one that does not say its frame is in the one that was chosen."""
    frame: Frame = "machine" if form.frame.data == "machine" else "plate"
    if is_sent(form):
        record = read_file(form, read_map, MapRecord)
        if record.frame_known:
            return record
        return MapRecord(SurfaceMap(frame, record.whole.points), record.title, record.taken_at, record.by)
    if not (form.pasted.data or "").strip():
        raise MapFileError("Which file? Or paste the points.")
    points = long_work.read(points_from_text, form.pasted.data or "")
    return MapRecord(SurfaceMap(frame, tuple((x, y, z) for x, y, z in points)))


def _makes_sense(form: BringInForm, record: MapRecord) -> bool:
    if form.pasted.data and not is_sent(form) and form.closing_um.number is None:
        form.closing_um.errors = ["Read the first point again at the end: without it nobody knows what drifted."]
    spread = record.whole.analysis.range_um
    if spread > USUAL_RANGE_UM and not form.sure.data:
        form.sure.errors = [
            f"The heights range over {spread:g} µm: a ground face or a chuck is seldom out by more than "
            f"{USUAL_RANGE_UM:g}. Were they read in thou, or is it a slip of ten? Heights go in as µm."
        ]
    return not form.errors
