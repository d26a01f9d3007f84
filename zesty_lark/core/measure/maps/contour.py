"""The map as areas between heights: what a drawing of it fills, and the feather line at a depth."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.measure.maps.gridded import Gridded, on_grid

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


def laid(points: Sequence[Sequence[float]] | NDArray[np.float64]) -> Gridded:
    """Return points, x, y [mm] and z [µm], on the grid that is drawn from."""
    return on_grid(np.asarray(points, dtype=np.float64), CELLS)


def steps(low_um: float, high_um: float) -> list[float]:
    """Return the heights that bound the bands, even, from the lowest to the highest [µm]."""
    return [float(each) for each in np.linspace(low_um, high_um, BANDS + 1)]


def bands(found: Gridded, low_um: float, high_um: float) -> list[Band]:
    """Return the areas of a map between even heights of a range [µm]."""
    from contourpy import contour_generator

    if high_um - low_um <= 0:
        left, right, front, back = found.x[0], found.x[-1], found.y[0], found.y[-1]
        edge = ((left, front), (right, front), (right, back), (left, back))
        return [Band(0, low_um, high_um, (tuple((float(x), float(y)) for x, y in edge),))]
    made, levels = contour_generator(found.x, found.y, found.heights), steps(low_um, high_um)
    middle = BANDS // 2
    return [
        Band(
            number - middle,
            one,
            other,
            _outlines(made.filled(_open_at_bottom(one, low_um), _open_at_top(other, high_um))),
        )
        for number, (one, other) in enumerate(zip(levels, levels[1:], strict=False))
    ]


def ground_area(found: Gridded, depth_um: float, high_um: float) -> tuple[Outline, ...]:
    """Return the area that a downfeed [µm] below the high point [µm] grinds: its outline is the feather line."""
    from contourpy import contour_generator

    if depth_um <= 0:
        return ()
    made = contour_generator(found.x, found.y, found.heights)
    return _outlines(made.filled(high_um - depth_um, _open_at_top(high_um, high_um)))


def _open_at_top(level: float, high: float) -> float:
    """The top band holds the high point itself."""
    return level if level < high else level + abs(level) * 1e-9 + 1e-6


def _open_at_bottom(level: float, low: float) -> float:
    """The lowest band holds the low point itself, and the flat there may be around it."""
    return level if level > low else level - abs(level) * 1e-9 - 1e-6


def _outlines(filled: Any) -> tuple[Outline, ...]:
    """Closed lines, with those of holes among them, from corners and where each line begins in them."""
    outlines: list[Outline] = []
    for corners, begins in zip(*filled, strict=True):
        for first, last in zip(begins, begins[1:], strict=False):
            line = corners[int(first) : int(last) - 1]
            outlines.append(tuple((round(float(x), DECIMALS), round(float(y), DECIMALS)) for x, y in line))
    return tuple(outlines)
