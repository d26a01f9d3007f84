"""A line as a gauge sends it: what it says, or what is wrong with it."""

import re
from decimal import Decimal
from typing import Literal

from zesty_lark.core.instruments import SENDS, Instrument
from zesty_lark.core.units import INCH_MM, MICROMETRE_MM

__all__ = ["Fault", "SignalError", "read_line"]

Fault = Literal["garbled", "wrong unit", "out of range", "silent", "unplugged"]
LINE = re.compile(r"\s*(?:[A-Za-z]{1,4}[ :=]\s*)?([+-]?\d{1,9}(?:\.\d{1,9})?)\s*(mm|in|um|µm)?\s*")
LONGEST = 80
UNIT_MM = {"mm": Decimal(1), "in": INCH_MM, "um": MICROMETRE_MM}


class SignalError(ValueError):
    """A line that gives no reading; ``fault`` says which kind, the message what to do."""

    def __init__(self, fault: Fault, message: str) -> None:
        super().__init__(message)
        self.fault = fault


def read_line(line: bytes, gauge: Instrument) -> Decimal:
    """Return what a gauge's line says [mm], + when the surface is higher; never a guess.

    Raises
    ------
    SignalError
        If the line is garbled, in another unit than the gauge is set down with, or beyond its range.
    """
    found = LINE.fullmatch(line.decode("utf-8", "replace").strip()) if len(line) <= LONGEST else None
    if found is None:
        shown = line[:20].decode("ascii", "replace")
        raise SignalError("garbled", f"{gauge.name} sent “{shown}”: no reading. Check its cable and its speed.")
    said = (found[2] or gauge.sends).replace("µ", "u")
    if said != gauge.sends:
        raise SignalError(
            "wrong unit",
            f"{gauge.name} sends {_unit_words(said)}, and is set down with {_unit_words(gauge.sends)}. Switch it over; "
            "nothing was taken.",
        )
    value = Decimal(found[1]) * UNIT_MM[said] * (-1 if gauge.falls else 1)
    inside = abs(value) <= gauge.travel_mm if gauge.reads == "deviations" else gauge.least_mm <= value <= gauge.most_mm
    if not inside:
        raise SignalError(
            "out of range", f"{gauge.name} shows {found[1]} {_unit_words(said)}: beyond its range. Set it again."
        )
    return value


def _unit_words(unit: str) -> str:
    return SENDS.get(unit, unit)  # type: ignore[call-overload, no-any-return]
