"""Roughing and finish put together into plans: the quickest in a space of settings, or the one at given settings."""

import math
from dataclasses import dataclass
from typing import Literal

from zesty_lark.core.planning.cutting import Bounds, Cutting, face_of
from zesty_lark.core.planning.finish import COOL_FLAT_C, SIZE_SHARE, Finish, FinishKind, cool_c
from zesty_lark.core.planning.finishes import best_finish
from zesty_lark.core.planning.kernel import side_flow_table
from zesty_lark.core.planning.means import DressKind, WheelIn
from zesty_lark.core.planning.passes import follow
from zesty_lark.core.planning.problem import Problem
from zesty_lark.core.planning.rough import (
    Level,
    Quickest,
    Rough,
    Space,
    finish_wanted,
    most_left,
    quickest,
    rough_heat,
    split,
)
from zesty_lark.core.planning.rough_search import LEFT_STEP_MM, rough_spark_outs
from zesty_lark.core.planning.size_lost import rough_lost
from zesty_lark.core.process.evaluate import fluid_of
from zesty_lark.core.process.warmth import (
    CHUCK_W_M2K,
    TOP_W_M2K,
    cooling_s,
    losses_of,
    rise,
    swelling_um,
    time_constant,
)
from zesty_lark.core.quantities.units import UM_A_MM

Binding = Literal["temperature", "power", "hold", "wear", "flatness", "finish", "size", "swelling", "none"]
BINDINGS: tuple[Binding, ...] = ("temperature", "power", "hold", "wear", "flatness", "finish", "size", "swelling")

FINISH_MOST_MM = 0.0051
"""The largest step of a finish; on a coarser dial it is one graduation [mm]."""
SLACK_MM = 1e-9
BINDING_FROM = 0.9
DEEP = "Deeper than this machine’s largest downfeed a pass: this method lives on depth."
OVER_A_THIRD = "One roughing pass alone wears more than a third of the wheel’s face: dress after each."
COARSE = "This dial’s graduation is coarser than a finish step should be: measure sooner, and spark out longer."
TOO_DEEP = "Deeper than this machine’s largest downfeed a pass."


@dataclass(frozen=True)
class Plan:
    """A whole plan of a face, and how it stands against every limit.

    ``downfeed_graduations``, ``first_graduations``, ``finish_graduations`` and ``finish_first_graduations`` are the
    steps as whole graduations of the dial: further roughing passes, the first one, further finish passes, the first
    one. ``hollow_um`` is the heat map's with ``crown_um``, the crown that the magnet does not hold down.
    ``size_lost_um`` counts the wear of every pass; where ``measure_stop`` is asked for before the finish,
    ``lost_after_stop_um`` is what is lost after it, and what the limit on size counts. ``rise_c`` is how much warmer
    the part is at the last pass that feeds, ``swelling_um`` how much larger; ``wait_s`` how long the coolant runs
    before the finish dress until it has swollen by a tenth of the zone; ``warmth_c`` how warm it gets over the whole
    plan. ``finish_takes_mm`` is what the finish feeds in all, ``finish_wanted_mm`` what it has to after its roughing.
    """

    downfeed_mm: float
    crossfeed_mm: float
    table_mm_s: float
    rough_dress: DressKind
    leading_chamfer_mm: float
    passes: int
    strokes: int
    minutes: float
    dresses: int
    spark_outs: int
    peak_temperature_c: float
    temperature_limit_c: float
    temperature_margin: float
    power_w: float
    hold_safety: float
    worn_share: float
    worn_a_pass_mm: float
    hollow_um: float
    crown_um: float
    size_lost_um: float
    lost_after_stop_um: float
    measure_stop: bool
    left_um: float
    ra_um: float
    warmth_c: float
    rise_c: float
    swelling_um: float
    wait_s: float
    finish_passes: int
    finish_step_mm: float
    finish_crossfeed_mm: float
    finish_table_mm_s: float
    finish_dress: DressKind
    finish_spark_outs: int
    finish_minutes: float
    finish_takes_mm: float
    finish_wanted_mm: float
    finish_energy_j_mm: float
    finish_chip_um: float
    hottest_depth_mm: float
    hottest_edge_mm: float
    hottest_sharpness: float
    hottest_crossfeed_mm: float
    hottest_table_mm_s: float
    downfeed_graduations: int
    first_graduations: int
    finish_graduations: int
    finish_first_graduations: int
    within_limits: bool
    binding: Binding
    used: dict[str, float]
    caution: str

    @property
    def rough_passes(self) -> int:
        """Passes before the finish."""
        return self.passes - self.finish_passes

    @property
    def rough_steps(self) -> tuple[int, ...]:
        """The roughing passes in graduations, in their order."""
        return (
            (self.first_graduations, *[self.downfeed_graduations] * (self.rough_passes - 1))
            if self.rough_passes
            else ()
        )

    @property
    def finish_steps(self) -> tuple[int, ...]:
        """The finish passes in graduations."""
        return (self.finish_first_graduations, *[self.finish_graduations] * (self.finish_passes - 1))

    def over(self, what: str) -> bool:
        """Whether a limit is broken; that on the finish is of its roughness, and of the ``marks`` that roughing leaves
        and it takes off."""
        marks = self.finish_takes_mm < self.finish_wanted_mm - SLACK_MM
        if what == "marks":
            return marks
        return self.used[what] > 1 and not (what == "finish" and marks)

    def near_limit(self, margin: float, power_share: float, spindle_w: float) -> bool:
        """Whether heat or power is nearer to its limit than a reserve asks."""
        return self.temperature_margin < margin - 1e-9 or self.power_w > spindle_w * power_share * (1 + 1e-9)


def every_finish(problem: Problem) -> list[FinishKind]:
    """Every number of finish passes from 1 on, at every step up to 5.1 µm."""
    most = max(1, math.floor(FINISH_MOST_MM / problem.graduation + 1e-9))
    return [
        FinishKind(passes, step)
        for step in range(min(most, problem.graduations), 0, -1)
        for passes in range(1, problem.graduations // step + 1)
    ]


def usual_finish(problem: Problem) -> FinishKind:
    """One pass at the largest step of a finish."""
    most = max(1, math.floor(FINISH_MOST_MM / problem.graduation + 1e-9))
    return FinishKind(1, min(most, problem.graduations))


def best_plan(problem: Problem, space: Space) -> Plan | None:
    """Return the quickest plan in a space within every limit, or ``None``; the same question has the same answer."""
    found = quickest(problem, space, [Level(1 - problem.temperature_margin)])[0]
    return None if found is None else plan_of(problem, found, deep=is_deep(problem, space))


def is_deep(problem: Problem, space: Space) -> bool:
    """Whether a space goes over the machine's largest downfeed a pass."""
    return space.most_downfeed > problem.most_graduations


def plan_of(problem: Problem, found: Quickest, *, deep: bool) -> Plan:
    """Return the whole plan of what was found."""
    return _whole(problem, found.rough, found.kind, deep=deep)


def plan_at(
    problem: Problem,
    dress: DressKind,
    downfeed: int,
    crossfeed: float,
    *,
    table: float,
    chamfer: float,
    kind: FinishKind,
    deep: bool = False,
) -> Plan:
    """Work out one plan at given settings, whatever limits it breaks; downfeed in graduations.

    ``deep``: its method may go over the machine's largest downfeed a pass.
    """
    passes, first, step = split(problem.graduations - kind.total, downfeed)
    return _whole(problem, Rough(passes, first, step, crossfeed, table, chamfer, dress), kind, deep=deep)


def fewest_finish(
    problem: Problem, dress: DressKind, downfeed: int, crossfeed: float, *, table: float, chamfer: float, step: int
) -> FinishKind:
    """Return the fewest finish passes of a step that take off the marks of a roughing at given settings, and what its
    dress may be out by; as many as there is stock for where none do. Downfeed and step in graduations."""
    face, fluid, table_of = face_of(problem, bounded=False), fluid_of(problem.coolant), side_flow_table()
    most = max(1, problem.graduations // step)
    for passes in range(1, most + 1):
        kind = FinishKind(passes, step)
        rough = Rough(*split(problem.graduations - kind.total, downfeed), crossfeed, table, chamfer, dress)
        done = follow(face, fluid, table_of, Bounds(math.inf, math.inf), rough.setting(problem))
        if finish_wanted(problem, rough, done.last_chip_um) <= kind.total * problem.graduation + SLACK_MM:
            return kind
    return FinishKind(most, step)


def _whole(problem: Problem, rough: Rough, kind: FinishKind, *, deep: bool) -> Plan:
    """Put a roughing and its finish together."""
    face, setting = face_of(problem, bounded=False), rough.setting(problem)
    done = follow(face, fluid_of(problem.coolant), side_flow_table(), Bounds(math.inf, math.inf), setting)
    spark_outs, left = rough_spark_outs(done.left, setting.kept, rough.passes, most_left(problem, kind))
    finish = best_finish(problem, kind, math.ceil(left / LEFT_STEP_MM - 1e-6) * LEFT_STEP_MM)
    return _described(problem, rough, done, finish, spark_outs=int(spark_outs), deep=deep)


def _used(
    problem: Problem, rough: Rough, done: Cutting, finish: Finish, *, size_um: float, deep: bool
) -> dict[str, float]:
    """The share that roughing or finish uses of each limit, the larger."""
    last = dict(finish.used) | {"size": size_um / (SIZE_SHARE * problem.tolerance * UM_A_MM)}
    step = finish.kind.step * problem.graduation
    most = max(FINISH_MOST_MM, problem.graduation)
    if step > most + SLACK_MM and not (deep and rough.passes <= 1):
        last["finish"] = max(last["finish"], step / most)
    first = (
        {
            "temperature": done.heat_share / rough_heat(problem, finish.kind, 1 - problem.temperature_margin),
            "power": done.power / problem.spindle_w,
            "hold": problem.hold_wanted / max(done.hold, 1e-12),
            "wear": done.worn_share if done.over_third else done.worn_share * 3,
            "finish": finish_wanted(problem, rough, done.last_chip_um) / (finish.kind.total * problem.graduation),
        }
        if rough.passes
        else {}
    )
    used: dict[str, float] = {name: max(first.get(name, 0.0), last.get(name, 0.0)) for name in BINDINGS}
    if rough.step > problem.most_graduations and not deep:
        used["downfeed"] = rough.step / problem.most_graduations
    return used


def _described(problem: Problem, rough: Rough, done: Cutting, finish: Finish, *, spark_outs: int, deep: bool) -> Plan:
    passes, crossfeed, table, g = rough.passes, rough.crossfeed, rough.table, problem.graduation
    strokes = (passes + spark_outs) * problem.strokes(crossfeed)
    dresses = (1 if passes else 0) + int(done.dresses) + 1
    lost = _lost(problem, rough, finish)
    used = _used(problem, rough, done, finish, size_um=finish.left_um + lost.after_stop_um, deep=deep)
    worst = max(BINDINGS, key=lambda name: used[name])
    in_roughing = bool(passes) and done.heat_share >= finish.temperature / finish.limit
    place = (done.hot_depth, done.hot_edge, done.hot_sharpness) if in_roughing else finish.hottest
    grinding = strokes * (problem.stroke / table + problem.machine.reversal_s) / 60 + finish.minutes
    over = rough.step > problem.most_graduations
    caution = " ".join(
        words
        for words, said in (
            (DEEP, over and deep),
            (TOO_DEEP, over and not deep),
            (OVER_A_THIRD, bool(done.over_third)),
            (COARSE, g > FINISH_MOST_MM),
        )
        if said
    )
    return Plan(
        downfeed_mm=round(rough.step * g, 9),
        crossfeed_mm=crossfeed,
        table_mm_s=table,
        rough_dress=rough.dress,
        leading_chamfer_mm=rough.chamfer,
        passes=passes + finish.kind.passes,
        strokes=strokes + finish.strokes,
        minutes=grinding + dresses * problem.dress_minutes,
        dresses=dresses,
        spark_outs=spark_outs,
        peak_temperature_c=done.temperature if in_roughing else finish.temperature,
        temperature_limit_c=done.limit if in_roughing else finish.limit,
        temperature_margin=1 - max(done.heat_share if passes else 0.0, finish.temperature / finish.limit),
        power_w=max(done.power, finish.power),
        hold_safety=min(done.hold, finish.hold) if passes else finish.hold,
        worn_share=done.worn_share,
        worn_a_pass_mm=_worn_by_one(problem, done.last_kappa, crossfeed) if passes else 0.0,
        hollow_um=finish.hollow_um,
        crown_um=finish.crown_um,
        size_lost_um=lost.in_all_um,
        lost_after_stop_um=lost.after_stop_um,
        measure_stop=lost.measure_stop,
        left_um=finish.left_um,
        ra_um=finish.ra_um,
        warmth_c=_warmth(problem, done.heat_j + finish.heat_j, grinding),
        rise_c=finish.swelling_um / swelling_um(problem.part.height_mm, 1.0),
        swelling_um=finish.swelling_um,
        wait_s=_wait_s(problem, done.rise, spark_outs * rough.setting(problem).seconds, finish.crown_um),
        finish_passes=finish.kind.passes,
        finish_step_mm=round(finish.kind.step * g, 9),
        finish_crossfeed_mm=finish.crossfeed,
        finish_table_mm_s=finish.table,
        finish_dress=finish.dress,
        finish_spark_outs=finish.spark_outs,
        finish_minutes=finish.minutes,
        finish_takes_mm=round(finish.kind.total * g, 9),
        finish_wanted_mm=finish_wanted(problem, rough, done.last_chip_um),
        finish_energy_j_mm=finish.energy_j_mm,
        finish_chip_um=finish.last_chip_um,
        hottest_depth_mm=place[0],
        hottest_edge_mm=place[1],
        hottest_sharpness=place[2],
        hottest_crossfeed_mm=crossfeed if in_roughing else finish.crossfeed,
        hottest_table_mm_s=table if in_roughing else finish.table,
        downfeed_graduations=rough.step,
        first_graduations=rough.first,
        finish_graduations=finish.kind.step,
        finish_first_graduations=finish.kind.first,
        within_limits=max(used.values()) <= 1,
        binding=worst if used[worst] >= BINDING_FROM else "none",
        used=used,
        caution=caution,
    )


@dataclass(frozen=True)
class _Lost:
    """Size lost by wear over every pass and after the last stop to measure [µm], and whether a stop is demanded."""

    in_all_um: float
    after_stop_um: float
    measure_stop: bool


def _lost(problem: Problem, rough: Rough, finish: Finish) -> _Lost:
    before = float(rough_lost(face_of(problem, bounded=False), rough.setting(problem))) * UM_A_MM
    in_all = before + finish.size_lost_um
    short = rough.passes > 0 and in_all + finish.left_um > SIZE_SHARE * problem.tolerance * UM_A_MM
    return _Lost(in_all, finish.size_lost_um if short else in_all, short)


def _wait_s(problem: Problem, rise_c: float, spark_out_s: float, crown_um: float) -> float:
    """How long the coolant runs before the finish dress [s]: until roughing's swelling is under a tenth of the zone,
    and where a crown is not held down, until the part is cool for its flatness, too."""
    height = problem.part.height_mm
    tau = time_constant(height, losses_of(height, problem.coolant))
    cool = min(cool_c(problem), COOL_FLAT_C) if crown_um > 0 else cool_c(problem)
    return cooling_s(rise_c * math.exp(-spark_out_s / tau), cool, tau)


def _worn_by_one(problem: Problem, load_kappa: float, crossfeed: float) -> float:
    """How far a pass over one piece of the load walks the wheel's front [mm]."""
    return load_kappa / problem.load.pieces * crossfeed * problem.feeding(crossfeed)


def _warmth(problem: Problem, heat_j: float, minutes: float) -> float:
    """How warm the part gets over the whole plan [K]."""
    losses = TOP_W_M2K[problem.coolant] + CHUCK_W_M2K
    return rise(heat_j, minutes * 60, problem.part.height_mm, problem.part.body_mm2 or problem.area, losses)


def tangential_n(plan: Plan, wheel: WheelIn) -> float:
    """Return the largest force with which any pass of a plan pushes the part along the travel [N].

    Notes
    -----
    F_t = P/v_s with the largest power of any pass, v_s = π·d·n/60000.
    """
    return plan.power_w / (math.pi * wheel.diameter_mm * wheel.rpm / 60_000)
