"""What must not be mounted or run: a wheel over its marked speed, one without a mark that nobody answers for, one that
was put out of use or is past its day, and a wheel that is wrong for the material. No release exists for any of it but
the missing mark, which a lead answers for."""

from dataclasses import dataclass
from datetime import date

from zesty_lark.core.process.materials import material_of
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.wheel.marking import marking
from zesty_lark.core.wheel.speed import wheel_speed


@dataclass(frozen=True)
class Mounted:
    """A wheel as it is to run: its name, marking, diameter [mm], what it is marked with [rpm] [m/s], who answers for
    it when it bears no mark, whether it was put out of use, and whether its maker allows work on its side, by when it
    is to be used."""

    name: str
    marking: str
    diameter_mm: float
    max_rpm: float | None
    max_m_s: float | None = None
    answered_by: str = ""
    scrapped: bool = False
    side_work: bool = False
    use_by: date | None = None


AGING_BONDS = ("B", "BF", "R", "RF", "E")
"""Resin, rubber and shellac go soft with the years: such a wheel goes by the day that its maker marks it with."""


def age_stop(wheel: Mounted, today: date) -> str:
    """Return why a wheel is not mounted on a day for its bond's age; empty when it may be. A wheel of diamond or boron
    nitride has no such day."""
    try:
        told = marking(text=wheel.marking)
    except InputError:
        return ""
    if told.bond not in AGING_BONDS or told.grain_um is not None:
        return ""
    if wheel.use_by is None:
        return (
            f"{wheel.name} is {told.bond_name}-bonded: it does not ring, it goes by the day on its label. "
            "Set that down in the shop first."
        )
    if today > wheel.use_by:
        return f"{wheel.name} was to be used by {wheel.use_by:%d %b %Y}. It is not mounted any more: put it out of use."
    return ""


def mounting_stops(wheel: Mounted, rpm: float, material: str) -> list[str]:
    """Return why a wheel must not be run at a spindle speed [rpm] on a material; empty when it may."""
    return [*speed_stops(wheel, rpm), *material_stops(wheel, material)]


def speed_stops(wheel: Mounted, rpm: float) -> list[str]:
    """Return why a wheel must not be run at a spindle speed [rpm]; empty when it may."""
    if wheel.scrapped:
        return [f"{wheel.name} was put out of use. It must not be run; nobody can release it."]
    if wheel.max_rpm is None and wheel.max_m_s is None:
        words = f"{wheel.name} bears no marked speed: a lead has to answer for it in the shop before it is mounted."
        return [] if wheel.answered_by else [words]
    checked = wheel_speed(
        wheel_diameter_mm=wheel.diameter_mm, wheel_rpm=rpm, marked_max_rpm=wheel.max_rpm, marked_max_m_s=wheel.max_m_s
    )
    return [] if checked.may_run else [f"{wheel.name}: {checked.why}"]


def material_stops(wheel: Mounted, material: str) -> list[str]:
    """Return why a wheel is refused for a material, or the material altogether; empty when it is not."""
    known = material_of(material)
    if known.declined:
        return [f"{material.capitalize()} is not ground here. {known.declined}"]
    try:
        abrasive = marking(text=wheel.marking).abrasive_name
    except InputError:
        abrasive = None
    if known.abrasive and abrasive != known.abrasive:
        return [
            f"{material.capitalize()} needs a {known.abrasive} wheel; {wheel.name} is "
            f"{abrasive or 'not marked as one'}. An alumina wheel is refused for it."
        ]
    return []
