"""Finish: roughness from the dress and the chip, and whether the crossfeed leaves steps."""

import math
from dataclasses import dataclass

from zesty_lark.core.quantities.numbers import Positive

FINISH_R1_UM = 4.6
"""R1, from the shop's measured parts; the default [µm]."""
HEQ_REFERENCE_UM = 0.1
STEPS_VISIBLE_UNDER = 3.0
LEAD_EXPONENT, DEPTH_EXPONENT, CHIP_EXPONENT = 0.5, 0.25, 0.3
"""How roughness follows the dressing lead, the dress's depth and the chip."""

AFTER_DRESS_MM, AFTER_DRESS_GRADUATIONS = 0.005, 2
"""No wheel is found again to 1 µm after a dress: so much, and so many graduations, are left for the finish [mm]."""


@dataclass(frozen=True)
class Roughness:
    """Ra [µm], crossfeed overlap, and whether a step pattern shows."""

    ra_um: float
    crossfeed_overlap: float
    step_pattern: bool


def ra(r1_um: float, lead_mm: float, dress_depth_mm: float, equivalent_chip_um: float) -> float:
    """Return Ra ≈ R1·√lead·depth^0.25·(h_eq/h_ref)^0.3 [µm]."""
    return (
        r1_um
        * math.pow(lead_mm, LEAD_EXPONENT)
        * math.pow(dress_depth_mm, DEPTH_EXPONENT)
        * math.pow(equivalent_chip_um / HEQ_REFERENCE_UM, CHIP_EXPONENT)
    )


def found_again_mm(graduation_mm: float) -> float:
    """Return what is left for the finish at least, since a dress may be out by that [mm]."""
    return max(AFTER_DRESS_MM, AFTER_DRESS_GRADUATIONS * graduation_mm)


def roughness(
    *,
    lead_mm: Positive,
    dress_depth_mm: Positive,
    equivalent_chip_um: Positive,
    wheel_width_mm: Positive,
    crossfeed_mm: Positive,
    r1_um: Positive = FINISH_R1_UM,
) -> Roughness:
    """Estimate the finish: Ra ≈ R1·√lead·depth^0.25·(h_eq/h_ref)^0.3, lead and dress depth [mm], h_eq [µm].

    A crossfeed overlap (wheel width/crossfeed) below 3 leaves a visible step pattern.
    """
    overlap = wheel_width_mm / crossfeed_mm
    return Roughness(ra(r1_um, lead_mm, dress_depth_mm, equivalent_chip_um), overlap, overlap < STEPS_VISIBLE_UNDER)
