"""The hollow that a finish leaves: the heat map, run for its passes as they are planned. It grows in step with the
heat."""

import math

from zesty_lark.core.planning.problem import Problem
from zesty_lark.core.process.heat import HeatMap, heatmap, straight_hollow

CELL_MM = 3.0
MOST_CELLS, MOST_CELLS_A_SIDE = 1500, 200
PASSES_MOST = 6
"""More passes than this leave the plate no warmer."""


def finish_map(
    problem: Problem, *, crossfeed: float, table: float, passes: int, energy_j_mm: float, skew_deg: float | None = None
) -> HeatMap:
    """Run the heat map of a finish; turned as the problem has it, or otherwise.

    Crossfeed [mm], table [mm/s], heat a stroke leaves in the work [J/mm].
    """
    part = problem.part
    return heatmap(
        length_mm=part.length_mm,
        width_mm=part.width_mm,
        height_mm=part.height_mm,
        wheel_width_mm=problem.wheel.width_mm,
        crossfeed_mm=crossfeed,
        table_mm_s=table,
        energy_j_mm=energy_j_mm,
        coolant=problem.coolant,
        passes=min(passes, PASSES_MOST),
        reversal_s=problem.machine.reversal_s,
        skew_deg=problem.skew_deg if skew_deg is None else skew_deg,
        cell_mm=_cell(problem),
    )


def _cell(problem: Problem) -> float:
    along, across = problem.part.length_mm, problem.part.width_mm
    return max(CELL_MM, math.sqrt(along * across / MOST_CELLS), max(along, across) / MOST_CELLS_A_SIDE)


def hollow_um(problem: Problem, *, crossfeed: float, table: float, passes: int, energy_j_mm: float) -> float:
    """Return the map's hollow for a finish [µm]; what a unit of heat leaves is kept with the problem."""
    key = (crossfeed, table, min(passes, PASSES_MOST))
    kept = problem.worked.hollows
    if key not in kept:
        kept[key] = _of_a_unit(problem, crossfeed, table, key[2])
    return float(kept[key]) * energy_j_mm


def _of_a_unit(problem: Problem, crossfeed: float, table: float, passes: int) -> float:
    if problem.skew_deg:
        return finish_map(problem, crossfeed=crossfeed, table=table, passes=passes, energy_j_mm=1.0).hollow_um
    part = problem.part
    return straight_hollow(
        length_mm=part.length_mm,
        width_mm=part.width_mm,
        height_mm=part.height_mm,
        wheel_width_mm=problem.wheel.width_mm,
        crossfeed_mm=crossfeed,
        table_mm_s=table,
        energy_j_mm=1.0,
        coolant=problem.coolant,
        passes=passes,
        reversal_s=problem.machine.reversal_s,
        cell_mm=_cell(problem),
    )
