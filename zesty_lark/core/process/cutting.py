"""Passes one after another, for many settings: what each takes, how the wheel wears, the worst of each limit.

Each pass is evaluated at what it takes, at its start, middle and end.
"""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.compiled import compiled
from zesty_lark.core.holding import CROSS_FORCE_SHARE, WET_FRICTION, pull
from zesty_lark.core.process.evaluate import REHARDENING_C, Condition, Constants, Fluid, fluid_of
from zesty_lark.core.process.kernel import equal_temper, heated, side_flow_table
from zesty_lark.core.process.plan_input import Asked
from zesty_lark.core.wheel.wear import DRESS_SHARE

__all__ = ["Cutting", "Settings", "cut"]

Floats = NDArray[np.float64]

G_CHIP_UM = 0.15
G_LEAST, G_MOST = 0.5, 4.0
TEMPER_H = 2.0
THROUGH = (0.0, 0.5, 1.0)
"""Where in a pass it is evaluated: at its start, middle and end."""
SECONDS_AN_HOUR = 3600.0
STEEL = Constants()


class Settings(NamedTuple):
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


class Cutting(NamedTuple):
    """What the passes come to, an array each: the worst temperature and its limit [°C], share of the limit used, power
    [W], tangential force [N], hold safety, worn share of the face, whether one pass wears over a third, what the springs
    hold back at the end [mm], dresses between passes, and the last pass's chip [µm], heat to the work [J] and κ."""

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


class Face(NamedTuple):
    """What is the same for every setting of a face; mm, W, N, °C."""

    along: float
    across: float
    area: float
    wheel_diameter: float
    wheel_width: float
    wheel_rpm: float
    g_ratio: float
    volume_reference: float
    cut_ratio: float
    temper_c: float
    most_power: float
    most_tangential: float


def cut(asked: Asked, settings: Settings, heat_most: Floats | None = None) -> Cutting:
    """Follow all passes of all settings.

    With ``heat_most`` (the share of the temperature limit that may be used) a setting is no longer followed once it
    breaks a limit: its figures so far say which.
    """
    size = settings.first.size
    done = Cutting(*(np.zeros(size, kind) for kind in (float, float, float, float, float, float, float, bool, float, np.int64,
                                                       float, float, float)))
    careless = heat_most is None
    face = _face(asked, math.inf if careless else _most_tangential(asked))
    _follow_all(face, fluid_of(asked.coolant), side_flow_table(), settings,
                np.full(size, np.inf) if heat_most is None else heat_most, careless, done)
    done.hold[:] = _hold(asked, done.tangential)
    return done


def _face(asked: Asked, most_tangential: float) -> Face:
    wheel, machine = asked.wheel, asked.machine
    return Face(float(asked.along), float(asked.across), float(asked.area), float(wheel.diameter_mm), float(wheel.width_mm),
                float(wheel.rpm), float(asked.g_ratio), float(asked.volume_reference), float(machine.cut_ratio),
                float(asked.part.temper_c), float(machine.spindle_w), most_tangential)


@compiled
def _follow_all(face: Face, fluid: Fluid, table: Floats, settings: Settings, heat_most: Floats, careless: bool,
                done: Cutting) -> None:
    for i in range(settings.first.size):
        _follow(face, fluid, table, settings, i, heat_most[i], careless, done)


@compiled
def _follow(face: Face, fluid: Fluid, table: Floats, settings: Settings, i: int, heat_most: float, careless: bool,
            done: Cutting) -> None:
    """Follow the passes of setting ``i``, until it breaks a limit unless ``careless``."""
    crossfeed, speed, edge = settings.crossfeed[i], settings.table[i], settings.edge[i]
    keeps = (1 - face.cut_ratio) ** max(1.0, math.floor(face.wheel_width / crossfeed + 1e-9))
    feeding = math.ceil(face.across / crossfeed - 1e-9)
    third = face.wheel_width * DRESS_SHARE
    left, worn, volume = settings.left[i], 0.0, 0.0
    done.limit[i] = REHARDENING_C
    for number in range(settings.passes[i]):
        full = left + (settings.first[i] if number == 0 else settings.step[i])
        left = full * keeps
        depth = full - left
        kappa = _kappa(face, depth, crossfeed, speed, edge + worn)
        growth = kappa * crossfeed * feeding
        if worn > 0 and worn + growth > third:
            worn, volume = 0.0, 0.0
            done.dresses[i] += 1
            kappa = _kappa(face, depth, crossfeed, speed, edge)
            growth = kappa * crossfeed * feeding
        taken = depth * face.area
        energy = _pass(face, fluid, table, settings, i, depth, worn, growth, volume, taken, done)
        worn, volume = worn + growth, volume + taken
        done.worn_share[i] = max(done.worn_share[i], worn / face.wheel_width)
        done.over_third[i] |= growth > third
        done.last_kappa[i] = kappa
        done.last_heat_j[i] = energy * face.along / speed * feeding
        if not careless and (done.heat_share[i] > heat_most or done.power[i] > face.most_power or done.worn_share[i] > 1
                             or done.tangential[i] > face.most_tangential):
            break
    done.left[i] = left


@compiled
def _pass(face: Face, fluid: Fluid, table: Floats, settings: Settings, i: int, depth: float, worn: float, growth: float,
          volume: float, taken: float, done: Cutting) -> float:
    """Evaluate one pass through its length and keep the worst; return the most heat to the work [W]."""
    crossfeed, most = settings.crossfeed[i], 0.0
    for through in THROUGH:
        edge = settings.edge[i] + worn + through * growth
        dulled = settings.sharpness[i] * (1 + (volume + through * taken) / max(crossfeed, edge) / face.volume_reference)
        cut, takes, heat = heated(Condition(face.wheel_diameter, face.wheel_rpm, settings.table[i], depth, crossfeed, edge,
                                            dulled), fluid, STEEL, table)
        limit = _limit(face.temper_c, cut.contact_length_mm / settings.table[i])
        share = heat.surface_temperature_c / limit
        if share > done.heat_share[i]:
            done.temperature[i], done.limit[i], done.heat_share[i] = heat.surface_temperature_c, limit, share
        done.power[i] = max(done.power[i], takes.power_w)
        done.tangential[i] = max(done.tangential[i], takes.tangential_n)
        most = max(most, heat.heat_to_work_fraction * takes.power_w)
        if through == 0:
            done.last_chip_um[i] = cut.equivalent_chip_um
    return most


@compiled
def _kappa(face: Face, depth: float, crossfeed: float, speed: float, edge: float) -> float:
    """κ with the grinding ratio that follows the chip: G·clip((0.15/h_eq)^0.5, 0.5, 4)."""
    wheel_speed = math.pi * face.wheel_diameter * face.wheel_rpm / 60_000
    chip = depth * crossfeed / max(crossfeed, edge) * speed / wheel_speed
    ratio = face.g_ratio * min(max(math.sqrt(G_CHIP_UM / max(chip, 1e-9)), G_LEAST), G_MOST)
    return face.along / (ratio * math.pi * face.wheel_diameter)


@compiled
def _limit(temper_c: float, contact_s: float) -> float:
    """``heat.limit`` for a contact time [s]."""
    return min(equal_temper(temper_c, TEMPER_H, math.log10(contact_s / SECONDS_AN_HOUR)), REHARDENING_C)


def _down(asked: Asked) -> float:
    """What presses the part down [N]: the magnet and its weight; hardened, ground, no gap, usual poles."""
    return pull(asked.area, asked.part.width_mm, asked.part.height_mm, asked.chuck.pull_n_cm2) + asked.weight_n


def _most_tangential(asked: Asked) -> float:
    """The force [N] at which the hold is just as safe as is wanted; less than nothing when it never is."""
    part, wanted, down = asked.part, asked.hold_wanted, _down(asked)
    across = down * part.width_mm / 2 / (CROSS_FORCE_SHARE * wanted * part.height_mm)
    return min(WET_FRICTION * down / (wanted - WET_FRICTION / 0.4), down * part.length_mm / 2 / (wanted * part.height_mm),
               across)


def _hold(asked: Asked, tangential: Floats) -> Floats:
    """The least of slide, tip along and tip across."""
    part, down = asked.part, _down(asked)
    force = np.maximum(tangential, 1e-12)
    slide = WET_FRICTION * (down + force / 0.4) / force
    tip = down * part.length_mm / 2 / (force * part.height_mm)
    across = down * part.width_mm / 2 / (CROSS_FORCE_SHARE * force * part.height_mm)
    least: Floats = np.minimum(np.minimum(slide, tip), across)
    return least
