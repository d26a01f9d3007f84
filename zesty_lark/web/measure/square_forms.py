"""Forms of squareness, angles, radii and slots."""

from wtforms import HiddenField, SelectField, SubmitField
from wtforms.fields.choices import SelectChoice

from zesty_lark.core.measure.square import WAYS
from zesty_lark.shopfloor.forming import SHAPES, ShapeName
from zesty_lark.web.shared.fields import DecimalText, WholeNumber, choice_list
from zesty_lark.web.shared.forms import EntryForm

LIGHT = (("none", "nowhere"), ("top", "at the top"), ("bottom", "at the bottom"))


def um(label: str, *, least: str = "-10000", required: bool = False) -> DecimalText:
    """A deviation in micrometres."""
    return DecimalText(label, least=least, most="10000", places=3, required=required)


def mm(label: str, *, required: bool = False) -> DecimalText:
    """A length in millimetres."""
    return DecimalText(label, least="0.001", most="10000", places=5, required=required)


def _ways(shape: ShapeName) -> list[SelectChoice]:
    return choice_list((key, way.words) for key, way in SHAPES[shape].ways.items())


class SquareForm(EntryForm):
    """Readings of one of the four ways; only those of the way that was chosen are read."""

    way = SelectField("How", choices=choice_list(WAYS.items()))
    of = HiddenField()
    piece = WholeNumber(default=1)
    instrument = SelectField("Gauge", coerce=int)
    side = SelectField("Side", coerce=int, validate_choice=False, choices=[])
    over_mm = mm("Over a height of, mm", required=True)
    base_mm = mm("Base that a shim goes under, mm")
    front_um = um("On the front, µm")
    back_um = um("On the back, turned round, µm")
    taper_um = um("Thicker at the top by, µm")
    corner1_um = um("Corner 1, µm")
    corner2_um = um("Corner 2, µm")
    corner3_um = um("Corner 3, µm")
    corner4_um = um("Corner 4, µm")
    part_um = um("On the part, µm")
    master_um = um("On the master, µm")
    certificate_um = um("The master leans out by, µm")
    certificate_u_um = um("U of its certificate, µm", least="0")
    light = SelectField("Light is seen", choices=choice_list(LIGHT), validate_choice=False)
    goes_um = um("Thickest foil that goes in, µm", least="0")
    refuses_um = um("Thinnest that does not, µm", least="0")
    square_um = um("The square is true within, µm", least="0")
    keep = SubmitField("Keep it")


class AngleForm(EntryForm):
    """An angle by two rolls, or on a sine plate."""

    of = HiddenField()
    piece = WholeNumber(default=1)
    instrument = SelectField("Gauge", coerce=int)
    way = SelectField("How", choices=_ways("angle"))
    small_mm, large_mm = mm("Small roll, mm"), mm("Large roll, mm")
    over_small_mm, over_large_mm = mm("Over the small one, mm"), mm("Over the large one, mm")
    set_deg = DecimalText("Plate set to, °", least="0.001", most="60", places=6, required=False)
    rise_um = um("Upper end stands high by, µm")
    over_mm, centres_mm = mm("Read over, mm"), mm("Plate’s centres, mm")
    stack_u_um = um("U of its stack, µm", least="0")
    keep = SubmitField("Log it")


class RadiusForm(EntryForm):
    """A radius by two rolls beside it, by chord and height, or between two leaves of a radius gauge."""

    of = HiddenField()
    piece = WholeNumber(default=1)
    instrument = SelectField("Gauge", coerce=int)
    way = SelectField("How", choices=_ways("radius"))
    roll_mm, over_rolls_mm = mm("Roll, mm"), mm("Over both rolls, mm")
    chord_mm, height_mm = mm("Chord, mm"), mm("Height over it, mm")
    under_mm, over_mm = mm("Largest leaf that is too small, mm"), mm("Smallest that is too large, mm")
    leaf_um = um("A leaf is true within, µm", least="0.1")
    keep = SubmitField("Log it")


class SlotForm(EntryForm):
    """Blocks that go into a slot at its four places."""

    of = HiddenField()
    piece = WholeNumber(default=1)
    instrument = SelectField("Blocks measured with", coerce=int)
    front_top_mm, front_bottom_mm = mm("Front, top, mm"), mm("Front, bottom, mm")
    back_top_mm, back_bottom_mm = mm("Back, top, mm"), mm("Back, bottom, mm")
    step_mm = DecimalText("One step more, mm", least="0.0001", most="1", places=5, default="0.001")
    block_u_um = DecimalText("U of a stack, µm", least="0", most="50", places=3, default="0.3")
    keep = SubmitField("Log it")
