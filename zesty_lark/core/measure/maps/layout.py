"""Laying a map out: where to read, and in which order, so that the part or the probe moves as little as it can."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zesty_lark.core.quantities.numbers import InputError

MOST_PLACES = 2000
MOST_PATCHES = 40
EDGE_SHARE = 0.08
"""How far the outer readings of a grid stay inside the edge, as a share of the extent."""
LONGEST_NAME = 30


@dataclass(frozen=True)
class Place:
    """Where a reading is taken: x along, y across from the front left corner [mm], and the patch it is on, by number
    from 0."""

    x_mm: float
    y_mm: float
    patch: int = 0


@dataclass(frozen=True)
class Layout:
    """The places of a map in the order they are read; the names of its patches when it has several.

    Raises
    ------
    InputError
        If there are fewer than three places, too many, two at one point, or all in a line.
    """

    places: tuple[Place, ...]
    patches: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if not 3 <= len(self.places) <= MOST_PLACES:
            raise InputError("points", f"A map that is read by hand has 3 to {MOST_PLACES} places.")
        if len({(place.x_mm, place.y_mm) for place in self.places}) < len(self.places):
            raise InputError("points", "Two places lie at one point.")
        if self._in_a_line():
            raise InputError("points", "All places lie in a line: no plane can be told from them.")

    def _in_a_line(self) -> bool:
        points = np.array([(place.x_mm, place.y_mm) for place in self.places])
        off = points - points.mean(axis=0)
        return bool(np.linalg.matrix_rank(off, tol=1e-9 * max(1.0, float(np.abs(off).max()))) < 2)


def grid(*, length_mm: float, width_mm: float, columns: int, rows: int) -> Layout:
    """Lay a grid over a rectangle, read in serpentine order from the front left.

    Parameters
    ----------
    length_mm, width_mm : float
        The rectangle along and across [mm].
    columns, rows : int
        At least 2 each.
    """
    if columns < 2 or rows < 2 or columns * rows > MOST_PLACES:
        raise InputError("columns", f"A grid has 2 or more columns and rows, {MOST_PLACES} places at most.")
    return Layout(tuple(_serpentine((0.0, 0.0), (length_mm, width_mm), columns, rows)))


def _serpentine(
    corner: tuple[float, float], size: tuple[float, float], columns: int, rows: int, *, patch: int = 0
) -> list[Place]:
    along = [corner[0] + station for station in _stations(size[0], columns)]
    places = []
    for row, y in enumerate(_stations(size[1], rows)):
        walk = along if row % 2 == 0 else along[::-1]
        places += [Place(x, round(corner[1] + y, 3), patch) for x in walk]
    return places


def _stations(extent: float, count: int) -> list[float]:
    """Even stations over an extent, the outer ones a little inside the edge; the middle for one."""
    if count == 1:
        return [round(extent / 2, 3)]
    edge = extent * EDGE_SHARE
    return [round(edge + (extent - 2 * edge) * number / (count - 1), 3) for number in range(count)]


def free_points(text: str) -> Layout:
    """Read free points as people write them down: x and y [mm], a line each.

    Raises
    ------
    InputError
        If a line is not two numbers, or the points are no layout.
    """
    places = []
    for number, parts in _lines(text):
        values = _numbers(parts)
        if len(values) != 2:
            raise InputError("points", f"Line {number} is not two numbers: x and y in mm.")
        places.append(Place(values[0], values[1]))
    return Layout(tuple(places))


def patches_from_text(text: str) -> Layout:
    """Read patches - pads, rails, steps - a line each: its name, the front left corner x and y, length and width [mm],
    and how many readings along and across.

    Raises
    ------
    InputError
        If a line does not say that, or the patches are no layout.
    """
    names: list[str] = []
    places: list[Place] = []
    for number, parts in _lines(text):
        values = _numbers(parts[-6:])
        name = " ".join(parts[:-6])[:LONGEST_NAME]
        if (
            len(values) != 6
            or not name
            or values[2] <= 0
            or values[3] <= 0
            or not all(_whole(each) for each in values[4:])
        ):
            raise InputError(
                "points", f"Line {number} is not a patch: name, x, y, length, width in mm, readings along and across."
            )
        if len(names) == MOST_PATCHES:
            raise InputError("points", f"A map has {MOST_PATCHES} patches at most.")
        columns, rows = int(values[4]), int(values[5])
        if columns * rows + len(places) > MOST_PLACES:
            raise InputError("points", f"Line {number}: a map has {MOST_PLACES} places at most.")
        places += _serpentine((values[0], values[1]), (values[2], values[3]), columns, rows, patch=len(names))
        names.append(name)
    return Layout(tuple(places), tuple(names))


def _lines(text: str) -> list[tuple[int, list[str]]]:
    split = [(number, re.split(r"[\s,;]+", line.strip())) for number, line in enumerate(text.splitlines(), start=1)]
    return [(number, parts) for number, parts in split if parts != [""]]


def _numbers(parts: Sequence[str]) -> list[float]:
    try:
        values = [float(part) for part in parts]
    except ValueError:
        return []
    return values if all(-1e5 < value < 1e5 for value in values) else []


def _whole(value: float) -> bool:
    return value >= 1 and value == int(value)
