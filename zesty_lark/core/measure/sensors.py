"""What reads a machine while it works: a digital readout's position, a power meter on the spindle."""

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator
from pydantic.dataclasses import dataclass as checked

from zesty_lark.core.measure.instruments import PORT
from zesty_lark.core.quantities.kept_types import STRICT, Contradictions, Name, refuse

SensorKind = Literal["position", "power"]
SENSOR_KINDS: dict[SensorKind, str] = {"position": "Digital readout, downfeed", "power": "Power meter, spindle"}
SensorUnit = Literal["mm", "in", "um", "W", "kW"]
SENSOR_UNITS: dict[SensorUnit, str] = {"mm": "mm", "in": "inches", "um": "µm", "W": "watts", "kW": "kilowatts"}
OF_LENGTH = ("mm", "in", "um")
GRINDER_PORT = 8422
"""Where the simulated grinder's readout listens unless told otherwise; its meter and its gauge have the next two."""


def sensor_contradictions(of: Mapping[str, Any]) -> Contradictions:
    """Return what of a sensor does not go together, by field, in words."""
    said: Contradictions = {}
    if (of["kind"] == "position") != (of["sends"] in OF_LENGTH):
        said["sends"] = "A readout sends a length, a power meter watts or kilowatts."
    if not PORT.fullmatch(of.get("port") or ""):
        said["port"] = "This is no address readings come from: /dev/ttyUSB0, /dev/serial/by-id/… or socket://host:port."
    elif of.get("simulated") and not of["port"].startswith("socket://127.0.0.1:"):
        said["simulated"] = "The simulated grinder listens on this machine: socket://127.0.0.1: and its port."
    return said


@checked(frozen=True, config=STRICT)
class Sensor:
    """A readout or a power meter: where its readings come from, the unit of its numbers, what is sent to make it send
    (empty when it sends by itself), whether a readout's number rises as the wheel goes down, and whether it is the
    simulated grinder's."""

    name: Name
    kind: SensorKind
    port: Annotated[str, Field(max_length=200)]
    sends: SensorUnit
    baud: Annotated[int, Field(ge=50, le=4_000_000)] = 9600
    asks: Annotated[str, Field(max_length=20)] = ""
    rises: bool = True
    simulated: bool = False

    @model_validator(mode="after")
    def _goes_together(self) -> "Sensor":
        refuse(self, sensor_contradictions)
        return self

    @property
    def streams(self) -> bool:
        """It shows what it reads; nothing is pressed on it."""
        return True
