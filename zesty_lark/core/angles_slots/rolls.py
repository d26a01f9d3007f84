"""Reading an angle with a roll."""

import math
from dataclasses import dataclass
from typing import Annotated

from annotated_types import Gt, Lt

from zesty_lark.core.quantities.numbers import Positive

Included = Annotated[float, Gt(0), Lt(180)]


@dataclass(frozen=True)
class CornerRoll:
    """Tangent point from the vertex along a face, and the roll's far side from the vertex [mm]."""

    from_vertex_along_mm: float
    reading_mm: float


@dataclass(frozen=True)
class VeeRoll:
    """Top and centre of the roll above the vee's vertex [mm]."""

    top_above_vertex_mm: float
    centre_above_vertex_mm: float


def roll_corner(*, diameter_mm: Positive, included_deg: Included) -> CornerRoll:
    """Put a roll [mm] into the corner of two faces at an included angle θ [°]: r/tan(θ/2) and r·(1 + 1/tan(θ/2))."""
    radius = diameter_mm / 2
    along = radius / math.tan(math.radians(included_deg) / 2)
    return CornerRoll(along, radius + along)


def roll_vee(*, diameter_mm: Positive, included_deg: Included) -> VeeRoll:
    """Put a roll [mm] into a vee of included angle θ [°]: its top stands r·(1 + 1/sin(θ/2)) above the vertex."""
    radius = diameter_mm / 2
    centre = radius / math.sin(math.radians(included_deg) / 2)
    return VeeRoll(centre + radius, centre)
