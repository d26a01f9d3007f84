"""Two maps of one surface: what changed between them."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zesty_lark.core.measure.maps.analysis import PER_100
from zesty_lark.core.measure.maps.flatness import least_squares_plane
from zesty_lark.core.quantities.numbers import InputError

COMMON_SHARE = 0.5
"""The smaller of two maps lies at least so far over the other to be compared."""


@dataclass(frozen=True)
class Change:
    """The later map less the earlier, at the later one's points that the earlier covers.

    Each map has its own zero, so the mean change is taken out: what is left is change of form.

    Attributes
    ----------
    points : list
        x, y [mm] and the change [µm].
    range_um : float
        Greatest less least change.
    most, least : int
        The points that rose most and sank most, by number from 0.
    slope_x_um_per_100, slope_y_um_per_100 : float
        How the tilt changed.
    """

    points: list[list[float]]
    range_um: float
    most: int
    least: int
    slope_x_um_per_100: float
    slope_y_um_per_100: float


def compare(earlier: Sequence[Sequence[float]], later: Sequence[Sequence[float]]) -> Change:
    """Return what changed from one map to a later one; x, y [mm], z [µm].

    Raises
    ------
    InputError
        If the two hardly lie over each other.
    """
    from scipy.interpolate import LinearNDInterpolator

    before, after = np.asarray(earlier, dtype=np.float64), np.asarray(later, dtype=np.float64)
    known = LinearNDInterpolator(before[:, :2], before[:, 2])(after[:, 0], after[:, 1])
    both = np.isfinite(known)
    if both.sum() < max(3, COMMON_SHARE * len(after)):
        raise InputError("points", "The two maps hardly lie over each other: they cannot be compared.")
    x, y, change = after[both, 0], after[both, 1], after[both, 2] - known[both]
    change -= change.mean()
    try:
        a, b, _ = least_squares_plane(x, y, change)
    except ValueError as error:
        raise InputError("points", str(error)) from error
    return Change(
        np.column_stack((x, y, change)).tolist(),
        float(np.ptp(change)),
        int(change.argmax()),
        int(change.argmin()),
        a * PER_100,
        b * PER_100,
    )
