"""One grinding condition: kinematics, energy, temperature.

Energy after Malkin & Guo, Grinding Technology, ch. 5-6; temperature after Rowe, Principles of Modern Grinding
Technology, ch. 17-18; the band solution is Carslaw & Jaeger's.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Any, Literal

from annotated_types import Ge, Gt, Lt

from zesty_lark.core.process.side_flow import side_flow_of
from zesty_lark.core.quantities import NonNegative, Positive, Rpm, Temperature

__all__ = ["BOILING_C", "COOLANT_W_M2K", "LUBRICATION", "Condition", "Constants", "Evaluation", "HeatLimit", "Kit",
           "equal_temper", "evaluate",
           "heat_limit", "model"]

Coolant = Literal["dry", "mist", "water", "oil"]

LUBRICATION: dict[str, float] = {"dry": 1.25, "mist": 1.1, "water": 1.0, "oil": 0.75}
"""λ: how the fluid changes rubbing."""
COOLANT_W_M2K: dict[str, float] = {"dry": 0.0, "mist": 2000.0, "water": 10_000.0, "oil": 4000.0}
"""h_f: how the fluid cools the contact [W/m²K]."""
BOILING_C: dict[str, float] = {"dry": math.inf, "mist": 120.0, "water": 120.0, "oil": 300.0}
"""Where the fluid leaves the contact [°C]."""

CONTACT_GRAIN_W_MK = 35.0
CHIP_SHARE_MOST = 0.9
"""Chips carry off at most this share of the flux."""
HOLLOMON_JAFFE = 20.0
REHARDENING_C = 720.0
KELVIN = 273.15
MS_AN_HOUR = 3.6e6


@dataclass(frozen=True)
class Constants:
    """The model's constants: starting values for hardened steel and alumina; a shop's calibration overrides them.

    Attributes
    ----------
    u_chip, u_rub : float
        Energy of the chip and of rubbing at the reference chip [J/mm³].
    heq_ref_um : float
        Reference equivalent chip [µm].
    rub_exponent : float
        How rubbing falls as chips thicken.
    force_ratio : float
        F_t/F_n.
    contact_factor : float
        R: elastic contact over the geometric one.
    grain_k_w_mk, grain_radius_um : float
        k_g [W/mK] and r0 [µm] of the grains.
    chip_limit_c : float
        What a chip is heated to [K].
    ambient_c : float
        Ambient temperature [°C].
    k_w_mk, rho_kg_m3, c_j_kgk : float
        The steel's conductivity, density, heat capacity.
    """

    u_chip: float = 13.8
    u_rub: float = 26.0
    heq_ref_um: float = 0.1
    rub_exponent: float = 0.5
    force_ratio: float = 0.4
    contact_factor: float = 2.0
    grain_k_w_mk: float = CONTACT_GRAIN_W_MK
    grain_radius_um: float = 15.0
    chip_limit_c: float = 1500.0
    ambient_c: float = 20.0
    k_w_mk: float = 34.0
    rho_kg_m3: float = 7800.0
    c_j_kgk: float = 470.0


STANDARD = Constants()


@dataclass(frozen=True)
class Kit:
    """The few functions the model's lines use, for numbers or for arrays."""

    sqrt: Callable[[Any], Any]
    maximum: Callable[[Any, Any], Any]
    minimum: Callable[[Any, Any], Any]
    where: Callable[[Any, Any, Any], Any]
    side_flow: Callable[[Any], Any]


NUMBERS = Kit(math.sqrt, max, min, lambda which, yes, no: yes if which else no, side_flow_of)


@dataclass(frozen=True)
class Condition:
    """Conditions as arrays or single numbers that fit together: mm, mm/s, rpm; sharpness S."""

    wheel_diameter_mm: Any
    wheel_rpm: Any
    table_mm_s: Any
    depth_mm: Any
    crossfeed_mm: Any
    edge_width_mm: Any
    sharpness: Any


@dataclass(frozen=True)
class Evaluation:
    """What a condition comes to."""

    wheel_speed_m_s: float
    engaged_width_mm: float
    local_depth_mm: float
    removal_rate_mm3_s: float
    specific_removal_rate_mm2_s: float
    equivalent_chip_um: float
    contact_length_mm: float
    specific_energy_j_mm3: float
    power_w: float
    tangential_n: float
    normal_n: float
    work_partition: float
    side_flow_factor: float
    heat_flux_w_mm2: float
    surface_temperature_c: float
    coolant_boiled: bool
    heat_to_work_fraction: float


@dataclass(frozen=True)
class HeatLimit:
    """What the steel bears for a moment [°C]."""

    limit_c: float


Exponent = Annotated[float, Ge(0), Lt(5)]
Width = Annotated[float, Ge(0), Lt(1e6)]


def evaluate(
    *, wheel_diameter_mm: Positive, wheel_rpm: Rpm, table_mm_s: Positive, depth_mm: Positive, crossfeed_mm: Positive,
    edge_width_mm: Width, sharpness: Positive, coolant: Coolant,
    u_chip: NonNegative = STANDARD.u_chip, u_rub: NonNegative = STANDARD.u_rub,
    heq_ref_um: Positive = STANDARD.heq_ref_um, rub_exponent: Exponent = STANDARD.rub_exponent,
    force_ratio: Positive = STANDARD.force_ratio, contact_factor: Positive = STANDARD.contact_factor,
    grain_k_w_mk: Positive = STANDARD.grain_k_w_mk, grain_radius_um: Positive = STANDARD.grain_radius_um,
    chip_limit_c: NonNegative = STANDARD.chip_limit_c, ambient_c: Temperature = STANDARD.ambient_c,
    k_w_mk: Positive = STANDARD.k_w_mk, rho_kg_m3: Positive = STANDARD.rho_kg_m3,
    c_j_kgk: Positive = STANDARD.c_j_kgk,
) -> Evaluation:
    """Evaluate one condition.

    Parameters
    ----------
    wheel_diameter_mm, wheel_rpm : float
        d [mm] and n [rpm].
    table_mm_s, depth_mm, crossfeed_mm : float
        v [mm/s], downfeed a [mm], crossfeed s [mm].
    edge_width_mm : float
        w_e: how wide the wheel's working edge is [mm].
    sharpness : float
        S after the dress and the use since.
    coolant : {"dry", "mist", "water", "oil"}
    u_chip, u_rub, heq_ref_um, rub_exponent, force_ratio, contact_factor, grain_k_w_mk, grain_radius_um, chip_limit_c, \
ambient_c, k_w_mk, rho_kg_m3, c_j_kgk : float
        The fields of ``Constants``.

    Returns
    -------
    Evaluation
    """
    constants = Constants(u_chip, u_rub, heq_ref_um, rub_exponent, force_ratio, contact_factor, grain_k_w_mk,
                          grain_radius_um, chip_limit_c, ambient_c, k_w_mk, rho_kg_m3, c_j_kgk)
    return Evaluation(*model(Condition(wheel_diameter_mm, wheel_rpm, table_mm_s, depth_mm, crossfeed_mm, edge_width_mm,
                                       sharpness), coolant, constants, NUMBERS))


def model(given: Condition, coolant: Coolant, fixed: Constants, kit: Kit) -> tuple[Any, ...]:
    """The model's lines, in the order they follow from each other, on numbers or on arrays: the fields of ``Evaluation``."""
    d, v, s = given.wheel_diameter_mm, given.table_mm_s, given.crossfeed_mm
    vs = math.pi / 60_000 * d * given.wheel_rpm
    b = kit.maximum(s, given.edge_width_mm)
    a_loc = given.depth_mm * s / b
    q_prime = a_loc * v
    q = given.depth_mm * s * v
    h_eq = q_prime / vs
    lc = fixed.contact_factor * kit.sqrt(a_loc * d)
    rubbing = _power(fixed.heq_ref_um / h_eq, fixed.rub_exponent, kit)
    u = fixed.u_chip + fixed.u_rub * LUBRICATION[coolant] * given.sharpness * rubbing
    power = u * q
    f_t = power / vs
    thermal = _temperature(given, coolant, fixed, kit, vs, b, q_prime, lc, power)
    return (vs, b, a_loc, q, q_prime, h_eq, lc, u, power, f_t, f_t / fixed.force_ratio, *thermal)


def _power(base: Any, exponent: float, kit: Kit) -> Any:
    return kit.sqrt(base) if exponent == 0.5 else base**exponent


def _temperature(given: Condition, coolant: Coolant, fixed: Constants, kit: Kit, vs: Any, b: Any, q_prime: Any, lc: Any,
                 power: Any) -> tuple[Any, ...]:
    """Partition, side flow, flux [W/mm²], surface temperature [°C], whether the fluid boiled, heat to the work."""
    beta = math.sqrt(fixed.k_w_mk * fixed.rho_kg_m3 * fixed.c_j_kgk)
    alpha = fixed.k_w_mk / (fixed.rho_kg_m3 * fixed.c_j_kgk)
    partition = 1 / (1 + fixed.grain_k_w_mk / (beta * kit.sqrt(fixed.grain_radius_um * 1e-6 * vs)))
    flux = power / (b * lc)
    chips = kit.minimum(fixed.rho_kg_m3 * fixed.c_j_kgk * fixed.chip_limit_c * 1e-9 * q_prime / lc,
                       CHIP_SHARE_MOST * flux)
    speed = kit.sqrt(given.table_mm_s / lc)
    xi = b * 1e-3 / (4 * math.sqrt(alpha)) * speed
    side = kit.side_flow(xi)
    h_w = beta * speed / side
    into_work = (flux - chips) * 1e6
    across = h_w / partition
    dry = into_work / across
    cooled = into_work / (across + COOLANT_W_M2K[coolant])
    boiled = fixed.ambient_c + cooled > BOILING_C[coolant]
    rise = kit.where(boiled, dry, cooled)
    return partition, side, flux, fixed.ambient_c + rise, boiled, rise * h_w / (flux * 1e6)


def heat_limit(*, temper_c: Annotated[float, Gt(-KELVIN), Lt(1500)], contact_ms: Positive,
               temper_h: Positive = 2.0) -> HeatLimit:
    """Return what a steel bears for a moment: equal tempering (Hollomon-Jaffe, constant 20, hours, kelvin) [°C].

    Parameters
    ----------
    temper_c, temper_h : float
        Temperature [°C] and time [h] of the last temper.
    contact_ms : float
        Time of contact lc/v [ms].

    Notes
    -----
    (T_lim + 273.15)·(20 + log10 t_c) = (T_t + 273.15)·(20 + log10 t_t), never over 720 °C (re-hardening).
    """
    return HeatLimit(min(equal_temper(temper_c, temper_h, math.log10(contact_ms / MS_AN_HOUR)), REHARDENING_C))


def equal_temper(temper_c: float, temper_h: float, log_hours: Any) -> Any:
    """Return the temperature that tempers as much in 10^``log_hours`` hours, a number or an array [°C]."""
    return (temper_c + KELVIN) * (HOLLOMON_JAFFE + math.log10(temper_h)) / (HOLLOMON_JAFFE + log_hours) - KELVIN


