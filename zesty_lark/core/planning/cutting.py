"""What passes are followed with and come to, as compiled code takes it: settings, the face, passes, the worst."""

import math
from typing import Any, NamedTuple

from zesty_lark.core.planning.problem import Problem, magnet_n
from zesty_lark.core.process.holding import pull
from zesty_lark.core.process.warmth import losses_of

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
