"""The finish: its passes, blanks, roughness, size lost and hollow, over every crossfeed, speed and dress."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.measure.cooling import STEEL_EXPANSION
from zesty_lark.core.process.cutting import Cutting, Settings, cut
from zesty_lark.core.process.finish import FINISH_R1_UM, HEQ_REFERENCE_UM
from zesty_lark.core.process.heat import C_J_KGK, CHUCK_W_M2K, RHO_KG_M3, TOP_W_M2K
from zesty_lark.core.process.plan_input import Asked, DressKind
from zesty_lark.core.wheel.dressing import DRESSES

__all__ = ["FINISH_HEAT_SHARE", "Finish", "FinishKind", "best_finish"]

Floats = NDArray[np.float64]

FINISH_HEAT_SHARE = 0.75
SIZE_SHARE = 0.1
FLATNESS_SHARE = 0.5
OVERLAP_LEAST = 3.0
DIAMOND_MM = 0.8
MOST_BLANKS = 60
TRIED_AT_ONCE = 512
KINDS: tuple[DressKind, ...] = ("rough", "general", "fine")


@dataclass(frozen=True)
class FinishKind:
    """Finish passes and their step in graduations; a crossfeed when it is fixed [mm]."""

    passes: int
    step: int
    crossfeed: float | None = None


@dataclass(frozen=True)
class Finish:
    """A finish worked out: what it is set to, its time [min], and the share of each limit it uses."""

    kind: FinishKind
    crossfeed: float
    table: float
    dress: DressKind
    blanks: int
    strokes: int
    minutes: float
    temperature: float
    limit: float
    power: float
    tangential: float
    hold: float
    hollow_um: float
    size_lost_um: float
    left_um: float
    ra_um: float
    used: tuple[tuple[str, float], ...]

    @property
    def worst(self) -> float:
        """The largest used share."""
        return max(share for _, share in self.used)


@lru_cache(maxsize=4096)
def best_finish(asked: Asked, kind: FinishKind, left_mm: float) -> Finish:
    """Return the quickest finish within the limits, or else the one that breaks them least.

    Parameters
    ----------
    asked : Asked
        The question.
    kind : FinishKind
        Passes and step.
    left_mm : float
        What roughing leaves for the springs to give back [mm].
    """
    crossfeed, table, dress = _grid(asked, kind)
    strokes = np.ceil((asked.across + asked.wheel.width_mm) / crossfeed - 1e-9)
    seconds = strokes * (asked.stroke / table + asked.machine.reversal_s)
    order = np.lexsort((dress, table, crossfeed, seconds))
    best: Finish | None = None
    for start in range(0, order.size, TRIED_AT_ONCE):
        at = order[start:start + TRIED_AT_ONCE]
        if best is not None and best.worst <= 1 and (kind.passes + 1) * seconds[at[0]] / 60 > best.minutes:
            break
        found = _best_of(asked, kind, left_mm, crossfeed[at], table[at], dress[at])
        if best is None or (found.worst > 1, found.minutes if found.worst <= 1 else found.worst) < (
                best.worst > 1, best.minutes if best.worst <= 1 else best.worst):
            best = found
    assert best is not None
    return best


def _best_of(asked: Asked, kind: FinishKind, left_mm: float, crossfeed: Floats, table: Floats,
             dress: NDArray[np.int64]) -> Finish:
    """The quickest within the limits of some settings, or else the one that breaks them least."""
    step = np.full(crossfeed.size, kind.step * asked.graduation)
    sharp = np.array([DRESSES[name].sharpness for name in KINDS])[dress]
    done = cut(asked, Settings(step, step, np.full(crossfeed.size, kind.passes), crossfeed, table,
                               np.full(crossfeed.size, asked.grain), sharp, np.full(crossfeed.size, left_mm)))
    blanks, left, lost = _blanks(asked, kind, crossfeed, done)
    strokes_a_pass = np.ceil((asked.across + asked.wheel.width_mm) / crossfeed - 1e-9)
    seconds = strokes_a_pass * (asked.stroke / table + asked.machine.reversal_s)
    minutes = (kind.passes + blanks) * seconds / 60
    hollow = _hollow(asked, done.last_heat_j, seconds)
    ra = _roughness(dress, done.last_chip_um)
    used = _used(asked, done, left + lost, hollow, ra)
    worst = np.max(list(used.values()), axis=0)
    fits = worst <= 1
    order = np.lexsort((table, crossfeed, dress, worst, minutes)) if fits.any() else np.lexsort((minutes, worst))
    pick = int(order[np.flatnonzero(fits[order])[0]]) if fits.any() else int(order[0])
    return Finish(
        kind, float(crossfeed[pick]), float(table[pick]), KINDS[int(dress[pick])], int(blanks[pick]),
        int(strokes_a_pass[pick] * (kind.passes + blanks[pick])), float(minutes[pick]), float(done.temperature[pick]),
        float(done.limit[pick]), float(done.power[pick]), float(done.tangential[pick]), float(done.hold[pick]),
        float(hollow[pick]), float(lost[pick] * 1000), float(left[pick] * 1000), float(ra[pick]),
        tuple((name, float(share[pick])) for name, share in used.items()))


def _grid(asked: Asked, kind: FinishKind) -> tuple[Floats, Floats, NDArray[np.int64]]:
    """Every crossfeed with overlap 3 or more, table speed and dress."""
    if kind.crossfeed is not None:
        crossfeeds = [kind.crossfeed]
    else:
        widest = asked.snap_crossfeed(asked.wheel.width_mm / OVERLAP_LEAST)
        crossfeeds = [each for each in asked.crossfeeds if each <= widest + 1e-9] or [widest]
    mesh = np.meshgrid(np.array(crossfeeds), np.array(asked.speeds), np.arange(len(KINDS)), indexing="ij")
    return mesh[0].ravel(), mesh[1].ravel(), mesh[2].ravel()


def _blanks(asked: Asked, kind: FinishKind, crossfeed: Floats, done: Cutting) -> tuple[NDArray[np.int64], Floats, Floats]:
    """Blanks after the finish: at least one, until what is left plus size lost is within a tenth of the tolerance."""
    allowed = SIZE_SHARE * asked.tolerance
    slices = np.maximum(1, np.floor(asked.wheel.width_mm / crossfeed + 0.5 + 1e-9)).astype(np.int64)
    feeding = np.ceil(asked.across / crossfeed - 1e-9)
    lost = kind.step * asked.graduation * _poisson_from(slices, done.last_kappa * feeding * kind.passes)
    wipes = np.maximum(1, np.floor(asked.wheel.width_mm / crossfeed + 1e-9))
    keeps = (1 - asked.machine.cut_ratio) ** wipes
    left = done.left * keeps
    blanks = np.ones(crossfeed.size, np.int64)
    for _ in range(MOST_BLANKS - 1):
        more = (left + lost > allowed) & (lost < allowed) & (keeps > 0)
        if not more.any():
            break
        left = np.where(more, left * keeps, left)
        blanks += more
    return blanks, left, lost


def _poisson_from(least: NDArray[np.int64], mean: Floats) -> Floats:
    """P(Poisson(mean) ≥ least), term by term."""
    term = np.exp(-mean)
    below = np.zeros(mean.size)
    for count in range(int(min(least.max(), 400))):
        below += np.where(count < least, term, 0.0)
        term = term * mean / (count + 1)
    tail: Floats = np.clip(1 - below, 0.0, 1.0)
    return tail


def _hollow(asked: Asked, heat_j: Floats, seconds: Floats) -> Floats:
    """α·H·(E/(t_p·h·A))·(1 − e^(−t_p/τ)) [µm]."""
    losses = TOP_W_M2K[asked.coolant] + CHUCK_W_M2K
    tau = RHO_KG_M3 * C_J_KGK * asked.part.height_mm * 1e-3 / losses
    rise = heat_j / (seconds * losses * asked.area * 1e-6) * (1 - np.exp(-seconds / tau))
    hollow: Floats = STEEL_EXPANSION * asked.part.height_mm * rise * 1000
    return hollow


def _roughness(dress: NDArray[np.int64], chip_um: Floats) -> Floats:
    lead = np.array([DIAMOND_MM / DRESSES[name].overlap for name in KINDS])[dress]
    depth = np.array([DRESSES[name].depth_mm for name in KINDS])[dress]
    ra: Floats = FINISH_R1_UM * np.sqrt(lead) * depth**0.25 * (chip_um / HEQ_REFERENCE_UM) ** 0.3
    return ra


def _used(asked: Asked, done: Cutting, size: Floats, hollow: Floats, ra: Floats) -> dict[str, Floats]:
    heat = max(FINISH_HEAT_SHARE - asked.margin, 1e-9)
    return {
        "temperature": done.heat_share / heat, "power": done.power / asked.machine.spindle_w,
        "hold": asked.hold_wanted / np.maximum(done.hold, 1e-12),
        "flatness": hollow / (FLATNESS_SHARE * asked.flatness_um), "finish": ra / asked.ra_um,
        "size": size / (SIZE_SHARE * asked.tolerance),
    }


