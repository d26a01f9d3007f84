"""How warm a part gets while it is ground, and what that makes it swell: practitioners feel warmth, not the flash."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from annotated_types import Ge, Le, MaxLen, MinLen

from zesty_lark.core.process.evaluate import STANDARD, Coolant
from zesty_lark.core.quantities.numbers import NonNegative, Positive
from zesty_lark.core.quantities.steel import STEEL_EXPANSION
from zesty_lark.core.quantities.units import UM_A_MM

TOP_W_M2K = {"dry": 20.0, "mist": 200.0, "water": 3000.0, "oil": 1500.0}
"""h_top: how the ground face is cooled [W/m²K]."""
CHUCK_W_M2K = 1500.0
"""h_chuck: how the chuck cools the part [W/m²K]."""
CAPACITY_J_M3K = STANDARD.rho_kg_m3 * STANDARD.c_j_kgk
MM, MM2 = 1e-3, 1e-6
SECONDS_A_MINUTE = 60.0
COOL_SHARE = 0.1
"""A part is cool once it has swollen by no more than this share of its zone."""
MOST_STEPS = 5_000
MOST_WORK = {"heat_swelling": {"steps": MOST_STEPS}}

TEMPERS_C = (
    (64.0, 150.0),
    (62.0, 190.0),
    (60.0, 230.0),
    (58.0, 270.0),
    (56.0, 320.0),
    (54.0, 370.0),
    (50.0, 430.0),
    (46.0, 500.0),
    (42.0, 560.0),
)
"""Hardness [HRC] and temper [°C] of oil-hardening tool steel and bearing steel."""
HIGH_ALLOY_HRC, HIGH_ALLOY_C = 62.0, 520.0


@dataclass(frozen=True)
class Warmth:
    """How much warmer than its surroundings the part gets [K], and the time constant of its cooling on the chuck
    [s]."""

    rise_c: float
    time_constant_s: float


@dataclass(frozen=True)
class Temper:
    """The temperature a steel was last tempered at, as its hardness tells [°C]."""

    temper_c: float


@dataclass(frozen=True)
class WarmStep:
    """A pass or a pause: how long it takes [s] and the heat it puts into the work [J]."""

    seconds: Positive
    energy_j: NonNegative = 0.0


@dataclass(frozen=True)
class Swelling:
    """How much warmer the part is after each step [K], how much it has swollen after the last [µm], and how long the
    coolant has to run until that is under a tenth of the zone [s]."""

    rise_c: list[float]
    swelling_um: float
    wait_s: float


def time_constant(height_mm: float, losses_w_m2k: float) -> float:
    """Return τ = ρ·c·H/h [s]."""
    return CAPACITY_J_M3K * height_mm * MM / losses_w_m2k


def rise(energy_j: float, seconds: float, height_mm: float, area_mm2: float, losses_w_m2k: float) -> float:
    """Return E/(t·h·A)·(1 − e^(−t·h/(ρ·c·H))): how warm heat put in evenly over a time leaves a plate [K]."""
    tau = CAPACITY_J_M3K * height_mm * MM / losses_w_m2k
    return energy_j / (seconds * losses_w_m2k * area_mm2 * MM2) * (1.0 - math.exp(-seconds / tau))


def swelling_um(height_mm: float, rise_c: float) -> float:
    """Return α·H·ΔT [µm]."""
    return STEEL_EXPANSION * height_mm * rise_c * UM_A_MM


def chuck_through(height_mm: float, coolant: Coolant) -> float:
    """Return h_chuck as the mean of the part feels it [W/m²K]: where the top is hardly cooled, what leaves through the
    chuck first goes through half the part: h/(1 + h·H/(2k))."""
    if coolant not in ("dry", "mist"):
        return CHUCK_W_M2K
    return CHUCK_W_M2K / (1.0 + CHUCK_W_M2K * height_mm * MM / (2.0 * STANDARD.k_w_mk))


def losses_of(height_mm: float, coolant: Coolant) -> float:
    """Return h = h_top + h_chuck of a part under a plan [W/m²K]."""
    return TOP_W_M2K[coolant] + chuck_through(height_mm, coolant)


def cooling_s(warm: float, cool: float, tau_s: float) -> float:
    """Return how long a rise or a swelling takes to fall to what counts as cool [s]: τ·ln(warm/cool)."""
    return tau_s * math.log(warm / cool) if warm > cool else 0.0


def heat_swelling(
    *,
    length_mm: Positive,
    width_mm: Positive,
    height_mm: Positive,
    steps: Annotated[Sequence[WarmStep], MinLen(1), MaxLen(MOST_STEPS)],
    zone_mm: Positive,
    coolant: Coolant,
    chuck_w_m2k: NonNegative = CHUCK_W_M2K,
) -> Swelling:
    """Follow how warm a part is from pass to pass, and how much larger it is at the last one than when it is cold.

    Parameters
    ----------
    length_mm, width_mm, height_mm : float
        The part [mm].
    steps : list of WarmStep
        Passes and pauses in their order.
    zone_mm : float
        The width of the size's tolerance [mm].
    coolant : {"dry", "mist", "water", "oil"}
    chuck_w_m2k : float
        Heat flow to the chuck [W/m²K].

    Notes
    -----
    T ← T·e^(−t/τ) + E/(t·h·A)·(1 − e^(−t/τ)), h = h_top + h_chuck, τ = ρ·c·H/h; swelling = α·H·T. A lumped body.
    """
    losses, warm, rises = TOP_W_M2K[coolant] + chuck_w_m2k, 0.0, []
    tau, area = time_constant(height_mm, losses), length_mm * width_mm
    for step in steps:
        warm = warm * math.exp(-step.seconds / tau) + rise(step.energy_j, step.seconds, height_mm, area, losses)
        rises.append(warm)
    swollen = swelling_um(height_mm, warm)
    return Swelling(rises, swollen, cooling_s(swollen, COOL_SHARE * zone_mm * UM_A_MM, tau))


def heat_warmth(
    *,
    energy_j: NonNegative,
    minutes: Positive,
    length_mm: Positive,
    width_mm: Positive,
    height_mm: Positive,
    coolant: Coolant,
) -> Warmth:
    """Return how warm a part gets: E/(t·h·A)·(1 − e^(−t/τ)), h = h_top + h_chuck, τ = ρ·c·H/h.

    Parameters
    ----------
    energy_j : float
        Heat put into the work [J].
    minutes : float
        Over which time [min].
    length_mm, width_mm, height_mm : float
        The part [mm].
    coolant : {"dry", "mist", "water", "oil"}
    """
    losses = TOP_W_M2K[coolant] + CHUCK_W_M2K
    return Warmth(
        rise(energy_j, minutes * SECONDS_A_MINUTE, height_mm, length_mm * width_mm, losses),
        time_constant(height_mm, losses),
    )


def heat_temper(*, hardness_hrc: Annotated[float, Ge(10), Le(72)], secondary_hardening: bool = False) -> Temper:
    """Return the temper a steel has had, from its hardness; straight between the table's lines, outside them the
    nearest.

    Parameters
    ----------
    hardness_hrc : float
        Hardness [HRC].
    secondary_hardening : bool
        A steel that hardens again when it is tempered (high-alloy cold-work, high-speed), as its material says: at 62
        and under 520 °C. The lower one wins when in doubt.
    """
    if secondary_hardening and hardness_hrc <= HIGH_ALLOY_HRC:
        return Temper(HIGH_ALLOY_C)
    harder = TEMPERS_C[0]
    if hardness_hrc >= harder[0]:
        return Temper(harder[1])
    for softer in TEMPERS_C[1:]:
        if hardness_hrc >= softer[0]:
            share = (harder[0] - hardness_hrc) / (harder[0] - softer[0])
            return Temper(harder[1] + share * (softer[1] - harder[1]))
        harder = softer
    return Temper(harder[1])
