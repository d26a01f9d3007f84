"""The feather line: how much of a surface lies above a level, exact for linear triangles.

Above a level t a triangle with corners z1 ≤ z2 ≤ z3 has the share g(t): 1 below z1, then
1 − (t−z1)²/((z2−z1)(z3−z1)), then (z3−t)²/((z3−z2)(z3−z1)), 0 above z3; its stock is the integral of g from t up.
"""

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numpy.typing import NDArray

__all__ = ["cleaned", "triangles"]

Floats = NDArray[np.float64]
MICROMETRES_A_MM = 1000.0
BLOCK = 131_072
STEEP = 1e-4
"""A rise under this share of the levels' span is worked out level by level."""


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
    table = triangles(x, y)
    half = -(-len(table) // 2 // BLOCK) * BLOCK

    def gather(part: NDArray[np.intp]) -> tuple[Floats, Floats, float]:
        gathered, total = _Levels(levels), 0.0
        for area, low, middle, high in _corners(x, y, z, part):
            total += float(area.sum())
            gathered.add(area, low, middle, high)
        return *gathered.sums(), total

    with ThreadPoolExecutor(2) as threads:
        parts = list(threads.map(gather, (table[:half], table[half:])))
    share, volume = parts[0][0] + parts[1][0], parts[0][1] + parts[1][1]
    total = parts[0][2] + parts[1][2]
    if total <= 0:
        raise ValueError("points must not all lie in a line")
    back = np.empty_like(order)
    back[order] = np.arange(order.size)
    return np.clip(share[back] / total, 0.0, 1.0), np.maximum(volume[back], 0.0) / MICROMETRES_A_MM


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
    across = int(np.argmax(y != y[0])) if y.size else 0
    if across > 1 and x.size % across == 0:
        by_rows, down = x.reshape(-1, across), y.reshape(-1, across)
        if np.all(by_rows == by_rows[0]) and np.all(down == down[:, :1]) and np.all(np.diff(by_rows[0]) > 0) and np.all(
                np.diff(down[:, 0]) > 0):
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


def _corners(x: Floats, y: Floats, z: Floats, table: NDArray[np.intp]) -> Iterator[tuple[Floats, Floats, Floats, Floats]]:
    """Give the triangles' areas and sorted corner heights, a block at a time."""
    for start in range(0, len(table), BLOCK):
        i, j, k = table[start:start + BLOCK].T
        area = np.abs((x[j] - x[i]) * (y[k] - y[i]) - (x[k] - x[i]) * (y[j] - y[i])) / 2
        zi, zj, zk = z[i], z[j], z[k]
        low = np.minimum(np.minimum(zi, zj), zk)
        high = np.maximum(np.maximum(zi, zj), zk)
        yield area, low, zi + zj + zk - low - high, high


class _Levels:
    """What triangles add to each level, gathered as polynomials of the level.

    Between two levels' places a triangle adds a constant polynomial; so each adds its coefficients where it begins and
    takes them away where it ends, and one running sum over the levels gives them all.
    """

    def __init__(self, levels: Floats) -> None:
        self.centre, self.levels = float(levels.mean()), levels
        self.t = levels - self.centre
        self.area = np.zeros((3, levels.size + 1))
        self.volume = np.zeros((4, levels.size + 1))
        self.extra_area, self.extra_volume = np.zeros(levels.size), np.zeros(levels.size)
        self.span = max(float(np.ptp(levels)), 1e-30)

    def add(self, area: Floats, low: Floats, middle: Floats, high: Floats) -> None:
        """Add a block of triangles with sorted corners."""
        first, second, third = (np.searchsorted(self.levels, corner, "left") for corner in (low, middle, high))
        low, middle, high = low - self.centre, middle - self.centre, high - self.centre
        size = self.levels.size + 1
        self.area[0] += np.bincount(np.zeros(1, np.intp), [area.sum()], size) - np.bincount(second, area, size)
        whole = area * (low + middle + high) / 3
        self.volume[0] += np.bincount(np.zeros(1, np.intp), [whole.sum()], size) - np.bincount(second, whole, size)
        self.volume[1] -= np.bincount(np.zeros(1, np.intp), [area.sum()], size) - np.bincount(second, area, size)
        self._piece(area, low, middle - low, high - low, first, second, -1.0)
        self._piece(area, high, high - middle, high - low, second, third, 1.0)

    def _piece(self, area: Floats, corner: Floats, rise: Floats, whole: Floats, begin: NDArray[np.intp],
               end: NDArray[np.intp], sign: float) -> None:
        """Add ± area·(t − corner)²/(rise·whole) and its integral between two levels."""
        cut = np.flatnonzero(end > begin)
        steep = rise[cut] > STEEP * self.span
        at = cut[steep]
        weight = area[at] / (rise[at] * whole[at])
        begins, ends, c = begin[at], end[at], corner[at]
        powers = [weight, weight * c]
        powers += [powers[1] * c]
        powers += [powers[2] * c]
        sums = [np.bincount(begins, each, self.levels.size + 1) - np.bincount(ends, each, self.levels.size + 1)
                for each in powers]
        self.area[0] += sign * sums[2]
        self.area[1] -= sign * 2 * sums[1]
        self.area[2] += sign * sums[0]
        # The volume over a level: the foot's (t−c)³/3 comes back, the tip's (c−t)³/3 is what is there.
        self.volume[0] += sums[3] / 3 * sign
        self.volume[1] -= sums[2] * sign
        self.volume[2] += sums[1] * sign
        self.volume[3] -= sums[0] / 3 * sign
        self._one_by_one(area, corner, rise, whole, begin, end, cut[~steep], sign)

    def _one_by_one(self, area: Floats, corner: Floats, rise: Floats, whole: Floats, begin: NDArray[np.intp],
                    end: NDArray[np.intp], at: NDArray[np.intp], sign: float) -> None:
        """The few whose rise is too small for their coefficients to be summed without loss."""
        count = end[at] - begin[at]
        which = np.repeat(at, count)
        level = np.arange(count.sum()) - np.repeat(np.cumsum(count) - count, count) + begin[which]
        off = self.t[level] - corner[which]
        with np.errstate(divide="ignore", invalid="ignore"):
            share = np.where(rise[which] > 0, off / rise[which], 0.0)
        ground = area[which] * off * share / whole[which]
        self.extra_area += sign * np.bincount(level, ground, self.levels.size)
        self.extra_volume -= sign * np.bincount(level, ground * off / 3, self.levels.size)

    def sums(self) -> tuple[Floats, Floats]:
        """Area and volume above each level."""
        area, volume = np.cumsum(self.area, axis=1)[:, :-1], np.cumsum(self.volume, axis=1)[:, :-1]
        t = self.t
        return (area[0] + t * (area[1] + t * area[2]) + self.extra_area,
                volume[0] + t * (volume[1] + t * (volume[2] + t * volume[3])) + self.extra_volume)
