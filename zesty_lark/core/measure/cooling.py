"""Heat in measuring: growth against a master, and the wait until a part has cooled."""

import math
from dataclasses import dataclass
from typing import Annotated

from annotated_types import Gt, Lt

from zesty_lark.core.quantities.numbers import Positive, Temperature
from zesty_lark.core.quantities.steel import REFERENCE_C, STEEL_EXPANSION
from zesty_lark.core.quantities.units import UM_A_MM

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


ON_GRANITE, IN_AIR, UNDER_COOLANT = 40.0, 8.0, 1500.0
"""How much heat goes off a face that lies on granite, in air, under running coolant [W/m²K]."""
SURFACES: dict[str, tuple[str, float]] = {
    "granite": ("on the granite", ON_GRANITE),
    "air": ("in air", IN_AIR),
    "coolant": ("under running coolant", UNDER_COOLANT),
}


@dataclass(frozen=True)
class Wait:
    """How long a part takes to come within what is allowed of the room, where it lies so [s]."""

    words: str
    wait_s: float


def waits_for(
    *, rise_c: float, allowed_c: float, length_mm: float, width_mm: float, height_mm: float, density_kg_m3: float
) -> list[Wait]:
    """Return the waits of a block [mm] that is warmer than the room by ``rise_c``, for each way of letting it lie.

    On the granite only its underside gives its heat off to it, the rest to air; under coolant all but the underside.
    """
    volume = length_mm * width_mm * height_mm
    under = length_mm * width_mm
    rest = under + 2 * height_mm * (length_mm + width_mm)
    made = []
    for key, (words, h) in SURFACES.items():
        cooled = (
            ON_GRANITE * under + IN_AIR * rest if key == "granite" else h * (rest if key == "coolant" else under + rest)
        )
        found = cooling_wait(
            start_c=rise_c,
            ambient_c=0.0,
            limit_c=allowed_c,
            mass_kg=volume * density_kg_m3 * 1e-9,
            area_m2=(under + rest) * 1e-6,
            h_w_m2k=cooled / (under + rest),
        )
        made.append(Wait(words, found.wait_s))
    return made


def allowed_rise(length_mm: float, tolerance_mm: float, share: float) -> float:
    """Return how much warmer than the room a size may be, so that it has grown by no more than a share of its tolerance
    [K]."""
    return share * tolerance_mm / (length_mm * STEEL_EXPANSION)
