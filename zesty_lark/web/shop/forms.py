"""Forms for machines, chucks, wheels, fixtures and gauges."""

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from wtforms import BooleanField, DateField, SelectField
from wtforms.validators import DataRequired, InputRequired, Length, NumberRange, Optional, Regexp
from wtforms.widgets import HiddenInput

from zesty_lark.core.angles_slots.block_sets import BLOCK_SETS, block_contradictions
from zesty_lark.core.measure.instruments import READS, SENDS, instrument_contradictions
from zesty_lark.core.measure.sensors import SENSOR_KINDS, SENSOR_UNITS, sensor_contradictions
from zesty_lark.core.part.sequence import SQUARENESS_NAMES
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.things.shop import ACCESSORY_KINDS, FIXTURE_FORMS, machine_contradictions, wheel_contradictions
from zesty_lark.core.wheel.flanges import FLANGE_KINDS, flange_contradictions
from zesty_lark.core.wheel.marking import marking
from zesty_lark.shopfloor.acts import shelves
from zesty_lark.shopfloor.acts.shelves import Shelf
from zesty_lark.web.shared.fields import DecimalText, LengthField, Trimmed, WholeNumber, choice_list
from zesty_lark.web.shared.forms import PostedForm

_UNITS = [("mm", "mm"), ("in", "inches")]


def _name() -> Trimmed:
    return Trimmed("Name", validators=[DataRequired("It needs a name."), Length(max=80)])


class ShelfForm(PostedForm):
    """What the forms share: the version that was opened, and a check across fields, by the rule that its kind of thing
    has."""

    version = WholeNumber(widget=HiddenInput(), validators=[Optional()])

    def rule(self, values: Mapping[str, Any]) -> dict[str, str]:
        """What of these values does not go together, by field."""
        return {}

    def contradictions(self) -> None:
        """Say beside a field what does not go together."""
        for name, words in self.rule(values_of(self)).items():
            self[name].errors = [words]


class MachineForm(ShelfForm):
    name = _name()
    dial_unit = SelectField("The collar is cut in", choices=choice_list(_UNITS))
    graduation_mm = LengthField("Downfeed graduation")
    per_rev_mm = LengthField("Downfeed a revolution")
    backlash_mm = LengthField("Downfeed backlash", zero=True)
    crossfeed_graduation_mm = LengthField("Crossfeed graduation")
    crossfeed_min_mm = LengthField("Crossfeed, least")
    crossfeed_max_mm = LengthField("Crossfeed, most")
    table_min_mm_s = DecimalText("Table speed, least, mm/s", least="1", most="2000", places=7)
    table_max_mm_s = DecimalText("Table speed, most, mm/s", least="1", most="2000", places=7)
    reversal_s = DecimalText("Time at a reversal, s", least="0", most="20", places=3)
    travel_long_mm = LengthField("Travel along")
    travel_cross_mm = LengthField("Travel across")
    height_mm = LengthField("Room under the wheel")
    spindle_w = WholeNumber(
        "Spindle power, W",
        validators=[InputRequired("How strong is the spindle?"), NumberRange(50, 100_000, "From 50 to 100000 W.")],
    )
    rpm = WholeNumber(
        "Spindle speed, rpm",
        validators=[InputRequired("How fast does it turn?"), NumberRange(100, 60_000, "From 100 to 60000 rpm.")],
    )
    wheel_turns = SelectField(
        "Seen from the front the wheel turns",
        choices=choice_list([("clockwise", "clockwise"), ("counter-clockwise", "counter-clockwise")]),
    )
    feed_every = SelectField(
        "It steps across", choices=choice_list([("stroke", "at each end"), ("pair", "at one end only")])
    )
    coolant = SelectField("Coolant", choices=choice_list([(each, each) for each in ("water", "oil", "mist", "dry")]))
    cut_ratio = DecimalText("Cut ratio of one wipe", least="0.05", most="1", places=4)
    downfeed_max_mm = LengthField("Largest downfeed a pass (empty: the usual)", required=False)
    cross_dial_mm = LengthField("Cross slide’s dial, a graduation (empty: the step across)", required=False)
    crossfeeds = Trimmed("Only these crossfeeds, mm: 0.5; 1; 1/16 in (empty: any)", validators=[Length(max=600)])
    hums = Trimmed("What turns or hums, Hz: pump 24.5; motor 49", validators=[Length(max=600)])

    def rule(self, values: Mapping[str, Any]) -> dict[str, str]:
        return machine_contradictions(values)


class WheelForm(ShelfForm):
    name = _name()
    marking = Trimmed("Marking on the blotter", validators=[DataRequired("Copy the marking."), Length(max=40)])
    grit = WholeNumber("Grit", validators=[InputRequired("Which grit?"), NumberRange(4, 1200, "From 4 to 1200.")])
    grade = Trimmed("Grade", validators=[Regexp("^[A-Z]$", message="One capital letter, A to Z.")])
    diameter_mm = LengthField("Diameter")
    width_mm = LengthField("Width")
    bore_mm = LengthField("Bore")
    max_rpm = WholeNumber(
        "Marked maximum, rpm", validators=[Optional(), NumberRange(100, 60_000, "From 100 to 60000 rpm.")]
    )
    max_m_s = DecimalText("Marked maximum, m/s", least="5", most="200", required=False)
    unmarked = BooleanField("It bears no marked speed; as lead I answer for it")
    new_diameter_mm = LengthField("Diameter when new (empty: not known)", required=False)
    least_diameter_mm = LengthField("Worn out at", required=False)
    flange_id = SelectField("On the flange", coerce=lambda text: int(text or 0) or None)
    mass_g = DecimalText("It and its flange weigh, g", least="1", most="100000", places=1, required=False)
    price = DecimalText("It cost", least="0", most="1000000", places=2, required=False)
    side_work = BooleanField("Its maker allows work on its side")
    use_by = DateField("To be used by (resin, rubber, shellac)", validators=[Optional()])

    def contradictions(self) -> None:
        marked = self.max_rpm.data is not None or self.max_m_s.number is not None
        if not marked and not self.unmarked.data:
            self.max_rpm.errors = [
                "What is it marked with? A wheel without a marked speed is not mounted unless a lead answers for it."
            ]
        if marked and self.unmarked.data:
            self.unmarked.errors = ["It has a marked speed: that holds, and nobody answers for more."]
        try:
            marking(text=self.marking.data or "")
        except InputError as error:
            self.marking.errors = [str(error)]
        super().contradictions()

    def rule(self, values: Mapping[str, Any]) -> dict[str, str]:
        return wheel_contradictions(values)


class FlangeForm(ShelfForm):
    name = _name()
    kind = SelectField("It is balanced with", choices=choice_list(FLANGE_KINDS.items()))
    diameter_mm = LengthField("Outside")
    spigot_mm = LengthField("Spigot, for the wheel’s bore")
    radius_mm = LengthField("Weights or screws sit at radius")
    holes = WholeNumber("Holes of a ring", validators=[Optional(), NumberRange(1, 48, "From 1 to 48.")])
    masses = Trimmed("Weights, or screws in the box, g, apart by spaces", validators=[Length(max=200)])

    def rule(self, values: Mapping[str, Any]) -> dict[str, str]:
        return flange_contradictions(values)


class InstrumentForm(ShelfForm):
    name = _name()
    unit = SelectField("It reads in", choices=choice_list(_UNITS))
    least_mm = LengthField("Range from", zero=True)
    most_mm = LengthField("Range to")
    resolution_mm = LengthField("Resolution")
    error_limit_mm = LengthField("Stated error, ±", zero=True)
    calibration_u_mm = LengthField("Calibration U (k = 2)", zero=True)
    repeatability_mm = LengthField("Repeatability, one standard deviation", zero=True)
    calibrated_on = DateField("Calibrated on", validators=[InputRequired("When was it calibrated?")])
    due_on = DateField("Due on", validators=[InputRequired("When is it due?")])
    reads = SelectField("It reads", choices=choice_list(READS.items()))
    port = Trimmed(
        "Readings come from (empty: typed)", filters=[lambda typed: typed or None], validators=[Length(max=200)]
    )
    baud = WholeNumber("Speed, baud", default=9600, validators=[NumberRange(50, 4_000_000, "From 50 to 4000000.")])
    sends = SelectField("Its numbers are in", choices=choice_list(SENDS.items()))
    asks = Trimmed("Sent to make it send (empty: it sends by itself)", validators=[Length(max=20)])
    streams = BooleanField("It sends all the time, not only on its button")
    falls = BooleanField("Its reading falls when the surface rises")
    simulated = BooleanField("It is the simulated gauge")

    def rule(self, values: Mapping[str, Any]) -> dict[str, str]:
        return instrument_contradictions(values)


class BlockSetForm(ShelfForm):
    name = _name()
    unit = SelectField("In", choices=choice_list(_UNITS))
    set_name = SelectField("It is", choices=choice_list(BLOCK_SETS.items()))
    u_um = DecimalText("U of a block (k = 2), µm", least="0.001", most="50", places=3, default="0.15")
    calibrated_on = DateField("Calibrated on", validators=[InputRequired("When was it calibrated?")])
    due_on = DateField("Due on", validators=[InputRequired("When is it due?")])
    missing = Trimmed("Missing", validators=[Length(max=2000)])
    worn = Trimmed("Worn, not to be measured with", validators=[Length(max=2000)])
    blocks = Trimmed("Its blocks, where it is a list of its own", validators=[Length(max=4000)])

    def rule(self, values: Mapping[str, Any]) -> dict[str, str]:
        return block_contradictions(values)


class ChuckForm(ShelfForm):
    name = _name()
    machine_id = SelectField("On the machine", coerce=int)
    length_mm = LengthField("Length, along the travel")
    width_mm = LengthField("Width, across")
    pull_n_cm2 = DecimalText("Pull, N/cm²", least="0", most="500")
    pull_tested = BooleanField("The pull comes from a test of our own")
    low_share = DecimalText(
        "Its lowest setting leaves, share of the pull", least="0.01", most="1", places=3, default="1"
    )
    fence_mm = LengthField("Its fence stands up (empty: none)", required=False)
    fence_out_um = DecimalText(
        "Fence out of parallel to the travel, µm (empty: not swept)", least="0", most="10000", required=False
    )
    fence_ground = BooleanField("The fence was ground in place")
    flat_limit_um = DecimalText("To be ground when its map ranges over, µm", least="0.1", most="1000", default="5")


class FixtureForm(ShelfForm):
    name = _name()
    kind = SelectField("It serves", choices=choice_list(SQUARENESS_NAMES.items()))
    square_mm = LengthField("Out of square, at most", zero=True)
    over_mm = LengthField("over this length")
    seating_mm = LengthField("Seating, ±", zero=True)
    base_length_mm = LengthField("Base, along the travel")
    base_width_mm = LengthField("Base, across")
    clamps = WholeNumber("Clamps or screws", default=2, validators=[NumberRange(1, 20, "From 1 to 20.")])
    clamp_n = DecimalText("Each presses with, N", least="10", most="100000", places=1, default="1500")
    checked_on = DateField("Checked on", validators=[Optional()])
    form = SelectField("It is", choices=choice_list(FIXTURE_FORMS.items()))
    height_mm = LengthField("It stands up", default=Decimal(75))
    seat_mm = LengthField("A part stands in it, or its centre is, over the magnet", zero=True, default=Decimal(0))
    centres_mm = LengthField("A sine plate’s rolls apart", required=False)
    top_centres_mm = LengthField("A compound one’s top rolls apart", required=False)


class AccessoryForm(ShelfForm):
    name = _name()
    kind = SelectField("It is a", choices=choice_list(ACCESSORY_KINDS.items()))
    length_mm = LengthField("Length (a clamp’s reach)")
    width_mm = LengthField("Width")
    height_mm = LengthField("Height, lying flat (a foil’s thickness)")
    count = WholeNumber("How many", default=1, validators=[NumberRange(1, 200, "From 1 to 200.")])
    magnetic = BooleanField("The magnet holds it", default=True)
    square_mm = LengthField("Out of square over its height", zero=True, default=Decimal(0))
    clamp_n = DecimalText("A clamp presses with, N", least="10", most="100000", places=1, required=False)
    checked_on = DateField("Checked on", validators=[Optional()])


class SensorForm(ShelfForm):
    name = _name()
    machine_id = SelectField("It reads the machine", coerce=int)
    kind = SelectField("It is a", choices=choice_list(SENSOR_KINDS.items()))
    port = Trimmed("Readings come from", validators=[DataRequired("Where do they come from?"), Length(max=200)])
    baud = WholeNumber("Speed, baud", default=9600, validators=[NumberRange(50, 4_000_000, "From 50 to 4000000.")])
    sends = SelectField("Its numbers are in", choices=choice_list(SENSOR_UNITS.items()))
    asks = Trimmed("Sent to make it send (empty: it sends by itself)", validators=[Length(max=20)])
    rises = BooleanField("A readout’s number rises as the wheel goes down", default=True)
    simulated = BooleanField("It is the simulated grinder’s")

    def rule(self, values: Mapping[str, Any]) -> dict[str, str]:
        return sensor_contradictions(values)


NOT_KEPT = ("version", "csrf_token")
SHELVES: Mapping[Shelf, tuple[Any, type[ShelfForm], str]] = {
    "machine": (shelves.SHELVES["machine"], MachineForm, "Machine"),
    "wheel": (shelves.SHELVES["wheel"], WheelForm, "Wheel"),
    "flange": (shelves.SHELVES["flange"], FlangeForm, "Flange"),
    "gauge": (shelves.SHELVES["gauge"], InstrumentForm, "Gauge"),
    "sensor": (shelves.SHELVES["sensor"], SensorForm, "Readout or power meter"),
    "blocks": (shelves.SHELVES["blocks"], BlockSetForm, "Gauge block set"),
    "chuck": (shelves.SHELVES["chuck"], ChuckForm, "Chuck"),
    "fixture": (shelves.SHELVES["fixture"], FixtureForm, "Fixture"),
    "accessory": (shelves.SHELVES["accessory"], AccessoryForm, "Block, parallel, pin, clamp or foil"),
}


def values_of(form: ShelfForm) -> dict[str, Any]:
    """Return a valid form's values by column."""
    return {
        name: field.number if isinstance(field, DecimalText) else field.data
        for name, field in form._fields.items()
        if name not in NOT_KEPT
    }
