"""Each quick answer: its key, what is asked, and what of the core works it out."""

import re
from collections.abc import Callable
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any

from zesty_lark.core.angles_slots.answers import (
    Answer,
    edge_answer,
    mitre_answer,
    radius_answer,
    roll_answer,
    sine_answer,
    slot_answer,
    two_angles_answer,
)
from zesty_lark.core.angles_slots.block_sets import BlockSet
from zesty_lark.core.angles_slots.compound import Normal, face_normal
from zesty_lark.core.angles_slots.fence_answers import fence_answer, rails_answer
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.web.answers.forms import (
    ArcForm,
    EdgeForm,
    FenceForm,
    MitreForm,
    RailsForm,
    RollForm,
    SineForm,
    SlotForm,
    TwoAnglesForm,
)
from zesty_lark.web.shared.fields import plain_decimal
from zesty_lark.web.shared.forms import PostedForm


@dataclass(frozen=True)
class Kind:
    """One quick answer: its key, name, form, how it is worked out, and which fields show by what is chosen."""

    key: str
    name: str
    form: type[PostedForm]
    work_out: Callable[[Any, BlockSet | None], Answer]
    shows: dict[str, dict[str, tuple[str, ...]]] = field(default_factory=dict)


def _n(form: PostedForm, name: str) -> float:
    return float(form[name].number or Decimal(0))


def _d(form: PostedForm, name: str) -> Decimal:
    return form[name].number or Decimal(0)


def _angle(form: PostedForm, name: str) -> float:
    found: float | None = form[name].angle_deg
    if found is None:
        raise InputError(name, f"{form[name].label.text}: which angle?")
    return found


def _sine(form: SineForm, blocks: BlockSet | None) -> Answer:
    rise = form.rise_um.number
    return sine_answer(
        angle_deg=_angle(form, "angle"),
        centres_mm=_n(form, "centres_mm"),
        blocks=blocks,
        rise_um=None if rise is None else float(rise),
        over_mm=_n(form, "over_mm"),
    )


def _two_angles(form: TwoAnglesForm, _: BlockSet | None) -> Answer:
    if form.given.data == "slopes":
        normal = face_normal(along_deg=_angle(form, "along"), across_deg=_angle(form, "across"))
    elif form.given.data == "tilt":
        normal = face_normal(tilt_deg=_angle(form, "tilt"), direction_deg=_angle(form, "direction"))
    else:
        normal = Normal(_n(form, "nx"), _n(form, "ny"), _n(form, "nz"))
    return two_angles_answer(normal=normal, base_mm=_n(form, "base_mm"), top_mm=_n(form, "top_mm"))


def _mitre(form: MitreForm, _: BlockSet | None) -> Answer:
    return mitre_answer(floor_deg=_angle(form, "floor"), wall_deg=_angle(form, "wall"))


def _slot(form: SlotForm, _: BlockSet | None) -> Answer:
    return slot_answer(
        left_mm=_d(form, "left_mm"),
        right_mm=_d(form, "right_mm"),
        centre_mm=_d(form, "centre_mm"),
        width_mm=_d(form, "width_mm"),
        graduation_mm=_d(form, "graduation_mm"),
        depth_mm=_n(form, "depth_mm"),
        wheel_mm=_n(form, "wheel_mm"),
        lift_um=_n(form, "lift_um"),
        span_mm=_n(form, "span_mm"),
        long_mm=_n(form, "long_mm"),
    )


def _roll(form: RollForm, _: BlockSet | None) -> Answer:
    read = form.reading_mm.number
    return roll_answer(
        where=form.where.data,
        diameter_mm=_n(form, "diameter_mm"),
        included_deg=_angle(form, "included"),
        reading_mm=None if read is None else float(read),
    )


def _radius(form: ArcForm, _: BlockSet | None) -> Answer:
    return radius_answer(
        radius_mm=_n(form, "radius_mm"),
        sweep_deg=_angle(form, "sweep"),
        allow_um=_n(form, "allow_um"),
        centre_mm=_n(form, "centre_mm"),
    )


def _edge(form: EdgeForm, _: BlockSet | None) -> Answer:
    return edge_answer(flat_mm=_n(form, "flat_mm"))


def _fence(form: FenceForm, _: BlockSet | None) -> Answer:
    readings = []
    for word in re.split(r"[,;\s]+", (form.readings.data or "").strip()):
        number = plain_decimal(word)
        if number is None:
            raise InputError("readings", f"“{word}” is no reading: µm, one after the other, such as 0, 0.8, 1.5.")
        readings.append(float(number))
    return fence_answer(
        readings_um=readings,
        length_mm=_n(form, "length_mm"),
        height_mm=_n(form, "height_mm"),
        graduation_mm=_d(form, "graduation_mm"),
    )


def _rails(form: RailsForm, _: BlockSet | None) -> Answer:
    names = ("front_left_um", "front_right_um", "back_left_um", "back_right_um")
    fl, fr, bl, br = (_n(form, name) for name in names)
    return rails_answer(ends_um=(fl, fr, bl, br), span_mm=_n(form, "span_mm"), width_mm=_n(form, "width_mm"))


GIVEN = {"slopes": ("along", "across"), "tilt": ("tilt", "direction"), "normal": ("nx", "ny", "nz")}
KINDS: dict[str, Kind] = {
    "sine": Kind("s", "A face at an angle", SineForm, _sine),
    "two-angles": Kind("t", "Two angles at once", TwoAnglesForm, _two_angles, {"given": GIVEN}),
    "mitre": Kind("m", "Lead-ins that meet in a corner", MitreForm, _mitre),
    "slot": Kind("l", "A slot's walls", SlotForm, _slot),
    "roll": Kind("r", "A roll in a corner or vee", RollForm, _roll),
    "radius": Kind("a", "A radius swung", ArcForm, _radius),
    "edge": Kind("e", "An edge broken", EdgeForm, _edge),
    "fence": Kind("f", "A fence ground in place", FenceForm, _fence),
    "rails": Kind("p", "Rails and parallels", RailsForm, _rails),
}
