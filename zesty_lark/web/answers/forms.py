"""What is asked at the bench; each form is sent in the address."""

from wtforms import SelectField
from wtforms.validators import Length

from zesty_lark.web.shared.fields import AngleText, DecimalText, Trimmed, choice_list
from zesty_lark.web.shared.forms import PostedForm


def _mm(label: str, default: str, *, least: str = "0.001", most: str = "2000") -> DecimalText:
    return DecimalText(f"{label}, mm", least=least, most=most, places=5, default=default)


class SineForm(PostedForm):
    """A face at an angle."""

    angle = AngleText("Angle", default="17°30'")
    centres_mm = _mm("Centres of the rolls", "127")
    blocks = SelectField("Blocks")
    rise_um = DecimalText("Checked back, upper end high by, µm", least="-10000", most="10000", required=False)
    over_mm = _mm("over", "100")


class TwoAnglesForm(PostedForm):
    """A face at two angles."""

    given = SelectField(
        "As the print gives it",
        choices=choice_list([("slopes", "two slopes"), ("tilt", "tilt and direction"), ("normal", "its normal")]),
    )
    along = AngleText("Rises to the right", default="8")
    across = AngleText("Rises to the back", default="5")
    tilt = AngleText("Leans from level", default="10")
    direction = AngleText("Falls towards, from the right to the back", default="30")
    nx = DecimalText("Normal x", least="-1000", most="1000", places=7, default="-0.14")
    ny = DecimalText("Normal y", least="-1000", most="1000", places=7, default="-0.09")
    nz = DecimalText("Normal z", least="0.001", most="1000", places=7, default="1")
    base_mm = _mm("Centres of the base", "127")
    top_mm = _mm("Centres of the top", "127")


class MitreForm(PostedForm):
    """Two lead-in chamfers that meet in a corner."""

    floor = AngleText("Floor's chamfer", default="22")
    wall = AngleText("Wall's chamfer", default="14")


class SlotForm(PostedForm):
    """A slot's walls, from one datum."""

    left_mm = _mm("Datum to the left wall", "21.0600", least="0")
    right_mm = _mm("Datum to the right wall", "38.9100")
    centre_mm = _mm("Centre wanted", "30")
    width_mm = _mm("Width wanted", "18")
    depth_mm = _mm("Depth", "9")
    graduation_mm = _mm("Dial's graduation", "0.002", least="0.0001", most="0.1")
    wheel_mm = _mm("Wheel's width", "12.7")
    lift_um = DecimalText("Dirt under one end, µm", least="0", most="1000", places=2, default="5")
    span_mm = _mm("Span of the seat", "100")
    long_mm = _mm("Wall's length", "120")


class RollForm(PostedForm):
    """A roll in a corner or a vee."""

    where = SelectField("It lies in", choices=choice_list([("corner", "a corner"), ("vee", "a vee")]))
    diameter_mm = _mm("Roll's diameter", "10")
    included = AngleText("Included angle", default="90")
    reading_mm = DecimalText("Read now, mm", least="0", most="2000", places=5, required=False)


class ArcForm(PostedForm):
    """An outside radius swung on a fixture."""

    radius_mm = _mm("Radius", "8")
    sweep = AngleText("Sweep", default="90")
    allow_um = DecimalText("Peaks allowed, µm", least="0.01", most="500", places=2, default="2")
    centre_mm = _mm("Fixture's centre over the magnet", "75")


class EdgeForm(PostedForm):
    """An edge broken at 45°."""

    flat_mm = DecimalText("Flat wanted, mm", least="0.001", most="50", places=4, default="0.4")


def _um(label: str, default: str) -> DecimalText:
    return DecimalText(f"{label}, µm", least="-5000", most="5000", places=3, default=default)


class FenceForm(PostedForm):
    """A chuck's fence, as it was swept."""

    readings = Trimmed("Swept along it, end to end, µm", default="0, 0.8, 1.5, 2.5", validators=[Length(max=600)])
    length_mm = _mm("Fence's length", "450")
    height_mm = _mm("Fence stands over the chuck", "6")
    graduation_mm = _mm("Graduation of the cross dial", "0.005", least="0.0001", most="1")


class RailsForm(PostedForm):
    """Two rails or parallels by their ends, from one zero."""

    front_left_um, front_right_um = _um("Front, left", "0"), _um("Front, right", "0.6")
    back_left_um, back_right_um = _um("Back, left", "4.2"), _um("Back, right", "5.0")
    span_mm = _mm("From rail to rail", "60")
    width_mm = _mm("Part across them", "80")
