"""What lies under a part: foils that fill the hollow of a bowed one, pins that raise it before a fixture."""

from collections.abc import Sequence
from typing import Literal

from zesty_lark.core.things.shop import Accessory

MOST_FOILS = 3
LINES: tuple[Literal["flat", "edge"], ...] = ("flat", "edge")
"""How a pin lies under a part: on its end it would be a foot, not a line."""
SHIM_FROM_MM = 0.004
"""A bow from here on is shimmed, not pulled flat [mm]."""


THIN_MM, SLENDER = 6.0, 20.0
"""A part is thin up to this height, or when it is this many times longer than high."""


def is_thin(along_mm: float, across_mm: float, height_mm: float) -> bool:
    """Tell whether a part is so thin that the magnet bends it."""
    return height_mm <= THIN_MM or max(along_mm, across_mm) >= SLENDER * height_mm


def foils_for(foils: Sequence[Accessory], gap_mm: float) -> list[Accessory]:
    """Return the foils that fill a gap as far as they can without lifting the part, the thickest first."""
    taken: list[Accessory] = []
    left = gap_mm
    for foil in sorted(foils, key=lambda each: -each.height_mm):
        for _ in range(foil.count):
            if float(foil.height_mm) > left + 1e-9 or len(taken) == MOST_FOILS:
                break
            taken.append(foil)
            left -= float(foil.height_mm)
    return taken


def shimmed_mm(foils: Sequence[Accessory], gap_mm: float) -> float:
    """Return how much of a gap the shop's foils fill, where it is one that is shimmed [mm]."""
    if gap_mm < SHIM_FROM_MM:
        return 0.0
    return sum(float(each.height_mm) for each in foils_for(foils, gap_mm))


def pin_under(pins: Sequence[Accessory], need_mm: float) -> tuple[Accessory, Literal["flat", "edge"]] | None:
    """Return the lowest pin that raises a part so far, and how it lies; ``None`` where the shop has none."""
    ways: list[tuple[float, int, Literal["flat", "edge"]]] = [
        (pin.lying(lies)[2], number, lies)
        for number, pin in enumerate(pins)
        for lies in LINES
        if pin.lying(lies)[2] >= need_mm
    ]
    best = min(ways, key=lambda way: way[0], default=None)
    return None if best is None else (pins[best[1]], best[2])
