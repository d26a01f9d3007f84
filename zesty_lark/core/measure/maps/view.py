"""What a drawing of a map shows: areas, points, the feather line and the share it grinds, patch by patch."""

from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.measure.maps.contour import Band, Outline, bands, ground_area, laid
from zesty_lark.core.measure.maps.feather import cleaned, triangles
from zesty_lark.core.measure.maps.gridded import Gridded
from zesty_lark.core.measure.maps.surface_map import SurfaceMap

MOST_DRAWN = 400
"""Above this many points only the high and the low one are drawn."""
KEPT = 16
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Plate:
    """A map as it is drawn.

    Attributes
    ----------
    points : tuple of (x, y, z)
        The levelled points [mm] [µm].
    extent : (x0, y0, x1, y1)
        What the points span [mm].
    bands : tuple of Band
        Areas by height, of all patches.
    outlines : tuple of (x0, y0, x1, y1)
        The patches' own extents; one for a whole surface.
    high, low : int
        The highest and the lowest point, by number from 0.
    """

    points: tuple[tuple[float, float, float], ...]
    extent: tuple[float, float, float, float]
    bands: tuple[Band, ...]
    outlines: tuple[tuple[float, float, float, float], ...]
    high: int
    low: int

    @property
    def high_um(self) -> float:
        """The high point [µm]."""
        return self.points[self.high][2]

    @property
    def low_um(self) -> float:
        """The low point [µm]."""
        return self.points[self.low][2]


@dataclass(frozen=True, eq=False)
class _Part:
    """A patch: its points, its grid and its triangles; one too small to be laid over is only its points."""

    table: Floats

    @cached_property
    def grid(self) -> Gridded | None:
        """What it is drawn from."""
        try:
            return laid(self.table)
        except ValueError:
            return None

    @cached_property
    def triangles(self) -> NDArray[np.intp]:
        """What its share is reckoned over."""
        return triangles(self.table[:, 0], self.table[:, 1])

    @property
    def extent(self) -> tuple[float, float, float, float]:
        """What it spans [mm]."""
        low, high = self.table[:, :2].min(axis=0), self.table[:, :2].max(axis=0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])

    @property
    def area(self) -> float:
        """Of what it spans [mm²]; nothing for points in a line."""
        x0, y0, x1, y1 = self.extent
        return (x1 - x0) * (y1 - y0) if len(self.table) > 2 else 0.0


@dataclass(frozen=True, eq=False)
class _Laid:
    """A map laid out for drawing, worked out once a map."""

    taken: SurfaceMap

    @cached_property
    def parts(self) -> list[_Part]:
        """Its patches."""
        return [_Part(part) for part in self.taken.parts()]

    def plate(self, *, about_zero: bool) -> Plate:
        """What a drawing shows."""
        heights = self.taken.table[:, 2]
        low, high = float(heights.min()), float(heights.max())
        if about_zero:
            high = max(high, -low)
            low = -high
        drawn: dict[int, list[Outline]] = {}
        edges: dict[int, tuple[float, float]] = {}
        for part in self.parts:
            for band in [] if part.grid is None else bands(part.grid, low, high):
                drawn.setdefault(band.number, []).extend(band.outlines)
                edges[band.number] = band.from_um, band.to_um
        return Plate(
            tuple((x, y, z) for x, y, z in self.taken.level),
            _Part(self.taken.table).extent,
            tuple(Band(number, *edges[number], tuple(drawn[number])) for number in sorted(drawn)),
            tuple(part.extent for part in self.parts),
            int(heights.argmax()),
            int(heights.argmin()),
        )


_known: OrderedDict[int, _Laid] = OrderedDict()


def _once(taken: SurfaceMap) -> _Laid:
    """What was worked out of this very map before."""
    found = _known.pop(id(taken), None)
    if found is None or found.taken is not taken:
        found = _Laid(taken)
    _known[id(taken)] = found
    while len(_known) > KEPT:
        _known.popitem(last=False)
    return found


def plate_of(taken: SurfaceMap, *, about_zero: bool = False) -> Plate:
    """Return what a drawing of a map shows; areas of a change lie evenly about 0, those of heights over their range."""
    return _once(taken).plate(about_zero=about_zero)


@dataclass(frozen=True)
class Ground:
    """What a downfeed below the high point grinds: its area, the share of the whole, and the stock it takes."""

    depth_um: float
    outlines: tuple[Outline, ...]
    share: float
    stock_mm3: float


def ground_at(taken: SurfaceMap, depths_um: Sequence[float], *, drawn: int = 1) -> list[Ground]:
    """Return what each depth grinds; of several patches each counts with its area. The first few are drawn too."""
    high = float(taken.table[:, 2].max())
    depths = np.asarray(depths_um, dtype=np.float64)
    shares, stocks, whole = np.zeros(depths.size), np.zeros(depths.size), 0.0
    parts = [part for part in _once(taken).parts if part.area > 0]
    for part in parts:
        x, y, z = (np.ascontiguousarray(column) for column in part.table.T)
        below = np.maximum(0.0, depths - (high - float(z.max())))
        share, stock = cleaned(x, y, z, below, over=part.triangles)
        share[below <= 0] = 0.0
        shares, stocks, whole = shares + share * part.area, stocks + stock, whole + part.area
    grids = [part.grid for part in parts if part.grid is not None]
    return [
        Ground(
            float(depth),
            tuple(line for grid in grids for line in ground_area(grid, float(depth), high)) if number < drawn else (),
            float(share) / whole if whole > 0 else 0.0,
            float(stock),
        )
        for number, (depth, share, stock) in enumerate(zip(depths, shares, stocks, strict=True))
    ]
