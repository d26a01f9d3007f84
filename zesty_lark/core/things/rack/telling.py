"""A wheel's log in words."""

from decimal import Decimal
from typing import Protocol

from zesty_lark.core.quantities.angles import dms_text
from zesty_lark.core.quantities.units import Unit, small_text
from zesty_lark.core.things.log import ThingEntry
from zesty_lark.core.things.rack.entries import (
    BalanceTrial,
    Checked,
    FoundOn,
    PutOut,
    RackDress,
    ShapedWheel,
    Struck,
    TakenDown,
    WheelPrinted,
)
from zesty_lark.core.things.rack.mounting_steps import MOUNTING

NAMES = {each.key: each.name for each in MOUNTING}
SHAPE_WORDS = {
    "flat": "Dressed flat again",
    "angle": "An angle of {angle}",
    "relief": "Relieved for side work, land {land:g} mm",
    "corner": "A corner radius of {radius:.3f} mm",
    "full": "A full radius of {radius:.3f} mm",
    "back": "1° back for fence work",
    "chamfer": "A chamfer of {land:g} mm for the peel",
}
HANGS_WORDS = {
    "heavy": "the heavy spot still hangs down",
    "light": "the light side hangs down",
    "nowhere": "it hangs nowhere",
}


class Dial(Protocol):
    """A machine whose dial a length is told in."""

    dial_unit: str


def entry_words(entry: ThingEntry, machine: Dial | None = None) -> str:
    """Return an entry in a sentence, lengths as the machine's dial has them."""
    unit: Unit = "in" if machine is not None and machine.dial_unit == "in" else "mm"
    what = entry.what
    match what:
        case Checked(step=step, good=good):
            said = f"{NAMES.get(step, step)}: {'good' if good else 'not good'}"  # type: ignore[call-overload]
        case FoundOn():
            said = "On its machine when its record began"
        case Struck(job=job):
            said = f"It struck something in {job}: not used before it was looked at and rung"
        case TakenDown(from_flange=bare):
            said = "Taken off its machine" + (" and its flange" if bare else ", on its flange")
        case BalanceTrial():
            said = f"Balance: {trial_words(what)}"
        case RackDress(dress=dress, amount_mm=amount, job=job):
            off = "" if amount is None else f", {small_text(amount, unit)} off the radius"
            said = f"Dressed, {dress}{off}" + (f" ({job})" if job else "")
        case ShapedWheel():
            said = _shape(what, unit)
        case WheelPrinted(radius_mm=radius):
            said = f"Corner printed: {radius:.3f} mm"
        case PutOut():
            said = "Put out of use"
        case _:
            said = "Note"
    return f"{said}: {entry.note}" if entry.note else f"{said}."


def _shape(what: ShapedWheel, unit: Unit) -> str:
    angle = "" if what.angle_deg is None else dms_text(what.angle_deg)
    said = SHAPE_WORDS[what.shape].format(angle=angle, radius=what.radius_mm or 0, land=what.land_mm or 0)
    return said + (f", {small_text(Decimal(what.amount_mm), unit)} off the radius" if what.amount_mm else "")


def trial_words(trial: BalanceTrial) -> str:
    """Return a trial of balancing in a few words."""
    placed = ", ".join(f"{mass:g} g at {deg:.0f}°" for deg, mass in trial.weights) or "no weights"
    if trial.method == "ways":
        seen = HANGS_WORDS.get(trial.hangs, f"{trial.heavy_deg or 0:.0f}° hangs down")
        return f"{placed}: {seen}"
    where = "" if trial.trial_deg is None else f", trial weight at {trial.trial_deg:.0f}°"
    left = "" if trial.residual_gmm is None else f", {trial.residual_gmm:.0f} g·mm left"
    return f"{placed}{where}: amplitude {trial.amplitude or 0:g}{left}"
