"""Forms of a wheel's life."""

from wtforms import HiddenField, SelectField
from wtforms.validators import InputRequired, Length, NumberRange, Optional

from zesty_lark.core.process.materials import materials
from zesty_lark.web.shared.fields import AngleText, DecimalText, LengthField, Trimmed, WholeNumber, choice_list
from zesty_lark.web.shared.forms import EntryForm, PostedForm

WORKS = {
    "flat": "flat work",
    "finish": "last passes on a flat",
    "side": "with its side",
    "slot": "a slot",
    "form": "a form",
}
CONTACTS = {"usual": "usual", "narrow": "narrow: an edge", "wide": "wide: deep, wide or a large flat"}
SHAPES = {
    "flat": "Flat",
    "angle": "An angle",
    "relief": "Relief for side work",
    "corner": "A corner radius",
    "full": "A full radius",
    "back": "1° back for fence work",
    "chamfer": "A chamfer for the peel",
}
COOLANTS = {"": "as the machine has it", "water": "water", "oil": "oil", "mist": "mist", "dry": "dry"}


class StepForm(EntryForm):
    """A step of mounting: done, or found bad."""

    step = HiddenField(validators=[Length(max=20)])
    good = HiddenField(default="yes")
    note = Trimmed("Why", validators=[Length(max=300)])


class NoteForm(EntryForm):
    """A note, or why it is put out of use or taken off."""

    note = Trimmed("What", validators=[Length(max=300)])
    flange = HiddenField()


class TrialForm(EntryForm):
    """What a trial of balancing showed."""

    method = HiddenField(default="runs")
    amplitude = DecimalText("Amplitude", least="0", most="100000", places=4, required=False)
    trial_g = DecimalText("Trial weight, g", least="0.1", most="500", places=2, required=False)
    heavy_deg = DecimalText("Hangs down at, °", least="0", most="360", places=1, required=False)
    hangs = HiddenField()


class DressForm(EntryForm):
    """A dress that was done."""

    kind = HiddenField(default="general")
    amount_mm = LengthField("Off the radius")
    passes = WholeNumber("Passes", validators=[Optional(), NumberRange(1, 10_000, "From 1 to 10000.")])


class ShapeForm(EntryForm):
    """A shape that is to be put on, or was."""

    shape = SelectField("Shape", choices=choice_list(SHAPES.items()))
    angle = AngleText("Angle", default="45°")
    radius_mm = LengthField("Radius", required=False)
    allow_um = DecimalText("Peaks allowed, µm", least="0.1", most="200", places=1, default="2", required=False)
    land_mm = DecimalText("Land, mm", least="0.1", most="5", places=2, default="1", required=False)
    undercut_mm = DecimalText("Undercut at the slot’s foot, mm", least="0", most="20", places=3, required=False)
    slot_depth_mm = DecimalText("Slot’s depth, mm", least="0.1", most="200", places=3, required=False)
    amount_mm = LengthField("Taken off the radius", required=False)


class PrintForm(EntryForm):
    """Fillets read in a thin blade."""

    readings = Trimmed("Fillets read, mm, apart by spaces", validators=[InputRequired("What was read?")])


class AdviceForm(PostedForm):
    """What a wheel is wanted for; sent in the address."""

    material = SelectField("Material", choices=choice_list((each, each) for each in materials()))
    hardness_hrc = DecimalText("Hardness, HRC", least="0", most="75", places=1, required=False)
    work = SelectField("For", choices=choice_list(WORKS.items()))
    contact = SelectField("Contact", choices=choice_list(CONTACTS.items()))
    coolant = SelectField("Coolant", choices=choice_list(COOLANTS.items()))
    machine = SelectField("On", coerce=int)
