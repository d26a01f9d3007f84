"""Slips of ten and of 25.4: ask before a size that cannot be meant is accepted."""

import math
from dataclasses import dataclass
from decimal import Decimal

from zesty_lark.core.quantities.units import INCH_MM

SLIPS: tuple[tuple[Decimal, str], ...] = (
    (Decimal(10), "a slip of ten"),
    (INCH_MM, "inches and millimetres mixed up"),
    (Decimal(100), "two places off"),
    (Decimal(1000), "thousandths and whole units mixed up"),
)
"""The factors people slip by, and what each is called."""

CLOSE = Decimal("0.15")
"""How near (as a share) the corrected value must come to what was expected for the slip to be named."""


@dataclass(frozen=True)
class Doubt:
    """A size that does not fit the rest: what was probably meant, and why.

    Attributes
    ----------
    meant_mm : Decimal or None
        The likely value [mm], where one stands out.
    slip : str
        What kind of slip it looks like; empty when none is named.
    """

    meant_mm: Decimal | None
    slip: str


def doubt_against(value_mm: Decimal, expected_mm: Decimal) -> Doubt | None:
    """Return a doubt when ``value_mm`` is off from ``expected_mm`` by about 10, 25.4, 100 or 1000, either way.

    Both are positive lengths [mm]; a value within a factor of five is never doubted.
    """
    if value_mm <= 0 or expected_mm <= 0:
        return None
    ratio = value_mm / expected_mm
    if Decimal("0.2") < ratio < 5:
        return None
    best: tuple[float, Doubt] | None = None
    for factor, slip in SLIPS:
        meant = value_mm / factor if ratio > 1 else value_mm * factor
        miss = abs(math.log(float(meant / expected_mm)))
        if miss <= math.log(1 + float(CLOSE)) and (best is None or miss < best[0]):
            best = (miss, Doubt(meant, slip))
    return best[1] if best else None


def doubt_beyond(value_mm: Decimal, largest_mm: Decimal, expected_mm: Decimal | None = None) -> Doubt | None:
    """Return a doubt when ``value_mm`` is beyond the largest the machine can take [mm].

    The correction that comes nearest ``expected_mm`` is proposed; without one, two places off if that is
    a usual size, else the first that fits.
    """
    if value_mm <= largest_mm:
        return None
    fits = [(value_mm / factor, slip) for factor, slip in SLIPS if value_mm / factor <= largest_mm]
    if not fits:
        return Doubt(None, "")
    if expected_mm is not None and expected_mm > 0:
        wanted = float(expected_mm)
        meant, slip = min(fits, key=lambda fit: abs(math.log(float(fit[0]) / wanted)))
        return Doubt(meant, slip)
    return Doubt(*fits[0])
