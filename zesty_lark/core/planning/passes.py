"""Passes one after another: the worst of each limit. Each is evaluated at what it takes, at its start, middle and end;
every formula is ``core.process``'s own, compiled.
"""

import math

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.planning.cutting import Bounds, Cutting, Face, Pass, Setting, Worn, Worst
from zesty_lark.core.planning.kernel import (
    clamped,
    heated,
    limit_at,
    rise,
    sharpness,
    slide,
    steps_across,
    time_constant,
    tip,
)
from zesty_lark.core.planning.wearing import STEEL, fresh, next_pass
from zesty_lark.core.process.evaluate import Condition, Fluid
from zesty_lark.core.process.holding import CROSS_FORCE_SHARE, WET_FRICTION
from zesty_lark.core.quantities.compiled import compiled, inlined
from zesty_lark.core.wheel.wear import DRESS_SHARE

Floats = NDArray[np.float64]

TEMPER_H = 2.0
"""How long the last temper is taken to have been [h]."""
THROUGH = (0.0, 0.5, 1.0)
"""Where in a pass it is evaluated: at its start, middle and end."""
SECONDS_AN_HOUR = 3600.0


@compiled
def follow(face: Face, fluid: Fluid, table: Floats, within: Bounds, setting: Setting) -> Cutting:
    """Follow the passes of one setting until it breaks a limit."""
    return cut(face, fluid, table, within, setting, wear(face, fluid, table, within, setting, 0))


@compiled
def wear(face: Face, fluid: Fluid, table: Floats, within: Bounds, setting: Setting, looked_at: int) -> Worn:
    """Follow the wheel's wear through the passes of one setting until it breaks a limit: it costs little, and tells
    where the wheel is dullest. The pass that is ``looked_at`` is evaluated as it begins."""
    worst = Worst(0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0)
    now, dullest, most_worn, over, broken = fresh(setting), fresh(setting), 0.0, False, False
    for number in range(setting.passes):
        now = next_pass(face, setting, now, number)
        dullest = now if now.volume + now.taken >= dullest.volume + dullest.taken else dullest
        most_worn = max(most_worn, (now.worn + now.growth) / face.wheel_width)
        over = over or now.growth > face.wheel_width * DRESS_SHARE
        if number == looked_at:
            worst = _at(face, fluid, table, setting, now, 0.0, worst)
        broken = _broken(face, worst, within) or most_worn > face.most_worn or now.dresses > within.dresses
        if broken:
            break
    return Worn(now, dullest, most_worn, over, broken, worst)


@compiled
def cut(face: Face, fluid: Fluid, table: Floats, within: Bounds, setting: Setting, worn: Worn) -> Cutting:
    """Follow what the passes of one setting come to, whose wear was followed, until it breaks a limit. One that does
    where the wheel is dullest need not be followed through every pass."""
    worst, heat_j, last_heat_j, warmer = worn.worst, 0.0, 0.0, 0.0
    if setting.passes > 0 and not worn.broken:
        worst = _at(face, fluid, table, setting, worn.dullest, 1.0, worst)
        now, cooled = fresh(setting), math.exp(-setting.seconds / time_constant(face.thick, face.losses))
        for number in range(setting.passes):
            if _broken(face, worst, within):
                break
            now = next_pass(face, setting, now, number)
            worst = _pass(face, fluid, table, setting, now, worst)
            last_heat_j = heat_of(face, setting, worst)
            heat_j += last_heat_j
            warmer = warmer * cooled + rise(last_heat_j, setting.seconds, face.thick, face.body, face.losses)
    return Cutting(
        worst.temperature,
        worst.limit,
        worst.heat_share,
        worst.power,
        worst.tangential,
        safety(face, worst.tangential),
        worn.most_worn,
        worn.over_third,
        worn.last.left,
        worn.last.dresses,
        worst.chip_um,
        last_heat_j,
        heat_j,
        worn.last.kappa,
        warmer,
        worst.depth,
        worst.edge,
        worst.sharpness,
    )


@compiled
def heat_of(face: Face, setting: Setting, worst: Worst) -> float:
    """The heat that the pass seen last puts into a piece [J]."""
    return worst.into_work_w * face.along / setting.table * steps_across(face.across, setting.crossfeed)  # type: ignore[no-any-return]


@compiled
def last_pass(face: Face, fluid: Fluid, table: Floats, setting: Setting, worn: Worn) -> Worst:
    """What the last pass alone comes to."""
    nothing = Worst(0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0)
    return _pass(face, fluid, table, setting, worn.last, nothing)


@compiled
def begins(face: Face, fluid: Fluid, table: Floats, setting: Setting, step: float) -> float:
    """The share of the temperature limit that a first pass of so much uses as it begins [mm]; infinite where it breaks
    the limit on power or hold then."""
    nothing = Worst(0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0)
    first = Pass(step * (1.0 - setting.kept), 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0)
    worst = _at(face, fluid, table, setting, first, 0.0, nothing)
    return np.inf if _broken(face, worst, Bounds(np.inf, np.inf)) else worst.heat_share


@compiled
def _pass(face: Face, fluid: Fluid, table: Floats, setting: Setting, now: Pass, worst: Worst) -> Worst:
    """Evaluate one pass through its length; return the worst so far."""
    worst = Worst(
        worst.temperature,
        worst.limit,
        worst.heat_share,
        worst.power,
        worst.tangential,
        0.0,
        0.0,
        worst.depth,
        worst.edge,
        worst.sharpness,
    )
    for through in THROUGH:
        worst = _at(face, fluid, table, setting, now, through, worst)
    return worst


@compiled
def _at(face: Face, fluid: Fluid, table: Floats, setting: Setting, now: Pass, through: float, worst: Worst) -> Worst:
    """Evaluate a pass at one place of its length; return the worst so far."""
    edge = setting.edge + now.worn + through * now.growth
    ground = (now.volume + through * now.taken) / max(setting.crossfeed, edge)
    dulled = sharpness(setting.sharpness, ground, face.volume_reference)
    meets, takes, heat = heated(
        Condition(face.wheel_diameter, face.wheel_rpm, setting.table, now.depth, setting.crossfeed, edge, dulled),
        fluid,
        STEEL,
        table,
    )
    temperature = heat.surface_temperature_c
    limit = limit_at(face.temper_c, TEMPER_H, meets.contact_length_mm / setting.table / SECONDS_AN_HOUR)
    hotter = temperature / limit > worst.heat_share
    return Worst(
        temperature if hotter else worst.temperature,
        limit if hotter else worst.limit,
        temperature / limit if hotter else worst.heat_share,
        max(takes.power_w, worst.power),
        max(takes.tangential_n, worst.tangential),
        meets.equivalent_chip_um if through == 0 else worst.chip_um,
        max(worst.into_work_w, heat.heat_to_work_fraction * takes.power_w),
        now.depth if hotter else worst.depth,
        edge if hotter else worst.edge,
        dulled if hotter else worst.sharpness,
    )


@compiled
def _broken(face: Face, worst: Worst, within: Bounds) -> bool:
    return (
        worst.heat_share > within.heat_share
        or worst.power > face.most_power
        or (face.least_hold > 0 and safety(face, worst.tangential) < face.least_hold)
    )


@inlined
def _force(tangential: float) -> float:
    return max(tangential, 1e-12)


@compiled
def safety(face: Face, tangential: float) -> float:
    """The hold's safety: the least of slide, tip along and tip across, and in a fixture of the part in its clamps."""
    force = _force(tangential)
    on_magnet = min(
        slide(face.down_n, force / STEEL.force_ratio, force, WET_FRICTION),
        tip(face.down_n, face.length, force, face.height),
        tip(face.down_n, face.width, CROSS_FORCE_SHARE * force, face.height),
    )
    return min(on_magnet, clamped(1.0, face.grip_n, force, WET_FRICTION))
