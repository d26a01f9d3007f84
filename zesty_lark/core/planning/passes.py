"""Passes one after another: what each takes, how the wheel wears, the worst of each limit.

Each pass is evaluated at what it takes, at its start, middle and end. Every formula is ``core.process``'s own,
compiled.
"""

import math
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.planning.kernel import (
    chip_grinding_ratio,
    clamped,
    heated,
    kappa,
    kinematics,
    limit_at,
    rise,
    sharpness,
    slide,
    steps_across,
    still_left,
    time_constant,
    tip,
)
from zesty_lark.core.planning.problem import Problem, magnet_n
from zesty_lark.core.process.evaluate import STANDARD, Condition, Fluid
from zesty_lark.core.process.holding import CROSS_FORCE_SHARE, WET_FRICTION, pull
from zesty_lark.core.process.warmth import losses_of
from zesty_lark.core.quantities.compiled import compiled, inlined
from zesty_lark.core.wheel.wear import DRESS_SHARE

Floats = NDArray[np.float64]

TEMPER_H = 2.0
"""How long the last temper is taken to have been [h]."""
THROUGH = (0.0, 0.5, 1.0)
"""Where in a pass it is evaluated: at its start, middle and end."""
SECONDS_AN_HOUR = 3600.0
STEEL = STANDARD
HUGE_N = 1e15
"""The grip where no clamp has to hold, and the foot that cannot tip."""


class Setting(NamedTuple):
    """One setting: first and further steps [mm], passes, crossfeed [mm], table [mm/s], the edge a dress leaves [mm],
    its sharpness, what the springs hold back before the first pass [mm], the time of a pass [s], and the share of what
    is asked and left that the springs hold back in each."""

    first: Any
    step: Any
    passes: Any
    crossfeed: Any
    table: Any
    edge: Any
    sharpness: Any
    left: Any
    seconds: Any
    kept: Any


class Cutting(NamedTuple):
    """What the passes come to: the worst temperature and its limit [°C], share of the limit used, power [W], tangential
    force [N], hold safety, worn share of the face, whether one pass wears over a third, what the springs hold back at
    the end [mm], dresses between passes, the last pass's chip [µm], heat to the work in it and in all [J] and κ, how
    much warmer the part is after it [K], and where it is hottest: depth, edge [mm] and sharpness."""

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
    heat_j: Any
    last_kappa: Any
    rise: Any
    hot_depth: Any
    hot_edge: Any
    hot_sharpness: Any


class Bounds(NamedTuple):
    """What a setting must keep to: the share of the temperature limit, and the dresses between passes."""

    heat_share: Any
    dresses: Any


class Face(NamedTuple):
    """What is the same for every setting of a face: mm, rpm, N, °C; how many pieces wear the wheel together; the foot
    that stands on the magnet, ``length`` and ``width``, and how high over it the face is; what presses it down and what
    grips it in a fixture; the part's own height, the area of it that takes up the heat and its losses [W/m²K]; and
    power [W], hold and worn share to keep to."""

    along: float
    across: float
    area: float
    pieces: float
    wheel_diameter: float
    wheel_width: float
    wheel_rpm: float
    g_ratio: float
    volume_reference: float
    temper_c: float
    length: float
    width: float
    height: float
    down_n: float
    grip_n: float
    thick: float
    body: float
    losses: float
    most_power: float
    least_hold: float
    most_worn: float


class Pass(NamedTuple):
    """One pass: its depth [mm], the wear at its start and by it [mm], the metal since the dress and in it [mm³], κ,
    what the springs hold back after it [mm], and the dresses so far."""

    depth: float
    worn: float
    growth: float
    volume: float
    taken: float
    kappa: float
    left: float
    dresses: int


class Worn(NamedTuple):
    """How the wheel wears through the passes: the last pass, the one after which it is dullest, the most of the face
    that is worn, whether one pass wears over a third, whether a limit is broken, and the worst that was seen."""

    last: Any
    dullest: Any
    most_worn: float
    over_third: bool
    broken: bool
    worst: Any


class Worst(NamedTuple):
    """The worst so far: temperature, its limit [°C], their ratio, power [W], force [N]; of the pass seen last its chip
    [µm] and most heat to the work [W]; and the depth, edge [mm] and sharpness where it is hottest."""

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


def face_of(problem: Problem, *, bounded: bool) -> Face:
    """Return a problem's face; not ``bounded`` when its settings are followed whatever limit they break."""
    part, wheel, chuck = problem.part, problem.wheel, problem.chuck
    length, width, down, grip = part.length_mm, part.width_mm, problem.weight_n, HUGE_N
    high = part.height_mm if chuck.face_height_mm is None else chuck.face_height_mm
    if chuck.base_length_mm is not None and chuck.base_width_mm is not None:
        length, width = chuck.base_length_mm, chuck.base_width_mm
        down += pull(length * width, min(length, width), high, chuck.pull_n_cm2)
        grip = chuck.clamps * chuck.clamp_n
    else:
        down += magnet_n(part, chuck)
    if problem.held_by_blocks:
        length = width = HUGE_N
    bounds = (problem.spindle_w, problem.hold_wanted, 1.0) if bounded else (math.inf, 0.0, math.inf)
    return Face(
        *(
            float(each)
            for each in (
                problem.along,
                problem.across,
                problem.area,
                problem.load.pieces,
                wheel.diameter_mm,
                wheel.width_mm,
                wheel.rpm,
                problem.g_ratio,
                problem.volume_reference,
                part.temper_c,
                length,
                width,
                high,
                down,
                grip,
                part.height_mm,
                problem.body,
                losses_of(part.height_mm, problem.coolant),
                *bounds,
            )
        )
    )


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
def least_dresses(face: Face, setting: Setting) -> float:
    """A number of dresses between passes that no run of a setting does without; its first step is its smallest.

    Each pass takes at least what the springs let through of its own step, on an edge worn by a third of the face at
    most: that wears it least. From dress to dress no more than a third is worn, or there is one pass.
    """
    if setting.passes == 0:
        return 0.0
    third = face.wheel_width * DRESS_SHARE
    across, worn = setting.crossfeed * steps_across(face.across, setting.crossfeed), setting.edge + third
    taken = 1.0 - setting.kept
    first = min(wear_of(face, setting, setting.first * taken, setting.edge) * across, third)
    further = min(wear_of(face, setting, setting.step * taken, worn) * across, third)
    return float(math.ceil((first + (setting.passes - 1) * further) / third - 1e-9) - 1)


@compiled
def fresh(setting: Setting) -> Pass:
    """The state before a first pass: nothing ground, what is left as the setting says."""
    return Pass(0.0, 0.0, 0.0, 0.0, 0.0, 0.0, setting.left, 0)


@compiled
def next_pass(face: Face, setting: Setting, before: Pass, number: int) -> Pass:
    """What a pass takes of its step, and how the wheel wears; it is dressed before a pass that would wear past a
    third."""
    step = setting.first if number == 0 else setting.step
    left = still_left(before.left, step, setting.kept)
    depth = before.left + step - left
    worn, volume, dresses = before.worn + before.growth, before.volume + before.taken, before.dresses
    across = setting.crossfeed * steps_across(face.across, setting.crossfeed)
    k = wear_of(face, setting, depth, setting.edge + worn)
    if worn > 0 and worn + k * across > face.wheel_width * DRESS_SHARE:
        worn, volume, dresses = 0.0, 0.0, dresses + 1
        k = wear_of(face, setting, depth, setting.edge)
    return Pass(depth, worn, k * across, volume, depth * face.area * face.pieces, k, left, dresses)


@compiled
def wear_of(face: Face, setting: Setting, depth: float, edge: float) -> float:
    """κ of a pass over the load, with the grinding ratio that follows its chip."""
    meets = kinematics(
        Condition(
            face.wheel_diameter, face.wheel_rpm, setting.table, depth, setting.crossfeed, edge, setting.sharpness
        ),
        STEEL,
    )
    return kappa(
        face.along * face.pieces, chip_grinding_ratio(face.g_ratio, meets.equivalent_chip_um), face.wheel_diameter
    )


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
