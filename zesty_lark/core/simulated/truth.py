"""What is true of a simulated grinder and its part, and what nobody at its screen is told."""

import random
from dataclasses import dataclass


@dataclass(frozen=True)
class Truth:
    """A grinder's hidden figures.

    Attributes
    ----------
    eta : float
        The share of what is asked and still left that one wipe takes.
    backlash_mm : float
        Lost motion of the downfeed at a reversal [mm].
    g_ratio : float
        Volume ground for each volume of wheel lost, at the usual chip.
    dulls_mm3_mm : float
        V'ref: the volume per mm of width after which the wheel is twice as dull [mm³/mm].
    chuck_lean_um : float
        How much higher the chuck stands at the back than at the front, over the part [µm].
    seats_um : float
        One standard deviation of how a part leans, each time it is put up [µm].
    gauge_um : float
        One standard deviation of the gauge [µm].
    meter_share : float
        One standard deviation of the power meter, as a share.
    idle_w : float
        What the spindle takes while it cuts nothing [W].
    surface_um : float
        How rough the faces come in: range of hollow, lean and waves [µm].
    bow_um : float
        How far the part is bowed when it lies free, middle up [µm].
    flattens : float
        The share of a bow that the magnet pulls flat.
    """

    eta: float = 0.6
    backlash_mm: float = 0.01
    g_ratio: float = 10.0
    dulls_mm3_mm: float = 450.0
    chuck_lean_um: float = 0.5
    seats_um: float = 0.3
    gauge_um: float = 0.3
    meter_share: float = 0.02
    idle_w: float = 60.0
    surface_um: float = 25.0
    bow_um: float = 0.0
    flattens: float = 0.8


@dataclass
class Faults:
    """What can be made to go wrong on purpose."""

    loads: float = 1.0
    """How many times faster than it should the wheel dulls."""
    silent: bool = False


def seeded(seed: int, *, bow_um: float = 0.0) -> Truth:
    """Return a grinder as one may be found in a shop; the same seed gives the same grinder."""
    dice = random.Random(seed)
    return Truth(
        eta=dice.uniform(0.5, 0.75),
        backlash_mm=dice.uniform(0.004, 0.02),
        g_ratio=dice.uniform(7.0, 14.0),
        dulls_mm3_mm=dice.uniform(350.0, 600.0),
        chuck_lean_um=dice.uniform(-0.8, 0.8),
        gauge_um=dice.uniform(0.1, 0.35),
        surface_um=dice.uniform(10.0, 35.0),
        bow_um=bow_um,
        flattens=dice.uniform(0.6, 0.95),
    )
