"""Angles, radii and slots as they are measured: rolls, the sine plate, blocks that go."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Lt

from zesty_lark.core.measure.budget import COVERAGE, RECTANGLE
from zesty_lark.core.quantities.numbers import InputError, Positive
from zesty_lark.core.quantities.units import UM_A_MM

Small = Annotated[float, Ge(-1e4), Le(1e4)]
SECONDS_A_DEGREE = 3600


@dataclass(frozen=True)
class MeasuredAngle:
    """An angle and its U, k = 2 [°]."""

    angle_deg: float
    u_deg: float

    @property
    def u_arcsec(self) -> float:
        """U in arc-seconds."""
        return self.u_deg * SECONDS_A_DEGREE


@dataclass(frozen=True)
class MeasuredRadius:
    """A radius and its U, k = 2 [mm]."""

    radius_mm: float
    u_mm: float


def angle_by_rolls(
    *,
    small_mm: Positive,
    large_mm: Positive,
    over_small_mm: Positive,
    over_large_mm: Positive,
    shape: Literal["corner", "vee"],
    u_um: Positive,
) -> MeasuredAngle:
    """Return an included angle from readings over two rolls, which need no vertex.

    Parameters
    ----------
    small_mm, large_mm : float
        The rolls' diameters [mm].
    over_small_mm, over_large_mm : float
        From one datum to the far side of each: parallel to a face in a corner, to the top in a vee [mm].
    shape : {"corner", "vee"}
    u_um : float
        Standard uncertainty of each reading [µm].

    Raises
    ------
    InputError
        If the readings belong to no angle.

    Notes
    -----
    ``roll_corner`` and ``roll_vee`` at two diameters, subtracted: with Δr and ΔM, corner θ = 2·atan(Δr/(ΔM − Δr)), vee
    θ = 2·asin(Δr/(ΔM − Δr)).
    """
    step, rise = (large_mm - small_mm) / 2, over_large_mm - over_small_mm
    if step <= 0:
        raise InputError("large_mm", "large_mm must be over small_mm")
    rest = rise - step
    if rest <= 0 or (shape == "vee" and step >= rest):
        raise InputError("over_large_mm", "over_large_mm must be further over over_small_mm: no angle reads so")
    half = math.atan2(step, rest) if shape == "corner" else math.asin(step / rest)
    slope = step / (rest**2 + step**2) if shape == "corner" else step / (rest * math.sqrt(rest**2 - step**2))
    u = 2 * slope * math.sqrt(2) * u_um / UM_A_MM
    return MeasuredAngle(math.degrees(2 * half), math.degrees(COVERAGE * u))


def angle_on_sine_plate(
    *,
    set_deg: Annotated[float, Gt(0), Lt(90)],
    rise_um: Small,
    over_mm: Positive,
    centres_mm: Positive,
    stack_u_um: Positive,
    u_um: Positive,
) -> MeasuredAngle:
    """Return a part's angle from what an indicator rises along it, on a sine plate set to its nominal.

    Parameters
    ----------
    set_deg : float
        Angle the plate is set to [°].
    rise_um : float
        Reading at the upper end less at the lower end [µm]; + when the upper end stands high: the angle is under the
        plate's.
    over_mm : float
        Between the two readings [mm].
    centres_mm : float
        Distance of the plate's rolls [mm].
    stack_u_um : float
        U of the stack, k = 2 [µm].
    u_um : float
        Standard uncertainty of a reading [µm].
    """
    angle = set_deg - math.degrees(math.atan2(rise_um / UM_A_MM, over_mm))
    read = math.sqrt(2) * u_um / UM_A_MM / over_mm
    plate = stack_u_um / COVERAGE / UM_A_MM / (centres_mm * math.cos(math.radians(set_deg)))
    return MeasuredAngle(angle, math.degrees(COVERAGE * math.hypot(read, plate)))


def radius_by_rolls(*, roll_mm: Positive, over_rolls_mm: Positive, u_um: Positive) -> MeasuredRadius:
    """Return an outside radius that lies on a plate between two equal rolls, from the distance over the rolls [mm].

    Raises
    ------
    InputError
        If the rolls would meet.

    Notes
    -----
    Circles on one line: centres apart by 2·√(R·r) each side; M = 4·√(R·r) + 2·r.
    """
    r = roll_mm / 2
    root = (over_rolls_mm - roll_mm) / 4
    if root <= r / 2:
        raise InputError("over_rolls_mm", "over_rolls_mm must be over twice the roll: the rolls would meet")
    return MeasuredRadius(root**2 / r, COVERAGE * (root / (2 * r)) * u_um / UM_A_MM)


def radius_by_chord(*, chord_mm: Positive, height_mm: Positive, u_um: Positive) -> MeasuredRadius:
    """Return a radius from a chord and how far the arc stands over it [mm]: c²/(8·h) + h/2.

    Raises
    ------
    InputError
        If the arc stands higher than half the chord.
    """
    if height_mm > chord_mm / 2:
        raise InputError("height_mm", "height_mm must be at most half the chord")
    slope = abs(-(chord_mm**2) / (8 * height_mm**2) + 0.5)
    return MeasuredRadius(chord_mm**2 / (8 * height_mm) + height_mm / 2, COVERAGE * slope * u_um / UM_A_MM)


def radius_by_leaves(*, under_mm: Positive, over_mm: Positive, leaf_um: Positive) -> MeasuredRadius:
    """Return a radius between two leaves of a radius gauge: one that is surely smaller, by where light is seen, and one
    that is surely larger; the middle, rectangular between them, and what a leaf itself is true within [µm].

    Raises
    ------
    InputError
        If the smaller leaf is not the smaller.
    """
    if over_mm <= under_mm:
        raise InputError("over_mm", "over_mm must be over under_mm")
    half = (over_mm - under_mm) / 2 / RECTANGLE
    u = math.hypot(half, leaf_um / UM_A_MM / RECTANGLE)
    return MeasuredRadius((under_mm + over_mm) / 2, COVERAGE * u)


@dataclass(frozen=True)
class SlotWidths:
    """A slot's width at its four places: mean, least and greatest, what it opens from the front to the back and from
    the floor to the top, and U of each width, k = 2 [mm]."""

    widths_mm: Mapping[str, Decimal]
    mean_mm: Decimal
    along_mm: Decimal
    up_mm: Decimal
    u_mm: Decimal
    words: str


SLOT_PLACES = ("front top", "front bottom", "back top", "back bottom")


def slot_widths(*, goes_mm: Mapping[str, Decimal], step_mm: Decimal, block_u_mm: Decimal) -> SlotWidths:
    """Return what blocks in a slot tell: the size that goes at each place, one step more does not.

    Parameters
    ----------
    goes_mm : mapping
        For each of the four places, the largest stack that goes [mm].
    step_mm : Decimal
        The step to the one that does not [mm].
    block_u_mm : Decimal
        U of a stack, k = 2 [mm].

    Raises
    ------
    InputError
        If a place is missing.

    Notes
    -----
    The width is between the two: their middle, rectangular over the step. Taper is told from bell mouth by the two
    heights: a difference along of less than U is none.
    """
    missing = [place for place in SLOT_PLACES if place not in goes_mm]
    if missing:
        raise InputError("goes_mm", f"The {missing[0]} is missing: taper and bell mouth are told by four places.")
    widths = {place: goes_mm[place] + step_mm / 2 for place in SLOT_PLACES}
    u = Decimal(repr(round(math.hypot(COVERAGE * float(step_mm) / 2 / RECTANGLE, float(block_u_mm)), 7)))
    front = (widths["front top"] + widths["front bottom"]) / 2
    back = (widths["back top"] + widths["back bottom"]) / 2
    top = (widths["front top"] + widths["back top"]) / 2
    bottom = (widths["front bottom"] + widths["back bottom"]) / 2
    mean, along, up = sum(widths.values(), Decimal(0)) / 4, back - front, top - bottom
    return SlotWidths(widths, mean, along, up, u, _slot_words(along, up, u))


def _slot_words(along: Decimal, up: Decimal, u: Decimal) -> str:
    said = []
    if abs(along) > u:
        said.append(
            f"It tapers: the {'back' if along > 0 else 'front'} is wider, at both heights. Something lay under one end "
            "in one of the two settings."
        )
    if abs(up) > u:
        said.append(
            "Bell mouth: the top is wider at both ends. The wheel's side leans, or the plate's angle is not its "
            "complement."
            if up > 0
            else "The floor is wider than the mouth at both ends: the wheel's side leans the other way."
        )
    return " ".join(said) or "Neither taper nor bell mouth beyond what the blocks can tell."
