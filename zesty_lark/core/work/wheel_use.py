"""What the wheel has done since it was last dressed: how far its front has worn, how much it ground, how deep it cut.

Sources: the worn front walks by κ·crossfeed a feeding stroke, G follows the chip; a dress takes the deepest cut since
the last one and 0.05 mm more off the radius.
"""

import math
from dataclasses import dataclass, replace
from decimal import Decimal

from zesty_lark.core.process.evaluate import STANDARD, Condition, kinematics
from zesty_lark.core.things.shop import Wheel
from zesty_lark.core.wheel.dressing import VOLUME_REFERENCE, dress_total
from zesty_lark.core.wheel.grain import grain_size
from zesty_lark.core.wheel.marking import grade_band
from zesty_lark.core.wheel.wear import DRESS_SHARE, G_RATIOS, chip_grinding_ratio, kappa

SLACK = 1e-9
LEAST_MM = 1e-6
HARDLY_USED = 0.1
"""So much of its use between two dresses leaves a wheel as it was dressed."""


@dataclass(frozen=True)
class WheelFacts:
    """A wheel as its use is followed: diameter, width and grain [mm], speed [rpm], G, and V'ref [mm³/mm]."""

    diameter_mm: float
    width_mm: float
    rpm: float
    g_ratio: float
    dulls_mm3_mm: float
    grain_mm: float


def wheel_facts(wheel: Wheel, rpm: float) -> WheelFacts:
    """Return what of a wheel its use is followed with; what its grade says until the log knows better."""
    band = grade_band(wheel.grade)
    return WheelFacts(
        float(wheel.diameter_mm),
        float(wheel.width_mm),
        float(rpm),
        G_RATIOS[band],
        VOLUME_REFERENCE[band],
        grain_size(wheel.grit),
    )


@dataclass(frozen=True)
class Pass:
    """A feeding pass over a load: what it is to take and its crossfeed [mm], table [mm/s], how long the load is along
    the travel and how wide a piece across it [mm]."""

    depth_mm: float
    crossfeed_mm: float
    table_mm_s: float
    along_mm: float
    across_mm: float

    @property
    def strokes(self) -> int:
        """How many strokes it takes."""
        return max(1, math.ceil(self.across_mm / self.crossfeed_mm - SLACK))

    @property
    def volume_mm3(self) -> float:
        """What it grinds away [mm³]."""
        return self.depth_mm * self.along_mm * self.across_mm


@dataclass(frozen=True)
class WheelUse:
    """Since the last dress of this job, or since it began: strokes, the worn front [mm], V' [mm³/mm], the deepest cut
    [mm]; which dress it was, empty when nobody has logged one; and the chamfer that its leading edge was given [mm]."""

    dress: str = ""
    strokes: int = 0
    front_mm: float = 0.0
    volume_mm3_mm: float = 0.0
    deepest_mm: Decimal = Decimal(0)
    chamfer_mm: float = 0.0

    def edge_mm(self, wheel: WheelFacts) -> float:
        """How wide the edge is that meets the metal [mm]: a grain or the chamfer, and the worn front."""
        return (self.chamfer_mm or wheel.grain_mm) + self.front_mm

    def after(self, made: Pass, step_mm: Decimal, wheel: WheelFacts) -> "WheelUse":
        """The same after a feeding pass."""
        return replace(
            self,
            strokes=self.strokes + made.strokes,
            front_mm=min(self.front_mm + made.strokes * self._walks(made, wheel), wheel.width_mm),
            volume_mm3_mm=self.volume_mm3_mm + self._spreads(made, wheel),
            deepest_mm=max(self.deepest_mm, step_mm),
        )

    def _spreads(self, made: Pass, wheel: WheelFacts) -> float:
        """What a pass adds to V' [mm³/mm]: its volume over the crossfeed, or over a worn front that is wider."""
        return made.volume_mm3 / max(made.crossfeed_mm, self.edge_mm(wheel))

    def _walks(self, made: Pass, wheel: WheelFacts) -> float:
        """How far the front walks in one stroke [mm]."""
        chip = kinematics(
            Condition(
                wheel.diameter_mm,
                wheel.rpm,
                made.table_mm_s,
                max(made.depth_mm, LEAST_MM),
                made.crossfeed_mm,
                self.edge_mm(wheel),
                1.0,
            ),
            STANDARD,
        ).equivalent_chip_um
        g = chip_grinding_ratio(wheel.g_ratio, chip)
        return kappa(made.along_mm, g, wheel.diameter_mm) * made.crossfeed_mm

    def share(self, wheel: WheelFacts) -> float:
        """The share of its face that the worn front has reached."""
        return self.front_mm / wheel.width_mm

    def is_worn(self, wheel: WheelFacts) -> bool:
        """Whether the front has reached a third of the face."""
        return self.share(wheel) >= DRESS_SHARE - SLACK

    def is_as_dressed(self, wheel: WheelFacts) -> bool:
        """Whether it has hardly been used since its dress: no chamfer, and its front and what it ground are a tenth, at
        most, of what makes a dress due."""
        return (
            not self.chamfer_mm
            and self.share(wheel) <= HARDLY_USED * DRESS_SHARE
            and self.volume_mm3_mm <= HARDLY_USED * wheel.dulls_mm3_mm
        )

    def strokes_to_dress(self, made: Pass, wheel: WheelFacts) -> int:
        """How many strokes like these until the front has walked a third of the face."""
        left = wheel.width_mm * DRESS_SHARE - self.front_mm
        return max(0, math.floor(left / self._walks(made, wheel) + SLACK))

    def strokes_to_volume(self, left_mm3_mm: float, made: Pass, wheel: WheelFacts) -> int:
        """How many strokes like these until V' [mm³/mm] is larger by so much."""
        return max(0, math.floor(left_mm3_mm / self._spreads(made, wheel) * made.strokes + SLACK))

    def dress_mm(self, graduation_mm: Decimal) -> Decimal:
        """What the next dress has to take off the radius, in whole graduations [mm]."""
        return dress_total(self.deepest_mm, graduation_mm)
