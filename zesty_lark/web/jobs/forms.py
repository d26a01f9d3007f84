"""The take-in form: the print, the part as it came, machine and wheel."""

from collections.abc import Iterator
from decimal import Decimal
from typing import Any

from flask_wtf.file import FileField
from wtforms import BooleanField, DateField, HiddenField, SelectField, TextAreaField
from wtforms.validators import DataRequired, Length, NumberRange, Optional, Regexp
from wtforms.widgets import HiddenInput

from zesty_lark.core.part.faces import ALL_FACES, AS_IT_IS, CORNERS, PRIMARY, Condition
from zesty_lark.core.part.sizes import Size
from zesty_lark.core.part.taken_in import MOST_PIECES, FaceIn, SizeIn, TakeIn, pairs_left
from zesty_lark.shopfloor.units import as_unit
from zesty_lark.store.models.jobs import AXES
from zesty_lark.web.jobs.features import add_features, features_sent, filled
from zesty_lark.web.shared.fields import DecimalText, LengthField, RoughnessField, Trimmed, WholeNumber, choice_list
from zesty_lark.web.shared.forms import PostedForm
from zesty_lark.web.shared.incoming import AgreedForm

DEFAULT_SKIN_MM = Decimal("0.005")
PURPOSES = (("bearing", "bearing"), ("plain", "plain"), (AS_IT_IS, "as it is"))
OF_SIDES = (("plain", "grind it"), (AS_IT_IS, "as it is"))


class ReadInForm(AgreedForm):
    """A job file to be read in."""

    file = FileField("Job file (JSON)")


class TakeInForm(PostedForm):
    """Everything taking in asks for; lengths take any form and unit."""

    number = Trimmed(
        "Job number",
        validators=[
            DataRequired("The job needs a number."),
            Length(max=20, message="At most 20 characters."),
            Regexp(r"^[A-Za-z0-9][A-Za-z0-9._-]*$", message="Letters, digits, dots and dashes only, such as TR-101."),
        ],
    )
    title = Trimmed("What it is", validators=[DataRequired("Say what the part is."), Length(max=80)])
    print_unit = SelectField("The print is in", choices=choice_list([("mm", "mm"), ("in", "inches")]))
    due_on = DateField("Due", validators=[Optional()])
    owner_id = SelectField("Whose job", coerce=int)
    machine_id = SelectField("Machine", coerce=int)
    wheel_id = SelectField("Wheel", coerce=int)
    quantity = WholeNumber(
        "How many",
        default=1,
        validators=[NumberRange(1, MOST_PIECES, f"From 1 to {MOST_PIECES}; a larger batch is a job for each load.")],
    )
    material = SelectField("Material")
    hardness_hrc = DecimalText("Hardness, HRC", least="10", most="72", required=False)
    parallel_mm = LengthField("Parallel within", required=False)
    square_mm = LengthField("Square within", required=False)
    flat_mm = LengthField("Flat within", required=False)
    ra_um = RoughnessField("Finish, Ra", least="0.02", most="12.5")
    mark_corner = SelectField(
        "Mark’s corner", choices=choice_list([(corner, f"faces {corner.replace('-', ', ')}") for corner in CORNERS])
    )
    reference_face = SelectField("Reference", coerce=int, choices=choice_list([(1, "face 1"), (2, "face 2")]))
    min_skin_mm = LengthField("Skin, each face", zero=True, default=DEFAULT_SKIN_MM)
    first_share = DecimalText("First’s share, %", least="0", most="100", required=False)
    bow_mm = LengthField("Bow", required=False, zero=True)
    bow_shape = SelectField(
        "It lies",
        default="middle_up",
        choices=choice_list([("middle_up", "hollow side down, on its ends"), ("ends_up", "on its middle, ends up")]),
    )
    leave_mm = LengthField("Leave on, to lap", zero=True, default=Decimal(0))
    remarks = TextAreaField("Remarks", validators=[Length(max=2000)])
    unit_changed = False
    version = WholeNumber("version", default=0, widget=HiddenInput())
    shown_unit = HiddenField(default="mm")

    def size_fields(self, axis: str) -> dict[str, LengthField]:
        """Return the five fields of a size by what they are."""
        return {part: self[f"{axis}_{part}"] for part in SIZE_PARTS}

    def stays(self, face: int) -> bool:
        """Whether a face stays as it is."""
        return bool(self[f"face{face}_purpose"].data == AS_IT_IS)

    def is_left(self, axis: str) -> bool:
        """Whether both faces that bound a size stay as they are: it is asked to 1 mm, and no more."""
        return axis in pairs_left({face: self[f"face{face}_purpose"].data for face in ALL_FACES})

    def ask_less(self) -> None:
        """Ask no clean-up of a face that stays as it is, and of a pair of them no tolerance and no measured size."""
        for face in ALL_FACES:
            if self.stays(face):
                self[f"face{face}_cleanup"].required = False
        for axis in AXES:
            if self.is_left(axis):
                for part, field in self.size_fields(axis).items():
                    field.required = part == "target"

    def lengths(self) -> Iterator[LengthField | RoughnessField]:
        """Return every length of the form, the roughness among them."""
        return (field for field in self if isinstance(field, LengthField | RoughnessField))

    def take_unit(self) -> bool:
        """Bring what stands in the form to the print's unit; tell whether that changed.

        A number is only ever read in the unit it was shown or typed in; what cannot be read stays as it was typed.
        """
        shown, wanted = (
            as_unit(self.shown_unit.data or self.print_unit.data or "mm"),
            as_unit(self.print_unit.data or "mm"),
        )
        for field in self.lengths():
            field.unit = shown
            if shown != wanted:
                field.converted(wanted)
        self.shown_unit.data = wanted
        return shown != wanted


SIZE_PARTS = {"target": "Print", "minus": "−", "plus": "+", "max": "Measured, most", "min": "Measured, least"}


def _add_sizes() -> None:
    for axis in AXES:
        for part, label in SIZE_PARTS.items():
            required = part in ("target", "minus", "plus") or axis == "thickness"
            setattr(
                TakeInForm,
                f"{axis}_{part}",
                LengthField(f"{axis.capitalize()}: {label}", required=required, zero=part in ("minus", "plus")),
            )
            setattr(TakeInForm, f"sure_{axis}_{part}", BooleanField("Yes, keep it as typed"))
    for face in ALL_FACES:
        setattr(
            TakeInForm,
            f"face{face}_condition",
            SelectField(
                f"Face {face}",
                choices=choice_list([(condition.value, condition.value) for condition in Condition]),
                default=Condition.STABLE.value if face in PRIMARY else Condition.MILLED.value,
            ),
        )
        setattr(
            TakeInForm,
            f"face{face}_cleanup",
            LengthField(f"Face {face}: high minus low", required=face in PRIMARY, zero=True, default=Decimal("0.05")),
        )
        setattr(TakeInForm, f"sure_face{face}_cleanup", BooleanField("Yes, keep it as typed"))
        purposes, usual = (PURPOSES, "bearing") if face in PRIMARY else (OF_SIDES, "plain")
        setattr(
            TakeInForm,
            f"face{face}_purpose",
            SelectField(f"Face {face} is", choices=choice_list(purposes), default=usual),
        )


_add_sizes()
add_features(TakeInForm)


def take_in_from(form: TakeInForm) -> TakeIn:
    """Return what a valid form says."""
    share = form.first_share.number
    return TakeIn(
        number=form.number.data or "",
        title=form.title.data or "",
        print_unit=form.print_unit.data,
        due_on=form.due_on.data,
        owner_id=form.owner_id.data,
        machine_id=form.machine_id.data,
        wheel_id=form.wheel_id.data,
        quantity=form.quantity.data or 1,
        material=form.material.data,
        hardness_hrc=form.hardness_hrc.number,
        parallel_mm=form.parallel_mm.data,
        square_mm=form.square_mm.data,
        flat_mm=form.flat_mm.data,
        ra_um=form.ra_um.data,
        mark_corner=form.mark_corner.data,
        reference_face=form.reference_face.data,
        min_skin_mm=form.min_skin_mm.mm,
        first_share=None if share is None else (share / 100).quantize(Decimal("0.0001")),
        remarks=(form.remarks.data or "").strip(),
        bow_mm=form.bow_mm.data,
        bow_shape=form.bow_shape.data,
        leave_mm=form.leave_mm.mm,
        sizes={axis: _size(form, axis) for axis in AXES},
        faces={face: _face(form, face) for face in ALL_FACES},
        features=features_sent(form),
    )


def _size(form: TakeInForm, axis: str) -> SizeIn:
    fields = form.size_fields(axis)
    if form.is_left(axis):
        return SizeIn.as_it_is(fields["target"].mm)
    greatest = fields["max"].data or fields["target"].mm
    return SizeIn(
        Size(fields["target"].mm, fields["minus"].mm, fields["plus"].mm), greatest, fields["min"].data or greatest
    )


def _face(form: TakeInForm, face: int) -> FaceIn:
    condition, purpose = form[f"face{face}_condition"].data, form[f"face{face}_purpose"].data
    cleanup = Decimal(0) if form.stays(face) else form[f"face{face}_cleanup"].data or Decimal(0)
    return FaceIn(condition, cleanup, purpose)


def filled_from(what: TakeIn, version: int) -> dict[str, Any]:
    """Return a form's values for a job as it stands."""
    values: dict[str, Any] = {
        name: getattr(what, name)
        for name in (
            "number",
            "title",
            "print_unit",
            "due_on",
            "owner_id",
            "machine_id",
            "wheel_id",
            "quantity",
            "material",
            "parallel_mm",
            "square_mm",
            "flat_mm",
            "mark_corner",
            "reference_face",
            "min_skin_mm",
            "remarks",
            "bow_mm",
            "bow_shape",
            "leave_mm",
        )
    }
    values["version"] = version
    values["shown_unit"] = what.print_unit
    values["hardness_hrc"] = "" if what.hardness_hrc is None else f"{what.hardness_hrc:f}"
    values["ra_um"] = what.ra_um
    values["first_share"] = "" if what.first_share is None else f"{(what.first_share * 100).normalize():f}"
    for axis, size in what.sizes.items():
        values |= {
            f"{axis}_target": size.size.target_mm,
            f"{axis}_minus": size.size.tol_minus_mm,
            f"{axis}_plus": size.size.tol_plus_mm,
            f"{axis}_max": size.measured_max_mm,
            f"{axis}_min": size.measured_min_mm,
        }
    for face, given in what.faces.items():
        values[f"face{face}_condition"] = given.condition
        values[f"face{face}_cleanup"] = given.cleanup_mm
        values[f"face{face}_purpose"] = given.purpose if face in PRIMARY or given.purpose == AS_IT_IS else "plain"
    return values | filled(what.features)
