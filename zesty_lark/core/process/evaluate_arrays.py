"""Many grinding conditions at once: the model of ``evaluate`` on arrays."""

import math
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.process.evaluate import Condition, Constants, Coolant, Kit, model
from zesty_lark.core.process.side_flow_table import side_flow_factor

__all__ = ["Evaluations", "evaluate_block", "evaluate_many"]

Floats = NDArray[np.float64]

BLOCK = 65_536
STANDARD = Constants()
ARRAYS = Kit(np.sqrt, np.maximum, np.minimum, np.where, side_flow_factor)


@dataclass(frozen=True)
class Evaluations:
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


def evaluate_many(condition: Condition, coolant: Coolant, constants: Constants = STANDARD) -> Evaluations:
    """Evaluate many conditions at once; every field of the answer is an array of their common shape.

    Worked in blocks that stay in the processor's cache, on every processor.
    """
    given = [np.asarray(getattr(condition, field.name), dtype=np.float64) for field in fields(Condition)]
    shape = np.broadcast_shapes(*(each.shape for each in given))
    size = math.prod(shape)
    if size <= BLOCK:
        return _broadcast(evaluate_block(Condition(*given), coolant, constants), shape)
    flat = [each if each.ndim == 0 else np.broadcast_to(each, shape).reshape(-1) for each in given]
    out = {field.name: np.empty(size, dtype=bool if field.name == "coolant_boiled" else np.float64)
           for field in fields(Evaluations)}

    def work(start: int) -> None:
        part = slice(start, min(start + BLOCK, size))
        block = evaluate_block(Condition(*(each if each.ndim == 0 else each[part] for each in flat)), coolant, constants)
        for name, array in out.items():
            array[part] = getattr(block, name)

    work(0)
    with ThreadPoolExecutor() as threads:
        list(threads.map(work, range(BLOCK, size, BLOCK)))
    return Evaluations(**{name: array.reshape(shape) for name, array in out.items()})


def evaluate_block(condition: Condition, coolant: Coolant, constants: Constants = STANDARD) -> Evaluations:
    """Evaluate arrays of one shape that fit the processor's cache, without spreading numbers into arrays."""
    return Evaluations(*model(condition, coolant, constants, ARRAYS))


def _broadcast(block: Evaluations, shape: tuple[int, ...]) -> Evaluations:
    return Evaluations(**{field.name: np.broadcast_to(getattr(block, field.name), shape)
                         for field in fields(Evaluations)})
