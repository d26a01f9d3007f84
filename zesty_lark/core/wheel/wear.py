"""Wear across the face: how the worn front walks, and when to dress."""

import math
from dataclasses import dataclass

import numpy as np

from zesty_lark.core.quantities.numbers import Count, Positive, refuse_work

G_RATIOS = {"soft": 8.0, "medium": 15.0, "hard": 30.0}
"""Grinding ratio: volume ground per volume of wheel lost, by grade band."""

DRESS_SHARE = 1 / 3
"""Dress again when the worn front reaches this share of the face."""
RATIO_SLACK = 1e-9
G_CHIP_UM = 0.15
"""The chip at which the grinding ratio is what the grade has [µm]."""
G_LEAST, G_MOST = 0.5, 4.0
LEAST_CHIP_UM = 1e-9
MOST_SLICES = 400
MOST_STROKES, MOST_CUTS = 50_000, 20_000_000
"""How many strokes are followed in all, and how many slices of the face over all of them."""
MOST_WORK = {"wear": {"strokes": MOST_STROKES, "slices over all strokes": MOST_CUTS}}


@dataclass(frozen=True)
class Wear:
    """The worn width [mm] and share of the face, the strokes, κ, and what was left high [mm]."""

    worn_width_mm: float
    worn_share: float
    strokes: int
    kappa: float
    left_high_mm: float


def kappa(work_length_mm: float, g_ratio: float, wheel_diameter_mm: float) -> float:
    """Return κ = L/(G·π·d), the wear of a slice per stroke and depth."""
    return work_length_mm / (g_ratio * math.pi * wheel_diameter_mm)


def chip_grinding_ratio(g_ratio: float, chip_um: float) -> float:
    """Return the grinding ratio at a chip: G·clip(√(0.15/h_eq), 0.5, 4); thick chips wear the wheel faster."""
    return g_ratio * min(max(math.sqrt(G_CHIP_UM / max(chip_um, LEAST_CHIP_UM)), G_LEAST), G_MOST)


def slices_of(wheel_width_mm: float, crossfeed_mm: float) -> int:
    """Return how many slices one crossfeed wide the wheel's face has: the nearest whole, half up, at least 1."""
    return max(1, int(wheel_width_mm / crossfeed_mm + 0.5 + RATIO_SLACK))


def front_lost(slices: int, wear: float) -> float:
    """Return P(Poisson(wear) ≥ slices): the share of a step that is lost once the front has walked across all slices.

    ``wear`` is κ times the strokes.
    """
    term, below = math.exp(-wear), 0.0
    for count in range(min(slices, MOST_SLICES)):
        below += term
        term *= wear / (count + 1)
    return min(max(1.0 - below, 0.0), 1.0)


def wear(
    *,
    wheel_diameter_mm: Positive,
    wheel_width_mm: Positive,
    crossfeed_mm: Positive,
    work_length_mm: Positive,
    work_width_mm: Positive,
    depth_mm: Positive,
    passes: Count,
    g_ratio: Positive,
) -> Wear:
    """Follow the wear of the wheel's face slice by slice, one crossfeed wide.

    Parameters
    ----------
    wheel_diameter_mm, wheel_width_mm, crossfeed_mm : float
        The wheel and the side step [mm].
    work_length_mm, work_width_mm, depth_mm : float
        The face and the downfeed of each pass [mm].
    passes : int
        How many passes.
    g_ratio : float
        Grinding ratio.

    Notes
    -----
    Per stroke slice k takes cut_k = max(0, res − w_k), then res = min(res, w_k), and wears by κ·cut_k.
    A pass starts with the downfeed and what the last pass left high.
    """
    k = kappa(work_length_mm, g_ratio, wheel_diameter_mm)
    slices = slices_of(wheel_width_mm, crossfeed_mm)
    strokes = max(1, math.ceil(work_width_mm / crossfeed_mm - RATIO_SLACK))
    refuse_work("passes", passes * strokes, MOST_STROKES, "strokes")
    refuse_work("crossfeed_mm", passes * strokes * slices, MOST_CUTS, "slices over all strokes")
    worn = np.zeros(slices)
    left = 0.0
    for _ in range(passes):
        start = depth_mm + left
        for _ in range(strokes):
            height = np.minimum.accumulate(np.concatenate(([start], worn)))
            worn = worn + k * np.maximum(height[:-1] - worn, 0.0)
        left = float(height[-1])
    width = int(np.count_nonzero(worn > depth_mm / 2)) * crossfeed_mm
    return Wear(width, width / wheel_width_mm, strokes * passes, k, left)


def strokes_to_dress(
    *,
    wheel_diameter_mm: Positive,
    wheel_width_mm: Positive,
    crossfeed_mm: Positive,
    work_length_mm: Positive,
    g_ratio: Positive,
) -> int:
    """Return how many strokes until the worn front has walked a third of the face.

    Lengths [mm]; floor(width/3·G·π·d/(L·s)), whatever the depth.
    """
    return math.floor(
        wheel_width_mm * DRESS_SHARE * g_ratio * math.pi * wheel_diameter_mm / (work_length_mm * crossfeed_mm)
        + RATIO_SLACK
    )
