"""Roughing and finish put together into plans: the quickest in a space of settings, or the one at given settings."""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from zesty_lark.core.process.cutting import Cutting, Settings, cut, face_of
from zesty_lark.core.process.finishing import FINISH_HEAT_SHARE, Finish, FinishKind, best_finish
from zesty_lark.core.process.plan_input import Asked, DressKind
from zesty_lark.core.process.roughing import COVERING_MM, LEFT_STEP_MM, Space, most_left, quickest, rough_blanks, rough_heat
from zesty_lark.core.wheel.dressing import DRESSES

__all__ = ["Binding", "Plan", "best_plan", "finish_kinds", "plan_at"]

Binding = Literal["temperature", "power", "hold", "wear", "flatness", "finish", "size", "none"]
BINDINGS: tuple[Binding, ...] = ("temperature", "power", "hold", "wear", "flatness", "finish", "size")

FINISH_MOST_MM = 0.0051
BINDING_FROM = 0.9


@dataclass(frozen=True)
class Plan:
    """A whole plan of a face, and how it stands against every limit."""

    downfeed_mm: float
    crossfeed_mm: float
    table_mm_s: float
    rough_dress: DressKind
    leading_chamfer_mm: float
    passes: int
    strokes: int
    minutes: float
    dresses: int
    blanks: int
    peak_temperature_c: float
    temperature_limit_c: float
    temperature_margin: float
    power_w: float
    hold_safety: float
    worn_share: float
    worn_a_pass_mm: float
    hollow_um: float
    size_lost_um: float
    left_um: float
    ra_um: float
    finish_passes: int
    finish_step_mm: float
    finish_crossfeed_mm: float
    finish_table_mm_s: float
    finish_dress: DressKind
    finish_blanks: int
    finish_energy_j_mm: float
    hottest_depth_mm: float
    hottest_edge_mm: float
    hottest_sharpness: float
    hottest_crossfeed_mm: float
    hottest_table_mm_s: float
    within_limits: bool
    binding: Binding
    used: dict[str, float]
    caution: str

    @property
    def rough_passes(self) -> int:
        """Passes before the finish."""
        return self.passes - self.finish_passes

    def graduations(self, asked: Asked) -> tuple[int, int]:
        """Downfeed (at least one) and crossfeed in the machine's graduations."""
        return (max(1, round(self.downfeed_mm / asked.graduation)),
                round(self.crossfeed_mm / float(asked.machine.crossfeed_graduation_mm)))


def finish_kinds(asked: Asked) -> list[FinishKind]:
    """The usual finishes, at the largest step up to 5.1 µm: one pass, or as many as cover 25 µm."""
    most = max(1, math.floor(FINISH_MOST_MM / asked.graduation + 1e-9))
    kinds = []
    for step in range(1, most + 1):
        cover = math.ceil(COVERING_MM / (step * asked.graduation) - 1e-9)
        kinds += [FinishKind(passes, step) for passes in (1, cover) if passes * step <= asked.graduations]
    best = [kind for kind in kinds if kind.step == min(most, asked.graduations)]
    return list(dict.fromkeys(best)) or [FinishKind(asked.graduations, 1)]


def best_plan(asked: Asked, space: Space, quicker_than: float = math.inf) -> Plan | None:
    """Return the quickest plan in a space within every limit, or ``None``; the same question has the same answer.

    Only plans that take less than ``quicker_than`` [min] are looked for.
    """
    found = quickest(asked, space, quicker_than)
    if found is None:
        return None
    settings, kind, chamfer = found
    return _whole(asked, space.dress, settings, kind, chamfer)


def plan_at(asked: Asked, dress: DressKind, downfeed: int, crossfeed: float, table: float, chamfer: float,
            kind: FinishKind) -> Plan:
    """Work out one plan at given settings, whatever limits it breaks; downfeed in graduations."""
    rough = asked.graduations - kind.passes * kind.step
    step = max(1, min(downfeed, rough)) if rough > 0 else 0
    passes = -(-rough // step) if step else 0
    first = rough - step * (passes - 1) if passes else 0
    settings = Settings(*(np.array([each]) for each in (
        first * asked.graduation, step * asked.graduation, passes, crossfeed, table, chamfer if chamfer > 0 else asked.grain,
        DRESSES[dress].sharpness, 0.0)))
    return _whole(asked, dress, settings, kind, chamfer)


def _whole(asked: Asked, dress: DressKind, settings: Settings, kind: FinishKind, chamfer: float) -> Plan:
    """Put a roughing and its finish together."""
    rough = Cutting(*(each[0].item() for each in cut(asked, settings)))
    setting = Settings(*(each[0].item() for each in settings))
    blanks, left = rough_blanks(face_of(asked, careless=True), setting.crossfeed, rough.left, setting.passes,
                                most_left(asked, kind))
    finish = best_finish(asked, kind, math.ceil(left / LEFT_STEP_MM - 1e-6) * LEFT_STEP_MM)
    return _described(asked, dress, setting, chamfer, rough, finish, blanks)


def _used(asked: Asked, rough: Cutting, finish: Finish, passes: int) -> dict[Binding, float]:
    """The share that roughing or finish uses of each limit, the larger."""
    last = dict(finish.used)
    first = {
        "temperature": rough.heat_share / rough_heat(asked, finish.kind), "power": rough.power / asked.machine.spindle_w,
        "hold": asked.hold_wanted / max(rough.hold, 1e-12),
        "wear": rough.worn_share if rough.over_third else rough.worn_share * 3,
    } if passes else {}
    return {name: max(first.get(name, 0.0), last.get(name, 0.0)) for name in BINDINGS}


def _described(asked: Asked, dress: DressKind, setting: Settings, chamfer: float, rough: Cutting, finish: Finish,
               blanks: int) -> Plan:
    passes, crossfeed, table = setting.passes, setting.crossfeed, setting.table
    strokes = (passes + blanks) * asked.strokes(crossfeed)
    dresses = (1 if passes else 0) + rough.dresses + 1
    used = _used(asked, rough, finish, passes)
    worst = max(used, key=lambda name: used[name])
    in_roughing = bool(passes) and rough.heat_share >= finish.temperature / finish.limit
    hotter = rough if in_roughing else finish
    place = (rough.hot_depth, rough.hot_edge, rough.hot_sharpness) if in_roughing else finish.hottest
    caution = ("One roughing pass alone wears more than a third of the wheel's face: dress after each."
               if rough.over_third else "")
    return Plan(
        downfeed_mm=round(setting.step, 9), crossfeed_mm=crossfeed, table_mm_s=table, rough_dress=dress,
        leading_chamfer_mm=chamfer, passes=passes + finish.kind.passes, strokes=strokes + finish.strokes,
        minutes=strokes * (asked.stroke / table + asked.machine.reversal_s) / 60 + finish.minutes
        + dresses * asked.dress_minutes,
        dresses=dresses, blanks=blanks, peak_temperature_c=hotter.temperature, temperature_limit_c=hotter.limit,
        temperature_margin=_margin(asked, used["temperature"]), power_w=max(rough.power, finish.power),
        hold_safety=min(rough.hold, finish.hold), worn_share=rough.worn_share,
        worn_a_pass_mm=rough.last_kappa * crossfeed * asked.feeding(crossfeed) if passes else 0.0, hollow_um=finish.hollow_um,
        size_lost_um=finish.size_lost_um, left_um=finish.left_um, ra_um=finish.ra_um, finish_passes=finish.kind.passes,
        finish_step_mm=round(finish.kind.step * asked.graduation, 9), finish_crossfeed_mm=finish.crossfeed,
        finish_table_mm_s=finish.table, finish_dress=finish.dress, finish_blanks=finish.blanks,
        finish_energy_j_mm=finish.energy_j_mm, hottest_depth_mm=place[0], hottest_edge_mm=place[1], hottest_sharpness=place[2],
        hottest_crossfeed_mm=crossfeed if in_roughing else finish.crossfeed,
        hottest_table_mm_s=table if in_roughing else finish.table,
        within_limits=max(used.values()) <= 1, binding=worst if used[worst] >= BINDING_FROM else "none",
        used={str(name): share for name, share in used.items()},
        caution=caution)


def _margin(asked: Asked, share: float) -> float:
    """How much more margin the plan would bear than was asked: the used share of the tightest heat limit."""
    return (1 - share) * (FINISH_HEAT_SHARE - asked.margin) + asked.margin
