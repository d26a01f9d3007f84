"""What a shop measures with: gauges, how they are connected, and sets of gauge blocks."""

import re
from collections.abc import Mapping
from datetime import date
from decimal import Decimal
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator
from pydantic.dataclasses import dataclass as checked

from zesty_lark.core.quantities.kept_types import (
    STRICT,
    Amount,
    Contradictions,
    Extent,
    Name,
    Resolved,
    UnitName,
    refuse,
)

Reads = Literal["sizes", "deviations"]
READS: dict[Reads, str] = {
    "sizes": "Sizes, such as a micrometer",
    "deviations": "Deviations, such as a lever indicator",
}
Sends = Literal["mm", "in", "um"]
SENDS: dict[Sends, str] = {"mm": "mm", "in": "inches", "um": "µm"}
PORT = re.compile(r"socket://[^\s/]+:\d{1,5}|/dev/tty(USB|ACM|S)\d{1,4}|/dev/serial/by-id/[\w.:-]+")
"""What an address that readings may come from looks like: a serial port, or a host and a port. Others are not read."""
GAUGE_PORT = 8421
"""Where the simulated gauge listens unless it is told otherwise."""


def instrument_contradictions(of: Mapping[str, Any]) -> Contradictions:
    """Return what of an instrument does not go together, by field, in words."""
    said: Contradictions = {}
    if of["most_mm"] <= of["least_mm"]:
        said["most_mm"] = "The range ends before it begins."
    if of["due_on"] < of["calibrated_on"]:
        said["due_on"] = "It cannot be due before it was calibrated."
    port = of.get("port") or ""
    if port and not PORT.fullmatch(port):
        said["port"] = "This is no address readings come from: /dev/ttyUSB0, /dev/serial/by-id/… or socket://host:port."
    if of.get("simulated") and not port.startswith("socket://127.0.0.1:"):
        said["simulated"] = "The simulated gauge listens on this machine: socket://127.0.0.1: and its port."
    return said


@checked(frozen=True, config=STRICT)
class Instrument:
    """An instrument: its range and what it brings to the uncertainty [mm], calibrated and due when.

    Attributes
    ----------
    reads : {"sizes", "deviations"}
        A lever indicator reads deviations from where it was set.
    port : str or None
        Where its readings come from, as a serial port or an address; ``None`` when they are typed.
    baud : int
    sends : {"mm", "in", "um"}
        The unit of its numbers; a line that says another is refused.
    asks : str
        What is sent to make it send; empty when it sends by itself: each time its button is pressed, or all the time.
    streams : bool
        It sends all the time: what it sends is shown, and taken by a key.
    falls : bool
        Its reading falls when the surface rises.
    simulated : bool
        It is the simulated gauge, which is told where its probe stands.
    """

    name: Name
    unit: UnitName
    least_mm: Amount
    most_mm: Extent
    resolution_mm: Resolved
    error_limit_mm: Amount
    calibration_u_mm: Amount
    repeatability_mm: Amount
    calibrated_on: date
    due_on: date
    reads: Reads = "sizes"
    port: Annotated[str, Field(max_length=200)] | None = None
    baud: Annotated[int, Field(ge=50, le=4_000_000)] = 9600
    sends: Sends = "mm"
    asks: Annotated[str, Field(max_length=20)] = ""
    falls: bool = False
    simulated: bool = False
    streams: bool = False

    @model_validator(mode="after")
    def _goes_together(self) -> "Instrument":
        refuse(self, instrument_contradictions)
        return self

    @property
    def travel_mm(self) -> Decimal:
        """How far it can read from where it was set [mm]."""
        return self.most_mm - self.least_mm
