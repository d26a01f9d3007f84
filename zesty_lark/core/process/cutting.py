"""Passes one after another, for many settings at once: what each takes, how the wheel wears, the worst of each limit.

Each pass is evaluated at what it takes, at its start, middle and end.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.holding import CROSS_FORCE_SHARE, WET_FRICTION, pull
from zesty_lark.core.process.evaluate import REHARDENING_C, Condition, equal_temper
from zesty_lark.core.process.evaluate_arrays import Evaluations, evaluate_block
from zesty_lark.core.process.plan_input import Asked
from zesty_lark.core.wheel.wear import DRESS_SHARE

__all__ = ["Cutting", "Settings", "cut"]

Floats = NDArray[np.float64]

G_CHIP_UM = 0.15
G_LEAST, G_MOST = 0.5, 4.0
TEMPER_H = 2.0
THROUGH = np.array([[0.0], [0.5], [1.0]])
"""Where in a pass it is evaluated: at its start, middle and end."""
SECONDS_AN_HOUR = 3600.0


@dataclass(frozen=True)
class Settings:
    """Settings as arrays of one length: first and further steps [mm], passes, crossfeed [mm], table [mm/s], the edge a
    dress leaves [mm], its sharpness, and what the springs hold back before the first pass [mm]."""

    first: Floats
    step: Floats
    passes: NDArray[np.int64]
    crossfeed: Floats
    table: Floats
    edge: Floats
    sharpness: Floats
    left: Floats


@dataclass
class Cutting:
    """What the passes come to, an array each: the worst temperature and its limit [°C], power [W], hold safety, worn
    share, what the springs hold back at the end [mm], dresses between passes, and the last pass's chip [µm], heat to the
    work [J], κ and share of the limit used."""

    temperature: Floats
    limit: Floats
    heat_share: Floats
    power: Floats
    tangential: Floats
    hold: Floats
    worn_share: Floats
    over_third: NDArray[np.bool_]
    left: Floats
    dresses: NDArray[np.int64]
    last_chip_um: Floats
    last_heat_j: Floats
    last_kappa: Floats


def cut(asked: Asked, settings: Settings, heat_most: Floats | None = None) -> Cutting:
    """Follow all passes of all settings.

    With ``heat_most`` (the share of the temperature limit that may be used) a setting is no longer followed once it
    breaks a limit: its figures so far say which.
    """
    size = settings.first.size
    zero = np.zeros(size)
    done = Cutting(zero.copy(), np.full(size, REHARDENING_C), zero.copy(), zero.copy(), zero.copy(),
                   np.full(size, np.inf), zero.copy(), np.zeros(size, bool), settings.left.copy(),
                   np.zeros(size, np.int64), zero.copy(), zero.copy(), zero.copy())
    worn, volume = zero.copy(), zero.copy()
    wipes = np.maximum(1, np.floor(asked.wheel.width_mm / settings.crossfeed + 1e-9))
    takes = 1 - (1 - asked.machine.cut_ratio) ** wipes
    feeding = np.ceil(asked.across / settings.crossfeed - 1e-9)
    active = np.flatnonzero(settings.passes > 0)
    for number in range(int(settings.passes.max(initial=0))):
        active = active[settings.passes[active] > number]
        if heat_most is not None and number:
            active = active[_within(asked, done, active, heat_most)]
        if not active.size:
            break
        _one_pass(asked, settings, done, active, number, worn, volume, takes, feeding)
    done.hold[:] = _hold(asked, done.tangential)
    return done


def _within(asked: Asked, done: Cutting, at: NDArray[np.intp], heat_most: Floats) -> NDArray[np.bool_]:
    """Which settings have kept within heat, power, hold and the whole face so far."""
    return ((done.heat_share[at] <= heat_most[at]) & (done.power[at] <= asked.machine.spindle_w)
            & (done.worn_share[at] <= 1) & (_hold(asked, done.tangential[at]) >= asked.hold_wanted))


def _one_pass(asked: Asked, settings: Settings, done: Cutting, at: NDArray[np.intp], number: int, worn: Floats,
              volume: Floats, takes: Floats, feeding: Floats) -> None:
    step = settings.first[at] if number == 0 else settings.step[at]
    full = done.left[at] + step
    depth = takes[at] * full
    done.left[at] = full - depth
    crossfeed, table, edge = settings.crossfeed[at], settings.table[at], settings.edge[at]
    third = asked.wheel.width_mm * DRESS_SHARE
    kappa = _kappa(asked, depth, crossfeed, table, edge + worn[at])
    growth = kappa * crossfeed * feeding[at]
    dress = (worn[at] > 0) & (worn[at] + growth > third)
    if dress.any():
        worn[at[dress]], volume[at[dress]] = 0.0, 0.0
        done.dresses[at[dress]] += 1
        fresh = _kappa(asked, depth, crossfeed, table, edge)
        kappa = np.where(dress, fresh, kappa)
        growth = np.where(dress, fresh * crossfeed * feeding[at], growth)
    taken = depth * asked.area
    start, used = worn[at], volume[at]
    seen = _evaluate(asked, settings, at, depth, start + THROUGH * growth, used + THROUGH * taken)
    worn[at], volume[at] = start + growth, used + taken
    _keep_worst(asked, done, at, seen, table)
    done.worn_share[at] = np.maximum(done.worn_share[at], worn[at] / asked.wheel.width_mm)
    done.over_third[at] |= growth > third
    done.last_chip_um[at], done.last_kappa[at] = seen.equivalent_chip_um[0], kappa
    energy = (seen.heat_to_work_fraction * seen.power_w).max(axis=0)
    done.last_heat_j[at] = energy * asked.along / table * feeding[at]


def _kappa(asked: Asked, depth: Floats, crossfeed: Floats, table: Floats, edge: Floats) -> Floats:
    """κ with the grinding ratio that follows the chip: G·clip((0.15/h_eq)^0.5, 0.5, 4)."""
    wheel_speed = np.pi * asked.wheel.diameter_mm * asked.wheel.rpm / 60_000
    chip = depth * crossfeed / np.maximum(crossfeed, edge) * table / wheel_speed
    ratio = asked.g_ratio * np.clip(np.sqrt(G_CHIP_UM / np.maximum(chip, 1e-9)), G_LEAST, G_MOST)
    kappa: Floats = asked.along / (ratio * np.pi * asked.wheel.diameter_mm)
    return kappa


def _evaluate(asked: Asked, settings: Settings, at: NDArray[np.intp], depth: Floats, worn: Floats,
              volume: Floats) -> Evaluations:
    edge = settings.edge[at] + worn
    crossfeed = settings.crossfeed[at]
    dulled = settings.sharpness[at] * (1 + volume / np.maximum(crossfeed, edge) / asked.volume_reference)
    return evaluate_block(Condition(asked.wheel.diameter_mm, asked.wheel.rpm, settings.table[at], depth, crossfeed, edge,
                                   dulled), asked.coolant)


def _keep_worst(asked: Asked, done: Cutting, at: NDArray[np.intp], seen: Evaluations, table: Floats) -> None:
    limit = _limit(asked.part.temper_c, seen.contact_length_mm / table)
    share = seen.surface_temperature_c / limit
    row = share.argmax(axis=0)
    column = np.arange(at.size)
    worst = share[row, column]
    worse = worst > done.heat_share[at]
    there = at[worse]
    done.temperature[there] = seen.surface_temperature_c[row, column][worse]
    done.limit[there] = limit[row, column][worse]
    done.heat_share[there] = worst[worse]
    done.power[at] = np.maximum(seen.power_w.max(axis=0), done.power[at])
    done.tangential[at] = np.maximum(seen.tangential_n.max(axis=0), done.tangential[at])


def _limit(temper_c: float, contact_s: Floats) -> Floats:
    """``heat.limit`` for arrays of contact times [s]."""
    limit: Floats = np.minimum(equal_temper(temper_c, TEMPER_H, np.log10(contact_s / SECONDS_AN_HOUR)), REHARDENING_C)
    return limit


def _hold(asked: Asked, tangential: Floats) -> Floats:
    """The least of slide, tip along and tip across; hardened, ground, no gap, usual poles."""
    part = asked.part
    down = pull(asked.area, part.width_mm, part.height_mm, asked.chuck.pull_n_cm2) + asked.weight_n
    force = np.maximum(tangential, 1e-12)
    slide = WET_FRICTION * (down + force / 0.4) / force
    tip = down * part.length_mm / 2 / (force * part.height_mm)
    across = down * part.width_mm / 2 / (CROSS_FORCE_SHARE * force * part.height_mm)
    least: Floats = np.minimum(np.minimum(slide, tip), across)
    return least
