"""The measuring form: what is measured, gauge, temperatures, a reading at each place."""

from wtforms import BooleanField, HiddenField, SelectField

from zesty_lark.core.quantities.units import Unit
from zesty_lark.web.shared.fields import DecimalText, LengthField, set_units
from zesty_lark.web.shared.forms import EntryForm
from zesty_lark.web.shared.svg.places import PLACES


class MeasureForm(EntryForm):
    """Readings of one characteristic; the three temperatures that matter are asked together."""

    of = HiddenField(default="thickness")
    piece = HiddenField(default=1)
    back = HiddenField()
    instrument = SelectField("Gauge", coerce=int)
    part_c = DecimalText("Part, °C", least="0", most="90", required=False)
    gauge_c = DecimalText("Gauge, °C", least="0", most="60", required=False)
    room_c = DecimalText("Room, °C", least="0", most="60", required=False)
    blocks = SelectField("Set to", coerce=int, default=0)
    tip_deg = DecimalText("Tip’s angle, °", least="0", most="70", places=1, required=False, default="0")
    warm = BooleanField("The part is still warm to the hand")
    stopped = BooleanField("The wheel is stopped and I have seen it stop")


for number, place in enumerate(PLACES, start=1):
    setattr(MeasureForm, f"reading{number}", LengthField(f"{number} {place}", required=False, zero=True))
    setattr(MeasureForm, f"sure_reading{number}", BooleanField("Yes, keep it as typed"))


def reading_fields(form: MeasureForm) -> list[tuple[str, LengthField]]:
    """Return the places and their fields in order."""
    return [(place, form[f"reading{number}"]) for number, place in enumerate(PLACES, start=1)]


def set_up_for(form: MeasureForm, kind: str, unit: Unit, *, compared: bool = False) -> None:
    """Let the readings be read as what is measured wants: a roughness has its own units, a size is more than 0, a
    deviation from a stack has a sign."""
    set_units(form, unit)
    for _, field in reading_fields(form):
        field.roughness = kind == "finish"
        field.zero = kind in ("parallel", "square", "flat")
        field.signed = compared
