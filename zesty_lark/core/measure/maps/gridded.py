"""A map laid linearly over triangles and read on an even grid: what drawing it and moving a footprint over it need."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.measure.maps.feather import grid_order

Floats = NDArray[np.float64]
CELLS_MOST = 160
KEPT = 64


@dataclass(frozen=True)
class Gridded:
    """Stations along x and y [mm], and the heights at them, a row each y [µm]."""

    x: Floats
    y: Floats
    heights: Floats


THINNED = 8_000
"""Scattered points above this are thinned, to one in each cell of a finer grid, before they are laid over."""


@lru_cache(maxsize=KEPT)
def gridded(points: tuple[tuple[float, ...], ...], cells: int = CELLS_MOST) -> Gridded:
    """Return a map of points on a grid, worked out once; as ``on_grid``."""
    return on_grid(np.asarray(points, dtype=np.float64), cells)


def on_grid(table: Floats, cells: int = CELLS_MOST) -> Gridded:
    """Return a map on a grid over its extent; beyond the outermost points the nearest one counts.

    Parameters
    ----------
    table : (n, 3) array
        x, y [mm] and z [µm]; at least three, not all in a line.
    cells : int
        Along the longer side.
    """
    low, high = table[:, :2].min(axis=0), table[:, :2].max(axis=0)
    extent = np.maximum(high - low, 1e-6)
    cell = max(float(extent.max()) / cells, 1e-6)
    columns, rows = (max(2, math.ceil(each / cell) + 1) for each in extent)
    x, y = np.linspace(low[0], high[0], columns), np.linspace(low[1], high[1], rows)
    order = grid_order(table[:, 0], table[:, 1])
    if order is not None:
        return Gridded(x, y, _over_cells(table, order, x, y))
    return Gridded(x, y, _over_triangles(_thinned(table, low, extent), x, y))


def _over_cells(table: Floats, order: NDArray[np.intp], x: Floats, y: Floats) -> Floats:
    """Heights over a full grid, each cell cut in two as the feather line cuts it."""
    heights = table[:, 2][order]
    i, u = _within(table[order[0], 0], x)
    j, v = _within(table[order[:, 0], 1], y)
    i, j, u, v = i[None, :], j[:, None], u[None, :], v[:, None]
    a, b, c, d = heights[j, i], heights[j, i + 1], heights[j + 1, i], heights[j + 1, i + 1]
    below = a + u * (b - a) + v * (d - b)
    above = a + v * (c - a) + u * (d - c)
    laid: Floats = np.where(u >= v, below, above)
    return laid


def _within(stations: Floats, at: Floats) -> tuple[NDArray[np.intp], Floats]:
    """Which cell each position lies in, and how far along it."""
    cell = np.clip(np.searchsorted(stations, at, "right") - 1, 0, stations.size - 2).astype(np.intp)
    return cell, np.clip((at - stations[cell]) / (stations[cell + 1] - stations[cell]), 0.0, 1.0)


def _thinned(table: Floats, low: Floats, extent: Floats) -> Floats:
    if len(table) <= THINNED:
        return table
    across = math.isqrt(THINNED)
    cells = np.minimum(((table[:, :2] - low) / extent * across).astype(np.intp), across - 1)
    _, first = np.unique(cells[:, 0] * across + cells[:, 1], return_index=True)
    kept: Floats = table[np.union1d(first, [table[:, 2].argmax(), table[:, 2].argmin()])]
    return kept


def _over_triangles(table: Floats, x: Floats, y: Floats) -> Floats:
    from scipy.interpolate import LinearNDInterpolator, NearestNDInterpolator

    grid_x, grid_y = np.meshgrid(x, y)
    heights: Floats = LinearNDInterpolator(table[:, :2], table[:, 2])(grid_x, grid_y)
    missing = np.isnan(heights)
    if missing.any():
        heights[missing] = NearestNDInterpolator(table[:, :2], table[:, 2])(grid_x[missing], grid_y[missing])
    return heights
