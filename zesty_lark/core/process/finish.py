"""Finish: roughness from the dress and the chip, and whether the crossfeed leaves steps."""

from dataclasses import dataclass

from zesty_lark.core.quantities import Positive

__all__ = ["FINISH_R1_UM", "Roughness", "roughness"]

FINISH_R1_UM = 4.6
"""R1, from the shop's measured parts; the default [µm]."""
HEQ_REFERENCE_UM = 0.1
STEPS_VISIBLE_UNDER = 3.0


@dataclass(frozen=True)
class Roughness:
    """Ra [µm], crossfeed overlap, and whether a step pattern shows."""

    ra_um: float
    crossfeed_overlap: float
    step_pattern: bool


def roughness(*, lead_mm: Positive, dress_depth_mm: Positive, equivalent_chip_um: Positive, wheel_width_mm: Positive,
              crossfeed_mm: Positive, r1_um: Positive = FINISH_R1_UM) -> Roughness:
    """Estimate the finish: Ra ≈ R1·√lead·depth^0.25·(h_eq/h_ref)^0.3, lead and dress depth [mm], h_eq [µm].

    A crossfeed overlap (wheel width/crossfeed) below 3 leaves a visible step pattern.
    """
    ra = r1_um * lead_mm**0.5 * dress_depth_mm**0.25 * (equivalent_chip_um / HEQ_REFERENCE_UM) ** 0.3
    overlap = wheel_width_mm / crossfeed_mm
    return Roughness(ra, overlap, overlap < STEPS_VISIBLE_UNDER)
