"""Repeatability: the same point, lifted and replaced."""

import statistics
from dataclasses import dataclass
from typing import Annotated

from annotated_types import Ge, Le, MaxLen, MinLen

from zesty_lark.core.quantities.numbers import NonNegative, Positive

Readings = Annotated[list[Annotated[float, Ge(-1e9), Le(1e9)]], MinLen(2), MaxLen(10_000)]


@dataclass(frozen=True)
class Repeatability:
    """Mean, range and standard deviation (n − 1) [µm], the allowed range, and whether measuring means anything."""

    mean_um: float
    range_um: float
    sd_um: float
    allowed_um: float
    good: bool


def repeatability(*, readings_um: Readings, resolution_um: Positive, stated_um: NonNegative) -> Repeatability:
    """Judge repeated readings: the range may be twice the resolution plus the stated repeatability [µm]."""
    spread = max(readings_um) - min(readings_um)
    allowed = 2 * resolution_um + stated_um
    return Repeatability(
        statistics.fmean(readings_um), spread, statistics.stdev(readings_um), allowed, spread <= allowed * (1 + 1e-12)
    )
