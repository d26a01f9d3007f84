"""What a measuring page or form is about, and whether its readings can be meant."""

from dataclasses import dataclass

from flask import Blueprint

from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.part.sizes import Verdict
from zesty_lark.core.quantities.plausible import doubt_against
from zesty_lark.core.quantities.units import small_text
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.next_act import next_act
from zesty_lark.shopfloor.measuring import Tool, characteristic_of, surface_of
from zesty_lark.shopfloor.units import as_unit
from zesty_lark.store import shop
from zesty_lark.store.models import BlockSetRow, InstrumentRow, Job
from zesty_lark.web.measure.forms import MeasureForm, reading_fields, set_up_for
from zesty_lark.web.shared import database
from zesty_lark.web.shared.fields import choice_list, plain_decimal, question
from zesty_lark.web.shared.wording import units

blueprint = Blueprint("measure", __name__, static_folder="static", static_url_path="/static/measure")

WORDS: dict[Verdict, str] = {"in": "✓ In", "not yet": "↓ Not yet", "unsure": "? Unsure", "out": "✗ Out"}


@dataclass(frozen=True)
class Subject:
    """What a page or a form is about: a characteristic of a piece, on the surface it is measured on."""

    asked: Characteristic
    piece: int
    surface: int

    @property
    def of(self) -> str:
        """The characteristic's name."""
        return self.asked.name

    @property
    def shape(self) -> str:
        """The other way that it is measured: as an angle, a radius or a slot."""
        if self.asked.kind == "angle":
            return "angle"
        return "radius" if self.of.endswith(" radius") else "slot"

    @property
    def is_size(self) -> bool:
        """Whether it is a length with two limits."""
        return self.asked.kind in ("size", "position")


def subject_of(job_state: JobState, of: str, piece: int | None) -> Subject:
    what = next_act(job_state)
    number = piece if piece is not None and piece in job_state.pieces else what.piece or 1
    asked = characteristic_of(job_state, of or what.characteristic)
    return Subject(asked, number, surface_of(job_state, asked))


def reads_in(about: Subject, job: Job) -> str:
    """The unit that readings are typed in."""
    if about.asked.kind == "finish":
        return "µin" if job.print_unit == "in" else "µm"
    return "inches" if job.print_unit == "in" else "mm"


def form_for(job: Job, about: Subject) -> MeasureForm:
    """The measuring form of a subject, with the gauges and block sets there are."""
    session, form = database.session(), MeasureForm()
    form.instrument.choices = choice_list((row.id, row.name) for row in shop.listed(session, InstrumentRow))
    sets = shop.listed(session, BlockSetRow)
    form.blocks.choices = choice_list([(0, "nothing: sizes straight off"), *((row.id, row.name) for row in sets)])
    form.of.data, form.piece.data = about.of, about.piece
    tool = tool_of(form)
    compared = tool is not None and tool.compares and about.is_size
    set_up_for(form, about.asked.kind, as_unit(job.print_unit), compared=compared)
    return form


def tool_of(form: MeasureForm) -> Tool | None:
    """What the form says it is measured with; ``None`` without a gauge. A gauge that reads deviations is set to the
    blocks that were chosen."""
    session = database.session()
    gauge = shop.find(session, InstrumentRow, form.instrument.data or 0)
    if gauge is None:
        return None
    chosen = shop.find(session, BlockSetRow, form.blocks.data) if form.blocks.data else None
    if gauge.reads != "deviations" or chosen is None:
        return Tool(gauge)
    return Tool(gauge, chosen.to_core(), float(plain_decimal(form.tip_deg.data or "0") or 0))


def choose_tool(form: MeasureForm, job_state: JobState, about: Subject, asked: int | None) -> None:
    """Choose the gauge that was asked for, or the usual one; and for one that reads deviations a set to compare
    with."""
    session = database.session()
    form.instrument.data = asked or usual_gauge(job_state, shop.listed(session, InstrumentRow), about)
    gauge = shop.find(session, InstrumentRow, form.instrument.data or 0)
    if gauge is not None and gauge.reads == "deviations" and about.is_size and not form.blocks.data:
        sets = shop.listed(session, BlockSetRow)
        form.blocks.data = next((row.id for row in sets if row.unit == gauge.unit), sets[0].id if sets else 0)


def makes_sense(form: MeasureForm, job: Job, job_state: JobState, about: Subject) -> bool:
    """Check the readings together: at least one, none off by a slip, the gauge reaches that far, temperatures in
    pairs."""
    given = [(name, field) for name, field in reading_fields(form) if field.data is not None]
    if not given:
        form["reading1"].errors = ["At least one reading is needed."]
    if about.is_size:
        _plausible_sizes(form, job, job_state, about)
    gauge = shop.find(database.session(), InstrumentRow, form.instrument.data)
    if about.is_size and gauge is not None and gauge.reads == "deviations" and not form.blocks.data:
        form.blocks.errors = [f"{gauge.name} reads deviations: which blocks was it set to?"]
    if form.part_c.number is not None and form.gauge_c.number is None and form.room_c.number is None:
        form.gauge_c.errors = ["How warm is the gauge, or the room it lies in? Only the difference to the part counts."]
    if not form.stopped.data:
        form.stopped.errors = ["Tick this before hands go in. Coasting counts as running."]
    return not form.errors


def _plausible_sizes(form: MeasureForm, job: Job, job_state: JobState, about: Subject) -> None:
    known, grows = job_state.pieces[about.piece].sizes.get(about.of), _grows(job_state, about)
    came = job_state.spec.pieces[about.piece].get(about.of)
    expected = about.asked.limits.upper_mm
    if came is not None and known is not None and not grows:
        expected = max(came, expected)
    gauge = shop.find(database.session(), InstrumentRow, form.instrument.data)
    if gauge is not None and gauge.reads == "deviations":
        _plausible_deviations(form, gauge)
        return
    for _, field in reading_fields(form):
        if field.data is None:
            continue
        doubt = doubt_against(field.mm, expected)
        if doubt and not form[f"sure_{field.name}"].data:
            question(field, doubt, f"This looks like {doubt.slip}.")
        elif not grows and field.mm > expected and not form[f"sure_{field.name}"].data:
            field.errors = [
                f"The part was taken in at {units(job).size(expected)} at most; it cannot have grown. "
                "Clean it and read again."
            ]
        elif gauge is not None and not gauge.least_mm <= field.mm <= gauge.most_mm:
            field.errors = [f"{gauge.name} does not reach {units(job).size(field.mm)}."]


def _grows(job_state: JobState, about: Subject) -> bool:
    """Whether it becomes more as it is ground, as a slot's width does."""
    surface = job_state.spec.wanted.surfaces.get(about.asked.surfaces[0])
    return surface is not None and surface.size == about.of and surface.grows


def _plausible_deviations(form: MeasureForm, gauge: InstrumentRow) -> None:
    """A deviation from the stack lies within the gauge's travel; a whole size typed here is a slip."""
    travel = gauge.to_core().travel_mm
    for _, field in reading_fields(form):
        if field.data is not None and abs(field.mm) > travel:
            field.errors = [
                f"{gauge.name} shows {small_text(travel, field.unit)} at most: type what it shows over the stack, "
                "with its sign."
            ]


def usual_gauge(job_state: JobState, instruments: list[InstrumentRow], about: Subject) -> int | None:
    """Return the gauge used last for this on this job, else the one with the smallest stated error that reaches."""
    used = [
        entry.instrument
        for entry in job_state.history
        if isinstance(entry, Measured) and entry.characteristic == about.of
    ]
    size = about.asked.limits.target_mm if about.is_size else about.asked.allowed_mm
    reaching = sorted(
        (row for row in instruments if row.least_mm <= size <= row.most_mm),
        key=lambda row: (row.simulated, row.error_limit_mm),
    )
    for row in instruments:
        if used and row.name == used[-1]:
            return row.id
    return reaching[0].id if reaching else None
