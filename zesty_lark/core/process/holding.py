"""Holding: the magnet's pull, slide and tip, and the bow of thin parts.

First-order model, an own estimate to be calibrated with the shop's pull test.
"""

import math
from dataclasses import dataclass
from typing import Literal

from zesty_lark.core.quantities.numbers import Count, Friction, NonNegative, Positive, Ratio, Share

PULL_N_CM2 = 80.0
FIELD_HEIGHT_MM = 6.0
HALF_GAP_MM = 0.15
POLE_PITCH_MM = 12.0
WET_FRICTION = 0.15
STOP_SAFETY = 4.0
"""Under this, not to be run as it stands."""
BLOCK_SAFETY = 8.0
"""Under this, to be blocked."""
CROSS_FORCE_SHARE = 0.3
"""Crossfeed force as a share of the tangential force."""
YOUNG_N_MM2 = 205_000.0
POISSON = 0.3
MM2_A_CM2 = 100.0
MM3_A_M3, GRAVITY = 1e9, 9.81
CLAMP_N, SCREW_N = 1500.0, 3000.0
"""What a toolmaker's clamp and a screw press with when the shop's record says nothing [N]."""
TALL_SHARE = 2.5
"""A part taller than this many times the shorter side of its footprint is not planned on the bare magnet."""
SURFACES = {"ground": 1.0, "milled": 0.8, "rough": 0.5}
"""f_surf: how the surface that lies down carries the field; rough is sawn or scaled too."""

Judged = Literal["stop", "block", "fine"]


@dataclass(frozen=True)
class Hold:
    """The pull [N], its factors, and the safety against sliding and tipping."""

    pull_n: float
    slide_safety: float
    tip_safety: float
    tip_safety_across: float | None
    thickness_factor: float
    gap_factor: float
    pole_factor: float
    advice: Judged


@dataclass(frozen=True)
class Bow:
    """What it takes to flatten a bowed strip [N/mm²], how far the magnet does, and what springs back [mm]."""

    flattening_pressure_n_mm2: float
    flattened_share: float
    spring_back_mm: float


@dataclass(frozen=True)
class FixtureHold:
    """How a part in a fixture is held: by its clamps, and in all by the weakest link, which is named."""

    part_safety: float
    safety: float
    weakest: Literal["part in the fixture", "fixture on the magnet"]
    judgement: Judged


def slide(down_n: float, normal_n: float, tangential_n: float, friction: float) -> float:
    """Return μ·(down + F_n)/F_t: safety against sliding."""
    return friction * (down_n + normal_n) / tangential_n


def tip(down_n: float, foot_mm: float, force_n: float, height_mm: float) -> float:
    """Return down·(foot/2)/(F·h): safety against tipping over one end of the foot."""
    return down_n * (foot_mm / 2) / (force_n * height_mm)


def clamped(clamps: float, clamp_n: float, tangential_n: float, friction: float) -> float:
    """Return 2·μ·n·F_clamp/F_t: safety of a part in its clamps, friction on both sides."""
    return 2 * friction * clamps * clamp_n / tangential_n


def judged(safety: float) -> Judged:
    """Under 4 not to be run as it stands, under 8 to be blocked, above fine."""
    return "stop" if safety < STOP_SAFETY else "block" if safety < BLOCK_SAFETY else "fine"


def is_tall(height_mm: float, length_mm: float, width_mm: float) -> bool:
    """Tell whether a part is too tall on too small a foot for the bare magnet."""
    return height_mm > TALL_SHARE * min(length_mm, width_mm) * (1 + 1e-9)


def hold_fixture(
    *,
    tangential_n: Positive,
    clamps: Count = 2,
    clamp_n: Positive = CLAMP_N,
    friction: Friction = WET_FRICTION,
    magnet_safety: NonNegative | None = None,
) -> FixtureHold:
    """Check a part in a fixture: the weakest of part in the fixture and fixture on the magnet.

    Parameters
    ----------
    tangential_n : float
        F_t [N].
    clamps, clamp_n : int, float
        How many clamps or screws, and what each presses with [N].
    friction : float
        μ.
    magnet_safety : float, optional
        The safety of the fixture on the magnet (``hold.check`` on its base, the whole height); without it only the part
        counts.

    Notes
    -----
    part = 2·μ·n·F_clamp/F_t.
    """
    part = clamped(clamps, clamp_n, tangential_n, friction)
    least = part if magnet_safety is None else min(part, magnet_safety)
    weakest: Literal["part in the fixture", "fixture on the magnet"] = (
        "fixture on the magnet" if magnet_safety is not None and magnet_safety < part else "part in the fixture"
    )
    return FixtureHold(part, least, weakest, judged(least))


def hold_check(
    *,
    contact_mm2: NonNegative,
    length_along_mm: Positive,
    height_mm: Positive,
    thickness_mm: Positive,
    span_across_poles_mm: Positive,
    tangential_n: Positive,
    normal_n: NonNegative = 0.0,
    weight_n: NonNegative = 0.0,
    pull_n_cm2: NonNegative = PULL_N_CM2,
    field_height_mm: Positive = FIELD_HEIGHT_MM,
    pole_pitch_mm: Positive = POLE_PITCH_MM,
    gap_mm: NonNegative = 0.0,
    half_gap_mm: Positive = HALF_GAP_MM,
    material_factor: Share = 0.8,
    surface_factor: Ratio = 1.0,
    friction: Friction = WET_FRICTION,
    width_across_mm: Positive | None = None,
) -> Hold:
    """Check whether a part stays on the magnet.

    Parameters
    ----------
    contact_mm2 : float
        Contact area A [mm²].
    length_along_mm, height_mm : float
        Length ℓ along the travel and height h of the cut above the chuck [mm].
    thickness_mm : float
        Part's thickness t [mm].
    span_across_poles_mm : float
        Extent s across the poles [mm].
    tangential_n, normal_n, weight_n : float
        F_t, F_n and the part's weight [N].
    pull_n_cm2 : float
        q0 [N/cm²].
    field_height_mm, pole_pitch_mm, gap_mm, half_gap_mm : float
        h_field, pole pitch p, air gap g, gap at half the pull [mm].
    material_factor, surface_factor, friction : float
        f_mat, f_surf, μ.
    width_across_mm : float, optional
        With it, tip across the travel is checked as well, against 0.3·F_t [mm].

    Notes
    -----
    slide = μ·(pull + weight + F_n)/F_t; tip = (pull + weight)·(ℓ/2)/(F_t·h).
    """
    f_thick = min(1.0, thickness_mm / field_height_mm)
    f_gap = 1 / (1 + (math.sqrt(2) - 1) * gap_mm / half_gap_mm) ** 2
    f_pole = min(1.0, span_across_poles_mm / (2 * pole_pitch_mm))
    force = pull_n_cm2 / MM2_A_CM2 * contact_mm2 * f_thick * f_gap * f_pole * material_factor * surface_factor
    down = force + weight_n
    slides = slide(down, normal_n, tangential_n, friction)
    tips = tip(down, length_along_mm, tangential_n, height_mm)
    across = None
    if width_across_mm is not None:
        across = tip(down, width_across_mm, CROSS_FORCE_SHARE * tangential_n, height_mm)
    least = min(slides, tips, math.inf if across is None else across)
    return Hold(force, slides, tips, across, f_thick, f_gap, f_pole, judged(least))


def thin_bow(
    *,
    length_mm: Positive,
    thickness_mm: Positive,
    bow_mm: Positive,
    pull_n_mm2: NonNegative,
    shape: Literal["middle_up", "ends_up"] = "middle_up",
    wide: bool = False,
    young_n_mm2: Positive = YOUNG_N_MM2,
) -> Bow:
    """Tell whether the magnet pulls a bowed strip flat, and what springs back when it is let go.

    Parameters
    ----------
    length_mm, thickness_mm, bow_mm : float
        Length ℓ, thickness t and bow f [mm].
    pull_n_mm2 : float
        The magnet's pull per area, taken at the gap f [N/mm²].
    shape : {"middle_up", "ends_up"}
        Lying hollow side down on its ends, or on its middle with the ends up.
    wide : bool
        A plate rather than a strip.
    young_n_mm2 : float
        Young's modulus [N/mm²].

    Notes
    -----
    q = c·E·(t³/12)·f/ℓ⁴, c = 384/5 or 128, divided by 1 − 0.3² for a plate (beam theory).
    """
    coefficient = 384 / 5 if shape == "middle_up" else 128.0
    if wide:
        coefficient /= 1 - POISSON**2
    pressure = coefficient * young_n_mm2 * thickness_mm**3 / 12 * bow_mm / length_mm**4
    share = min(1.0, pull_n_mm2 / pressure)
    return Bow(pressure, share, share * bow_mm)


def pull(
    contact_mm2: float,
    span_across_poles_mm: float,
    thickness_mm: float,
    pull_n_cm2: float,
    *,
    gap_mm: float = 0.0,
    material_factor: float = 0.8,
    surface_factor: float = 1.0,
) -> float:
    """Return the magnet's pull alone, as ``hold_check`` has it on usual poles [N]; hardened and ground unless told."""
    return hold_check(
        contact_mm2=contact_mm2,
        length_along_mm=1.0,
        height_mm=1.0,
        thickness_mm=thickness_mm,
        gap_mm=gap_mm,
        span_across_poles_mm=span_across_poles_mm,
        tangential_n=1.0,
        pull_n_cm2=pull_n_cm2,
        material_factor=material_factor,
        surface_factor=surface_factor,
    ).pull_n


def pulled_flat(
    size_mm: tuple[float, float, float],
    gap_mm: float,
    shape: Literal["middle_up", "ends_up"],
    pull_n_cm2: float,
    *,
    material_factor: float,
    surface_factor: float,
) -> Bow | None:
    """Return what the magnet does to a plate that lies bowed over a gap: along, across and high [mm]; ``None`` where
    nothing is pulled. What springs back is never more than the gap."""
    along, across, high = size_mm
    if gap_mm <= 0 or material_factor <= 0:
        return None
    pulls = pull(
        along * across,
        across,
        high,
        pull_n_cm2,
        gap_mm=gap_mm,
        material_factor=material_factor,
        surface_factor=surface_factor,
    )
    return thin_bow(
        length_mm=along, thickness_mm=high, bow_mm=gap_mm, wide=True, shape=shape, pull_n_mm2=pulls / (along * across)
    )


def weight_n(volume_mm3: float, density_kg_m3: float) -> float:
    """Return what a volume weighs [N]."""
    return volume_mm3 * density_kg_m3 / MM3_A_M3 * GRAVITY
