"""Does what was taken in make sense? Each doubt is put as a question beside its field."""

from collections.abc import Sequence
from decimal import Decimal

from zesty_lark.core.materials import materials
from zesty_lark.core.plausible import doubt_against, doubt_beyond
from zesty_lark.core.shoplog.entries import Kind
from zesty_lark.core.shoplog.standing import Standing
from zesty_lark.core.units import size_text
from zesty_lark.store.jobs import TakeIn
from zesty_lark.store.models import MachineRow
from zesty_lark.store.models.jobs import AXES
from zesty_lark.web.jobs.forms import TakeInForm
from zesty_lark.web.shared.fields import LengthField, question

__all__ = ["makes_sense", "stays_true"]

LOOSEST_SHARE = Decimal(20)
"""A tolerance over one twentieth of its size is asked about: nobody grinds to that."""


def makes_sense(form: TakeInForm, machine: MachineRow | None) -> bool:
    """Check what is valid by itself against the rest; what does not fit is said beside the field it is about."""
    if not form.material.errors:
        _check_material(form)
    for axis in AXES:
        if not any(field.errors for field in form.size_fields(axis).values()):
            _check_size(form, axis, machine)
    return not form.errors


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
        _check_measured(form, axis, target, greatest, least)
    if fields["minus"].mm + fields["plus"].mm == 0:
        fields["plus"].errors = ["One of the two tolerances has to be more than 0."]
    for side in ("minus", "plus"):
        _check_tolerance(form, target, fields[side])


def _check_measured(form: TakeInForm, axis: str, target: LengthField, greatest: LengthField,
                    least: LengthField) -> None:
    for field in (greatest, least):
        doubt = doubt_against(field.data, target.mm) if field.data is not None else None
        if doubt and not target.errors and not _sure(form, field):
            question(field, doubt, f"The print says {size_text(target.mm, target.unit, with_unit=True)}; "
                                   f"this looks like {doubt.slip}.")
    if least.data is not None and least.data > greatest.mm:
        least.errors = ["The least cannot be over the greatest."]
    if axis == "thickness" and greatest.mm < target.mm and not (greatest.errors or target.errors):
        wanted = size_text(target.mm, target.unit, with_unit=True)
        target.errors = [f"The target is above the stock: the part measures at most "
                         f"{size_text(greatest.mm, target.unit, with_unit=True)}, so there is nothing to grind "
                         f"down to {wanted}."]


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


def stays_true(form: TakeInForm, before: TakeIn, after: TakeIn, standing: Standing) -> bool:
    """Check that a change does not contradict what has been ground already."""
    if not any(entry.kind is Kind.PASS for entry in standing.history):
        return True
    reason = "The part has been ground since; this belongs to its record and stays."
    fixed: Sequence[tuple[str, object, object]] = (
        ("reference_face", before.reference_face, after.reference_face),
        ("machine_id", before.machine_id, after.machine_id),
        ("thickness_max", before.sizes["thickness"].measured_max_mm, after.sizes["thickness"].measured_max_mm),
        ("thickness_min", before.sizes["thickness"].measured_min_mm, after.sizes["thickness"].measured_min_mm),
        *((f"face{face}_condition", before.faces[face].condition, after.faces[face].condition) for face in (1, 2)),
    )
    for name, old, new in fixed:
        if old != new:
            form[name].errors = [reason]
    return not form.errors
