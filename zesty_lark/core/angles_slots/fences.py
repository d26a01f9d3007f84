"""A chuck's fence ground in place, rails made coplanar, parallels shimmed level."""

import math
from dataclasses import dataclass
from decimal import ROUND_CEILING, Decimal
from typing import Annotated

from annotated_types import Ge, Gt, Le, MaxLen, MinLen

from zesty_lark.core.angles_slots.slot_ways import SIDE_ETA
from zesty_lark.core.process.springs import spark_passes_needed
from zesty_lark.core.quantities.numbers import ExactNonNegative, Graduation, NonNegative, Positive
from zesty_lark.core.quantities.units import UM_A_MM

RELIEF_DEG = 1.0
"""The wheel's back is relieved by so much, so that only its edge cuts."""
SECONDS = 3600.0
Um = Annotated[float, Ge(-5000), Le(5000)]


@dataclass(frozen=True)
class FencePlan:
    """A fence as it was swept, and how it is ground in place.

    Attributes
    ----------
    out_um, slope_um_100 : float
        Highest less lowest reading; how it runs out, least squares [µm per 100 mm].
    stock_mm : Decimal
        To take at its highest place: what it is out, and the skin, in whole graduations [mm].
    step_mm : Decimal
        Each infeed: the finest the dial has [mm].
    steps, last_steps, spark_passes : int
        Infeeds in all; how many of them come after the wheel was dressed again; passes without feed after them.
    behind_mm : float
        How far the relieved back clears the fence at its top [mm].
    """

    out_um: float
    slope_um_100: float
    stock_mm: Decimal
    step_mm: Decimal
    steps: int
    last_steps: int
    spark_passes: int
    behind_mm: float


@dataclass(frozen=True)
class RailsPlan:
    """Two rails or parallels by their heights at both ends.

    Attributes
    ----------
    coplanar_um : float
        The least distance of two planes that hold all four ends: the twist between them [µm].
    shim_um : float
        What lifts the lower rail to the other, its middle to its middle [µm].
    lower : str
        Which one: front or back; empty when they are level.
    lean_arcsec, out_um : float
        How a part leans across them, and what that is over its width [″] [µm].
    stock_um : list of float
        What comes off each end when both are ground in one pass: front left, front right, back left, back right [µm].
    """

    coplanar_um: float
    shim_um: float
    lower: str
    lean_arcsec: float
    out_um: float
    stock_um: list[float]


def fence_plan(
    *,
    readings_um: Annotated[list[Um], MinLen(2), MaxLen(60)],
    length_mm: Positive,
    height_mm: Positive,
    graduation_mm: Graduation,
    skin_mm: ExactNonNegative = Decimal("0.003"),
    allow_um: Annotated[float, Gt(0), Le(100)] = 0.5,
) -> FencePlan:
    """Plan the grinding in place of a chuck's fence.

    Parameters
    ----------
    readings_um : list of float
        An indicator on the wheel head along the fence, at even places from end to end, + towards the front [µm].
    length_mm, height_mm : float
        Of the fence [mm].
    graduation_mm : Decimal
        Of the dial that feeds across [mm].
    skin_mm : Decimal
        Below clean-up [mm].
    allow_um : float
        What may be left in the springs [µm].

    Notes
    -----
    Light cuts with the relieved edge, η of a wheel pushed sideways; the wheel is dressed again before the last skin.
    """
    count = len(readings_um)
    places = [length_mm * number / (count - 1) for number in range(count)]
    middle, mean = length_mm / 2, sum(readings_um) / count
    slope = sum((x - middle) * (z - mean) for x, z in zip(places, readings_um, strict=True)) / sum(
        (x - middle) ** 2 for x in places
    )
    out = max(readings_um) - min(readings_um)
    wanted = Decimal(repr(round(out / UM_A_MM, 7))) + skin_mm
    steps = max(1, int((wanted / graduation_mm).to_integral_value(ROUND_CEILING)))
    last = min(steps, max(1, int((skin_mm / graduation_mm).to_integral_value(ROUND_CEILING))))
    sparks = spark_passes_needed(
        step_mm=float(graduation_mm), steps=min(steps, 1000), cut_ratio=SIDE_ETA, allow_mm=allow_um / UM_A_MM
    )
    behind = height_mm * math.tan(math.radians(RELIEF_DEG))
    return FencePlan(out, slope * 100, steps * graduation_mm, graduation_mm, steps, last, sparks, behind)


def rails_level(
    *,
    front_left_um: Um,
    front_right_um: Um,
    back_left_um: Um,
    back_right_um: Um,
    span_mm: Positive,
    part_width_mm: Positive,
    skin_um: NonNegative = 3.0,
) -> RailsPlan:
    """Compare two rails or parallels by their heights at both ends, from one zero [µm].

    Parameters
    ----------
    front_left_um, front_right_um, back_left_um, back_right_um : float
        Read from one zero [µm].
    span_mm, part_width_mm : float
        From rail to rail, and the part across them [mm].
    skin_um : float
        Below the lowest end, where both are ground in one pass [µm].

    Notes
    -----
    Four ends are in one plane but for the twist: half the difference of the two sums of diagonals. Two rails of one
    pass are coplanar; a shim under the lower one makes two parallels of one height.
    """
    ends = [front_left_um, front_right_um, back_left_um, back_right_um]
    twist = abs(front_left_um + back_right_um - front_right_um - back_left_um) / 2
    front, back = (front_left_um + front_right_um) / 2, (back_left_um + back_right_um) / 2
    lean = math.atan2(back - front, span_mm * UM_A_MM)
    lower = "" if front == back else "front" if front < back else "back"
    floor = min(ends) - skin_um
    return RailsPlan(
        twist,
        abs(front - back),
        lower,
        math.degrees(lean) * SECONDS,
        math.tan(lean) * part_width_mm * UM_A_MM,
        [each - floor for each in ends],
    )
