"""Angles: decimal degrees inside, degrees-minutes-seconds as people write them."""

import re

from zesty_lark.core.quantities.numbers import InputError

_DMS = re.compile(
    r"""^\s*([-+−]?)\s*(\d+(?:\.\d+)?)\s*°?\s*
                      (?:(?<=[°\s])\s*(\d+(?:\.\d+)?)\s*[′'’]?\s*(?:(?<=[′'’\s])\s*(\d+(?:\.\d+)?)\s*[″"”]?)?)?\s*$""",
    re.VERBOSE,
)
SECONDS = 3600


def parse_angle(text: str, field: str = "angle_deg") -> float:
    """Read an angle such as ``17.5``, ``17°30'``, ``17 30 00`` or ``85°01'04"`` [°].

    Raises
    ------
    InputError
        If it is no angle, or its minutes or seconds are 60 or more.
    """
    match = _DMS.match(text)
    if match is None:
        raise InputError(field, f"“{text}” is not an angle; write degrees such as 17.5 or 17°30'")
    sign, degrees, minutes, seconds = match[1], float(match[2]), float(match[3] or 0), float(match[4] or 0)
    if minutes >= 60 or seconds >= 60:
        raise InputError(field, f"“{text}” has 60 or more minutes or seconds")
    value = degrees + minutes / 60 + seconds / SECONDS
    return -value if sign in ("-", "−") else value


def dms_text(angle_deg: float) -> str:
    """Write an angle as ``11°18'48"``, seconds rounded with carry."""
    total = round(abs(angle_deg) * SECONDS)
    sign = "-" if angle_deg < 0 and total else ""
    return f"{sign}{total // SECONDS}°{total % SECONDS // 60:02d}'{total % 60:02d}\""
