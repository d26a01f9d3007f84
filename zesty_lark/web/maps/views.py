"""Maps: which there are, laying one out, taking it reading by reading."""

from decimal import Decimal

from flask import redirect, render_template, request, session
from flask.typing import ResponseReturnValue

from zesty_lark.core.measure.maps.surface_map import FRAMES, doubt_of
from zesty_lark.core.measure.typed import in_um
from zesty_lark.shopfloor import mapping
from zesty_lark.shopfloor.acts import maps as acts
from zesty_lark.shopfloor.gauges import direction_of, move_probe
from zesty_lark.store import chucks as chuck_logs
from zesty_lark.store import maps
from zesty_lark.store.maps import Begun, MapReading
from zesty_lark.store.models import SurfaceMapRow
from zesty_lark.store.models.maps import TAKING
from zesty_lark.web.maps import chucks, looking
from zesty_lark.web.maps.context import About, about, both, gauge_of, the_map, with_gauges
from zesty_lark.web.maps.forms import LayOutForm, ReadingForm, WithdrawForm
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.presses import pressed_at
from zesty_lark.web.shared.svg.surface import places_plate
from zesty_lark.web.shared.wording import entry_id, now

TYPED_IN = "map_typed_in"
PLATE = "map_plate_um"


@both(methods=["GET"])
@access(job="look")
def listed(number: str = "", chuck: int = 0) -> ResponseReturnValue:
    """Every map of a job or of a chuck, what they say, and a form for the next."""
    return _list_page(about(), _fresh_form())


def _fresh_form() -> LayOutForm:
    form = LayOutForm(formdata=None)
    with_gauges(form)
    form.plate_um.data = session.get(PLATE, "1")
    form.surface.data = request.args.get("surface", type=int) or _surface_at_work()
    form.piece.data = request.args.get("piece", type=int) or 1
    if "chuck" in (request.view_args or {}):
        form.columns.data, form.rows.data = 7, 4
    return form


def _surface_at_work() -> int:
    """The surface that is up or comes next, of a job."""
    job_state = guard.job_state() if "number" in (request.view_args or {}) else None
    return (job_state.surface or 1) if job_state is not None else 1


def _list_page(of: About, form: LayOutForm) -> str:
    where = database.session()
    rows = maps.of_job(where, of.job) if of.job is not None else maps.of_chuck(where, of.chuck) if of.chuck else []
    return render_template(
        "maps/listed.html",
        about=of,
        rows=rows,
        form=form,
        outlook=mapping.chuck_outlook(where, of.chuck, now()) if of.chuck else None,
        stands=chuck_logs.state_of(where, of.chuck) if of.chuck else None,
        history=chucks.history(rows, float(of.chuck.flat_limit_um)) if of.chuck else "",
        fresh_id=entry_id(),
    )


@both(methods=["POST"])
@access(job="inspect", takes=LayOutForm)
def begin(number: str = "", chuck: int = 0) -> ResponseReturnValue:
    """Lay a map out."""
    of, form = about(writes=True), LayOutForm()
    with_gauges(form)
    if not form.validate():
        return _list_page(of, form), 422
    begun = Begun(
        "machine" if form.frame.data == "machine" else "plate",
        now(),
        guard.person(),
        of.chuck,
        of.job,
        form.piece.data if of.job else None,
        form.surface.data if of.job else None,
        gauge_of(form),
        (form.plate_um.number or Decimal(0)) if form.frame.data == "plate" else Decimal(0),
    )
    try:
        acts.check_map_of(begun, of.job_state)
        layout = form.layout(of.size(form.surface.data))
        row = None if layout is None else acts.lay_out_map(database.session(), begun, layout, of.job_state)
    except acts.MapRefused as error:
        form[error.field].errors = [str(error)]
        row = None
    if row is None:
        return _list_page(of, form), 422
    session[PLATE] = form.plate_um.data
    return redirect(of.url("show", key=row.key), 303)


@both("/<key>", methods=["GET"])
@access(job="look")
def show(key: str, number: str = "", chuck: int = 0) -> ResponseReturnValue:
    """A map: the next place to read while it is taken, what it comes to once it is."""
    of = about()
    row = the_map(of)
    return _taking_page(of, row) if row.state == TAKING else looking.map_page(of, row)


def _taking_page(of: About, row: SurfaceMapRow, form: ReadingForm | None = None, doubt: str = "") -> str:
    taking = row.taking
    asked = request.args.get("place", type=int)
    here = asked - 1 if asked is not None and 0 < asked <= taking.closing + 1 else taking.next
    here = taking.closing if here is None else here
    if form is None:
        form = ReadingForm(formdata=None)
        form.entry_id.data = entry_id()
        form.typed_in.data = session.get(TYPED_IN, "um")
        form.number.data = here
    if form.number.data is not None and 0 <= form.number.data <= taking.closing:
        here = form.number.data
    place = taking.place(here)
    if row.instrument is not None:
        move_probe(row.instrument.to_core(), place.x_mm, place.y_mm)
    return render_template(
        "maps/taking.html",
        about=of,
        row=row,
        taking=taking,
        here=here,
        place=place,
        form=form,
        doubt=doubt,
        drawing=places_plate(
            taking.layout,
            of.size(row.surface),
            {number: f"{value:.1f}" for number, value in taking.readings.items() if number != taking.closing},
            here,
        ),
        frame_words=FRAMES["plate" if row.frame == "plate" else "machine"],
        direction=None if row.instrument is None else direction_of(database.session(), row.instrument),
        last=max((number for number in taking.readings), default=None),
    )


@both("/<key>", methods=["POST"])
@access(job="inspect", takes=ReadingForm)
def read(key: str, number: str = "", chuck: int = 0) -> ResponseReturnValue:
    """Keep one reading; a height that cannot be meant is asked about first. What is wrong is said on the page, and
    answered 200: the browser's outbox keeps nothing of it."""
    of, form = about(writes=True), ReadingForm()
    row = the_map(of)
    if not form.validate() or form.value.number is None or form.number.data is None:
        if not form.value.errors:
            form.value.errors = ["Which reading?"]
        return _taking_page(of, row, form) if row.state == TAKING else looking.map_page(of, row)
    value = in_um(form.value.number, form.typed_in.data)
    if not form.source.data:
        session[TYPED_IN] = form.typed_in.data
    before = [] if row.state != TAKING else [each for at, each in row.taking.readings.items() if at != form.number.data]
    doubt = doubt_of(value, before)
    if doubt and not form.sure.data:
        return _taking_page(of, row, form, doubt)
    reading = MapReading(form.entry_id.data or entry_id(), form.number.data, value, form.source.data or "")
    try:
        acts.read_point(database.session(), guard.person(), row, reading, at=pressed_at(), job=of.job)
    except acts.MapRefused as error:
        form.value.errors = [str(error)]
        return _taking_page(of, row, form) if row.state == TAKING else looking.map_page(of, row, str(error))
    return redirect(of.url("show", key=key), 303)


@both("/<key>/withdraw", methods=["POST"])
@access(job="inspect", takes=WithdrawForm)
def withdraw(key: str, number: str = "", chuck: int = 0) -> ResponseReturnValue:
    """Take a map out of use that was kept in error, or give up taking it; it stays, with the reason."""
    of = about(writes=True)
    row = the_map(of)
    try:
        acts.withdraw_map(database.session(), guard.person(), row, request.form.get("reason", ""), job=of.job)
    except acts.MapRefused as error:
        return looking.back(of, row, str(error))
    return redirect(of.url("listed"), 303)
