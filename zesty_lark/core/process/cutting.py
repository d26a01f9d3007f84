"""Passes one after another: what each takes, how the wheel wears, the worst of each limit.

Each pass is evaluated at what it takes, at its start, middle and end.
"""

import math
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.compiled import compiled, inlined
from zesty_lark.core.holding import CROSS_FORCE_SHARE, WET_FRICTION, pull
from zesty_lark.core.process.evaluate import REHARDENING_C, Condition, Constants, Fluid, fluid_of
from zesty_lark.core.process.kernel import equal_temper, heated, side_flow_table
from zesty_lark.core.process.plan_input import Asked
from zesty_lark.core.wheel.wear import DRESS_SHARE

__all__ = ["Bounds", "Cutting", "Face", "Settings", "cut", "face_of", "follow", "safety"]

Floats = NDArray[np.float64]

G_CHIP_UM = 0.15
G_LEAST, G_MOST = 0.5, 4.0
TEMPER_H = 2.0
THROUGH = (0.0, 0.5, 1.0)
"""Where in a pass it is evaluated: at its start, middle and end."""
SECONDS_AN_HOUR = 3600.0
FORCE_RATIO = 0.4
ROUNDING = 1 - 1e-12
"""What keeps to the greatest force has the hold that is wanted, however it was rounded."""
STEEL = Constants()


class Settings(NamedTuple):
    """Settings, as arrays of one length or as the numbers of one: first and further steps [mm], passes, crossfeed [mm], table
    [mm/s], the edge a dress leaves [mm], its sharpness, and what the springs hold back before the first pass [mm]."""

    first: Any
    step: Any
    passes: Any
    crossfeed: Any
    table: Any
    edge: Any
    sharpness: Any
    left: Any


class Cutting(NamedTuple):
    """What the passes come to, as arrays or as the numbers of one setting: the worst temperature and its limit [°C], share of
    the limit used, power [W], tangential force [N], hold safety, worn share of the face, whether one pass wears over a third,
    what the springs hold back at the end [mm], dresses between passes, the last pass's chip [µm], heat to the work [J] and κ,
    and where it is hottest: depth, edge [mm] and sharpness."""

    temperature: Any
    limit: Any
    heat_share: Any
    power: Any
    tangential: Any
    hold: Any
    worn_share: Any
    over_third: Any
    left: Any
    dresses: Any
    last_chip_um: Any
    last_heat_j: Any
    last_kappa: Any
    hot_depth: Any
    hot_edge: Any
    hot_sharpness: Any


class Bounds(NamedTuple):
    """What a setting must keep to, as arrays or as the numbers of one: the share of the temperature limit, and the dresses
    between passes."""

    heat_share: Any
    dresses: Any


class Face(NamedTuple):
    """What is the same for every setting of a face: mm, rpm, N, °C; ``length`` and ``width`` are what stands on the magnet; and
    the power [W], force [N] and worn share to keep to."""

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
    length: float
    width: float
    height: float
    down_n: float
    most_power: float
    most_tangential: float
    most_worn: float


class Pass(NamedTuple):
    """One pass: its depth [mm], the wear at its start and by it [mm], the metal since the dress and in it [mm³], κ, what the
    springs hold back after it [mm], and the dresses so far."""

    depth: float
    worn: float
    growth: float
    volume: float
    taken: float
    kappa: float
    left: float
    dresses: int


class Worst(NamedTuple):
    """The worst so far: temperature, its limit [°C], their ratio, power [W], force [N]; of the pass seen last its chip [µm] and
    most heat to the work [W]; and the depth, edge [mm] and sharpness where it is hottest."""

    temperature: float
    limit: float
    heat_share: float
    power: float
    tangential: float
    chip_um: float
    into_work_w: float
    depth: float
    edge: float
    sharpness: float


def face_of(asked: Asked, careless: bool) -> Face:
    """Return a question's face; ``careless`` when its settings are followed whatever limit they break."""
    part, wheel, machine, wanted, chuck = asked.part, asked.wheel, asked.machine, asked.hold_wanted, asked.chuck
    length, width = chuck.base_length_mm or part.length_mm, chuck.base_width_mm or part.width_mm
    down = pull(length * width, width, part.height_mm, chuck.pull_n_cm2) + asked.weight_n
    most_tangential = min(WET_FRICTION * down / (wanted - WET_FRICTION / FORCE_RATIO),
                          down * length / 2 / (wanted * part.height_mm),
                          down * width / 2 / (CROSS_FORCE_SHARE * wanted * part.height_mm)) * ROUNDING
    return Face(*(float(each) for each in (
        asked.along, asked.across, asked.area, wheel.diameter_mm, wheel.width_mm, wheel.rpm, asked.g_ratio,
        asked.volume_reference, machine.cut_ratio, part.temper_c, length, width, part.height_mm, down,
        *((math.inf, math.inf, math.inf) if careless else (machine.spindle_w, most_tangential, 1.0)))))


def cut(asked: Asked, settings: Settings, within: Bounds | None = None) -> Cutting:
    """Follow all passes of all settings.

    With ``within`` a setting is no longer followed once it breaks a limit: its figures so far say which.
    """
    size = settings.first.size
    kinds = [bool if name == "over_third" else np.int64 if name == "dresses" else np.float64 for name in Cutting._fields]
    done = Cutting(*(np.zeros(size, kind) for kind in kinds))
    bounds = Bounds(np.full(size, np.inf), np.full(size, np.inf)) if within is None else within
    _follow_all(face_of(asked, within is None), fluid_of(asked.coolant), side_flow_table(), settings, bounds, done)
    return done


@compiled
def _follow_all(face: Face, fluid: Fluid, table: Floats, settings: Settings, within: Bounds, done: Cutting) -> None:
    for i in range(settings.first.size):
        one = follow(face, fluid, table, Bounds(within.heat_share[i], within.dresses[i]), Settings(
            settings.first[i], settings.step[i], settings.passes[i], settings.crossfeed[i], settings.table[i],
            settings.edge[i], settings.sharpness[i], settings.left[i]))
        done.temperature[i], done.limit[i], done.heat_share[i] = one.temperature, one.limit, one.heat_share
        done.power[i], done.tangential[i], done.hold[i] = one.power, one.tangential, one.hold
        done.worn_share[i], done.over_third[i], done.left[i] = one.worn_share, one.over_third, one.left
        done.dresses[i], done.last_chip_um[i] = one.dresses, one.last_chip_um
        done.last_heat_j[i], done.last_kappa[i] = one.last_heat_j, one.last_kappa
        done.hot_depth[i], done.hot_edge[i], done.hot_sharpness[i] = one.hot_depth, one.hot_edge, one.hot_sharpness


@compiled
def follow(face: Face, fluid: Fluid, table: Floats, within: Bounds, setting: Settings) -> Cutting:
    """Follow the passes of one setting until it breaks a limit.

    The wheel's wear is followed first: it costs little, and tells where the wheel is dullest. A setting that breaks a limit
    there, or at the start, need not be followed through every pass.
    """
    worst = Worst(0.0, REHARDENING_C, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0)
    now, dullest, most_worn, over, broken = _fresh(setting), _fresh(setting), 0.0, False, False
    for number in range(setting.passes):
        now = _next(face, setting, now, number)
        dullest = now if now.volume + now.taken >= dullest.volume + dullest.taken else dullest
        most_worn = max(most_worn, (now.worn + now.growth) / face.wheel_width)
        over = over or now.growth > face.wheel_width * DRESS_SHARE
        if number == 0:
            worst = _at(face, fluid, table, setting, now, 0.0, worst)
        broken = _broken(face, worst, within) or most_worn > face.most_worn or now.dresses > within.dresses
        if broken:
            break
    last = now
    if setting.passes > 0 and not broken:
        worst = _at(face, fluid, table, setting, dullest, 1.0, worst)
        now = _fresh(setting)
        for number in range(setting.passes):
            if _broken(face, worst, within):
                break
            now = _next(face, setting, now, number)
            worst = _pass(face, fluid, table, setting, now, worst)
    heat_j = worst.into_work_w * face.along / setting.table * math.ceil(face.across / setting.crossfeed - 1e-9)
    return Cutting(worst.temperature, worst.limit, worst.heat_share, worst.power, worst.tangential,
                   safety(face, worst.tangential), most_worn, over, last.left, last.dresses, worst.chip_um, heat_j, last.kappa,
                   worst.depth, worst.edge, worst.sharpness)


@compiled
def _fresh(setting: Settings) -> Pass:
    return Pass(0.0, 0.0, 0.0, 0.0, 0.0, 0.0, setting.left, 0)


@compiled
def _next(face: Face, setting: Settings, before: Pass, number: int) -> Pass:
    """What a pass takes of its step, and how the wheel wears; it is dressed before a pass that would wear past a third."""
    crossfeed, speed = setting.crossfeed, setting.table
    wipes = max(1, int(face.wheel_width / crossfeed + 1e-9))
    full = before.left + (setting.first if number == 0 else setting.step)
    left = full * (1 - face.cut_ratio) ** wipes
    depth = full - left
    worn, volume, dresses = before.worn + before.growth, before.volume + before.taken, before.dresses
    across = crossfeed * math.ceil(face.across / crossfeed - 1e-9)
    kappa = _kappa(face, depth, crossfeed, speed, setting.edge + worn)
    if worn > 0 and worn + kappa * across > face.wheel_width * DRESS_SHARE:
        worn, volume, dresses = 0.0, 0.0, dresses + 1
        kappa = _kappa(face, depth, crossfeed, speed, setting.edge)
    return Pass(depth, worn, kappa * across, volume, depth * face.area, kappa, left, dresses)


@compiled
def _pass(face: Face, fluid: Fluid, table: Floats, setting: Settings, now: Pass, worst: Worst) -> Worst:
    """Evaluate one pass through its length; return the worst so far."""
    worst = Worst(worst.temperature, worst.limit, worst.heat_share, worst.power, worst.tangential, 0.0, 0.0,
                  worst.depth, worst.edge, worst.sharpness)
    for through in THROUGH:
        worst = _at(face, fluid, table, setting, now, through, worst)
    return worst


@compiled
def _at(face: Face, fluid: Fluid, table: Floats, setting: Settings, now: Pass, through: float, worst: Worst) -> Worst:
    """Evaluate a pass at one place of its length; return the worst so far."""
    edge = setting.edge + now.worn + through * now.growth
    dulled = setting.sharpness * (1 + (now.volume + through * now.taken) / max(setting.crossfeed, edge)
                                  / face.volume_reference)
    meets, takes, heat = heated(Condition(face.wheel_diameter, face.wheel_rpm, setting.table, now.depth, setting.crossfeed,
                                          edge, dulled), fluid, STEEL, table)
    temperature, limit = heat.surface_temperature_c, _limit(face.temper_c, meets.contact_length_mm / setting.table)
    hotter = temperature / limit > worst.heat_share
    return Worst(temperature if hotter else worst.temperature, limit if hotter else worst.limit,
                 temperature / limit if hotter else worst.heat_share, max(takes.power_w, worst.power),
                 max(takes.tangential_n, worst.tangential), meets.equivalent_chip_um if through == 0 else worst.chip_um,
                 max(worst.into_work_w, heat.heat_to_work_fraction * takes.power_w),
                 now.depth if hotter else worst.depth, edge if hotter else worst.edge, dulled if hotter else worst.sharpness)


@inlined
def _broken(face: Face, worst: Worst, within: Bounds) -> bool:
    return (worst.heat_share > within.heat_share or worst.power > face.most_power
            or worst.tangential > face.most_tangential)


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


@compiled
def safety(face: Face, tangential: float) -> float:
    """The hold's safety: the least of slide, tip along and tip across; hardened, ground, no gap, usual poles."""
    force = max(tangential, 1e-12)
    slide = WET_FRICTION * (face.down_n + force / FORCE_RATIO) / force
    tip = face.down_n * face.length / 2 / (force * face.height)
    across = face.down_n * face.width / 2 / (CROSS_FORCE_SHARE * force * face.height)
    return min(slide, min(tip, across))
