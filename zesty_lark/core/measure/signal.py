"""A line as a gauge, a readout or a power meter sends it: what it says, or what is wrong with it."""

import re
from decimal import Decimal
from typing import Literal

from zesty_lark.core.measure.instruments import SENDS, Instrument
from zesty_lark.core.measure.sensors import SENSOR_UNITS, Sensor
from zesty_lark.core.quantities.units import INCH_MM, MICROMETRE_MM

Fault = Literal["garbled", "wrong unit", "out of range", "silent", "unplugged"]
LINE = re.compile(r"\s*(?:[A-Za-z]{1,4}[ :=]\s*)?([+-]?\d{1,9}(?:\.\d{1,9})?)\s*(mm|in|um|µm)?\s*")
SENSED = re.compile(r"\s*(?:[A-Za-z]{1,4}[ :=]\s*)?([+-]?\d{1,9}(?:\.\d{1,9})?)\s*(mm|in|um|µm|kW|W)?\s*")
LONGEST = 80
UNIT_MM = {"mm": Decimal(1), "in": INCH_MM, "um": MICROMETRE_MM}
SENSED_IN = UNIT_MM | {"W": Decimal(1), "kW": Decimal(1000)}


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
    number, unit = _number(LINE, line, gauge.name, gauge.sends)
    value = number * UNIT_MM[unit] * (-1 if gauge.falls else 1)
    inside = abs(value) <= gauge.travel_mm if gauge.reads == "deviations" else gauge.least_mm <= value <= gauge.most_mm
    if not inside:
        raise SignalError(
            "out of range", f"{gauge.name} shows {number} {_unit_words(unit)}: beyond its range. Set it again."
        )
    return value


def read_sensor(line: bytes, sensor: Sensor) -> Decimal:
    """Return what a machine's readout or power meter says: a position [mm], + further down, or a power [W].

    Raises
    ------
    SignalError
        If the line is garbled, in another unit than the sensor is set down with, or a power under nothing.
    """
    number, unit = _number(SENSED, line, sensor.name, sensor.sends)
    value = number * SENSED_IN[unit]
    if sensor.kind == "power" and value < 0:
        raise SignalError("out of range", f"{sensor.name} shows {number}: a spindle takes no power under nothing.")
    return value if sensor.rises or sensor.kind == "power" else -value


def _number(pattern: re.Pattern[str], line: bytes, name: str, sends: str) -> tuple[Decimal, str]:
    """The number of a whole line and its unit, which is the one that is set down."""
    match = pattern.fullmatch(line.decode("utf-8", "replace").strip()) if len(line) <= LONGEST else None
    if match is None:
        raise SignalError("garbled", f"{name} sends no readings. Check its cable, its speed, and that it is a gauge.")
    said = (match[2] or sends).replace("µ", "u")
    if said != sends:
        raise SignalError(
            "wrong unit",
            f"{name} sends {_unit_words(said)}, and is set down with {_unit_words(sends)}. Switch it over; nothing "
            "was taken.",
        )
    return Decimal(match[1]), said


def _unit_words(unit: str) -> str:
    words: dict[str, str] = {**SENSOR_UNITS, **SENDS}  # type: ignore[dict-item]
    return words.get(unit, unit)
