"""What is left of a wheel, and what its use has cost."""

import math
from dataclasses import dataclass
from typing import Literal

from zesty_lark.core.quantities.numbers import InputError, NonNegative, Positive, Whole
from zesty_lark.core.wheel.fitting import NEARLY_WORN

USUAL_DRESS_MM = 0.07
"""What a dress takes off the radius until the log knows better [mm]: a cut of 0.02 mm and 0.05 more."""


@dataclass(frozen=True)
class WheelLife:
    """What is left.

    Attributes
    ----------
    share_left : float
        Of its usable radius.
    radius_left_mm : float
    dresses_left : int
        At what its dresses took so far on average.
    state : {"new", "in use", "nearly worn", "worn out"}
    cost_used : float or None
        Of its price, by what is worn away.
    cost_a_cm3 : float or None
        For each cubic centimetre ground.
    """

    share_left: float
    radius_left_mm: float
    dresses_left: int
    state: Literal["new", "in use", "nearly worn", "worn out"]
    cost_used: float | None
    cost_a_cm3: float | None


def wheel_life(
    *,
    new_diameter_mm: Positive,
    diameter_mm: Positive,
    least_diameter_mm: Positive,
    dresses: Whole = 0,
    taken_off_mm: NonNegative = 0.0,
    ground_mm3: NonNegative = 0.0,
    price: NonNegative | None = None,
) -> WheelLife:
    """Tell what is left of a wheel.

    Parameters
    ----------
    new_diameter_mm, diameter_mm, least_diameter_mm : float
        As it came, now, and where it is worn out: what flange and guard leave of it [mm].
    dresses, taken_off_mm : int, float
        How many are logged, and what they took off the radius in all [mm].
    ground_mm3 : float
        What it has ground while they were [mm³].
    price : float, optional
        What it cost, in the shop's money.

    Raises
    ------
    InputError
        If the diameters are not in that order.
    """
    if not least_diameter_mm < new_diameter_mm:
        raise InputError(
            "least_diameter_mm", f"least_diameter_mm must be under {new_diameter_mm:g}, its diameter when new"
        )
    if diameter_mm > new_diameter_mm:
        raise InputError("diameter_mm", f"diameter_mm must be at most {new_diameter_mm:g}, as it was when new")
    whole = (new_diameter_mm - least_diameter_mm) / 2
    left = max((diameter_mm - least_diameter_mm) / 2, 0.0)
    gone = whole - min(left, whole)
    a_dress = taken_off_mm / dresses if dresses and taken_off_mm > 0 else USUAL_DRESS_MM
    share = left / whole
    state: Literal["new", "in use", "nearly worn", "worn out"] = (
        "worn out" if left <= 0 else "nearly worn" if share < NEARLY_WORN else "in use" if gone > 0 else "new"
    )
    cost = None if price is None else price * gone / whole
    a_cm3 = None if price is None or ground_mm3 <= 0 else price * taken_off_mm / whole / (ground_mm3 / 1000)
    return WheelLife(share, left, math.floor(left / a_dress + 1e-9), state, cost, a_cm3)
