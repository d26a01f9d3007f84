"""The feather line: how much of a surface lies above a level, exact for linear triangles.

Above a level t a triangle with corners z1 ≤ z2 ≤ z3 has the share g(t): 1 below z1, then
1 − (t−z1)²/((z2−z1)(z3−z1)), then (z3−t)²/((z3−z2)(z3−z1)), 0 above z3; its stock is the integral of g from t up.
"""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Annotated, NamedTuple

import numpy as np
from annotated_types import MaxLen, MinLen
from numpy.typing import NDArray

from zesty_lark.core.measure.maps.analysis import Points, columns_of
from zesty_lark.core.quantities.compiled import compiled
from zesty_lark.core.quantities.numbers import InputError, NonNegative
from zesty_lark.core.quantities.units import UM_A_MM

Floats = NDArray[np.float64]
Depths = Annotated[list[NonNegative], MinLen(1), MaxLen(10_000)]
STEEP = 1e-4
"""A rise under this share of the levels' span is worked out level by level."""


@dataclass(frozen=True)
class Feather:
    """For each depth [µm]: the share of the face that is ground, and the stock taken [mm³]."""

    cleaned_share: list[float]
    stock_mm3: list[float]
    range_um: float


class _Sums(NamedTuple):
    """What triangles add at each level, gathered as polynomials of the level.

    Between two levels' places a triangle adds a constant polynomial; so each adds its coefficients where it begins and
    takes them away where it ends, and one running sum over the levels gives them all: of the area ``(3, k + 1)`` and of
    the volume ``(4, k + 1)``. ``extra`` ``(2, k)`` is the area and volume of the few that are worked out level by
    level.
    """

    area: Floats
    volume: Floats
    extra: Floats


def map_feather(*, points: Points, depths_um: Depths) -> Feather:
    """Tell how much of a face is ground at each downfeed below its high point.

    Parameters
    ----------
    points : (n, 3) sequence
        x, y [mm] and z [µm], on a grid or anywhere.
    depths_um : sequence of float
        Downfeeds D; the ground area is z > max − D [µm].

    Raises
    ------
    InputError
        If there are fewer than three points or all lie in a line.

    Notes
    -----
    Exact for the surface laid linearly over triangles: grid cells cut in two, scattered points by Delaunay.
    """
    x, y, z = columns_of(points)
    try:
        share, stock = cleaned(x, y, z, np.asarray(depths_um, dtype=np.float64))
    except ValueError as error:
        raise InputError("points", str(error)) from error
    return Feather(share.tolist(), stock.tolist(), float(np.ptp(z)))


def cleaned(
    x: Floats, y: Floats, z: Floats, depths: Floats, *, over: NDArray[np.intp] | None = None
) -> tuple[Floats, Floats]:
    """Return the share ground and the stock taken [mm³] at each depth [µm] below the highest point.

    Parameters
    ----------
    x, y, z : (n,) array
        Points [mm], [mm], [µm].
    depths : (k,) array
        Depths [µm].
    over : (m, 3) array, optional
        The triangles, where they are known already.

    Raises
    ------
    ValueError
        If the points lie in a line.
    """
    level = z.max() - depths
    order = np.argsort(level)
    centre = float(level.mean())
    t, table, heights = level[order] - centre, triangles(x, y) if over is None else over, z - centre
    span = max(float(np.ptp(level)), 1e-30)

    def gather(part: NDArray[np.intp]) -> tuple[_Sums, float]:
        sums = _Sums(np.zeros((3, t.size + 1)), np.zeros((4, t.size + 1)), np.zeros((2, t.size)))
        return sums, _gather(x, y, heights, part, t, STEEP * span, sums)

    with ThreadPoolExecutor(2) as threads:
        (one, first), (other, second) = threads.map(gather, (table[: len(table) // 2], table[len(table) // 2 :]))
    total = first + second
    if total <= 0:
        raise ValueError("points must not all lie in a line")
    share, volume = _at_levels(_Sums(*(a + b for a, b in zip(one, other, strict=True))), t)
    back = np.empty_like(order)
    back[order] = np.arange(order.size)
    return np.clip(share[back] / total, 0.0, 1.0), np.maximum(volume[back], 0.0) / UM_A_MM


def triangles(x: Floats, y: Floats) -> NDArray[np.intp]:
    """Return the triangles over scattered points (Delaunay) or over a full grid (each cell cut in two)."""
    grid = grid_order(x, y)
    if grid is None:
        from scipy.spatial import Delaunay, QhullError

        try:
            return np.asarray(Delaunay(np.column_stack((x, y))).simplices, dtype=np.intp)
        except QhullError as error:
            raise ValueError("points must not all lie in a line") from error
    a, b, c, d = grid[:-1, :-1], grid[:-1, 1:], grid[1:, :-1], grid[1:, 1:]
    table = np.empty((2, *a.shape, 3), dtype=np.intp)
    for column, corners in enumerate(((a, a), (b, d), (d, c))):
        table[0, :, :, column], table[1, :, :, column] = corners
    return table.reshape(-1, 3)


def grid_order(x: Floats, y: Floats) -> NDArray[np.intp] | None:
    """Return the points' indices as rows of a grid when they fill one."""
    across = int(np.argmax(y != y[0])) if y.size else 0
    if across > 1 and x.size % across == 0:
        by_rows, down = x.reshape(-1, across), y.reshape(-1, across)
        if (
            np.all(by_rows == by_rows[0])
            and np.all(down == down[:, :1])
            and np.all(np.diff(by_rows[0]) > 0)
            and np.all(np.diff(down[:, 0]) > 0)
        ):
            return np.arange(x.size, dtype=np.intp).reshape(by_rows.shape)
    columns, column = np.unique(x, return_inverse=True)
    rows, row = np.unique(y, return_inverse=True)
    if columns.size < 2 or rows.size < 2 or columns.size * rows.size != x.size:
        return None
    place = row * columns.size + column
    if np.bincount(place, minlength=x.size).max() > 1:
        return None
    grid = np.empty(x.size, dtype=np.intp)
    grid[place] = np.arange(x.size)
    return grid.reshape(rows.size, columns.size)


@compiled
def _gather(x: Floats, y: Floats, z: Floats, table: NDArray[np.intp], t: Floats, steep: float, sums: _Sums) -> float:
    """Add triangles to the sums; return their area [mm²]. ``z`` and the levels ``t`` [µm] are from the levels'
    middle."""
    total = 0.0
    for row in range(table.shape[0]):
        i, j, k = table[row, 0], table[row, 1], table[row, 2]
        area = abs((x[j] - x[i]) * (y[k] - y[i]) - (x[k] - x[i]) * (y[j] - y[i])) / 2
        low, high = min(z[i], z[j], z[k]), max(z[i], z[j], z[k])
        middle = z[i] + z[j] + z[k] - low - high
        total += area
        first = _place(t, low, 0)
        second = _place(t, middle, first)
        third = _place(t, high, second)
        if second > 0:
            _add(sums.area, 0, area, 0, second)
            _add(sums.volume, 0, area * (low + middle + high) / 3, 0, second)
            _add(sums.volume, 1, -area, 0, second)
        _piece(t, sums, steep, area, low, middle - low, high - low, first, second, -1.0)
        _piece(t, sums, steep, area, high, high - middle, high - low, second, third, 1.0)
    return total


@compiled
def _place(t: Floats, value: float, begin: int) -> int:
    """How many levels lie under a value, at least ``begin``."""
    end = t.size
    while begin < end:
        half = (begin + end) // 2
        if t[half] < value:
            begin = half + 1
        else:
            end = half
    return begin


@compiled
def _add(into: Floats, power: int, what: float, begin: int, end: int) -> None:
    into[power, begin] += what
    into[power, end] -= what


@compiled
def _piece(
    t: Floats,
    sums: _Sums,
    steep: float,
    area: float,
    corner: float,
    rise: float,
    whole: float,
    begin: int,
    end: int,
    sign: float,
) -> None:
    """Add ± area·(t − corner)²/(rise·whole) and its integral between two levels' places.

    The volume over a level: the foot's (t − c)³/3 comes back, the tip's (c − t)³/3 is what is there. A rise too small
    for its coefficients to be summed without loss is worked out level by level.
    """
    if end <= begin:
        return
    if rise > steep:
        w, c = sign * area / (rise * whole), corner
        _add(sums.area, 0, w * c * c, begin, end)
        _add(sums.area, 1, -2 * w * c, begin, end)
        _add(sums.area, 2, w, begin, end)
        _add(sums.volume, 0, w * c * c * c / 3, begin, end)
        _add(sums.volume, 1, -w * c * c, begin, end)
        _add(sums.volume, 2, w * c, begin, end)
        _add(sums.volume, 3, -w / 3, begin, end)
        return
    for level in range(begin, end):
        off = t[level] - corner
        ground = area * off * (off / rise if rise > 0 else 0.0) / whole
        sums.extra[0, level] += sign * ground
        sums.extra[1, level] -= sign * ground * off / 3


def _at_levels(sums: _Sums, t: Floats) -> tuple[Floats, Floats]:
    """Area and volume above each level."""
    area, volume = np.cumsum(sums.area, axis=1)[:, :-1], np.cumsum(sums.volume, axis=1)[:, :-1]
    return (
        area[0] + t * (area[1] + t * area[2]) + sums.extra[0],
        volume[0] + t * (volume[1] + t * (volume[2] + t * volume[3])) + sums.extra[1],
    )
