"""Does what was taken in make sense? Each doubt is put as a question beside its field."""

from decimal import Decimal

from zesty_lark.core.part.faces import PRIMARY
from zesty_lark.core.part.sizes import size_contradictions
from zesty_lark.core.part.surfaces.part import PairSize
from zesty_lark.core.part.taken_in import SizeIn, measured_wrong
from zesty_lark.core.process.materials import materials
from zesty_lark.core.quantities.plausible import Doubt, doubt_against, doubt_beyond
from zesty_lark.core.quantities.units import size_text
from zesty_lark.core.wheel.mounting import mounting_stops
from zesty_lark.store.models import MachineRow, WheelRow
from zesty_lark.store.models.jobs import AXES
from zesty_lark.web.jobs.features import check_features
from zesty_lark.web.jobs.forms import TakeInForm
from zesty_lark.web.shared.fields import LengthField, question

FIELD_OF = {"tol_minus_mm": "minus", "tol_plus_mm": "plus"}
LEAST_CLEANUP_MM = Decimal("0.05")
"""A clean-up up to this is usual, whatever the stock [mm]."""
LOOSEST_SHARE = Decimal(20)
"""A tolerance over one twentieth of its size is asked about: nobody grinds to that."""


def makes_sense(form: TakeInForm, machine: MachineRow | None, wheel: WheelRow | None) -> bool:
    """Check what is valid by itself against the rest; what does not fit is said beside the field it is about."""
    if not form.material.errors:
        _check_material(form)
    if machine is not None and wheel is not None and not form.wheel_id.errors:
        form.wheel_id.errors = [
            *form.wheel_id.errors,
            *mounting_stops(wheel.mounted(), machine.rpm, form.material.data if not form.material.errors else ""),
        ]
    for axis in AXES:
        if not form.is_left(axis) and not any(field.errors for field in form.size_fields(axis).values()):
            _check_size(form, axis, machine)
    _check_cleanups(form)
    if not any(field.errors for axis in AXES for field in form.size_fields(axis).values()):
        check_features(form, _sizes(form))
    return not form.errors


def _sizes(form: TakeInForm) -> dict[str, PairSize]:
    made = {}
    for axis in AXES:
        fields = form.size_fields(axis)
        if form.is_left(axis):
            about = SizeIn.as_it_is(fields["target"].mm)
            size = about.size
            made[axis] = PairSize(
                size.target_mm, size.tol_minus_mm, size.tol_plus_mm, about.measured_max_mm, about.measured_min_mm
            )
            continue
        most = fields["max"].data or fields["target"].mm
        limits = (fields["target"].mm, fields["minus"].mm, fields["plus"].mm)
        made[axis] = PairSize(*limits, most, fields["min"].data or most)
    return made


def _check_material(form: TakeInForm) -> None:
    declined = materials()[form.material.data].declined
    if declined:
        form.material.errors = [declined]


def _check_size(form: TakeInForm, axis: str, machine: MachineRow | None) -> None:
    fields = form.size_fields(axis)
    target, greatest, least = fields["target"], fields["max"], fields["min"]
    if machine is not None and not _sure(form, target):
        room, room_name = _room(axis, machine)
        doubt = doubt_beyond(target.mm, room, greatest.data)
        if doubt:
            has = size_text(room, target.unit, with_unit=True)
            question(target, doubt, f"{machine.name} has {has} of {room_name}.")
    if greatest.data is not None:
        _check_measured(form, axis, target, greatest, least=least)
    for field, words in size_contradictions(target.mm, fields["minus"].mm, fields["plus"].mm).items():
        fields[FIELD_OF[field]].errors = [words]
    for side in ("minus", "plus"):
        _check_tolerance(form, target, fields[side])


def _check_measured(
    form: TakeInForm, axis: str, target: LengthField, greatest: LengthField, *, least: LengthField
) -> None:
    odd = [field for field in (greatest, least) if field.data is not None and doubt_against(field.mm, target.mm)]
    if len(odd) > 1 or (odd and least.data is None):
        _question_the_odd_one(form, target, odd, greatest)
    else:
        for field in odd:
            doubt = doubt_against(field.mm, target.mm)
            if doubt and not target.errors and not _sure(form, field):
                question(
                    field,
                    doubt,
                    f"The print says {size_text(target.mm, target.unit, with_unit=True)}; "
                    f"this looks like {doubt.slip}.",
                )
    wrong = measured_wrong(axis, target.mm, greatest.mm, greatest.mm if least.data is None else least.mm)
    if "min" in wrong:
        least.errors = [wrong["min"]]
    if "target" in wrong and not (greatest.errors or target.errors):
        measures = size_text(greatest.mm, target.unit, with_unit=True)
        target.errors = [f"{wrong['target']} The part measures {measures}."]


def _question_the_odd_one(form: TakeInForm, target: LengthField, odd: list[LengthField], greatest: LengthField) -> None:
    """Where print and measured sizes are apart by a slip: two measured sizes that agree are right, unless they came off
    a gauge of the other system; of two numbers the rounder one was slipped, since a size is measured to its last
    figure."""
    finer = len(greatest.mm.normalize().as_tuple().digits) > len(target.mm.normalize().as_tuple().digits)
    mixed = doubt_against(greatest.mm, target.mm)
    units = mixed is not None and "inches" in mixed.slip
    wrong = odd[0] if units else target if len(odd) > 1 or finer else odd[0]
    against = greatest if wrong is target else target
    doubt = doubt_against(wrong.mm, against.mm)
    if doubt and not target.errors and not _sure(form, wrong):
        says = "The part measures" if wrong is target else "The print says"
        question(
            wrong, doubt, f"{says} {size_text(against.mm, target.unit, with_unit=True)}; this looks like {doubt.slip}."
        )


def _check_cleanups(form: TakeInForm) -> None:
    """High minus low of a face cannot be more than its whole stock by much; one that is gets a question."""
    thickness = form.size_fields("thickness")
    target, greatest = thickness["target"], thickness["max"]
    if any(field.errors for field in thickness.values()) or greatest.data is None:
        return
    stock = max(greatest.mm - target.mm, Decimal(0)) + thickness["minus"].mm
    for face in PRIMARY:
        field = form[f"face{face}_cleanup"]
        if (
            form.stays(face)
            or field.errors
            or field.data is None
            or _sure(form, field)
            or field.mm <= max(stock, LEAST_CLEANUP_MM)
        ):
            continue
        doubt = doubt_beyond(field.mm, max(stock, LEAST_CLEANUP_MM), stock / 3) or Doubt(None, "")
        question(field, doubt, f"All there is to take is {size_text(stock, field.unit, with_unit=True)}.")


def _check_tolerance(form: TakeInForm, target: LengthField, tolerance: LengthField) -> None:
    if target.errors or tolerance.mm * LOOSEST_SHARE <= target.mm or _sure(form, tolerance):
        return
    doubt = doubt_beyond(tolerance.mm, target.mm / LOOSEST_SHARE, Decimal("0.003"))
    if doubt:
        size = size_text(target.mm, target.unit, with_unit=True)
        question(tolerance, doubt, f"That is a wide tolerance for {size}.")


def _sure(form: TakeInForm, field: LengthField) -> bool:
    return bool(form[f"sure_{field.name}"].data)


def _room(axis: str, machine: MachineRow) -> tuple[Decimal, str]:
    return {
        "length": (machine.travel_long_mm, "travel along"),
        "width": (machine.travel_cross_mm, "travel across"),
        "thickness": (machine.height_mm, "room under the wheel"),
    }[axis]
