"""Places and lines on a block, for what is drawn on it before it is ground.

The block's frame: x along its length from face 4, y along its width from face 5, z up its thickness from face 2 [mm].
"""

from collections.abc import Mapping
from dataclasses import dataclass

from zesty_lark.core.part.faces import AXIS

Point = tuple[float, float, float]
PLACE = {"length": 0, "width": 1, "thickness": 2}
UPPER = (6, 3, 1)
"""The faces at the far end of length, width and thickness."""


@dataclass(frozen=True)
class Drawn:
    """A line in space [mm], closed where it bounds a surface; the faces it is seen on, and its words."""

    feature: str
    points: tuple[Point, ...]
    faces: tuple[int, ...]
    closed: bool = False
    words: str = ""


class Frame:
    """Places on a block, from its faces: so far in from one, so far in from another, so far along the third."""

    def __init__(self, sizes: Mapping[str, float]) -> None:
        self.sizes = sizes

    def at(self, **ways: float) -> Point:
        """A point by ``face3=5.0``: so far in from each of three faces [mm]."""
        made = [0.0, 0.0, 0.0]
        for name, far in ways.items():
            face = int(name.removeprefix("face"))
            axis = AXIS[face]
            made[PLACE[axis]] = self.sizes[axis] - far if face in UPPER else far
        return made[0], made[1], made[2]


def third(one: int, other: int) -> tuple[int, int]:
    """The two faces at the ends of an edge between two faces."""
    axis = next(each for each in PLACE if each not in (AXIS[one], AXIS[other]))
    ends = [face for face, of in AXIS.items() if of == axis]
    return ends[0], ends[1]
