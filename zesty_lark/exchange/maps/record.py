"""A map as it travels, and how a file that is none is refused."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from zesty_lark.core.measure.maps.analysis import Frame, map_analyse
from zesty_lark.core.measure.maps.bounds import check_points, height_wrong
from zesty_lark.core.measure.maps.surface_map import SurfaceMap


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
    try:
        table = check_points(points)
    except ValueError as error:
        raise MapFileError(str(error)) from error
    if closing_um is not None and height_wrong(closing_um):
        raise MapFileError(f"The closing reading: {height_wrong(closing_um)}")
    if patches and (len(patch_of) != len(points) or not all(0 <= each < len(patches) for each in patch_of)):
        raise MapFileError("The patches do not fit the points.")
    try:
        map_analyse(points=[list(point) for point in table], frame=frame)
    except ValueError as error:
        raise MapFileError(f"This is no map: {error}.") from error
    return SurfaceMap(frame, table, closing_um, tuple(patch_of) if patches else (), tuple(patches))
