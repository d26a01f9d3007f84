"""The measuring form: gauge, temperature, a reading at each place."""

from flask_wtf import FlaskForm
from wtforms import BooleanField, HiddenField, IntegerField, SelectField

from zesty_lark.web.shared.fields import DecimalText, LengthField
from zesty_lark.web.shared.svg.places import PLACES

__all__ = ["MeasureForm", "reading_fields"]


class MeasureForm(FlaskForm):
    entry_id = HiddenField()
    seen = IntegerField(default=0)
    instrument = SelectField("Gauge", coerce=int)
    part_c = DecimalText("Part’s temperature, °C (if taken)", least="0", most="90", required=False)
    warm = BooleanField("The part is still warm to the hand")
    stopped = BooleanField("The wheel is stopped and I have seen it stop")


for number, place in enumerate(PLACES, start=1):
    setattr(MeasureForm, f"reading{number}", LengthField(f"{number} {place}", required=False))
    setattr(MeasureForm, f"sure_reading{number}", BooleanField("Yes, keep it as typed"))


def reading_fields(form: MeasureForm) -> list[tuple[str, LengthField]]:
    """Return the places and their fields in order."""
    return [(place, form[f"reading{number}"]) for number, place in enumerate(PLACES, start=1)]
