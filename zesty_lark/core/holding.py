"""Holding: the magnet's pull, slide and tip, and the bow of thin parts.

First-order model, an own estimate to be calibrated with the shop's pull test.
"""

import math
from dataclasses import dataclass
from typing import Literal

from zesty_lark.core.quantities import Friction, NonNegative, Positive, Ratio, Share

__all__ = ["BLOCK_SAFETY", "CROSS_FORCE_SHARE", "PULL_N_CM2", "STOP_SAFETY", "Bow", "Hold", "hold_check", "pull", "thin_bow"]

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
    advice: Literal["stop", "block", "fine"]


@dataclass(frozen=True)
class Bow:
    """What it takes to flatten a bowed strip [N/mm²], how far the magnet does, and what springs back [mm]."""

    flattening_pressure_n_mm2: float
    flattened_share: float
    spring_back_mm: float


def hold_check(
    *, contact_mm2: NonNegative, length_along_mm: Positive, height_mm: Positive, thickness_mm: Positive,
    span_across_poles_mm: Positive, tangential_n: Positive, normal_n: NonNegative = 0.0, weight_n: NonNegative = 0.0,
    pull_n_cm2: NonNegative = PULL_N_CM2, field_height_mm: Positive = FIELD_HEIGHT_MM,
    pole_pitch_mm: Positive = POLE_PITCH_MM, gap_mm: NonNegative = 0.0, half_gap_mm: Positive = HALF_GAP_MM,
    material_factor: Share = 0.8, surface_factor: Ratio = 1.0, friction: Friction = WET_FRICTION,
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
    slide = friction * (down + normal_n) / tangential_n
    tip = down * (length_along_mm / 2) / (tangential_n * height_mm)
    across = None
    if width_across_mm is not None:
        across = down * (width_across_mm / 2) / (CROSS_FORCE_SHARE * tangential_n * height_mm)
    least = min(slide, tip, math.inf if across is None else across)
    advice: Literal["stop", "block", "fine"] = (
        "stop" if least < STOP_SAFETY else "block" if least < BLOCK_SAFETY else "fine")
    return Hold(force, slide, tip, across, f_thick, f_gap, f_pole, advice)


def thin_bow(
    *, length_mm: Positive, thickness_mm: Positive, bow_mm: Positive, pull_n_mm2: NonNegative,
    shape: Literal["middle_up", "ends_up"] = "middle_up", wide: bool = False, young_n_mm2: Positive = YOUNG_N_MM2,
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


def pull(contact_mm2: float, span_across_poles_mm: float, thickness_mm: float, pull_n_cm2: float, gap_mm: float = 0.0) -> float:
    """Return the pull on a hardened, ground part on usual poles [N], with a gap under it [mm]."""
    return hold_check(contact_mm2=contact_mm2, length_along_mm=1.0, height_mm=1.0, thickness_mm=thickness_mm, gap_mm=gap_mm,
                      span_across_poles_mm=span_across_poles_mm, tangential_n=1.0, pull_n_cm2=pull_n_cm2).pull_n
