"""A squareness as it is measured, by whichever way: the lean over its height, its U, and what it makes of the print."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import ROUND_UP, Decimal
from typing import Literal

from zesty_lark.core.measure.budget import COVERAGE, RECTANGLE, Budget, budget_of
from zesty_lark.core.measure.squareness import four_corners, reversal
from zesty_lark.core.measure.thickness import Gauge
from zesty_lark.core.quantities.numbers import InputError, Positive
from zesty_lark.core.quantities.units import SMALLEST_MM, UM_A_MM

SquareWay = Literal["reversal", "corners", "master", "light"]
WAYS: dict[SquareWay, str] = {
    "reversal": "Reversal: stand on the front, then on the back",
    "corners": "Four corners against one stand",
    "master": "Against a certified square or cylinder",
    "light": "Light gap to a square",
}
Light = Literal["top", "bottom", "none"]
"""Where light is seen under a square."""
LIGHT_UM = 2.5
"""The gap that light is just seen through [µm]: own estimate, a tenth."""


@dataclass(frozen=True)
class Lean:
    """What a side leans: + out at the top, over 90° [µm] over a height [mm], with its budget; the stand's own zero, or
    the square's error, where the way gives it [µm]; every corner where four were tried [µm]."""

    way: SquareWay
    error_um: float
    over_mm: float
    budget: Budget
    zero_um: float | None = None
    corners_um: tuple[float, ...] = ()

    def deviation_mm(self, height_mm: float) -> Decimal:
        """Return how far out of square it is over a height, never negative [mm]."""
        return Decimal(repr(abs(self.error_um) / UM_A_MM * height_mm / self.over_mm)).quantize(SMALLEST_MM, ROUND_UP)

    def u_mm(self, height_mm: float) -> Decimal:
        """Return U of that, k = 2 [mm]."""
        return (self.budget.expanded_mm * Decimal(repr(height_mm / self.over_mm))).quantize(SMALLEST_MM, ROUND_UP)

    @property
    def arcsec(self) -> float:
        """The lean as an angle ["]."""
        return math.degrees(math.atan2(self.error_um / UM_A_MM, self.over_mm)) * 3600

    @property
    def words(self) -> str:
        """Which way it leans."""
        return (
            "leans out at the top" if self.error_um > 0 else "leans in at the top" if self.error_um < 0 else "stands up"
        )


def _read(gauge: Gauge) -> list[tuple[Literal["resolution", "stated error", "repeatability"], float]]:
    return [
        ("resolution", float(gauge.resolution_mm) / 2 / RECTANGLE * UM_A_MM),
        ("stated error", float(gauge.error_limit_mm) / RECTANGLE * UM_A_MM),
        ("repeatability", float(gauge.repeatability_mm) * UM_A_MM),
    ]


def by_reversal(gauge: Gauge, *, front_um: float, back_um: float, over_mm: Positive, taper_um: float = 0.0) -> Lean:
    """Return the lean from readings on the front and, turned round, on the back; half of their difference, so each
    reading counts half."""
    made = reversal(front_um=front_um, back_um=back_um, height_mm=over_mm, taper_um=taper_um)
    shared = [(source, u * math.sqrt(2) / 2) for source, u in _read(gauge)]
    return Lean("reversal", made.error_um, over_mm, budget_of(shared), made.gauge_zero_um)


def by_corners(gauge: Gauge, *, corners_um: Sequence[float], over_mm: Positive, corner: int = 0) -> Lean:
    """Return the lean of one of four corners, counted from 0; no certified square is needed. An error is three quarters
    of its own reading and a quarter of each other."""
    made = four_corners(corners_um=list(corners_um))
    shared = [(source, u * math.sqrt(3) / 2) for source, u in _read(gauge)]
    return Lean("corners", made.corners_um[corner], over_mm, budget_of(shared), made.master_um, tuple(made.corners_um))


def by_master(
    gauge: Gauge, *, part_um: float, master_um: float, certificate_um: float, certificate_u_um: float, over_mm: Positive
) -> Lean:
    """Return the lean against a certified square or cylinder: the difference of the two readings, plus what the
    certificate says of the master's own lean over that height [µm]."""
    shared = [(source, u * math.sqrt(2)) for source, u in _read(gauge)]
    return Lean(
        "master",
        part_um - master_um + certificate_um,
        over_mm,
        budget_of([*shared, ("master", certificate_u_um / COVERAGE)]),
    )


def by_light(*, where: Light, goes_um: float, refuses_um: float, over_mm: Positive, square_um: float) -> Lean:
    """Return the lean from the gap to a solid square.

    Parameters
    ----------
    where : {"top", "bottom", "none"}
        Where light is seen; none means less than about 2.5 µm, which light is just seen through.
    goes_um, refuses_um : float
        The thickest foil that goes in, 0 for none, and the thinnest that does not [µm].
    over_mm : float
        Height the blade touches over [mm].
    square_um : float
        What the square itself is within over that height [µm].

    Raises
    ------
    InputError
        If the foil that does not go in is not the thicker.
    """
    if where == "none":
        goes_um, refuses_um = 0.0, LIGHT_UM
    if refuses_um <= goes_um:
        raise InputError("refuses_um", "The foil that does not go in has to be thicker than the one that does.")
    gap, half = (goes_um + refuses_um) / 2, (refuses_um - goes_um) / 2
    if where == "none":
        gap, half = 0.0, LIGHT_UM
    error = -gap if where == "top" else gap
    return Lean(
        "light", error, over_mm, budget_of([("resolution", half / RECTANGLE), ("master", square_um / RECTANGLE)])
    )
