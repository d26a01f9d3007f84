"""What a chuck's map does to a part: the range of the map under its footprint, where it is worst and where it is
best."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.measure.maps.gridded import gridded

Floats = NDArray[np.float64]
KEPT = 64


@dataclass(frozen=True)
class Footprint:
    """The range of a map under a footprint [µm]: at the worst place, at the best, in the middle; and where the middle
    of the footprint lies at the best place, from the chuck's front left corner [mm]."""

    worst_um: float
    best_um: float
    middle_um: float
    best_at_mm: tuple[float, float]


def footprint(points: Sequence[Sequence[float]], length_mm: float, width_mm: float) -> Footprint:
    """Move a footprint over a map and return the range under it.

    Parameters
    ----------
    points : (n, 3) sequence
        x, y [mm] and z [µm] in the machine's frame; no plane is taken out: the wheel sees the tilt too.
    length_mm, width_mm : float
        The footprint along and across the travel [mm]; as far as it reaches over the map it is cut off.

    Notes
    -----
    The surface is laid linearly over triangles, and read on a grid.
    """
    return _moved(tuple(tuple(map(float, point)) for point in points), length_mm, width_mm)


def range_under(
    points: Sequence[Sequence[float]], x_mm: tuple[float, float], y_mm: tuple[float, float]
) -> float | None:
    """Return the range of a map under one place, from x to x and from y to y [mm]; ``None`` beyond the map [µm]."""
    x, y, heights = _on_grid(tuple(tuple(map(float, point)) for point in points))
    half_x, half_y = (x[1] - x[0]) / 2, (y[1] - y[0]) / 2
    columns = (x >= x_mm[0] - half_x) & (x <= x_mm[1] + half_x)
    rows = (y >= y_mm[0] - half_y) & (y <= y_mm[1] + half_y)
    here = heights[np.ix_(rows, columns)]
    return float(here.max() - here.min()) if here.size else None


@lru_cache(maxsize=KEPT)
def _moved(points: tuple[tuple[float, ...], ...], length: float, width: float) -> Footprint:
    from scipy.ndimage import maximum_filter, minimum_filter

    x, y, heights = _on_grid(points)
    size = tuple(
        min(max(1, round(extent / step) + 1), count)
        for extent, step, count in ((width, y[1] - y[0], y.size), (length, x[1] - x[0], x.size))
    )
    begin = tuple((each - 1) // 2 for each in size)
    keep = tuple(
        slice(first, count - (each - 1 - first)) for first, each, count in zip(begin, size, heights.shape, strict=True)
    )
    high = maximum_filter(heights, size=size, mode="nearest", origin=tuple(0 if each % 2 else -1 for each in size))[
        keep
    ]
    low = minimum_filter(heights, size=size, mode="nearest", origin=tuple(0 if each % 2 else -1 for each in size))[keep]
    ranges = high - low
    row, column = np.unravel_index(int(ranges.argmin()), ranges.shape)
    middle = float(ranges[ranges.shape[0] // 2, ranges.shape[1] // 2])
    at = (float(x[column] + (size[1] - 1) * (x[1] - x[0]) / 2), float(y[row] + (size[0] - 1) * (y[1] - y[0]) / 2))
    return Footprint(float(ranges.max()), float(ranges.min()), middle, at)


def _on_grid(points: tuple[tuple[float, ...], ...]) -> tuple[Floats, Floats, Floats]:
    """Columns, rows, heights."""
    found = gridded(points)
    return found.x, found.y, found.heights
