"""A sine plate's setting from blocks that are there: the stack, what it is off, and the angle that makes."""

import math
from dataclasses import dataclass
from decimal import Decimal
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Lt, MaxLen

from zesty_lark.core.angles_slots.blocks import SetName, Stack, gauge_stack, sine_stack
from zesty_lark.core.quantities.angles import dms_text
from zesty_lark.core.quantities.numbers import ExactPositive, InputError, Positive

STEEPEST_DEG = 60.0
MM_A_UNIT = {"mm": Decimal(1), "in": Decimal("25.4")}
FINEST = {"mm": Decimal("0.00001"), "in": Decimal("0.000001")}


@dataclass(frozen=True)
class SineSetting:
    """A setting.

    Attributes
    ----------
    height_mm : float
        What the stack should be.
    stack : Stack
        What it is, in the set's unit, large to small as it is wrung.
    stack_mm : float
    error_um, error_arcsec : float
        What the stack is over, and what that does to the angle.
    set_deg, set_words : float, str
        The angle that it makes.
    from_other_side : bool
        The complement is set: the part stands with its other face on the plate, which has to be square.
    complement_mm : float or None
        Above 45° the stack for the complement.
    """

    height_mm: float
    stack: Stack
    stack_mm: float
    error_um: float
    error_arcsec: float
    set_deg: float
    set_words: str
    from_other_side: bool
    complement_mm: float | None


def sine_setting(
    *,
    centres_mm: Positive,
    angle_deg: Annotated[float, Gt(0), Lt(90)],
    unit: Literal["mm", "in"] = "mm",
    set: SetName | None = None,
    blocks: Annotated[list[ExactPositive], MaxLen(300)] | None = None,
    missing: Annotated[list[ExactPositive], MaxLen(300)] | None = None,
) -> SineSetting:
    """Set a sine plate from a set of gauge blocks, or from the shop's own list.

    Parameters
    ----------
    centres_mm, angle_deg : float
        Of the rolls [mm], and the angle wanted [°]; over 60° its complement is set.
    unit, set, blocks, missing
        As ``gauge.stack`` takes them.

    Raises
    ------
    InputError
        If there are no blocks, or they do not reach anywhere near.
    """
    other = angle_deg > STEEPEST_DEG
    wanted = sine_stack(centres_mm=centres_mm, angle_deg=90 - angle_deg if other else angle_deg)
    target = (Decimal(repr(wanted.height_mm)) / MM_A_UNIT[unit]).quantize(FINEST[unit])
    if target <= 0:
        raise InputError("angle_deg", "angle_deg must be more than that: the stack would be thinner than any block")
    stack = gauge_stack(target=target, unit=unit, set=set, blocks=blocks, missing=missing)
    stack_mm = float(stack.sum * MM_A_UNIT[unit])
    if stack_mm >= centres_mm:
        raise InputError("blocks", "blocks must reach lower: the lowest stack is over the distance of the rolls")
    made = math.degrees(math.asin(stack_mm / centres_mm))
    error = (stack_mm - wanted.height_mm) * 1000
    shown = 90 - made if other else made
    return SineSetting(
        wanted.height_mm, stack, stack_mm, error, error * wanted.arcsec_per_um, shown, dms_text(shown), other,
        wanted.complement_height_mm,
    )  # fmt: skip


@dataclass(frozen=True)
class SineChecked:
    """What a plate stands at as it was checked back [°], how far that is off [″], and what the stack lacks [mm]."""

    stands_deg: float
    stands_words: str
    off_arcsec: float
    change_mm: float


def sine_checked(
    *,
    centres_mm: Positive,
    angle_deg: Annotated[float, Gt(0), Lt(90)],
    rise_um: Annotated[float, Ge(-1e4), Le(1e4)],
    over_mm: Positive,
) -> SineChecked:
    """Check a sine plate back: an indicator over a master of the angle, which should lie level on it.

    Parameters
    ----------
    centres_mm, angle_deg : float
        Of the rolls [mm], and the angle of the master [°].
    rise_um, over_mm : float
        How much higher it reads at the plate's upper end [µm], over which length [mm].

    Notes
    -----
    What rises by rise/over stands by its arc tangent too steep; the stack lacks centres·(sin wanted − sin stands).
    """
    off = math.degrees(math.atan2(rise_um / 1000, over_mm))
    stands = angle_deg + off
    change = centres_mm * (math.sin(math.radians(angle_deg)) - math.sin(math.radians(stands)))
    return SineChecked(stands, dms_text(stands), off * 3600, change)
