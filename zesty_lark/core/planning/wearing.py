"""How the wheel wears from pass to pass, what each takes of its step, and the dresses that it needs."""

import math

from zesty_lark.core.planning.cutting import Face, Pass, Setting
from zesty_lark.core.planning.kernel import chip_grinding_ratio, kappa, kinematics, steps_across, still_left
from zesty_lark.core.process.evaluate import STANDARD, Condition
from zesty_lark.core.quantities.compiled import compiled
from zesty_lark.core.wheel.wear import DRESS_SHARE

STEEL = STANDARD


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
