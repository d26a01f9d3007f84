"""The size that roughing loses by the wheel's wear: what the last slice of its face leaves high, pass by pass."""

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.planning.cutting import Face, Setting
from zesty_lark.core.planning.kernel import front_lost, slices_of
from zesty_lark.core.planning.wearing import fresh, next_pass
from zesty_lark.core.quantities.compiled import compiled

Floats = NDArray[np.float64]


@compiled
def rough_lost(face: Face, setting: Setting) -> float:
    """Return by how much less than it was fed a roughing takes because the wheel wears [mm].

    Each pass begins with its depth and what the last one left high; each rise of that reaches the last slice once the
    front has walked across the whole face since: left = Σ rise·P(Poisson(κ·strokes since) ≥ slices). A dress finds the
    wheel again and begins a new front; what was lost before it stays on the part.
    """
    slices, now = slices_of(face.wheel_width, setting.crossfeed), fresh(setting)
    rises, since = np.zeros(setting.passes), np.zeros(setting.passes)
    lost, left, begins, start, dresses = 0.0, 0.0, 0, 0.0, 0
    for number in range(setting.passes):
        now = next_pass(face, setting, now, number)
        if now.dresses > dresses:
            lost, left, begins, start, dresses = lost + left, 0.0, number, 0.0, now.dresses
        rises[number] = max(0.0, now.depth + left - start)
        start = max(start, now.depth + left)
        left = 0.0
        for before in range(begins, number + 1):
            since[before] += now.growth / setting.crossfeed
            left += rises[before] * front_lost(slices, since[before])
    return lost + left
