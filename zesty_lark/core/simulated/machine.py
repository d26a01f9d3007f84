"""A simulated grinder: what its hands do, and what eyes, ears and instruments would tell of it.

The collar's number rises as the wheel comes down. Between collar and wheel lies the backlash; the wheel takes of what
is asked and still left the share that its wipes take; where its face is worn, what the last slice leaves stays high.
"""

import math
import random
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.part.faces import AXIS
from zesty_lark.core.process.evaluate import Coolant, Evaluation, evaluate
from zesty_lark.core.process.springs import overlaps_of
from zesty_lark.core.process.warmth import CHUCK_W_M2K, TOP_W_M2K, time_constant
from zesty_lark.core.quantities.steel import STEEL_EXPANSION
from zesty_lark.core.quantities.units import UM_A_MM
from zesty_lark.core.simulated.block import ACROSS, ALONG, Lump
from zesty_lark.core.simulated.truth import Faults, Truth
from zesty_lark.core.simulated.wheel import SimulatedWheel

Floats = NDArray[np.float64]
LEAST_MM = 1e-6
"""Less than this is no cut [mm]."""
EVEN_SHARE = 0.35
"""Sparks are uneven when a side has so much more of them than the other."""
DIED_SHARE = 0.12
"""The sparks have died when less than this share of a usual pass is taken."""
USUAL_MM = 0.004
OVERRUN_MM = 50.0
READOUT_MM = 0.0005
FRICTION_UM_C = 0.15
"""What a warm part still reads wrong by: it is not equally warm [µm/K]."""


class GrinderError(ValueError):
    """What cannot be done at a machine like this; the message says why."""


@dataclass(frozen=True)
class PassSeen:
    """What a pass looked like: the share of the face that has been cut since it was put up, the side with more sparks
    (empty when they are even), whether they died, the most power [W], how hot the contact got [°C]."""

    clean: float
    side: str
    died: bool
    power_w: float
    contact_c: float
    took_um: float


@dataclass
class SimulatedGrinder:
    """A grinder with one part on it. Everything random comes from the seed.

    Parameters
    ----------
    truth : Truth
    lump : Lump
    wheel : SimulatedWheel
    rpm, reversal_s : float
    graduation_mm : float
        Of the collar [mm].
    coolant : Coolant
    """

    truth: Truth
    lump: Lump
    wheel: SimulatedWheel
    rpm: float = 3000.0
    graduation_mm: float = 0.00254
    coolant: Coolant = "water"
    reversal_s: float = 0.3
    seed: int = 1
    faults: Faults = field(default_factory=Faults)
    collar_mm: float = 0.0
    axis_mm: float = 0.0
    """How far the wheel has come down from where it began [mm]."""
    begins_mm: float = 60.0
    """How high over the chuck the wheel's lowest place was then [mm]."""
    up: int | None = None
    power_w: float = 0.0
    minutes: float = 0.0
    last: PassSeen | None = None

    def __post_init__(self) -> None:
        self._dice = random.Random(self.seed)
        self._radius_mm = self.wheel.diameter_mm / 2
        self._zero_mm = 0.0
        self._play, self._was_up, self._seat = 0.0, 1, np.zeros((ACROSS, ALONG))
        self.begins_mm = max(self.lump.sizes.values()) + 10.0

    @property
    def wheel_mm(self) -> float:
        """How high the wheel's lowest place would be over the chuck were its face straight [mm]."""
        return self.begins_mm - self.axis_mm + (self._radius_mm - self.wheel.diameter_mm / 2)

    @property
    def contact_mm(self) -> float:
        """How high over the chuck the place of its face stands that is least worn: where it would touch [mm]."""
        return self.wheel_mm + float(self.wheel.worn.min())

    def turn_to(self, collar_mm: float) -> None:
        """Turn the downfeed until the collar reads this; the wheel follows when the backlash is taken up [mm]."""
        self.axis_mm += collar_mm - self.collar_mm - self._slack(collar_mm - self.collar_mm)
        self.collar_mm = collar_mm

    def _slack(self, by_mm: float) -> float:
        """How much of a turn is lost: the play is in front of the nut after a reversal."""
        lost = min(self._play, by_mm) if by_mm > 0 else max(self._play - self.truth.backlash_mm, by_mm)
        self._play -= lost
        return lost

    def rename(self, collar_mm: float) -> None:
        """Set the collar's ring to another number without turning, and the readout with it."""
        self.collar_mm = collar_mm
        self._zero_mm = self.axis_mm - collar_mm

    def place(self, face: int) -> None:
        """Put the part up with a face uppermost, the wheel well clear of it."""
        if face not in AXIS:
            raise GrinderError(f"The part has no face {face}.")
        self.lift()
        self.up = face
        self.lump.bend(face, -self.truth.flattens * self.lump.bow_um)
        self.lump.touched[face] = np.zeros((ACROSS, ALONG), dtype=bool)
        self._seat = self._seating()
        self._was_up = face
        self.raise_clear()
        self.wait(4.0)

    def _seating(self) -> Floats:
        """How the part leans on this chuck as it was put up this time [mm]."""
        along, across = (self._dice.gauss(0, self.truth.seats_um) / UM_A_MM for _ in range(2))
        lean = np.linspace(0, self.truth.chuck_lean_um / UM_A_MM + across, ACROSS)[:, None]
        return np.asarray(lean + np.linspace(0, along, ALONG)[None, :])

    def lift(self) -> None:
        """Take the part off: the magnet lets go of what it pulled flat."""
        if self.up is not None:
            self.lump.bend(self.up, self.truth.flattens * self.lump.bow_um)
        self.up = None

    def raise_clear(self, by_mm: float = 2.0) -> None:
        """Wind the wheel up until it is clear of the part, and back down past the backlash."""
        if self.up is None:
            return
        need = float(self.lump.heights_mm(self.up).max()) + by_mm - self.contact_mm
        if need > 0:
            self.turn_to(self.collar_mm - need - 2 * self.truth.backlash_mm)
            self.turn_to(self.collar_mm + self.truth.backlash_mm)

    def touch_off(self) -> float:
        """Come down from above until it just sparks on the high spot; return what the collar reads [mm]."""
        face = self._up()
        self.raise_clear(0.2)
        high = float(self.lump.heights_mm(face).max())
        whole = math.ceil((self.contact_mm - high) / self.graduation_mm - 1e-9)
        self.turn_to(self.collar_mm + whole * self.graduation_mm)
        while self.contact_mm > high:
            self.turn_to(self.collar_mm + self.graduation_mm)
        self.wait(2.0)
        return self.collar_mm

    def dress(self, amount_mm: float, kind: str = "general", sharp: float | None = None) -> None:
        """Dress the wheel by an amount off its radius [mm]."""
        self.wheel.dress(amount_mm, kind, sharp)
        self.wait(1.5)

    def wait(self, minutes: float) -> None:
        """Time passes; the part cools [min]."""
        height = 10.0 if self.up is None else self.lump.sizes[AXIS[self.up]]
        losses = TOP_W_M2K[self.coolant] + CHUCK_W_M2K if self.up is not None else TOP_W_M2K["dry"] * 2
        self.lump.warm_c *= math.exp(-minutes * 60 / time_constant(height, losses))
        self.minutes += minutes
        self.power_w = self.truth.idle_w

    def _up(self) -> int:
        if self.up is None:
            raise GrinderError("Nothing is up on the chuck.")
        return self.up

    def run_pass(self, crossfeed_mm: float, table_mm_s: float) -> PassSeen:
        """Run one pass over the whole face at these settings [mm] [mm/s]; return what it looked like."""
        face = self._up()
        along, across = self.lump.lying(face)
        strokes = max(1, math.ceil(across / crossfeed_mm - 1e-9))
        share = 1 - (1 - (self.lump.eta or self.truth.eta)) ** overlaps_of(self.wheel.width_mm, crossfeed_mm)
        high = self._left_high(crossfeed_mm, table_mm_s, strokes, along, share=share)
        heights = self.lump.heights_mm(face) + self._seat
        over = np.maximum(heights - (self.wheel_mm + high)[:, None], 0.0)
        took = over * share
        self.lump.touched[face] |= took > 0.05 / UM_A_MM
        self.lump.ground(face, heights - took - self._seat)
        over_all = math.ceil((across + self.wheel.width_mm) / crossfeed_mm - 1e-9)
        seconds = over_all * ((along + OVERRUN_MM) / table_mm_s + self.reversal_s)
        made = self._energy(took, crossfeed_mm, table_mm_s, seconds, along=along, across=across)
        self.last = PassSeen(
            float(self.lump.touched[face].mean()),
            _side(took),
            float(took.mean()) < DIED_SHARE * USUAL_MM,
            self.power_w,
            made,
            float(took.mean()) * UM_A_MM,
        )
        return self.last

    def _left_high(self, crossfeed: float, table: float, strokes: int, along: float, *, share: float) -> Floats:
        """What the worn face leaves high, by place across the travel [mm]."""
        over = self.lump.heights_mm(self._up()) - self.wheel_mm
        asked = max(float(over.max()), 0.0)
        if asked <= LEAST_MM:
            return np.zeros(ACROSS)
        self.wheel.cut_in_slices(crossfeed)
        told = self._evaluate(max(float(over.mean()), LEAST_MM), crossfeed, table)
        rows = np.maximum(over, 0.0).mean(axis=1)
        left = np.zeros(strokes)
        for stroke in range(strokes):
            row = rows[min(stroke * ACROSS // strokes, ACROSS - 1)]
            left[stroke] = self.wheel.stroke_over(
                max(float(row), LEAST_MM), told.equivalent_chip_um, along, share=share
            )
        return np.asarray(np.interp(np.linspace(0, strokes - 1, ACROSS), np.arange(strokes), left))

    def _evaluate(self, depth_mm: float, crossfeed: float, table: float) -> Evaluation:
        edge = self.wheel.grain_mm + self.wheel.worn_width_mm(depth_mm)
        return evaluate(
            wheel_diameter_mm=self.wheel.diameter_mm,
            wheel_rpm=self.rpm,
            table_mm_s=table,
            depth_mm=max(depth_mm, LEAST_MM),
            crossfeed_mm=crossfeed,
            edge_width_mm=edge,
            sharpness=self.wheel.dullness,
            coolant=self.coolant,
        )

    def _energy(
        self, took: Floats, crossfeed: float, table: float, seconds: float, *, along: float, across: float
    ) -> float:
        """Power, heat, dulling and time of a pass; return how hot the contact got [°C]."""
        mean, most = float(took.mean()), float(took.mean(axis=1).max())
        if mean <= LEAST_MM:
            self.wait(seconds / 60)
            self.power_w = self._meter(self.truth.idle_w)
            return 20.0
        told, hottest = self._evaluate(mean, crossfeed, table), self._evaluate(most, crossfeed, table)
        cutting = math.ceil(across / crossfeed - 1e-9) * along / table  # only while the wheel is on the part
        self.lump.heat(told.power_w * told.heat_to_work_fraction * cutting)
        removed = mean * along * across
        self.wheel.volume_mm3_mm += self.faults.loads * removed / max(crossfeed, self.wheel.worn_width_mm(mean), 0.4)
        self.wait(seconds / 60)
        self.power_w = self._meter(self.truth.idle_w + hottest.power_w)
        return hottest.surface_temperature_c

    def _meter(self, watts: float) -> float:
        return round(watts * (1 + self._dice.gauss(0, self.truth.meter_share)), 1)

    def readout_mm(self) -> float:
        """What a readout on the wheel head shows: how far it has come down from where it was set [mm]."""
        return round((self.axis_mm - self._zero_mm) / READOUT_MM) * READOUT_MM

    def measure_mm(self, along: float, across: float) -> float:
        """What a gauge reads at a place of the face that was last up, as warm as the part is [mm].

        ``along`` and ``across`` are shares of the face from its front left corner, 0 to 1.
        """
        face = self.up if self.up is not None else self._was_up
        cold = self.lump.thickness_mm(face)
        i = min(max(round(across * (ACROSS - 1)), 0), ACROSS - 1)
        j = min(max(round(along * (ALONG - 1)), 0), ALONG - 1)
        warm = cold[i, j] * (1 + float(STEEL_EXPANSION) * self.lump.warm_c) + self.lump.warm_c * FRICTION_UM_C / UM_A_MM
        return round(float(warm + self._dice.gauss(0, self.truth.gauge_um) / UM_A_MM), 5)


def _side(took: Floats) -> str:
    """The side with clearly more sparks; empty when they are even, or there are none."""
    whole = float(took.mean())
    if whole <= LEAST_MM:
        return ""
    sides = {
        "front": took[: ACROSS // 2].mean(),
        "back": took[(ACROSS + 1) // 2 :].mean(),
        "left": took[:, : ALONG // 2].mean(),
        "right": took[:, (ALONG + 1) // 2 :].mean(),
    }
    for one, other in (("front", "back"), ("left", "right")):
        difference = float(sides[one] - sides[other]) / (2 * whole)
        if abs(difference) > EVEN_SHARE:
            return one if difference > 0 else other
    return ""
