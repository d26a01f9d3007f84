"""Pads, rails and steps in one frame: how coplanar they are, and each one's own height and tilt."""

from dataclasses import dataclass

import numpy as np

from zesty_lark.core.measure.maps.analysis import PER_100
from zesty_lark.core.measure.maps.flatness import least_squares_plane
from zesty_lark.core.measure.maps.surface_map import SurfaceMap


@dataclass(frozen=True)
class Patch:
    """One patch: its mean height over the map's mean [µm], and its tilt along and across [µm per 100 mm]; no tilt where
    its points are fewer than three or lie in a line."""

    name: str
    count: int
    height_um: float
    slope_x_um_per_100: float | None
    slope_y_um_per_100: float | None


@dataclass(frozen=True)
class Coplanarity:
    """The minimum zone of all patches together [µm], and each patch."""

    zone_um: float
    patches: tuple[Patch, ...]


def coplanarity(taken: SurfaceMap) -> Coplanarity:
    """Return how far several patches are from one plane: the minimum zone of all together."""
    mean = float(taken.table[:, 2].mean())
    made = []
    for name, part in zip(taken.patches, taken.parts(), strict=True):
        x, y, z = (np.ascontiguousarray(column) for column in part.T)
        try:
            a, b, _ = least_squares_plane(x, y, z)
            slopes: tuple[float | None, float | None] = (a * PER_100, b * PER_100) if x.size > 2 else (None, None)
        except ValueError:
            slopes = None, None
        made.append(Patch(name, int(x.size), float(z.mean()) - mean, *slopes))
    return Coplanarity(taken.analysis.minzone_flatness_um, tuple(made))
