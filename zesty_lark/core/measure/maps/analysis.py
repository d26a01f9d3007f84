"""Surface maps: drift, range, planes and flatness."""

from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from annotated_types import Ge, Le, MaxLen, MinLen
from numpy.typing import NDArray

from zesty_lark.core.measure.maps.bounds import check_points
from zesty_lark.core.measure.maps.flatness import least_squares_plane, minimum_zone
from zesty_lark.core.quantities.numbers import InputError, NonNegative

Frame = Literal["machine", "plate"]
Coordinate = Annotated[float, Ge(-1e9), Le(1e9)]
Point = Annotated[list[Coordinate], MinLen(3), MaxLen(3)]
Points = Annotated[list[Point], MaxLen(2_000_000)]
Heights = Annotated[list[Coordinate], MinLen(1), MaxLen(2_000_000)]
DRIFT_LIMIT_UM = 1.0
MOST_TYPED = 2000
PER_100 = 100.0


@dataclass(frozen=True)
class Analysis:
    """What a map comes to; heights [µm], slopes [µm per 100 mm], points counted from 0.

    ``proves_flatness`` is false in the machine frame: the map shares the machine's own way errors.
    """

    frame: Frame
    count: int
    range_um: float
    ls_flatness_um: float
    minzone_flatness_um: float
    slope_x_um_per_100: float
    slope_y_um_per_100: float
    high_index: int
    low_index: int
    held_by: list[int]
    proves_flatness: bool
    note: str


@dataclass(frozen=True)
class Drift:
    """Readings with the drift shared by order, the drift [µm], and whether it is within its limit."""

    corrected_um: list[float]
    drift_um: float
    accepted: bool


def points_from_text(text: str) -> list[list[float]]:
    """Read a map's points as people write them down: a line each, x and y [mm] and z [µm], apart by spaces, commas or
    tabs.

    Raises
    ------
    InputError
        If a line is not three numbers, or the points are no map.
    """
    points = []
    for number, line in enumerate(text.splitlines(), start=1):
        parts = line.replace(",", " ").replace(";", " ").split()
        if not parts:
            continue
        try:
            point = [float(part) for part in parts]
        except ValueError:
            point = []
        if len(point) != 3:
            raise InputError("points", f"Line {number} is not three numbers: x and y in mm, z in µm.")
        points.append(point)
    if len(points) > MOST_TYPED:
        raise InputError("points", f"At most {MOST_TYPED} points can be typed.")
    try:
        checked = [list(point) for point in check_points(points)]
    except ValueError as error:
        raise InputError("points", str(error)) from error
    map_analyse(points=checked, frame="machine")
    return checked


def map_analyse(*, points: Points, frame: Frame) -> Analysis:
    """Analyse a map.

    Parameters
    ----------
    points : (n, 3) sequence
        x, y [mm] and z [µm].
    frame : {"machine", "plate"}
        Height over the machine's plane of travel, or over the surface plate.

    Raises
    ------
    InputError
        If there are fewer than three points or all lie in a line.

    Notes
    -----
    Least-squares plane and parameters: ISO 12781-1; minimum zone: ISO 1101, exact.
    """
    return analyse(np.column_stack(columns_of(points)), frame)


def analyse(table: NDArray[np.float64], frame: Frame) -> Analysis:
    """Analyse a map as a table ``(n, 3)`` of x, y [mm] and z [µm]; as ``map_analyse``."""
    x, y, z = (np.ascontiguousarray(column) for column in table.T)
    try:
        a, b, c = least_squares_plane(x, y, z)
        zone = minimum_zone(x, y, z)
    except ValueError as error:
        raise InputError("points", str(error)) from error
    residual = z - (a * x + b * y + c)
    note = "Three points: flatness is 0 by definition." if z.size == 3 else ""
    if frame == "machine":
        note = (note + " A stock map: it shares the machine's way errors and proves no flatness.").strip()
    three = z.size == 3
    return Analysis(
        frame=frame,
        count=int(z.size),
        range_um=float(np.ptp(z)),
        ls_flatness_um=0.0 if three else float(np.ptp(residual)),
        minzone_flatness_um=0.0 if three else zone.width,
        slope_x_um_per_100=a * PER_100,
        slope_y_um_per_100=b * PER_100,
        high_index=int(z.argmax()),
        low_index=int(z.argmin()),
        held_by=list(zone.held_by),
        proves_flatness=frame == "plate",
        note=note,
    )


def columns_of(points: Points) -> tuple[NDArray[np.float64], ...]:
    """Return x, y [mm] and z [µm] of three points or more, each an array; fewer are refused with an ``InputError``."""
    if len(points) < 3:
        raise InputError("points", "points must be at least three")
    table = np.asarray(points, dtype=np.float64)
    return tuple(np.ascontiguousarray(column) for column in table.T)


def map_drift(*, readings_um: Heights, closing_um: Coordinate, limit_um: NonNegative = DRIFT_LIMIT_UM) -> Drift:
    """Share the drift between the first and the closing reading by order of reading [µm].

    Drift = closing − first; above the limit the map is to be read again, the raw readings kept.
    """
    drift = closing_um - readings_um[0]
    corrected = [reading - drift * index / len(readings_um) for index, reading in enumerate(readings_um)]
    return Drift(corrected, drift, abs(drift) <= limit_um)
