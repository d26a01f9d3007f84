"""The map as areas between heights: what a drawing of it fills, and the feather line at a depth."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from zesty_lark.core.maps.gridded import gridded

__all__ = ["Band", "Outline", "bands", "ground_area", "steps"]

Outline = tuple[tuple[float, float], ...]
"""A closed line, x and y [mm]; the inside of a hole is left out by the even-odd rule."""
BANDS = 7
CELLS = 96
DECIMALS = 2


@dataclass(frozen=True)
class Band:
    """The area between two heights over the middle of the map's range [µm]; ``number`` counts from −3, lowest, to 3,
    highest, so that the middle is 0."""

    number: int
    from_um: float
    to_um: float
    outlines: tuple[Outline, ...]


def steps(low_um: float, high_um: float) -> list[float]:
    """Return the heights that bound the bands, even, from the lowest to the highest [µm]."""
    return [float(each) for each in np.linspace(low_um, high_um, BANDS + 1)]


def bands(points: Sequence[Sequence[float]], low_um: float | None = None, high_um: float | None = None) -> list[Band]:
    """Return the areas of a map between even heights.

    Parameters
    ----------
    points : (n, 3) sequence
        x, y [mm] and z [µm].
    low_um, high_um : float, optional
        The range that is divided, where several patches share one; the map's own without [µm].
    """
    from contourpy import contour_generator

    heights = [float(point[2]) for point in points]
    low, high = min(heights) if low_um is None else low_um, max(heights) if high_um is None else high_um
    found = gridded(tuple(tuple(map(float, point)) for point in points), CELLS)
    if high - low <= 0:
        edge = (
            (found.x[0], found.y[0]),
            (found.x[-1], found.y[0]),
            (found.x[-1], found.y[-1]),
            (found.x[0], found.y[-1]),
        )
        return [Band(0, low, high, (tuple((float(x), float(y)) for x, y in edge),))]
    made, levels = contour_generator(found.x, found.y, found.heights), steps(low, high)
    middle = BANDS // 2
    return [
        Band(number - middle, one, other, _outlines(made.filled(one, _open_at_top(other, high))))
        for number, (one, other) in enumerate(zip(levels, levels[1:], strict=False))
    ]


def ground_area(
    points: Sequence[Sequence[float]], depth_um: float, high_um: float | None = None
) -> tuple[Outline, ...]:
    """Return the area that a downfeed below the high point grinds: its outline is the feather line.

    Parameters
    ----------
    points : (n, 3) sequence
        x, y [mm] and z [µm].
    depth_um : float
        Downfeed below the high point [µm].
    high_um : float, optional
        The high point, where it lies on another patch [µm].
    """
    from contourpy import contour_generator

    high = max(float(point[2]) for point in points) if high_um is None else high_um
    found = gridded(tuple(tuple(map(float, point)) for point in points), CELLS)
    if depth_um <= 0:
        return ()
    made = contour_generator(found.x, found.y, found.heights)
    return _outlines(made.filled(high - depth_um, _open_at_top(high, high)))


def _open_at_top(level: float, high: float) -> float:
    """The top band holds the high point itself."""
    return level if level < high else level + abs(level) * 1e-9 + 1e-6


def _outlines(filled: Any) -> tuple[Outline, ...]:
    """Closed lines, with those of holes among them, from corners and where each line begins in them."""
    outlines: list[Outline] = []
    for corners, begins in zip(*filled, strict=True):
        for first, last in zip(begins, begins[1:], strict=False):
            line = corners[int(first) : int(last) - 1]
            outlines.append(tuple((round(float(x), DECIMALS), round(float(y), DECIMALS)) for x, y in line))
    return tuple(outlines)
