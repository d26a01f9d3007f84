"""Many grinding conditions at once: the model of ``evaluate`` on arrays."""

import math
from concurrent.futures import ThreadPoolExecutor
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.compiled import compiled, inlined
from zesty_lark.core.process.evaluate import Condition, Constants, Coolant, Fluid, Kinematics, fluid_of
from zesty_lark.core.process.kernel import band_width, energy, kinematics, rubbing, side_flow_read, side_flow_table, temperature

__all__ = ["Conditions", "Evaluations", "evaluate_many"]

Floats = NDArray[np.float64]

BLOCK = 16_384
STANDARD = Constants()


class Conditions(NamedTuple):
    """Many conditions: the fields of ``Condition`` as arrays or single numbers that fit together."""

    wheel_diameter_mm: Any
    wheel_rpm: Any
    table_mm_s: Any
    depth_mm: Any
    crossfeed_mm: Any
    edge_width_mm: Any
    sharpness: Any


class Evaluations(NamedTuple):
    """What many conditions come to, an array each; the fields of ``Evaluation``."""

    wheel_speed_m_s: Floats
    engaged_width_mm: Floats
    local_depth_mm: Floats
    removal_rate_mm3_s: Floats
    specific_removal_rate_mm2_s: Floats
    equivalent_chip_um: Floats
    contact_length_mm: Floats
    specific_energy_j_mm3: Floats
    power_w: Floats
    tangential_n: Floats
    normal_n: Floats
    work_partition: Floats
    side_flow_factor: Floats
    heat_flux_w_mm2: Floats
    surface_temperature_c: Floats
    coolant_boiled: NDArray[np.bool_]
    heat_to_work_fraction: Floats


def evaluate_many(conditions: Conditions, coolant: Coolant, constants: Constants = STANDARD,
                  out: Evaluations | None = None) -> Evaluations:
    """Evaluate many conditions at once; every field of the answer is an array of their common shape.

    Parameters
    ----------
    conditions : Conditions
        Arrays or numbers that broadcast together.
    out : Evaluations, optional
        An earlier answer of the same shape to fill again: new arrays for a million conditions cost as much as the model.

    Raises
    ------
    ValueError
        If the arrays do not fit together, or ``out`` has another shape.
    """
    given = [np.asarray(each, dtype=np.float64) for each in conditions]
    shape = np.broadcast_shapes(*(each.shape for each in given))
    size = math.prod(shape)
    if out is None:
        out = Evaluations(*(np.empty(shape, bool if name == "coolant_boiled" else np.float64) for name in Evaluations._fields))
    elif any(each.shape != shape or not each.flags.c_contiguous for each in out):
        raise ValueError(f"out must have the shape {shape} of the conditions")
    into = {name: each.reshape(-1) for name, each in out._asdict().items()}
    block = min(BLOCK, max(size, 1))
    flat = [np.full(block, each) if each.ndim == 0 else
            np.require(np.broadcast_to(each, shape), requirements=["C", "W"]).reshape(-1) for each in given]
    fluid, table, fixed = fluid_of(coolant), side_flow_table(), Constants(*(float(each) for each in constants))

    def work(start: int) -> None:
        part = slice(start, min(start + block, size))
        _fill(Conditions(*(each[:part.stop - start] if whole.ndim == 0 else each[part]
                           for each, whole in zip(flat, given, strict=True))),
              fluid, fixed, table, Evaluations(**{name: each[part] for name, each in into.items()}))

    if size <= block:
        work(0)
    else:
        with ThreadPoolExecutor() as threads:
            list(threads.map(work, range(0, size, block)))
    return out


@compiled
def _fill(given: Conditions, fluid: Fluid, fixed: Constants, table: Floats, out: Evaluations) -> None:
    """Fill the answer in loops of what the compiler can work out for several numbers at once; the table is read between.

    What a loop leaves for the next lies where the next writes its own: ``rubbing`` in the energy's place.
    """
    size = given.depth_mm.size
    for i in range(size):
        one = _one(given, i)
        cut = kinematics(one, fixed)
        out.wheel_speed_m_s[i], out.engaged_width_mm[i], out.local_depth_mm[i] = cut[0], cut[1], cut[2]
        out.removal_rate_mm3_s[i], out.specific_removal_rate_mm2_s[i] = cut[3], cut[4]
        out.equivalent_chip_um[i], out.contact_length_mm[i] = cut[5], cut[6]
        out.side_flow_factor[i] = band_width(one, fixed, cut)
    for i in range(size):
        out.specific_energy_j_mm3[i] = rubbing(fixed, _cut(out, i))
    for i in range(size):
        out.side_flow_factor[i] = side_flow_read(table, out.side_flow_factor[i])
    for i in range(size):
        one, cut = _one(given, i), _cut(out, i)
        takes = energy(one, fluid, fixed, cut, out.specific_energy_j_mm3[i])
        heat = temperature(one, fluid, fixed, cut, takes, out.side_flow_factor[i])
        out.specific_energy_j_mm3[i], out.power_w[i], out.tangential_n[i], out.normal_n[i] = takes
        out.work_partition[i], out.heat_flux_w_mm2[i] = heat.work_partition, heat.heat_flux_w_mm2
        out.surface_temperature_c[i], out.coolant_boiled[i] = heat.surface_temperature_c, heat.coolant_boiled
        out.heat_to_work_fraction[i] = heat.heat_to_work_fraction


@inlined
def _one(given: Conditions, i: int) -> Condition:
    return Condition(given.wheel_diameter_mm[i], given.wheel_rpm[i], given.table_mm_s[i], given.depth_mm[i],
                     given.crossfeed_mm[i], given.edge_width_mm[i], given.sharpness[i])


@inlined
def _cut(out: Evaluations, i: int) -> Kinematics:
    return Kinematics(out.wheel_speed_m_s[i], out.engaged_width_mm[i], out.local_depth_mm[i], out.removal_rate_mm3_s[i],
                      out.specific_removal_rate_mm2_s[i], out.equivalent_chip_um[i], out.contact_length_mm[i])
