"""A map as it travels, and how a file that is none is refused."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from zesty_lark.core.maps.analysis import Frame, map_analyse
from zesty_lark.core.maps.surface_map import SurfaceMap

__all__ = ["MOST_POINTS", "MapFileError", "MapRecord", "checked_map"]

MOST_POINTS = 200_000
FARTHEST_MM, HIGHEST_UM = 1e5, 1e7


class MapFileError(ValueError):
    """The file is no map; the message says where and why."""


@dataclass(frozen=True)
class MapRecord:
    """A map with what is known of it; ``frame_known`` is false where the file does not say which frame it is in."""

    whole: SurfaceMap
    title: str = ""
    taken_at: datetime | None = None
    by: str = ""
    instrument: str = ""
    frame_known: bool = True


def checked_map(
    points: Sequence[Sequence[float]],
    frame: Frame,
    *,
    closing_um: float | None = None,
    patch_of: Sequence[int] = (),
    patches: Sequence[str] = (),
) -> SurfaceMap:
    """Return a map from what a file says, every figure checked.

    Raises
    ------
    MapFileError
        If a figure is none, or beyond what such a surface can have, or the points are no map.
    """
    if len(points) > MOST_POINTS:
        raise MapFileError(f"This map has {len(points):,} points; {MOST_POINTS:,} at most are read.")
    for number, point in enumerate(points, start=1):
        if len(point) != 3 or not all(math.isfinite(value) for value in point):
            raise MapFileError(f"Point {number} is no three numbers: one of them is missing, or not a number.")
        if max(abs(point[0]), abs(point[1])) > FARTHEST_MM or abs(point[2]) > HIGHEST_UM:
            raise MapFileError(f"Point {number} lies beyond any surface here: x, y go in as mm, z as µm.")
    if closing_um is not None and not (math.isfinite(closing_um) and abs(closing_um) <= HIGHEST_UM):
        raise MapFileError("The closing reading is no height.")
    if patches and (len(patch_of) != len(points) or not all(0 <= each < len(patches) for each in patch_of)):
        raise MapFileError("The patches do not fit the points.")
    table = tuple((float(x), float(y), float(z)) for x, y, z in points)
    try:
        map_analyse(points=[list(point) for point in table], frame=frame)
    except ValueError as error:
        raise MapFileError(f"This is no map: {error}.") from error
    return SurfaceMap(frame, table, closing_um, tuple(patch_of) if patches else (), tuple(patches))
