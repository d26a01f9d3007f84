"""Exact lengths: read what people type, write it for the print or the dial.

Every length is a ``Decimal`` in millimetres; 1 in = 25.4 mm exactly (ISO 80000-3).
"""

import math
import re
from decimal import ROUND_HALF_EVEN, Decimal, InvalidOperation
from fractions import Fraction
from typing import Literal

Unit = Literal["mm", "in"]

INCH_MM = Decimal("25.4")
THOU_MM = Decimal("0.0254")
TENTH_MM = Decimal("0.00254")
MICROMETRE_MM = Decimal("0.001")
UM_A_MM = 1000.0
SMALLEST_MM = Decimal("0.0000001")
"""The finest length that is kept, one ten-thousandth of a micrometre [mm]."""

LARGEST_MM = Decimal("999999")

_FACTORS: dict[str, Decimal] = {
    "mm": Decimal(1),
    "cm": Decimal(10),
    "m": Decimal(1000),
    "um": MICROMETRE_MM,
    "µm": MICROMETRE_MM,
    "μm": MICROMETRE_MM,
    "micron": MICROMETRE_MM,
    "microns": MICROMETRE_MM,
    "in": INCH_MM,
    "inch": INCH_MM,
    "inches": INCH_MM,
    '"': INCH_MM,
    "″": INCH_MM,
    "thou": THOU_MM,
    "thous": THOU_MM,
    "tenth": TENTH_MM,
    "tenths": TENTH_MM,
}
_NUMBER = re.compile(
    r"""^(?P<sign>[-+−]?)\s*
        (?: (?P<whole>\d+)[\s-]+(?P<mixed>\d+/\d+) | (?P<fraction>\d+/\d+) | (?P<decimal>\d+\.?\d*|\.\d+) )
        \s*(?P<unit>[^\d\s.].*)?$""",
    re.VERBOSE,
)


class LengthError(ValueError):
    """What was typed is no length; the message is a sentence for the person who typed it."""


def parse_length(text: str, unit: Unit) -> Decimal:
    """Read a length as people write it.

    Parameters
    ----------
    text : str
        ``0.0004``, ``4 tenths``, ``2.5 thou``, ``12 um``, ``3/8``, ``1 3/8 in``, ``18 mm`` ...
    unit : {"mm", "in"}
        What a number without a unit is in.

    Returns
    -------
    Decimal
        The exact length [mm].

    Raises
    ------
    LengthError
        If it is no length, has an unknown unit, or cannot be kept exactly.
    """
    typed = text.strip()
    if not typed:
        raise LengthError("A length is needed here.")
    if len(typed) > 40:
        raise LengthError("That is too long for a length.")
    if "," in typed:
        raise LengthError(f"Write {typed.replace(',', '.')!s} with a point: a comma could mean thousands.")
    match = _NUMBER.match(typed)
    if match is None:
        raise LengthError(f"“{typed}” is not a length. Write a number, such as {_example(unit)}.")
    suffix = (match["unit"] or unit).strip().lower()
    if suffix not in _FACTORS:
        raise LengthError(f"“{match['unit']}” is not a unit of length here. Use mm, µm, in, thou or tenths.")
    value = _value(match) * Fraction(_FACTORS[suffix])
    return _exact(-value if match["sign"] in ("-", "−") else value, typed)


def _value(match: re.Match[str]) -> Fraction:
    try:
        if match["mixed"]:
            return int(match["whole"]) + Fraction(match["mixed"])
        return Fraction(match["fraction"] or match["decimal"])
    except (ZeroDivisionError, InvalidOperation) as error:
        raise LengthError("A fraction cannot have 0 below the line.") from error


def _exact(value: Fraction, typed: str) -> Decimal:
    if abs(value) > LARGEST_MM:
        raise LengthError(f"“{typed}” is far larger than any part. Check the number and its unit.")
    scaled = value / Fraction(SMALLEST_MM)
    if scaled.denominator != 1:
        raise LengthError(f"“{typed}” cannot be kept exactly. Write it as a decimal with fewer places.")
    return Decimal(scaled.numerator) * SMALLEST_MM


def _example(unit: Unit) -> str:
    return "22.004 or 4 tenths" if unit == "mm" else "0.8662, 3/8 or 4 tenths"


def _fixed(value: Decimal, places: int) -> str:
    text = f"{value.quantize(Decimal(1).scaleb(-places), ROUND_HALF_EVEN):f}"
    return text[1:] if text.startswith("-") and not text.strip("-0.") else text


def _between(value: Decimal, least: int, most: int) -> str:
    """Write ``value`` with at least ``least`` and at most ``most`` decimals."""
    text = _fixed(value, most)
    while len(text.partition(".")[2]) > least and text.endswith("0"):
        text = text[:-1]
    return text.removesuffix(".")


def micrometres(mm: Decimal) -> float:
    """Return a length in micrometres."""
    return float(mm * 1000)


def size_text(mm: Decimal, unit: Unit, *, with_unit: bool = False) -> str:
    """Write a size: 22.0041 [mm] with three to four places, 0.86618 [in] with four to five."""
    text = _between(mm, 3, 4) if unit == "mm" else _between(mm / INCH_MM, 4, 5)
    return f"{text} {unit}" if with_unit else text


def small_text(mm: Decimal, unit: Unit) -> str:
    """Write a small amount with its unit: ``0.203 mm`` or ``8.0 thou``; under a thou, ``1.6 tenths``."""
    if unit == "mm":
        return f"{_between(mm, 3, 4)} mm"
    if mm and abs(mm) < THOU_MM:
        tenths = _between(mm / TENTH_MM, 0, 1)
        return f"{tenths} tenth" if tenths == "1" else f"{tenths} tenths"
    return f"{_between(mm / THOU_MM, 1, 2)} thou"


def dial_places(graduation_mm: Decimal, unit: Unit) -> int:
    """Return how many decimals a graduation takes, in thou on an inch dial or mm on a metric one."""
    step = graduation_mm / (THOU_MM if unit == "in" else 1)
    exponent = step.normalize().as_tuple().exponent
    return min(5, max(0, -int(exponent))) if isinstance(exponent, int) else 0


def dial_text(mm: Decimal, unit: Unit, graduation_mm: Decimal) -> str:
    """Write a collar reading to its graduation: ``3.4`` [thou] on an inch dial, ``0.086`` [mm] on a metric one."""
    places = dial_places(graduation_mm, unit)
    return _fixed(mm / THOU_MM if unit == "in" else mm, places)


def step_text(mm: Decimal, unit: Unit, graduation_mm: Decimal) -> str:
    """Write a step of the dial with the word the dial is read in: ``0.5 thou`` or ``0.012 mm``."""
    return f"{dial_text(mm, unit, graduation_mm)} {'thou' if unit == 'in' else 'mm'}"


FOOT_A_MINUTE_MM_S = Decimal("304.8") / 60
METRE_A_MINUTE_MM_S = Decimal(1000) / 60
MICROINCH_MM = Decimal("0.0000254")


def other_unit(unit: Unit) -> Unit:
    """Return the other system."""
    return "in" if unit == "mm" else "mm"


def crossfeed_number(mm: Decimal, unit: Unit) -> str:
    """Write a side step in thou or mm, without its unit."""
    if unit == "mm":
        return _between(mm, 0, 2)
    return _between(mm / THOU_MM, 0, 1 if mm < 10 * THOU_MM else 0)


def crossfeed_text(mm: Decimal, unit: Unit) -> str:
    """Write a side step as the machine speaks: ``39 thou`` or ``1 mm``."""
    return f"{crossfeed_number(mm, unit)} {'thou' if unit == 'in' else 'mm'}"


SPEED_UNIT: dict[Unit, str] = {"in": "ft/min", "mm": "m/min"}
"""What a table speed is told in."""


def speed_number(mm_s: Decimal, unit: Unit) -> str:
    """Write a table speed in ft/min or m/min, without its unit."""
    return _between(mm_s / FOOT_A_MINUTE_MM_S, 0, 0) if unit == "in" else _between(mm_s / METRE_A_MINUTE_MM_S, 1, 1)


def speed_text(mm_s: Decimal, unit: Unit) -> str:
    """Write a table speed as the machine speaks: ``59 ft/min`` or ``18.0 m/min``."""
    return f"{speed_number(mm_s, unit)} {SPEED_UNIT[unit]}"


LEADS_WITH_ONE = 2
UM_A_MICROINCH = 0.0254


def known_text(value: float, unsure: float, *, down: bool = False, places: int = 3) -> str:
    """Write a figure with no more digits than what is known of it bears: to the place of what it may be off by, one
    place more where that begins with a 1.

    Parameters
    ----------
    value, unsure : float
        The figure, and by what share of itself it may be off.
    down : bool
        Never write more than it is: a safety.
    places : int
        No more decimals than this, however small it is.
    """
    off = abs(value) * unsure
    if not off or not math.isfinite(off):
        return f"{value:.0f}"
    place = math.floor(math.log10(off) + 1e-9)
    place -= 1 if off / 10**place < LEADS_WITH_ONE else 0
    place = max(place, -places)
    step = 10.0**place
    whole = math.floor(value / step + 1e-9) if down else round(value / step)
    if not whole:
        return "0"
    return f"{whole * step:.{max(0, -place)}f}"


def fine_text(um: float, unit: Unit) -> str:
    """Write micrometres of form or roughness: ``0.35 µm`` or ``14 µin``."""
    if unit == "mm":
        return f"{um:.2f} µm"
    microinches = um / UM_A_MICROINCH
    return f"{microinches:.0f} µin" if microinches >= 10 else f"{microinches:.1f} µin"


def parse_roughness(text: str, unit: Unit) -> Decimal:
    """Read a roughness Ra as the print has it: a bare number is in µm on a metric print, in µin on an inch one [µm].

    Raises
    ------
    LengthError
        If it is no roughness.
    """
    typed = text.strip().lower().replace("μ", "µ").removeprefix("ra").strip()
    for suffix, chosen in (("µin", "in"), ("uin", "in"), ("µm", "mm"), ("um", "mm")):
        if typed.endswith(suffix):
            typed, unit = typed.removesuffix(suffix).strip(), chosen  # type: ignore[assignment]
            break
    if not re.fullmatch(r"\d{1,4}(\.\d{1,5})?|\.\d{1,5}", typed):
        raise LengthError("Write a roughness as a number, such as 0.8 µm or 32 µin.")
    value = Decimal(typed)
    return value * MICROINCH_MM * 1000 if unit == "in" else value
