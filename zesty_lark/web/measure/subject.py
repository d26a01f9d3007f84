"""What a measuring page or form is about, and whether its readings can be meant."""

from dataclasses import dataclass

from flask import Blueprint

from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.part.sizes import Reading, Verdict
from zesty_lark.core.part.surfaces.surface import RADIUS
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.next_act import next_act
from zesty_lark.shopfloor.measuring import Amiss, Tool, characteristic_of, surface_of
from zesty_lark.shopfloor.units import as_unit
from zesty_lark.store import shop
from zesty_lark.store.models import BlockSetRow, InstrumentRow, Job
from zesty_lark.web.measure.forms import MeasureForm, reading_fields, set_up_for
from zesty_lark.web.shared import database
from zesty_lark.web.shared.fields import choice_list, plain_decimal, question

blueprint = Blueprint("measure", __name__, static_folder="static", static_url_path="/static/measure")

WORDS: dict[Verdict, str] = {"in": "✓ In", "not yet": "↓ Not yet", "unsure": "? Unsure", "out": "✗ Out"}


@dataclass(frozen=True)
class Subject:
    """What a page or a form is about: a characteristic of a piece, on the surface it is measured on."""

    asked: Characteristic
    piece: int
    surface: int
    part: str = ""
    """Which part of a feature that surface is."""

    @property
    def of(self) -> str:
        """The characteristic's name."""
        return self.asked.name

    @property
    def shape(self) -> str:
        """The other way that it is measured: as an angle, a radius or a slot."""
        if self.asked.kind == "angle":
            return "angle"
        return "radius" if self.part == RADIUS else "slot"

    @property
    def is_size(self) -> bool:
        """Whether it is a length with two limits."""
        return self.asked.kind in ("size", "position")


def subject_of(job_state: JobState, of: str, piece: int | None) -> Subject:
    what = next_act(job_state)
    number = piece if piece is not None and piece in job_state.pieces else what.piece or 1
    asked = characteristic_of(job_state, of or what.characteristic)
    surface = surface_of(job_state, asked)
    known = job_state.spec.wanted.surfaces.get(surface)
    return Subject(asked, number, surface, "" if known is None else known.part)


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


def readings_of(form: MeasureForm) -> tuple[list[str], tuple[Reading, ...]]:
    """The fields that were filled in, by their names, and their readings."""
    given = [(place, field) for place, field in reading_fields(form) if field.data is not None]
    return [field.name for _, field in given], tuple(Reading(place, field.mm) for place, field in given)


def sure_of(form: MeasureForm, names: list[str]) -> tuple[int, ...]:
    """The readings, by their order, that somebody has looked at again."""
    return tuple(place for place, name in enumerate(names) if form[f"sure_{name}"].data)


def say_beside(form: MeasureForm, names: list[str], found: list[Amiss]) -> None:
    """Say beside each field what is wrong with it."""
    for each in found:
        if each.field == "readings":
            name = names[each.reading or 0] if names else "reading1"
            if each.doubt is not None:
                question(form[name], each.doubt, each.why)
            else:
                form[name].errors = [each.why]
        else:
            form[each.field].errors = [each.why]


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
