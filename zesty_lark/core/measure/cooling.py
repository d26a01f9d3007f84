"""Heat in measuring: growth against a master, and the wait until a part has cooled."""

import math
from dataclasses import dataclass
from typing import Annotated

from annotated_types import Gt, Lt

from zesty_lark.core.quantities import Positive, Temperature
from zesty_lark.core.sizes import REFERENCE_C, STEEL_EXPANSION

__all__ = ["Cooling", "Growth", "UM_A_MM", "cooling_wait", "thermal_growth"]

UM_A_MM = 1000.0
Expansion = Annotated[float, Gt(0), Lt(1e-3)]


@dataclass(frozen=True)
class Growth:
    """Indicated minus true, and what one degree costs [µm]."""

    growth_um: float
    per_degree_um: float


@dataclass(frozen=True)
class Cooling:
    """Time constant and wait [s]."""

    tau_s: float
    wait_s: float


def thermal_growth(
    *,
    length_mm: Positive,
    work_c: Temperature,
    alpha_work: Expansion = STEEL_EXPANSION,
    master_c: Temperature = REFERENCE_C,
    alpha_master: Expansion = STEEL_EXPANSION,
) -> Growth:
    """Return L·(α_w·(T_w − 20) − α_m·(T_m − 20)): indicated minus true (ISO 1) [mm] [°C] [1/K]."""
    off = alpha_work * (work_c - REFERENCE_C) - alpha_master * (master_c - REFERENCE_C)
    return Growth(length_mm * off * UM_A_MM, length_mm * alpha_work * UM_A_MM)


def cooling_wait(
    *,
    start_c: Temperature,
    ambient_c: Temperature,
    limit_c: Positive,
    mass_kg: Positive,
    area_m2: Positive,
    h_w_m2k: Positive,
    c_j_kgk: Positive = 470.0,
) -> Cooling:
    """Return how long a part takes to come within ``limit_c`` of the room: τ = m·c/(h·A), τ·ln(ΔT0/ΔT).

    h in air 8, on granite 40, under running coolant 1500 W/m²K.
    """
    tau = mass_kg * c_j_kgk / (h_w_m2k * area_m2)
    ratio = abs(start_c - ambient_c) / limit_c
    return Cooling(tau, tau * math.log(ratio) if ratio > 1 else 0.0)
