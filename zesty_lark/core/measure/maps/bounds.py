"""What a map may hold, whatever way it comes in: the same for a reading, a paste, a file, and the job's own file."""

import math
import sys
from collections.abc import Sequence
from decimal import Decimal

FARTHEST_MM, HIGHEST_UM = 10_000.0, 1_000_000.0
"""No place of a surface here lies further out, and no height of it further up or down."""
FINEST_UM = Decimal("0.0001")
"""A reading is kept so finely."""
TINIEST = sys.float_info.min
"""Nearer to nought than this is nought: what a processor can only keep by halves."""
MOST_POINTS, MOST_MAPS, MOST_POINTS_A_JOB = 200_000, 200, 300_000
"""Points of one map; maps of a job, and points of them all: so much goes into a job's file and out of it again."""


def height_wrong(um: float | Decimal) -> str:
    """Return what is wrong with a height [µm]; empty when nothing is."""
    if not math.isfinite(um) or abs(float(um)) > HIGHEST_UM:
        return f"No height here is over {HIGHEST_UM / 1000:g} mm: heights go in as µm."
    return ""


def check_points(points: Sequence[Sequence[float]]) -> tuple[tuple[float, float, float], ...]:
    """Return points x, y [mm], z [µm] as numbers, every one checked.

    Raises
    ------
    ValueError
        If a figure is none, or beyond what a surface here can have; the point is named.
    """
    if len(points) > MOST_POINTS:
        raise ValueError(f"This map has {len(points):,} points; {MOST_POINTS:,} at most are read.")
    for number, point in enumerate(points, start=1):
        if len(point) != 3 or not all(math.isfinite(value) for value in point):
            raise ValueError(f"Point {number} is no three numbers: one of them is missing, or not a number.")
        if max(abs(point[0]), abs(point[1])) > FARTHEST_MM or abs(point[2]) > HIGHEST_UM:
            raise ValueError(f"Point {number} lies beyond any surface here: x, y go in as mm, z as µm.")
    return tuple((_near(x), _near(y), _near(z)) for x, y, z in points)


def _near(value: float) -> float:
    return 0.0 if abs(value) < TINIEST else float(value)
