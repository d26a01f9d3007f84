"""The part on a simulated grinder: six faces, each with a hidden surface, and how warm it is.

A face is a map of how far each place lies below the face's own high plane (0 or less) [µm]; between the high planes of
two opposite faces lies the size [mm]. A micrometer at a place reads the size and both maps there; standing on a chuck
the part rests on its lower face's high plane.
"""

import math
import random
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.part.faces import ALL_FACES, AXIS, OPPOSITE, Axis
from zesty_lark.core.process.evaluate import STANDARD
from zesty_lark.core.quantities.steel import STEEL_EXPANSION
from zesty_lark.core.quantities.units import UM_A_MM

Floats = NDArray[np.float64]
ALONG, ACROSS = 13, 9
"""Places along the travel and across it."""
ROUGH_SHARE = 0.3
"""No more of the stock of a formed surface than this is its roughness."""
FORMED_MM = 20.0
"""How high a formed surface stands once it is done [mm]."""
WARMER_MIDDLE = 0.3
"""By what share of its warmth the middle of a face is warmer than its corners."""
MM3_M3 = 1e-9
LYING: dict[Axis, tuple[Axis, Axis]] = {
    "thickness": ("length", "width"),
    "width": ("length", "thickness"),
    "length": ("width", "thickness"),
}
"""Which size lies along the travel and which across, by the size that is up."""


def hidden_map(dice: random.Random, range_um: float) -> Floats:
    """Return a face as it comes in: hollow or crowned, leaning, wavy; at most 0 [µm]."""
    u, v = np.meshgrid(np.linspace(-1, 1, ALONG), np.linspace(-1, 1, ACROSS))
    hollow, along, across = (dice.uniform(-1, 1) for _ in range(3))
    wave = dice.uniform(0, 0.3) * np.sin(5.3 * u + dice.uniform(0, 6)) * np.cos(4.1 * v + dice.uniform(0, 6))
    made = hollow * (0.6 * u * u + 0.4 * v * v) + along * u + across * v + wave
    return np.asarray(range_um * (made - made.max()) / max(float(np.ptp(made)), 1e-9))


@dataclass
class Lump:
    """A block: its sizes between high planes [mm], each face's map [µm], and how much warmer than the room it is [K].

    ``bow_um`` is how far the middle of faces 1 and 2 stands up over their ends when it lies free; ``eta`` the share of
    one wipe where its hold or a thin wheel gives more than the machine, ``body_mm3`` the whole that takes up the heat.
    """

    sizes: dict[Axis, float]
    maps: dict[int, Floats]
    bow_um: float = 0.0
    warm_c: float = 0.0
    touched: dict[int, NDArray[np.bool_]] = field(default_factory=dict)
    eta: float | None = None
    body_mm3: float | None = None

    @classmethod
    def of(cls, sizes: dict[Axis, float], dice: random.Random, range_um: float, bow_um: float = 0.0) -> "Lump":
        """A block as it comes in, the greatest of each size as given [mm]."""
        maps = {face: hidden_map(dice, range_um) for face in ALL_FACES}
        made = cls(dict(sizes), maps, bow_um)
        for axis, size in sizes.items():
            up = next(face for face in ALL_FACES if AXIS[face] == axis)
            most = float((maps[up] + maps[OPPOSITE[up]][::-1]).max()) / UM_A_MM
            made.sizes[axis] = size - most
        return made

    @classmethod
    def formed(
        cls,
        sides_mm: tuple[float, float],
        stock_mm: float,
        dice: random.Random,
        range_um: float,
        *,
        eta: float | None = None,
        body_mm3: float | None = None,
    ) -> "Lump":
        """A slot's wall, an inclined face or an edge as it lies under the wheel: so long and wide, with so much to be
        fed off it over ``FORMED_MM``; it stands true on what holds it."""
        along, across = sides_mm
        range_um = min(range_um, ROUGH_SHARE * stock_mm * UM_A_MM)
        made = cls.of({"length": along, "width": across, "thickness": FORMED_MM + stock_mm}, dice, range_um)
        made.maps[2] = np.zeros((ACROSS, ALONG))
        made.sizes["thickness"], made.eta, made.body_mm3 = FORMED_MM + stock_mm, eta, body_mm3
        return made

    def lying(self, face: int) -> tuple[float, float]:
        """Along the travel and across it with a face up [mm]."""
        along, across = LYING[AXIS[face]]
        return self.sizes[along], self.sizes[across]

    @property
    def volume_mm3(self) -> float:
        """What there is of it [mm³]."""
        return self.body_mm3 or math.prod(self.sizes.values())

    def thickness_mm(self, face: int) -> Floats:
        """What a micrometer would read at each place of a face, at the room's temperature [mm]."""
        return self.sizes[AXIS[face]] + (self.maps[face] + self.maps[OPPOSITE[face]][::-1]) / UM_A_MM

    def heights_mm(self, face: int) -> Floats:
        """How high each place of a face stands over what the part rests on, as warm as it is [mm]."""
        cold = self.sizes[AXIS[face]] + self.maps[face] / UM_A_MM
        return np.asarray(cold * self._growth())

    def _growth(self) -> Floats:
        """How much each place has grown: the middle is a little warmer than the ends."""
        u, v = np.meshgrid(np.linspace(-1, 1, ALONG), np.linspace(-1, 1, ACROSS))
        uneven = 1 + WARMER_MIDDLE * (0.5 - (u * u + v * v) / 2)
        return np.asarray(1 + float(STEEL_EXPANSION) * self.warm_c * uneven)

    def ground(self, face: int, heights_mm: Floats) -> None:
        """A face has these heights now, as warm as it is [mm]: its high plane is found anew."""
        cold = heights_mm / self._growth()
        self.sizes[AXIS[face]] = float(cold.max())
        self.maps[face] = (cold - cold.max()) * UM_A_MM

    def bend(self, face: int, um: float) -> None:
        """Bend the part: with + the middle of the face that is up rises, and so does that of the face below [µm]."""
        if not um or AXIS[face] != "thickness":
            return
        u = np.linspace(-1, 1, ALONG)
        shape = um * (1 - u * u)
        heights = self.sizes["thickness"] * UM_A_MM + self.maps[face] + shape
        below = self.maps[OPPOSITE[face]] - shape
        lift = float(below.max())
        self.maps[OPPOSITE[face]] = below - lift
        heights = heights + lift
        self.sizes["thickness"] = float(heights.max()) / UM_A_MM
        self.maps[face] = heights - heights.max()

    def heat(self, joules: float) -> None:
        """Warm it through by an amount of heat [J]."""
        self.warm_c += joules / (STANDARD.rho_kg_m3 * STANDARD.c_j_kgk * self.volume_mm3 * MM3_M3)
