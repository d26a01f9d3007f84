"""Chatter: from the pitch on the work to what turns at that frequency."""

from dataclasses import dataclass, field
from typing import Annotated

from annotated_types import MaxLen, MinLen

from zesty_lark.core.quantities.numbers import InputError, Positive, Rpm

NEAR = 0.1
MOST_SOURCES = 20


@dataclass(frozen=True)
class Source:
    """Something on the machine's page that turns or hums, and its frequency [Hz]."""

    name: Annotated[str, MinLen(1), MaxLen(80)]
    hz: Positive


@dataclass(frozen=True)
class Chatter:
    """Frequency [Hz], how many to a turn of the wheel, and what that points to."""

    hz: float
    per_rev: float
    points_to: str
    candidates: list[str] = field(default_factory=list)


def identify(
    *,
    pitch_mm: Positive,
    table_mm_s: Positive,
    wheel_rpm: Rpm,
    sources: Annotated[list[Source], MaxLen(100)] | None = None,
) -> Chatter:
    """Tell what ripples of a pitch [mm] at a table speed [mm/s] come from: f = v/pitch, per turn = f·60/rpm."""
    hz = table_mm_s / pitch_mm
    per_rev = hz * 60 / wheel_rpm
    if abs(per_rev - 1) <= NEAR:
        points_to = "the wheel: once per turn, out of balance or not round"
    elif abs(per_rev - 2) <= NEAR:
        points_to = "an oval wheel, or a part that is two-lobed"
    else:
        points_to = "something else that turns or hums: compare with motor, pump, belt and mains"
    near = [source.name for source in sources or [] if abs(source.hz / hz - 1) <= NEAR]
    return Chatter(hz, per_rev, points_to, near)


def sources_of(text: str) -> list[Source]:
    """Read what turns or hums on a machine, such as ``pump 24.5; motor 49`` [Hz].

    Raises
    ------
    InputError
        If one is no name with a frequency after it.
    """
    found = []
    for each in filter(None, (part.strip() for part in text.split(";"))):
        name, _, hz = each.rpartition(" ")
        try:
            frequency = float(hz)
        except ValueError:
            frequency = 0.0
        if not name or not 0 < frequency < 100_000:
            raise InputError("hums", f"“{each}” is no name with its frequency: write pump 24.5; motor 49.")
        found.append(Source(name.strip()[:80], frequency))
    if len(found) > MOST_SOURCES:
        raise InputError("hums", f"That is more than {MOST_SOURCES} sources.")
    return found
