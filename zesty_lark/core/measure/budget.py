"""The uncertainty budget: what each contribution is, its share, and what would shrink the whole most.

By GUM (JCGM 100), k = 2: half-widths are rectangular, calibrations are U/2, repeatability is s/√n; root-sum-square.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import ROUND_UP, Decimal
from functools import reduce
from operator import add
from typing import Literal

from uncertainties import ufloat

from zesty_lark.core.quantities.units import UM_A_MM

COVERAGE = 2
"""Coverage factor k of every expanded uncertainty."""
RECTANGLE = 3**0.5
_U_KEPT = Decimal("0.00001")

Source = Literal[
    "resolution",
    "stated error",
    "calibration",
    "repeatability",
    "master",
    "temperature",
    "tip angle",
    "geometry",
    "plate",
]
SHRINKS: dict[Source, str] = {
    "resolution": "a gauge with a finer step",
    "stated error": "a gauge with a smaller error, or a comparison near zero",
    "calibration": "a master or a calibration with a smaller U",
    "repeatability": "more readings at a place, on a cleaner granite",
    "master": "fewer blocks, or a set of a better grade",
    "temperature": "take the part's and the gauge's temperature, or let them lie together",
    "tip angle": "set the lever's tip flat to the surface, and stay near zero",
    "geometry": "measure over a longer height or base",
    "plate": "a plate of a better grade, or a smaller part of it",
}


@dataclass(frozen=True)
class Contribution:
    """One contribution: where it comes from, its standard uncertainty [µm], and its share of the variance."""

    source: Source
    u_um: float
    share: float

    @property
    def shrinks(self) -> str:
        """What would make it smaller."""
        return SHRINKS[self.source]


@dataclass(frozen=True)
class Budget:
    """Contributions, the largest first, and U, k = 2, rounded up to 0.01 µm [mm]."""

    contributions: tuple[Contribution, ...]
    expanded_mm: Decimal

    @property
    def largest(self) -> Contribution:
        """The one that is worth shrinking first."""
        return self.contributions[0]

    @property
    def without_largest_um(self) -> float:
        """U if the largest were nothing [µm]."""
        rest = sum(contribution.u_um**2 for contribution in self.contributions[1:])
        return COVERAGE * math.sqrt(rest)


def budget_of(parts: Sequence[tuple[Source, float]]) -> Budget:
    """Return the budget of independent standard uncertainties [µm]; those of 0 are left out.

    Raises
    ------
    ValueError
        If nothing is uncertain: no measurement is.
    """
    given = [(source, u) for source, u in parts if u > 0]
    if not given:
        raise ValueError("a measurement has an uncertainty")
    whole = reduce(add, (ufloat(0, u) for _, u in given))
    combined = float(whole.std_dev)
    listed = [Contribution(source, u, (u / combined) ** 2) for source, u in given]
    expanded = Decimal(repr(COVERAGE * combined / UM_A_MM)).quantize(_U_KEPT, ROUND_UP)
    return Budget(tuple(sorted(listed, key=lambda each: -each.u_um)), expanded)
