"""Foils under the hollow of a bowed part: which of the shop's fill the gap, and what they leave of it."""

from collections.abc import Sequence

from zesty_lark.core.things.shop import Accessory

MOST_FOILS = 3
SHIM_FROM_MM = 0.004
"""A bow from here on is shimmed, not pulled flat [mm]."""


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
