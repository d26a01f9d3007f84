"""One grinding condition: kinematics, energy, temperature.

Energy after Malkin & Guo, Grinding Technology, ch. 5-6; temperature after Rowe, Principles of Modern Grinding
Technology, ch. 17-18; the band solution is Carslaw & Jaeger's.
"""

import math
from dataclasses import dataclass
from math import sqrt
from typing import Annotated, Literal, NamedTuple

from annotated_types import Ge, Gt, Lt

from zesty_lark.core.process.side_flow import side_flow_of
from zesty_lark.core.quantities.numbers import NonNegative, Positive, Rpm, Temperature

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


class Constants(NamedTuple):
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


class Fluid(NamedTuple):
    """What the model takes from a fluid: λ, h_f [W/m²K], where it boils [°C]."""

    lubrication: float
    coolant_w_m2k: float
    boiling_c: float


def fluid_of(coolant: Coolant) -> Fluid:
    """Return a fluid's figures."""
    return Fluid(LUBRICATION[coolant], COOLANT_W_M2K[coolant], BOILING_C[coolant])


class Condition(NamedTuple):
    """One grinding condition: mm, mm/s, rpm; sharpness S."""

    wheel_diameter_mm: float
    wheel_rpm: float
    table_mm_s: float
    depth_mm: float
    crossfeed_mm: float
    edge_width_mm: float
    sharpness: float


class Kinematics(NamedTuple):
    """How the wheel meets the work, the first fields of ``Evaluation``."""

    wheel_speed_m_s: float
    engaged_width_mm: float
    local_depth_mm: float
    removal_rate_mm3_s: float
    specific_removal_rate_mm2_s: float
    equivalent_chip_um: float
    contact_length_mm: float


class Energy(NamedTuple):
    """What the cut takes, the middle fields of ``Evaluation``."""

    specific_energy_j_mm3: float
    power_w: float
    tangential_n: float
    normal_n: float


class Heat(NamedTuple):
    """Where a condition's heat goes, the last fields of ``Evaluation``."""

    work_partition: float
    side_flow_factor: float
    heat_flux_w_mm2: float
    surface_temperature_c: float
    coolant_boiled: bool
    heat_to_work_fraction: float


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
    *,
    wheel_diameter_mm: Positive,
    wheel_rpm: Rpm,
    table_mm_s: Positive,
    depth_mm: Positive,
    crossfeed_mm: Positive,
    edge_width_mm: Width,
    sharpness: Positive,
    coolant: Coolant,
    u_chip: NonNegative = STANDARD.u_chip,
    u_rub: NonNegative = STANDARD.u_rub,
    heq_ref_um: Positive = STANDARD.heq_ref_um,
    rub_exponent: Exponent = STANDARD.rub_exponent,
    force_ratio: Positive = STANDARD.force_ratio,
    contact_factor: Positive = STANDARD.contact_factor,
    grain_k_w_mk: Positive = STANDARD.grain_k_w_mk,
    grain_radius_um: Positive = STANDARD.grain_radius_um,
    chip_limit_c: NonNegative = STANDARD.chip_limit_c,
    ambient_c: Temperature = STANDARD.ambient_c,
    k_w_mk: Positive = STANDARD.k_w_mk,
    rho_kg_m3: Positive = STANDARD.rho_kg_m3,
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
    constants = Constants(
        u_chip,
        u_rub,
        heq_ref_um,
        rub_exponent,
        force_ratio,
        contact_factor,
        grain_k_w_mk,
        grain_radius_um,
        chip_limit_c,
        ambient_c,
        k_w_mk,
        rho_kg_m3,
        c_j_kgk,
    )
    given = Condition(wheel_diameter_mm, wheel_rpm, table_mm_s, depth_mm, crossfeed_mm, edge_width_mm, sharpness)
    fluid = fluid_of(coolant)
    cut = kinematics(given, constants)
    takes = energy(given, fluid, constants, cut, rubbing(constants, cut))
    heat = temperature(given, fluid, constants, cut, takes, side_flow_of(band_width(given, constants, cut)))
    return Evaluation(**cut._asdict(), **takes._asdict(), **heat._asdict())


def kinematics(given: Condition, fixed: Constants) -> Kinematics:
    """v_s, engaged width, local depth, removal rates, equivalent chip h_eq = Q'/v_s, contact length R·√(a·d)."""
    d, v, s = given.wheel_diameter_mm, given.table_mm_s, given.crossfeed_mm
    vs = math.pi / 60_000 * d * given.wheel_rpm
    b = max(s, given.edge_width_mm)
    a_loc = given.depth_mm * s / b
    q_prime = a_loc * v
    return Kinematics(
        vs, b, a_loc, given.depth_mm * s * v, q_prime, q_prime / vs, fixed.contact_factor * sqrt(a_loc * d)
    )


def rubbing(fixed: Constants, cut: Kinematics) -> float:
    """(h_ref/h_eq)^p: how much more a thinner chip rubs."""
    thinner = fixed.heq_ref_um / cut.equivalent_chip_um
    return sqrt(thinner) if fixed.rub_exponent == 0.5 else thinner**fixed.rub_exponent


def energy(given: Condition, fluid: Fluid, fixed: Constants, cut: Kinematics, rubs: float) -> Energy:
    """u = u_ch + u_r·λ·S·(h_ref/h_eq)^p, P = u·Q, F_t = P/v_s, F_n = F_t/(F_t/F_n)."""
    u = fixed.u_chip + fixed.u_rub * fluid.lubrication * given.sharpness * rubs
    power = u * cut.removal_rate_mm3_s
    f_t = power / cut.wheel_speed_m_s
    return Energy(u, power, f_t, f_t / fixed.force_ratio)


def band_width(given: Condition, fixed: Constants, cut: Kinematics) -> float:
    """ξ = (b/4)·√(v/(α·lc)): how wide the heated band is for the time it is heated."""
    alpha = fixed.k_w_mk / (fixed.rho_kg_m3 * fixed.c_j_kgk)
    return cut.engaged_width_mm * 1e-3 / (4 * sqrt(alpha)) * sqrt(given.table_mm_s / cut.contact_length_mm)


def temperature(given: Condition, fluid: Fluid, fixed: Constants, cut: Kinematics, takes: Energy, side: float) -> Heat:
    """Partition, flux [W/mm²], surface temperature [°C], whether the fluid boiled, heat to the work; ``side`` is
    F(ξ)."""
    lc, flux = cut.contact_length_mm, takes.power_w / (cut.engaged_width_mm * cut.contact_length_mm)
    beta = sqrt(fixed.k_w_mk * fixed.rho_kg_m3 * fixed.c_j_kgk)
    partition = 1 / (1 + fixed.grain_k_w_mk / (beta * sqrt(fixed.grain_radius_um * 1e-6 * cut.wheel_speed_m_s)))
    chips = min(
        fixed.rho_kg_m3 * fixed.c_j_kgk * fixed.chip_limit_c * 1e-9 * cut.specific_removal_rate_mm2_s / lc,
        CHIP_SHARE_MOST * flux,
    )
    h_w = beta * sqrt(given.table_mm_s / lc) / side
    into_work = (flux - chips) * 1e6
    across = h_w / partition
    dry = into_work / across
    cooled = into_work / (across + fluid.coolant_w_m2k)
    boiled = fixed.ambient_c + cooled > fluid.boiling_c
    rise = dry if boiled else cooled
    return Heat(partition, side, flux, fixed.ambient_c + rise, boiled, rise * h_w / (flux * 1e6))


def heat_limit(
    *, temper_c: Annotated[float, Gt(-KELVIN), Lt(1500)], contact_ms: Positive, temper_h: Positive = 2.0
) -> HeatLimit:
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
    return HeatLimit(limit_at(temper_c, temper_h, contact_ms / MS_AN_HOUR))


def limit_at(temper_c: float, temper_h: float, contact_h: float) -> float:
    """Return the temperature that tempers as much in the hours of a contact as the last temper did, at most 720 °C
    [°C]."""
    product = (temper_c + KELVIN) * (HOLLOMON_JAFFE + math.log10(temper_h))
    return min(product / (HOLLOMON_JAFFE + math.log10(contact_h)) - KELVIN, REHARDENING_C)
