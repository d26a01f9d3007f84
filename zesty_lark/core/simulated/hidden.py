"""A surface that nobody knows but the simulation: hollow, leaning, wavy, with a nick."""

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class HiddenSurface:
    """A hidden surface over a rectangle [mm]: how hollow its middle is, what it leans along and across from end to end,
    and how high its waves are [µm]."""

    length_mm: float = 88.0
    width_mm: float = 54.0
    hollow_um: float = 3.0
    along_um: float = 2.0
    across_um: float = -1.0
    wave_um: float = 0.3

    def height_um(self, x_mm: float, y_mm: float) -> float:
        """Return the height at a place [µm]; + is up."""
        u, v = 2 * x_mm / self.length_mm - 1, 2 * y_mm / self.width_mm - 1
        return (
            self.hollow_um * (0.6 * u * u + 0.4 * v * v)
            + self.along_um * u / 2
            + self.across_um * v / 2
            + self.wave_um * math.sin(5.3 * u) * math.cos(4.1 * v)
        )


SHAPES: dict[str, HiddenSurface] = {
    "hollow": HiddenSurface(),
    "tapered": HiddenSurface(hollow_um=0.4, along_um=6.0, across_um=1.0),
    "flat": HiddenSurface(hollow_um=0.3, along_um=0.2, across_um=0.2, wave_um=0.1),
    "crowned": HiddenSurface(hollow_um=-4.0, along_um=0.5, across_um=0.5),
}
"""Surfaces to practise on."""
