"""What a drawing of a map shows: areas, points, the feather line and the share it grinds, patch by patch."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from zesty_lark.core.maps.analysis import map_feather
from zesty_lark.core.maps.contour import Band, Outline, bands, ground_area
from zesty_lark.core.maps.surface_map import SurfaceMap

__all__ = ["MOST_DRAWN", "Plate", "ground_at", "plate_of"]

MOST_DRAWN = 400
"""Above this many points only the high and the low one are drawn."""
KEPT = 16


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


def plate_of(taken: SurfaceMap) -> Plate:
    """Return what a drawing of a map shows."""
    level = tuple((x, y, z) for x, y, z in taken.level)
    return _plate(level, taken.patch_of if taken.patches else ())


@lru_cache(maxsize=KEPT)
def _plate(points: tuple[tuple[float, float, float], ...], patch_of: tuple[int, ...]) -> Plate:
    heights = [z for _, _, z in points]
    low, high = min(heights), max(heights)
    parts = _parts(points, patch_of)
    drawn: dict[int, list[Outline]] = {}
    edges: dict[int, tuple[float, float]] = {}
    for part in parts:
        for band in _bands(part, low, high):
            drawn.setdefault(band.number, []).extend(band.outlines)
            edges[band.number] = band.from_um, band.to_um
    return Plate(
        points,
        _extent(points),
        tuple(Band(number, *edges[number], tuple(drawn[number])) for number in sorted(drawn)),
        tuple(_extent(part) for part in parts),
        heights.index(high),
        heights.index(low),
    )


def _bands(part: Sequence[tuple[float, float, float]], low: float, high: float) -> list[Band]:
    """The areas of a patch; one too small to be laid over is only its points."""
    try:
        return bands(part, low, high)
    except ValueError:
        return []


def _parts(
    points: tuple[tuple[float, float, float], ...], patch_of: tuple[int, ...]
) -> list[tuple[tuple[float, float, float], ...]]:
    if not patch_of:
        return [points]
    return [
        tuple(point for point, number in zip(points, patch_of, strict=True) if number == patch)
        for patch in sorted(set(patch_of))
    ]


def _extent(points: Sequence[tuple[float, float, float]]) -> tuple[float, float, float, float]:
    x, y = [point[0] for point in points], [point[1] for point in points]
    return min(x), min(y), max(x), max(y)


@dataclass(frozen=True)
class Ground:
    """What a downfeed below the high point grinds: its area, the share of the whole, and the stock it takes."""

    depth_um: float
    outlines: tuple[Outline, ...]
    share: float
    stock_mm3: float


def ground_at(taken: SurfaceMap, depths_um: Sequence[float]) -> list[Ground]:
    """Return what each depth grinds; of several patches each counts with its area."""
    points = tuple((x, y, z) for x, y, z in taken.level)
    high = max(z for _, _, z in points)
    parts = _parts(points, taken.patch_of if taken.patches else ())
    found: list[Ground] = []
    areas = [_area(part) for part in parts]
    for depth in depths_um:
        shares, stock, lines = 0.0, 0.0, list[Outline]()
        for part, area in zip(parts, areas, strict=True):
            below = max(0.0, depth - (high - max(z for _, _, z in part)))
            if area <= 0:
                continue
            made = map_feather(points=[list(point) for point in part], depths_um=[below])
            shares += made.cleaned_share[0] * area
            stock += made.stock_mm3[0]
            lines += ground_area(part, depth, high)
        found.append(Ground(depth, tuple(lines), shares / sum(areas) if sum(areas) > 0 else 0.0, stock))
    return found


def _area(part: Sequence[tuple[float, float, float]]) -> float:
    x0, y0, x1, y1 = _extent(part)
    return (x1 - x0) * (y1 - y0)
