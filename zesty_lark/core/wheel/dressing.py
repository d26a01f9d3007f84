"""Dressing: lead, overlap, and what the diamond's place does."""

from dataclasses import dataclass
from typing import Literal

from zesty_lark.core.quantities import NonNegative, Positive, Rpm

__all__ = ["DRESSES", "Dress", "DressLead", "dress_lead", "sharpness"]

SECONDS_A_MINUTE = 60.0


@dataclass(frozen=True)
class Dress:
    """A way of dressing: sharpness after it, overlap, depth [mm]."""

    sharpness: float
    overlap: float
    depth_mm: float


DRESSES: dict[Literal["rough", "general", "fine"], Dress] = {
    "rough": Dress(0.5, 2.0, 0.028),
    "general": Dress(0.8, 4.0, 0.015),
    "fine": Dress(1.1, 8.0, 0.0075),
}


@dataclass(frozen=True)
class DressLead:
    """Traverse per wheel turn [mm], overlap, and which dress that is."""

    lead_mm: float
    overlap: float
    kind: Literal["rough", "general", "fine"]


def dress_lead(*, diamond_width_mm: Positive, traverse_mm_s: Positive, wheel_rpm: Rpm) -> DressLead:
    """Return the dressing lead and overlap.

    Diamond's working width [mm], traverse [mm/s], wheel [rpm]; lead = traverse·60/n, overlap = width/lead.
    Rough 1.5 to 3, general 3 to 5, fine from there.
    """
    lead = traverse_mm_s * SECONDS_A_MINUTE / wheel_rpm
    overlap = diamond_width_mm / lead
    kind: Literal["rough", "general", "fine"] = "rough" if overlap < 3 else "general" if overlap < 5.5 else "fine"
    return DressLead(lead, overlap, kind)


def sharpness(start: NonNegative, volume_mm3_mm: NonNegative, reference_mm3_mm: Positive) -> float:
    """Return S = S0·(1 + V'/V'ref): it rises with use; V' is the volume ground per mm of width in use [mm³/mm]."""
    return start * (1 + volume_mm3_mm / reference_mm3_mm)
