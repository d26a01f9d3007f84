"""Minimum-zone flatness: the least distance of two parallel planes that enclose all points (ISO 1101), exact.

A zone of least width is held by three points against one or by two against two. A small set of points is solved over
all such holds; the points that stick out furthest join it until none sticks out.
"""

from dataclasses import dataclass
from functools import cache
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Indices = NDArray[np.intp]

WORKING_MOST = 18
TOUCH = 1e-9
"""A point within this share of the zone's width of its edge holds it."""
MOST_ROUNDS = 500


@dataclass(frozen=True)
class MinimumZone:
    """Width, slopes of the zone along x and y (in z per x), and the points that hold it."""

    width: float
    slope_x: float
    slope_y: float
    held_by: tuple[int, ...]


def least_squares_plane(x: Floats, y: Floats, z: Floats) -> tuple[float, float, float]:
    """Return slope along x, slope along y and offset of the least-squares plane.

    Raises
    ------
    ValueError
        If the points all lie in a line.
    """
    mx, my, mz = float(x.mean()), float(y.mean()), float(z.mean())
    dx, dy, dz = x - mx, y - my, z - mz
    xx, yy, xy = float(dx @ dx), float(dy @ dy), float(dx @ dy)
    determinant = xx * yy - xy * xy
    if determinant <= 1e-12 * max(xx, yy) ** 2:
        raise ValueError("points must not all lie in a line")
    xz, yz = float(dx @ dz), float(dy @ dz)
    a = (xz * yy - yz * xy) / determinant
    b = (yz * xx - xz * xy) / determinant
    return a, b, mz - a * mx - b * my


def minimum_zone(x: Floats, y: Floats, z: Floats) -> MinimumZone:
    """Return the minimum zone of any number of points, on vertical distance.

    Parameters
    ----------
    x, y, z : (n,) array
        Points; not all in a line.

    Raises
    ------
    ValueError
        If there are fewer than three points or all lie in a line.
    """
    if x.size < 3:
        raise ValueError("points must be at least three")
    a, b, _ = least_squares_plane(x, y, z)
    scale = max(float(np.ptp(x)), float(np.ptp(y)))
    u, v = (x - x.mean()) / scale, (y - y.mean()) / scale
    slopes = (a * scale, b * scale)
    working: list[int] = _spread_out(u, v)
    residual = np.empty_like(z)
    step = np.empty_like(z)
    width = 0.0
    for _ in range(MOST_ROUNDS):
        np.multiply(u, slopes[0], out=residual)
        np.multiply(v, slopes[1], out=step)
        residual += step
        np.subtract(z, residual, out=residual)
        high, low = int(residual.argmax()), int(residual.argmin())
        spread = float(residual[high] - residual[low])
        if spread <= width * (1 + 1e-12) + 1e-15:
            break
        working = list(dict.fromkeys([*working, high, low]))
        if len(working) > WORKING_MOST:
            working = _holding(u, v, z, working, slopes=slopes, width=width) + [high, low]
            working = list(dict.fromkeys(working))
        width, slopes = _solve(u, v, z, working)
    held = _touching(u, v, z, np.array(working), slopes=slopes, width=width)
    return MinimumZone(spread, slopes[0] / scale, slopes[1] / scale, tuple(sorted(held)))


def _spread_out(u: Floats, v: Floats) -> list[int]:
    """A few points that do not lie in a line, so that the first small set is solvable."""
    corners = [int(index) for measure in (u + v, u - v, u, v) for index in (measure.argmin(), measure.argmax())]
    return list(dict.fromkeys(corners))


def _touching(
    u: Floats, v: Floats, z: Floats, working: Indices, *, slopes: tuple[float, float], width: float
) -> list[int]:
    residual = z[working] - slopes[0] * u[working] - slopes[1] * v[working]
    slack = TOUCH * max(width, 1e-12)
    edge = (residual >= residual.max() - slack) | (residual <= residual.min() + slack)
    return [int(index) for index in working[edge]]


def _holding(
    u: Floats, v: Floats, z: Floats, working: list[int], *, slopes: tuple[float, float], width: float
) -> list[int]:
    """Leave out the points that do not hold the zone, unless that would loosen it."""
    kept = _touching(u, v, z, np.array(working[:-2]), slopes=slopes, width=width)
    if len(kept) >= 3 and len(kept) <= WORKING_MOST - 4 and _solve(u, v, z, kept)[0] >= width * (1 - 1e-12):
        return kept
    return working


@cache
def _holds(count: int) -> tuple[Indices, Indices]:
    """Indices of all edge pairs that can fix a zone's slopes: two edges of a triangle, or two edges apart."""
    triangles = [(i, j, i, k) for i, j, k in combinations(range(count), 3)]
    apart = []
    for i, j in combinations(range(count), 2):
        apart += [(i, j, k, m) for k, m in combinations(range(i + 1, count), 2) if j not in (k, m)]
    table = np.array(triangles + apart, dtype=np.intp)
    return table[:, :2], table[:, 2:]


def _solve(u: Floats, v: Floats, z: Floats, working: list[int]) -> tuple[float, tuple[float, float]]:
    """The least zone of a few points: try every slope that an edge pair fixes."""
    index = np.array(working)
    pu, pv, pz = u[index], v[index], z[index]
    one, two = _holds(len(working))
    du1, dv1, dz1 = (p[one[:, 1]] - p[one[:, 0]] for p in (pu, pv, pz))
    du2, dv2, dz2 = (p[two[:, 1]] - p[two[:, 0]] for p in (pu, pv, pz))
    determinant = du1 * dv2 - du2 * dv1
    usable = np.abs(determinant) > 1e-14
    if not usable.any():
        raise ValueError("points must not all lie in a line")
    d = determinant[usable]
    a = (dz1[usable] * dv2[usable] - dz2[usable] * dv1[usable]) / d
    b = (du1[usable] * dz2[usable] - du2[usable] * dz1[usable]) / d
    residual = pz[None, :] - a[:, None] * pu[None, :] - b[:, None] * pv[None, :]
    widths = residual.max(axis=1) - residual.min(axis=1)
    best = int(widths.argmin())
    return float(widths[best]), (float(a[best]), float(b[best]))
