"""Forms of maps: laying one out, one reading, what was seen, bringing one in."""

from typing import ClassVar

from flask_wtf.file import FileField
from wtforms import BooleanField, HiddenField, SelectField, StringField, TextAreaField
from wtforms.validators import Length, NumberRange, Optional

from zesty_lark.core.measure.maps.layout import Layout, free_points, grid, patches_from_text
from zesty_lark.core.measure.typed import TYPED_IN
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.web.shared.fields import DecimalText, WholeNumber, choice_list
from zesty_lark.web.shared.forms import EntryForm, PostedForm, ReasonForm
from zesty_lark.web.shared.incoming import FileForm

KINDS = (("grid", "a grid"), ("points", "free points"), ("patches", "patches: pads, rails, steps"))
FRAMES = (
    ("machine", "Machine frame: indicator on the wheelhead"),
    ("plate", "Plate frame: stand on the surface plate"),
)


class LayOutForm(PostedForm):
    """A new map: what of, in which frame, with what, and where it is read."""

    piece = WholeNumber("Piece", default=1, validators=[Optional(), NumberRange(1, 9999, "Which piece?")])
    surface = WholeNumber("Face", default=1, validators=[Optional(), NumberRange(1, 999, "Which face?")])
    frame = SelectField("Frame", choices=choice_list(FRAMES))
    instrument = SelectField("Gauge", coerce=int)
    plate_um = DecimalText("Plate is flat within, µm", least="0", most="100", places=3, default="1")
    kind = SelectField("Read at", choices=choice_list(KINDS))
    columns = WholeNumber("Along", default=5, validators=[Optional(), NumberRange(2, 100, "From 2 to 100.")])
    rows = WholeNumber("Across", default=5, validators=[Optional(), NumberRange(2, 100, "From 2 to 100.")])
    places = TextAreaField("Points or patches", validators=[Length(max=40_000)])

    def layout(self, size: tuple[float, float]) -> Layout | None:
        """Return the layout; ``None`` with a sentence beside the field when there is none."""
        try:
            if self.kind.data == "points":
                return free_points(self.places.data or "")
            if self.kind.data == "patches":
                return patches_from_text(self.places.data or "")
            columns, rows = self.columns.data or 5, self.rows.data or 5
            return grid(length_mm=size[0], width_mm=size[1], columns=columns, rows=rows)
        except InputError as error:
            field = self.columns if self.kind.data == "grid" else self.places
            field.errors = [str(error)]
            return None


class ReadingForm(EntryForm):
    """One reading: at a place by its number; typed, or as the gauge sent it."""

    number = WholeNumber()
    value = DecimalText("Reading", least="-100000", most="100000", places=5)
    typed_in = SelectField("typed in", choices=choice_list((key, words) for key, (words, _) in TYPED_IN.items()))
    source = HiddenField(validators=[Length(max=80)])
    sure = BooleanField("Yes, it is as it was read")


class WithdrawForm(ReasonForm):
    """Take a map out of use."""


class SeenForm(PostedForm):
    """What the wheel was seen to leave, place by place, at a depth."""

    PATTERNS: ClassVar[tuple[str, ...]] = (r"place\d{1,4}",)
    depth = StringField()


class BringInForm(FileForm):
    """A map from a file, or pasted."""

    file = FileField("A file: CSV, JSON, XLSX or X3P")
    pasted = TextAreaField("Or points as text: x y in mm, z in µm, a line each", validators=[Length(max=60_000)])
    closing_um = DecimalText(
        "The first point read again at the end, µm", least="-100000", most="100000", places=4, required=False
    )
    piece = WholeNumber("Piece", default=1, validators=[Optional(), NumberRange(1, 9999)])
    surface = WholeNumber("Face", default=1, validators=[Optional(), NumberRange(1, 999)])
    frame = SelectField("Frame", choices=choice_list(FRAMES))
    instrument = SelectField("Gauge", coerce=int, validators=[Optional()])
    plate_um = DecimalText("Plate is flat within, µm", least="0", most="100", places=3, default="1")
    sure = BooleanField("Yes, the heights are as they were read")


class StepForm(EntryForm):
    """A step of grinding a chuck."""

    step = HiddenField()
    answer = HiddenField()
    passes = WholeNumber(default=1)
    note = StringField("Remark")
