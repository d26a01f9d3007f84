"""Squareness by reversal, by four corners, and by shim. + leans out at the top."""

from dataclasses import dataclass
from typing import Annotated

from annotated_types import Ge, Le, Len

from zesty_lark.core.quantities.numbers import Positive

Deviation = Annotated[float, Ge(-1e6), Le(1e6)]


@dataclass(frozen=True)
class Reversal:
    """Error over H and the stand's own zero [µm]."""

    error_um: float
    gauge_zero_um: float


@dataclass(frozen=True)
class FourCorners:
    """The stand's own offset and the corner errors [µm]."""

    master_um: float
    corners_um: list[float]


@dataclass(frozen=True)
class Shim:
    """Lift under one edge, and the nearest the shop's papers and foils come, with what remains [mm]."""

    shim_mm: float
    offered_mm: float | None
    remains_mm: float | None


def reversal(*, front_um: Deviation, back_um: Deviation, height_mm: Positive, taper_um: Deviation = 0.0) -> Reversal:
    """Find the squareness error from readings on the front and, turned round, on the back.

    Readings and taper (thickness at the top minus at the bottom) [µm], distance H of nose and indicator [mm]:
    error = (front − back)/2 + τ/2, zero = (front + back)/2 − τ/2.
    """
    return Reversal((front_um - back_um) / 2 + taper_um / 2, (front_um + back_um) / 2 - taper_um / 2)


def four_corners(*, corners_um: Annotated[list[Deviation], Len(4, 4)]) -> FourCorners:
    """Find a block's corner errors and the stand's offset: the angles of a four-sided section add to 360° [µm]."""
    master = sum(corners_um) / 4
    return FourCorners(master, [corner - master for corner in corners_um])


def shim(*, error_mm: Deviation, over_mm: Positive, base_mm: Positive, papers_mm: list[Positive] | None = None) -> Shim:
    """Lean the part back by an error e over height H: lift one edge of base B by e·B/H [mm].

    With the shop's papers and foils given, the one nearest to it is offered.
    """
    lift = error_mm * base_mm / over_mm
    if not papers_mm:
        return Shim(lift, None, None)
    nearest = min(papers_mm, key=lambda paper: (abs(paper - abs(lift)), paper))
    return Shim(lift, nearest, abs(lift) - nearest)
