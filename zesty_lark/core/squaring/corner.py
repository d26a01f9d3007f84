"""Two faces in one clamping: the part at an angle plate's corner, proud of two edges, the plate turned for the second.

The plate stands on its foot for the first face and on the square end of it for the second; the part is not unclamped
in between, so that both faces are as square to each other as the plate's own edges are.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from zesty_lark.core.part.faces import AXIS
from zesty_lark.core.part.surfaces.part import Block
from zesty_lark.core.process.holding import TALL_SHARE, is_tall
from zesty_lark.core.things.shop import Accessory, Fixture

PROUD_MM = 1.0
"""A face stands this far proud of its fixture at least, when it is done [mm]."""
MOST_FREE = 1 / 3
"""A larger share of the part must not hang out over the plate's edge: it would give way under the wheel."""
CLAMP_ON_MM = 10.0
"""A clamp reaches round the part and takes hold of so much of the plate behind it [mm]."""
TWO = 2


@dataclass(frozen=True)
class Corner:
    """A part at a plate's corner: its first and second face; the fixture; how far each stands proud of the edge under
    it as it came, and how high the part hangs over the chuck with it up [mm]; and why both cannot be had in one
    clamping, empty where they can."""

    faces: tuple[int, int]
    fixture: Fixture
    proud_mm: tuple[float, float]
    hangs_mm: tuple[float, float]
    lacks: str = ""

    def on_end(self, face: int) -> bool:
        """Whether the plate stands on its end for a face: for the second."""
        return face == self.faces[1]

    def proud_of(self, face: int) -> float:
        """How far a face stands proud of the edge under it [mm]."""
        return self.proud_mm[self.faces.index(face)]

    def hangs(self, face: int) -> float:
        """How high the part hangs over the chuck with a face up [mm]."""
        return self.hangs_mm[self.faces.index(face)]

    def other(self, face: int) -> int:
        """The face that is not up: it stands proud of the plate's edge beside it."""
        return self.faces[1] if face == self.faces[0] else self.faces[0]


def corner_of(block: Block, up: Sequence[int], fixture: Fixture | None, clamps: Sequence[Accessory]) -> Corner | None:
    """Return how a part goes to a plate's corner for two faces; ``None`` where a set-up has one face, or no fixture.

    A plate of which the shop's clamps are not known is taken to have clamps of its own that reach.
    """
    if len(up) != TWO or fixture is None:
        return None
    first, second = up
    heights = [fixture.stood(on_end=on_end)[2] for on_end in (False, True)]
    sizes = [block.sizes[AXIS[face]] for face in (first, second)]
    came = [float(size.measured_max_mm) for size in sizes]
    needs = [float(size.measured_max_mm - size.target_mm) + PROUD_MM for size in sizes]
    proud = [max(need, high - over) for need, high, over in zip(needs, came, heights, strict=True)]
    hangs = [max(over + out - high, 0.0) for over, out, high in zip(heights, proud, came, strict=True)]
    made = Corner((first, second), fixture, (proud[0], proud[1]), (hangs[0], hangs[1]))
    free = [out / high for out, high in zip(proud, came, strict=True)]
    return replace(made, lacks=_lacks(block, made, free, clamps))


def _lacks(block: Block, made: Corner, free: Sequence[float], clamps: Sequence[Accessory]) -> str:
    """Why the part cannot be proud of both edges and held there; empty where it can."""
    plate = made.fixture
    if plate.form != "angle_plate":
        return f"{plate.name} is no angle plate: it is not turned on its own edges."
    for face, share, proud in zip(made.faces, free, made.proud_mm, strict=True):
        if share > MOST_FREE:
            return f"{plate.name} is too small: {proud:.0f} mm would hang out over its edge under face {face}."
    foot, deep, high = plate.stood(on_end=True)
    if is_tall(high, foot, deep):
        return (
            f"{plate.name} is too large: turned on its end it stands {high:g} mm high on {min(foot, deep):g} mm, more "
            f"than {TALL_SHARE:g} times."
        )
    thick = float(block.sizes[_thickness(made.faces)].measured_max_mm)
    reach = max((float(clamp.length_mm) for clamp in clamps), default=None)
    if reach is not None and reach < thick + CLAMP_ON_MM:
        return f"No clamp reaches round {thick:.0f} mm and the plate: the longest reaches {reach:g} mm."
    if thick > min(float(block.sizes[AXIS[face]].measured_max_mm) for face in made.faces):
        return "It is thicker than it is wide or long: it would lie against the plate with a narrow side."
    return ""


def _thickness(faces: Sequence[int]) -> str:
    """The size that is across the plate: the one that neither face bounds."""
    return next(axis for axis in dict.fromkeys(AXIS.values()) if axis not in {AXIS[face] for face in faces})
