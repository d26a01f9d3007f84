"""Outside radii swung in steps, and edge breaks."""

import math
from dataclasses import dataclass
from typing import Annotated

from annotated_types import Gt, Le

from zesty_lark.core.quantities.numbers import Positive

RATIO_SLACK = 1e-9


@dataclass(frozen=True)
class Arc:
    """Steps of the swing, each step [°], and the peaks it leaves standing on the part [mm]."""

    steps: int
    step_deg: float
    peak_mm: float


@dataclass(frozen=True)
class EdgeBreak:
    """Width of the flat and what it takes off each face, measured along the face [mm]."""

    flat_mm: float
    off_each_face_mm: float


def arc(*, radius_mm: Positive, sweep_deg: Annotated[float, Gt(0), Le(360)], allow_mm: Positive) -> Arc:
    """Divide a swing so that the peaks between flats stay within what is allowed.

    Δ = 2·acos(R/(R + allowed)); steps = ceil(sweep/Δ); peaks R·(1/cos(Δ/2) − 1) [mm] [°].
    """
    widest = 2 * math.degrees(math.acos(radius_mm / (radius_mm + allow_mm)))
    steps = max(1, math.ceil(sweep_deg / widest - RATIO_SLACK))
    step = sweep_deg / steps
    return Arc(steps, step, radius_mm * (1 / math.cos(math.radians(step) / 2) - 1))


def edge_break(*, downfeed_mm: Positive) -> EdgeBreak:
    """Break a 90° edge at 45°: a downfeed D below the corner leaves a flat 2·D wide, D·√2 off each face [mm]."""
    return EdgeBreak(2 * downfeed_mm, math.sqrt(2) * downfeed_mm)
