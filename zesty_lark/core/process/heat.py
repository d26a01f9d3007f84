"""Heat in the part and the hollow it leaves: a plate that warms stroke by stroke, and the crown across its thickness.

Thin-plate approximation, an estimate with its assumptions in view: temperature is uniform through the thickness, edges
are insulated, the strip under the wheel takes the stroke's heat at once. Between strokes the plate conducts and cools;
the cosine transform solves that exactly for any time.
"""

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, Any

import numpy as np
from annotated_types import Ge, Le
from numpy.typing import NDArray

from zesty_lark.core.process.evaluate import Constants, Coolant
from zesty_lark.core.process.holding import thin_bow
from zesty_lark.core.process.strokes import END_OVERRUN_MM
from zesty_lark.core.process.warmth import CHUCK_W_M2K, TOP_W_M2K
from zesty_lark.core.quantities.compiled import compiled
from zesty_lark.core.quantities.numbers import (
    Count,
    Extent,
    InputError,
    NonNegative,
    Positive,
    TableSpeed,
    Temperature,
    refuse_work,
)
from zesty_lark.core.quantities.steel import STEEL_EXPANSION
from zesty_lark.core.quantities.units import UM_A_MM

Floats = NDArray[np.float64]
Reals = NDArray[np.floating[Any]]

STEEL = Constants()
K_W_MK, RHO_KG_M3, C_J_KGK = STEEL.k_w_mk, STEEL.rho_kg_m3, STEEL.c_j_kgk
MM = 1e-3
MOST_CELLS, MOST_CELLS_A_SIDE, MOST_STROKES, MOST_SUMS = 40_000, 2_000, 30_000, 4e9
"""Cells of the plate, and along a side; strokes in all; and products added up over all strokes."""
MOST_WORK = {
    "heatmap": {
        "cells": MOST_CELLS,
        "cells along a side": MOST_CELLS_A_SIDE,
        "strokes": MOST_STROKES,
        "sums over all strokes": MOST_SUMS,
    }
}
TENTH_MM = 0.00254


@dataclass(frozen=True)
class HeatMap:
    """The predicted map at the cells' edges, cold, front row first, highest point 0 [µm]; its hollow; the heat.

    ``hollow_um`` is the greatest height less the least; ``wait_s`` until the swelling is under a tenth.
    """

    hollow_um: float
    heights_um: list[list[float]]
    cell_x_mm: float
    cell_y_mm: float
    mean_rise_c: float
    peak_rise_c: float
    heat_in_j: float
    heat_left_j: float
    strokes: int
    wait_s: float
    assumptions: str


@dataclass(frozen=True)
class Crown:
    """Temperature difference across the thickness [K], free crown [µm], whether the magnet holds it, and hollow
    [µm]."""

    delta_c: float
    free_crown_um: float
    held_share: float
    hollow_um: float


def heatmap(
    *,
    length_mm: Extent,
    width_mm: Extent,
    height_mm: Extent,
    wheel_width_mm: Extent,
    crossfeed_mm: Positive,
    table_mm_s: TableSpeed,
    energy_j_mm: NonNegative,
    coolant: Coolant,
    passes: Count = 1,
    stroke_s: Positive | None = None,
    end_overrun_mm: NonNegative = 25.0,
    reversal_s: NonNegative = 0.3,
    pause_s: NonNegative = 0.0,
    skew_deg: Annotated[float, Ge(-90), Le(90)] = 0.0,
    cell_mm: Positive = 2.0,
    chuck_w_m2k: NonNegative = CHUCK_W_M2K,
    top_w_m2k: NonNegative | None = None,
) -> HeatMap:
    """Predict the hollow that heat leaves in a plate.

    Parameters
    ----------
    length_mm, width_mm, height_mm : float
        The plate; its length lies along the travel at no skew [mm].
    wheel_width_mm, crossfeed_mm, table_mm_s : float
        Strip under the wheel and side step [mm], table speed [mm/s].
    energy_j_mm : float
        Heat put into the work per mm of stroke: heat_to_work_fraction·P/v [J/mm].
    coolant : {"dry", "mist", "water", "oil"}
    passes : int
        How many passes over the whole face.
    stroke_s : float, optional
        Time of a stroke with its reversal; from length, overrun and table speed otherwise [s].
    end_overrun_mm, reversal_s, pause_s : float
        For the time of a stroke, and a pause between passes [mm] [s].
    skew_deg : float
        How far the part is turned [°].
    cell_mm : float
        Cell size wanted [mm].
    chuck_w_m2k, top_w_m2k : float
        Heat flow to the chuck and from the top [W/m²K].

    Raises
    ------
    InputError
        If the cells are too many.

    Notes
    -----
    ρ·c·H·∂T/∂t = k·H·∇²T − (h_top + h_chuck)·T, edges insulated. When the wheel passes a cell it leaves it at wheel
    height while hot: cold height = −α·H·T there.
    """
    columns, rows = max(2, round(length_mm / cell_mm)), max(2, round(width_mm / cell_mm))
    if columns * rows > MOST_CELLS:
        raise InputError("cell_mm", "cell_mm must be larger: the plate would have too many cells")
    refuse_work("cell_mm", max(columns, rows), MOST_CELLS_A_SIDE, "cells along a side")
    across = length_mm + width_mm if skew_deg else width_mm
    strokes = passes * ((across + wheel_width_mm) / crossfeed_mm)
    refuse_work("crossfeed_mm", strokes, MOST_STROKES, "strokes")
    refuse_work("passes", strokes * columns * rows * (columns + rows if skew_deg else columns), MOST_SUMS, "sums")
    plate = _Plate(
        length_mm,
        width_mm,
        height_mm,
        columns,
        rows=rows,
        losses=chuck_w_m2k + (TOP_W_M2K[coolant] if top_w_m2k is None else top_w_m2k),
    )
    strips = _Strips(plate, wheel_width_mm, crossfeed_mm, skew_deg)
    seconds = stroke_s or (strips.along_mm + 2 * end_overrun_mm) / table_mm_s + reversal_s
    return _run(plate, strips, energy_j_mm, seconds, passes=passes, pause=pause_s)


def straight_hollow(
    *,
    length_mm: float,
    width_mm: float,
    height_mm: float,
    wheel_width_mm: float,
    crossfeed_mm: float,
    table_mm_s: float,
    energy_j_mm: float,
    coolant: Coolant,
    passes: int,
    reversal_s: float,
    cell_mm: float,
) -> float:
    """Return ``heatmap``'s hollow of a plate that lies along the travel [µm]: the same, without the picture.

    Nothing changes along the travel then, so one column of cells tells it.
    """
    rows = max(2, round(width_mm / cell_mm))
    plate = _column(length_mm, width_mm, height_mm, rows, CHUCK_W_M2K + TOP_W_M2K[coolant])
    strips = _Strips(plate, wheel_width_mm, crossfeed_mm, 0.0)
    seconds = (strips.along_mm + 2 * END_OVERRUN_MM) / table_mm_s + reversal_s
    shares = strips.share(strips.middles[:, None], wheel_width_mm, plate.y)
    under = np.abs(plate.edge_y[None, :] - strips.middles[:, None]) <= wheel_width_mm / 2
    rise = energy_j_mm * length_mm * plate.dy / wheel_width_mm / plate.capacity
    cold = _straight(plate.to_y, plate.at_y, np.exp(-plate.rate[:, 0] * seconds), shares * rise, under, passes)
    return float(np.ptp(cold)) * STEEL_EXPANSION * height_mm * 1000


@compiled
def _straight(
    to_y: Floats, at_y: Floats, decay: Floats, rises: Floats, under: NDArray[np.bool_], passes: int
) -> Floats:
    """Warm one column of cells stroke by stroke; return how warm each edge was when the wheel left it for the last time
    [K]."""
    modes, left = np.zeros(to_y.shape[0]), np.zeros(at_y.shape[0])
    for _ in range(passes):
        for stroke in range(rises.shape[0]):
            for mode in range(modes.size):
                for cell in range(modes.size):
                    modes[mode] += to_y[mode, cell] * rises[stroke, cell]
            for edge in range(left.size):
                if under[stroke, edge]:
                    warm = 0.0
                    for mode in range(modes.size):
                        warm += at_y[edge, mode] * modes[mode]
                    left[edge] = warm
            modes *= decay
    return left


class _Plate:
    """The plate's cells and how its warmth decays, mode by mode, in the cosine transform."""

    def __init__(self, length: float, width: float, height: float, columns: int, *, rows: int, losses: float) -> None:
        self.length, self.width, self.height = length, width, height
        self.columns, self.rows = columns, rows
        self.dx, self.dy = length / columns, width / rows
        self.capacity = RHO_KG_M3 * C_J_KGK * height * MM * self.dx * MM * self.dy * MM
        self.x = (np.arange(columns) + 0.5) * self.dx - length / 2
        self.y = (np.arange(rows) + 0.5) * self.dy - width / 2
        diffusivity = K_W_MK / (RHO_KG_M3 * C_J_KGK)
        wave_x = (np.pi * np.arange(columns) / (length * MM)) ** 2
        wave_y = (np.pi * np.arange(rows) / (width * MM)) ** 2
        self.loss_rate = losses / (RHO_KG_M3 * C_J_KGK * height * MM)
        self.rate = diffusivity * (wave_y[:, None] + wave_x[None, :]) + self.loss_rate
        self.to_x, self.to_y = _cosines(columns), _cosines(rows)
        self.at_x, self.at_y = _at_edges(columns), _at_edges(rows)
        self.edge_x = np.arange(columns + 1) * self.dx - length / 2
        self.edge_y = np.arange(rows + 1) * self.dy - width / 2

    def forward(self, field: Floats) -> Floats:
        """Cosine transform of a field over the cells."""
        return self.to_y @ field @ self.to_x.T

    def back(self, modes: Floats) -> Floats:
        """The field of a cosine transform."""
        return self.to_y.T @ modes @ self.to_x


@lru_cache(maxsize=32)
def _column(length: float, width: float, height: float, rows: int, losses: float) -> _Plate:
    """A plate of one column of cells."""
    return _Plate(length, width, height, 1, rows=rows, losses=losses)


def _cosines(count: int) -> Floats:
    """The orthonormal cosine transform (type II) of ``count`` cells as a matrix."""
    k = np.arange(count)[:, None]
    matrix = np.cos(np.pi * k * (np.arange(count)[None, :] + 0.5) / count) * math.sqrt(2 / count)
    matrix[0] /= math.sqrt(2)
    return matrix


def _at_edges(count: int) -> Floats:
    """The same cosines at the edges of the cells, the plate's own edges included: one row an edge."""
    k = np.arange(count)[None, :]
    matrix = np.cos(np.pi * k * np.arange(count + 1)[:, None] / count) * math.sqrt(2 / count)
    matrix[:, 0] /= math.sqrt(2)
    return matrix


class _Strips:
    """Where the wheel lies at each stroke of a pass: the cells' distance from its middle, in the part's frame."""

    def __init__(self, plate: _Plate, wheel_width: float, crossfeed: float, skew_deg: float) -> None:
        sine, cosine = math.sin(math.radians(skew_deg)), math.cos(math.radians(skew_deg))
        self.straight = skew_deg == 0
        self.across = plate.x[None, :] * -sine + plate.y[:, None] * cosine
        self.edges_across = plate.edge_x[None, :] * -sine + plate.edge_y[:, None] * cosine
        self.along_mm = plate.length * abs(cosine) + plate.width * abs(sine)
        self.width_mm = plate.length * abs(sine) + plate.width * abs(cosine)
        self.wheel = wheel_width
        self.soft = plate.dx * abs(sine) + plate.dy * abs(cosine)
        span = self.width_mm + wheel_width
        steps = math.ceil(span / crossfeed - 1e-9)
        self.middles = -self.width_mm / 2 - wheel_width / 2 + crossfeed * (np.arange(steps) + 0.5)
        self.crossfeed = crossfeed

    def share(self, middle: float | Reals, width: float, across: Reals) -> Floats:
        """The share of each cell that a strip of a width covers; cells are cut where its edges lie."""
        edge = (width / 2 - np.abs(across - middle)) / self.soft + 0.5
        covered: Floats = np.clip(edge, 0.0, min(1.0, width / self.soft))
        return covered


def _run(plate: _Plate, strips: _Strips, energy: float, seconds: float, *, passes: int, pause: float) -> HeatMap:
    modes = np.zeros((plate.rows, plate.columns))
    decay = np.exp(-plate.rate * seconds)
    paused = np.exp(-plate.rate * pause)
    cold = np.zeros((plate.rows + 1, plate.columns + 1))
    put_in, peak, strokes = 0.0, 0.0, 0
    for _ in range(passes):
        for middle in strips.middles:
            added, heat = _stroke_heat(plate, strips, float(middle), energy)
            put_in += heat
            _touch(plate, strips, float(middle), modes, added=added, cold=cold)
            modes += added
            modes *= decay
            strokes += 1
        modes *= paused
    field = plate.back(modes)
    peak = float(field.max())
    mean = float(field.mean())
    hollow = float(np.ptp(cold)) * 1000
    heights = (cold - cold.max()) * 1000
    return HeatMap(
        hollow_um=hollow,
        heights_um=np.round(heights, 6).tolist(),
        cell_x_mm=plate.dx,
        cell_y_mm=plate.dy,
        mean_rise_c=mean,
        peak_rise_c=peak,
        heat_in_j=put_in,
        heat_left_j=float(field.sum()) * plate.capacity,
        strokes=strokes,
        wait_s=_wait(plate, peak),
        assumptions="Thin plate, insulated edges, heat of a stroke put in at once; an estimate, never a promise.",
    )


def _stroke_heat(plate: _Plate, strips: _Strips, middle: float, energy: float) -> tuple[Floats, float]:
    """The rise a stroke adds, as modes, and the heat it puts in [J]."""
    if strips.straight:
        share = strips.share(middle, strips.wheel, plate.y)
        total = float(share.sum())
        if total <= 0:
            return np.zeros((plate.rows, plate.columns)), 0.0
        on_part = min(1.0, total * plate.dy / strips.wheel)
        heat = energy * plate.length * on_part
        added = np.zeros((plate.rows, plate.columns))
        added[:, 0] = (
            plate.to_y @ (share * (heat / (total * plate.columns) / plate.capacity)) * math.sqrt(plate.columns)
        )
        return added, heat
    share = strips.share(middle, strips.wheel, strips.across)
    total = float(share.sum())
    if total <= 0:
        return np.zeros((plate.rows, plate.columns)), 0.0
    heat = energy * total * plate.dx * plate.dy / strips.wheel
    return plate.forward(share * (heat / total / plate.capacity)), heat


def _touch(plate: _Plate, strips: _Strips, middle: float, modes: Floats, *, added: Floats, cold: Floats) -> None:
    """Leave the points under the wheel at wheel height while hot."""
    reach = strips.wheel / 2
    if strips.straight:
        under = np.abs(plate.edge_y - middle) <= reach
        if under.any():
            temperature = plate.at_y[under] @ (modes + added) @ plate.at_x.T
            cold[under] = -STEEL_EXPANSION * plate.height * temperature
        return
    under_cells = np.abs(strips.edges_across - middle) <= reach
    if under_cells.any():
        temperature = plate.at_y @ (modes + added) @ plate.at_x.T
        cold[under_cells] = -STEEL_EXPANSION * plate.height * temperature[under_cells]


def _wait(plate: _Plate, peak: float) -> float:
    """Seconds until the swelling of the warmest spot is under a tenth, by losses alone."""
    swelling = STEEL_EXPANSION * plate.height * peak
    if swelling <= TENTH_MM or plate.loss_rate <= 0:
        return 0.0 if swelling <= TENTH_MM else math.inf
    return math.log(swelling / TENTH_MM) / plate.loss_rate


def heat_crown(
    *,
    length_mm: Positive,
    height_mm: Positive,
    mean_rise_c: Temperature,
    pull_n_mm2: NonNegative,
    chuck_w_m2k: NonNegative = CHUCK_W_M2K,
) -> Crown:
    """Estimate the crown of a plate that is warmer on top than at the chuck.

    Parameters
    ----------
    length_mm, height_mm : float
        The plate [mm].
    mean_rise_c : float
        Mean rise over ambient [K].
    pull_n_mm2 : float
        The magnet's pull per area [N/mm²].
    chuck_w_m2k : float
        Heat flow to the chuck [W/m²K].

    Notes
    -----
    The mean flux that leaves through the chuck, q = h_chuck·(T_mean − ΔT/2), across the thickness: ΔT = q·H/k, so
    ΔT = T_mean·Bi/(1 + Bi/2), Bi = h_chuck·H/k. Free crown α·ΔT·L²/(8H); the magnet holds the share its pull beats of
    the pressure that would flatten that bow; the rest is ground off and appears as hollow.
    """
    delta, crown = crown_um(length_mm, height_mm, max(mean_rise_c, 0.0), chuck_w_m2k)
    unheld = max(0.0, crown - held_crown_um(length_mm, height_mm, pull_n_mm2))
    return Crown(delta, crown, 1.0 - unheld / crown if crown > 0 else 1.0, unheld)


def crown_um(length_mm: float, height_mm: float, mean_rise_c: float, chuck_w_m2k: float) -> tuple[float, float]:
    """Return how much warmer a plate's top is than its foot [K], and the crown it would have lying free [µm]."""
    biot = chuck_w_m2k * height_mm * MM / K_W_MK
    delta = mean_rise_c * biot / (1.0 + biot / 2.0)
    return delta, STEEL_EXPANSION * delta * length_mm**2 / (8.0 * height_mm) * UM_A_MM


def held_crown_um(length_mm: float, height_mm: float, pull_n_mm2: float) -> float:
    """Return the crown of a plate that a pull per area holds down [µm]; ``thin.bow`` says what flattens it."""
    a_um = thin_bow(length_mm=length_mm, thickness_mm=height_mm, bow_mm=1.0 / UM_A_MM, pull_n_mm2=pull_n_mm2, wide=True)
    return pull_n_mm2 / a_um.flattening_pressure_n_mm2
