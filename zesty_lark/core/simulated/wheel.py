"""The wheel of a simulated grinder: how its face wears across, and how it dulls."""

import math
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.wheel.dressing import DRESSES, sharpness
from zesty_lark.core.wheel.wear import chip_grinding_ratio, kappa, slices_of

Floats = NDArray[np.float64]


@dataclass
class SimulatedWheel:
    """A wheel [mm]: its face is cut into slices one crossfeed wide, each worn back by so much."""

    diameter_mm: float
    width_mm: float
    g_ratio: float
    dulls_mm3_mm: float
    grain_mm: float = 0.37
    fresh: float = DRESSES["general"].sharpness
    volume_mm3_mm: float = 0.0
    worn: Floats = field(default_factory=lambda: np.zeros(1))
    slice_mm: float = 0.0

    @property
    def dullness(self) -> float:
        """S: how dull it is."""
        return sharpness(self.fresh, self.volume_mm3_mm, self.dulls_mm3_mm)

    def worn_width_mm(self, depth_mm: float) -> float:
        """How much of the face is worn by more than half a depth [mm]."""
        return int(np.count_nonzero(self.worn > depth_mm / 2)) * self.slice_mm

    def dress(self, amount_mm: float, kind: str, sharp: float | None = None) -> None:
        """Dress it by an amount off its radius [mm]: the diamond meets it where it is least worn, and what is worn
        deeper than that and the amount stays as it is. How sharp it is then is told by ``sharp``, else by its kind."""
        off = amount_mm + float(self.worn.min())
        self.diameter_mm -= 2 * off
        self.worn = np.maximum(self.worn - off, 0.0)
        self.volume_mm3_mm = 0.0
        told: float = DRESSES.get(kind, DRESSES["general"]).sharpness  # type: ignore[call-overload]
        self.fresh = told if sharp is None else sharp

    def stroke_over(self, asked_mm: float, chip_um: float, length_mm: float, *, share: float) -> float:
        """One stroke of a work length with so much to take, of which the springs let a share be taken; return what the
        last slice leaves high [mm]."""
        k = kappa(length_mm, chip_grinding_ratio(self.g_ratio, chip_um), self.diameter_mm)
        height = np.minimum.accumulate(np.concatenate(([asked_mm], self.worn)))
        self.worn = self.worn + k * share * np.maximum(height[:-1] - self.worn, 0.0)
        return float(height[-1])

    def cut_in_slices(self, crossfeed_mm: float) -> None:
        """Follow the face in slices of a crossfeed; another crossfeed finds the wear where it is."""
        if math.isclose(self.slice_mm, crossfeed_mm):
            return
        count = slices_of(self.width_mm, crossfeed_mm)
        places = (np.arange(count) + 0.5) * self.width_mm / count
        old = (np.arange(self.worn.size) + 0.5) * self.width_mm / self.worn.size
        self.worn = np.interp(places, old, self.worn)
        self.slice_mm = crossfeed_mm
