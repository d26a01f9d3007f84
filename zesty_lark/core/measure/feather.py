"""The feather line: how much of a surface lies above a level, exact for linear triangles.

Above a level t a triangle with corners z1 ≤ z2 ≤ z3 has the share g(t): 1 below z1, then
1 − (t−z1)²/((z2−z1)(z3−z1)), then (z3−t)²/((z3−z2)(z3−z1)), 0 above z3; its stock is the integral of g from t up.
"""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

__all__ = ["cleaned", "triangles"]

Floats = NDArray[np.float64]
MICROMETRES_A_MM = 1000.0
BLOCK = 100_000


def cleaned(x: Floats, y: Floats, z: Floats, depths: Floats) -> tuple[Floats, Floats]:
    """Return the share ground and the stock taken [mm³] at each depth [µm] below the highest point.

    Parameters
    ----------
    x, y, z : (n,) array
        Points [mm], [mm], [µm].
    depths : (k,) array
        Depths [µm].

    Raises
    ------
    ValueError
        If the points lie in a line.
    """
    level = z.max() - depths
    order = np.argsort(level)
    levels = level[order]
    share, volume, total = np.zeros(levels.size), np.zeros(levels.size), 0.0
    for area, low, middle, high in _corners(x, y, z):
        total += float(area.sum())
        ground, stock = _above(levels, area, low, middle, high)
        share += ground
        volume += stock
    if total <= 0:
        raise ValueError("points must not all lie in a line")
    back = np.empty_like(order)
    back[order] = np.arange(order.size)
    return share[back] / total, volume[back] / MICROMETRES_A_MM


def triangles(x: Floats, y: Floats) -> NDArray[np.intp]:
    """Return the triangles over scattered points (Delaunay) or over a full grid (each cell cut in two)."""
    grid = _grid_order(x, y)
    if grid is None:
        from scipy.spatial import Delaunay, QhullError

        try:
            return np.asarray(Delaunay(np.column_stack((x, y))).simplices, dtype=np.intp)
        except QhullError as error:
            raise ValueError("points must not all lie in a line") from error
    a, b, c, d = grid[:-1, :-1].ravel(), grid[:-1, 1:].ravel(), grid[1:, :-1].ravel(), grid[1:, 1:].ravel()
    return np.concatenate((np.column_stack((a, b, d)), np.column_stack((a, d, c))))


def _grid_order(x: Floats, y: Floats) -> NDArray[np.intp] | None:
    """Return the points' indices as rows of a grid when they fill one."""
    columns, column = np.unique(x, return_inverse=True)
    rows, row = np.unique(y, return_inverse=True)
    if columns.size < 2 or rows.size < 2 or columns.size * rows.size != x.size:
        return None
    place = row * columns.size + column
    if np.unique(place).size != x.size:
        return None
    grid = np.empty(x.size, dtype=np.intp)
    grid[place] = np.arange(x.size)
    return grid.reshape(rows.size, columns.size)


def _corners(x: Floats, y: Floats, z: Floats) -> Iterator[tuple[Floats, Floats, Floats, Floats]]:
    """Give the triangles' areas and sorted corner heights, a block at a time."""
    table = triangles(x, y)
    for start in range(0, len(table), BLOCK):
        i, j, k = table[start:start + BLOCK].T
        area = np.abs((x[j] - x[i]) * (y[k] - y[i]) - (x[k] - x[i]) * (y[j] - y[i])) / 2
        zi, zj, zk = z[i], z[j], z[k]
        low = np.minimum(np.minimum(zi, zj), zk)
        high = np.maximum(np.maximum(zi, zj), zk)
        yield area, low, np.maximum(np.minimum(zi, zj), np.minimum(np.maximum(zi, zj), zk)), high


def _above(levels: Floats, area: Floats, low: Floats, middle: Floats, high: Floats) -> tuple[Floats, Floats]:
    """Area above each level, and volume above it, over a block of triangles."""
    order = np.argsort(low)
    area, low, middle, high = area[order], low[order], middle[order], high[order]
    area_from = np.concatenate((np.cumsum(area[::-1])[::-1], [0.0]))
    volume_from = np.concatenate((np.cumsum((area * (low + middle + high) / 3)[::-1])[::-1], [0.0]))
    ground, stock = np.zeros(levels.size), np.zeros(levels.size)
    started = np.searchsorted(low, levels, "right")
    for index, (level, count) in enumerate(zip(levels, started, strict=True)):
        cut = np.flatnonzero(high[:count] > level)
        part, volume = _cut(level, area[cut], low[cut], middle[cut], high[cut])
        ground[index] = area_from[count] + part
        stock[index] = volume_from[count] - level * area_from[count] + volume
    return ground, stock


def _cut(level: float, area: Floats, low: Floats, middle: Floats, high: Floats) -> tuple[float, float]:
    """Area and volume above a level of triangles that the level cuts."""
    upper = level >= middle
    rise = high - level
    with np.errstate(divide="ignore", invalid="ignore"):
        tip = area * rise**2 / ((high - middle) * (high - low))
        foot = level - low
        base = area * foot**2 / ((middle - low) * (high - low))
        volume = np.where(upper, tip * rise / 3, area * ((low + middle + high) / 3 - level) + base * foot / 3)
        ground = np.where(upper, tip, area - base)
    return float(ground.sum()), float(volume.sum())
