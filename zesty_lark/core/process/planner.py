"""Roughing and finish put together: plans in order of time, the quickest within every limit first found.

Exact over the grid: for each number of passes the least downfeed, for each number of strokes the least crossfeed, each
table speed and chamfer. Settings are tried in order of the least time they could take, and the search ends when nothing
left could be quicker than what was found.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.process.cutting import Cutting, Settings, cut
from zesty_lark.core.process.finishing import FINISH_HEAT_SHARE, Finish, FinishKind, best_finish
from zesty_lark.core.process.plan_input import Asked, DressKind
from zesty_lark.core.wheel.dressing import DRESSES

__all__ = ["Binding", "Plan", "Space", "best_plan", "finish_kinds", "plan_at"]

Floats = NDArray[np.float64]
Binding = Literal["temperature", "power", "hold", "wear", "flatness", "finish", "size", "none"]

FINISH_MOST_MM = 0.0051
COVERING_MM = 0.025
"""A finish allowance of this much lets roughing go to the whole temperature limit."""
LEFT_STEP_MM = 5e-4
"""What roughing leaves is rounded up to this for choosing the finish."""
FIRST_BLOCK, LARGEST_BLOCK = 256, 2048
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
    within_limits: bool
    binding: Binding
    used: dict[str, float]
    caution: str


@dataclass(frozen=True)
class Space:
    """What may be chosen: finishes; passes or the most of a downfeed [graduations]; crossfeeds [mm], chamfers [mm], dress."""

    finishes: Sequence[FinishKind]
    crossfeeds: Sequence[float]
    chamfers: Sequence[float]
    dress: DressKind
    least_downfeed: int = 1
    most_downfeed: int = 10**9
    passes: tuple[int, int] = (1, 10**9)
    same_crossfeed: bool = False


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
    best: tuple[float, Plan] | None = None
    for bound, block in _in_order(asked, space, quicker_than):
        if best is not None and bound >= best[0]:
            break
        for plan in _tried(asked, space, block, best[0] if best else quicker_than):
            if best is None or (plan.minutes, -plan.temperature_margin) < (best[0], -best[1].temperature_margin):
                best = (plan.minutes, plan)
    return best[1] if best else None


@dataclass(frozen=True)
class _Block:
    """Roughings as arrays: the finish they lead to (index), passes, graduations of the first and further steps."""

    finish: NDArray[np.int64]
    passes: NDArray[np.int64]
    first: NDArray[np.int64]
    step: NDArray[np.int64]
    crossfeed: Floats
    table: Floats
    bound: Floats
    chamfer: Floats


def _in_order(asked: Asked, space: Space, quicker_than: float) -> Iterator[tuple[float, _Block]]:
    """Give all roughings in order of the least time they could take [min], a block at a time."""
    crossfeed = np.array(space.crossfeeds)
    seconds = (np.ceil((asked.across + asked.wheel.width_mm) / crossfeed - 1e-9)[:, None]
               * (asked.stroke / np.array(asked.speeds) + asked.machine.reversal_s)[None, :])
    parts = []
    for index, kind in enumerate(space.finishes):
        steps = _roughings(asked, space, kind)
        if not steps.size:
            continue
        quickest = 2 * asked.dress_minutes + _quickest_finish(asked, space, kind)
        rough = steps[:, 0]
        bound = rough[:, None, None] * seconds[None, :, :] / 60 + quickest
        row, column, speed = np.nonzero(bound < quicker_than)
        parts.append((bound[row, column, speed], np.full(row.size, index), steps[row], column, speed))
    if not parts:
        return
    bounds = np.concatenate([part[0] for part in parts])
    order = np.argsort(bounds, kind="stable")
    finish = np.concatenate([part[1] for part in parts])[order]
    steps = np.concatenate([part[2] for part in parts])[order]
    columns = np.concatenate([part[3] for part in parts])[order]
    speeds = np.concatenate([part[4] for part in parts])[order]
    table = np.array(asked.speeds)
    start, size = 0, FIRST_BLOCK
    while start < order.size:
        part = slice(start, start + size)
        yield float(bounds[order[start]]), _Block(finish[part], steps[part, 0], steps[part, 1], steps[part, 2],
                                                  crossfeed[columns[part]], table[speeds[part]], bounds[order[part]],
                                                  np.zeros(0))
        start, size = start + size, min(2 * size, LARGEST_BLOCK)


def _quickest_finish(asked: Asked, space: Space, kind: FinishKind) -> float:
    """The least time any finish of a kind could take [min]."""
    crossfeeds = [kind.crossfeed] if kind.crossfeed else [max(
        (each for each in asked.crossfeeds if each <= asked.wheel.width_mm / 3 + 1e-9), default=min(asked.crossfeeds))]
    if space.same_crossfeed:
        crossfeeds = list(space.crossfeeds)
    return min((kind.passes + 1) * asked.strokes(each) * (asked.stroke / asked.speeds[-1] + asked.machine.reversal_s) / 60
               for each in crossfeeds)


def _roughings(asked: Asked, space: Space, kind: FinishKind) -> NDArray[np.int64]:
    """Passes, first step and further step in graduations: the least downfeed for each number of passes."""
    rough = asked.graduations - kind.passes * kind.step
    if rough < 0:
        return np.empty((0, 3), np.int64)
    if rough == 0:
        return np.array([[0, 0, 0]], np.int64)
    rows, before = [], 0
    for passes in range(max(1, space.passes[0]), min(rough, space.passes[1]) + 1):
        step = -(-rough // passes)
        if step == before or not space.least_downfeed <= step <= space.most_downfeed:
            continue
        before = step
        rows.append((-(-rough // step), rough - step * (-(-rough // step) - 1), step))
    return np.array(rows, np.int64).reshape(-1, 3)


def _tried(asked: Asked, space: Space, block: _Block, best: float) -> Iterator[Plan]:
    """Evaluate a block with every chamfer; give the plans within the limits that are not slower than ``best``."""
    block = _with_chamfers(block, space.chamfers)
    covered = np.array([_covers(asked, kind) for kind in space.finishes])[block.finish]
    heat_most = np.where(covered, 1.0, FINISH_HEAT_SHARE) - asked.margin
    done = _rough(asked, space.dress, block, heat_most)
    used = _rough_used(asked, done, covered)
    quickest = block.bound + done.dresses * asked.dress_minutes
    fits = np.flatnonzero((np.max(list(used.values()), axis=0) <= 1) & (quickest <= best))
    for index in fits[np.argsort(quickest[fits], kind="stable")]:
        if quickest[index] > best:
            break
        plan = _whole(asked, space, block, int(index), done, used)
        if plan.within_limits and plan.minutes <= best:
            best = plan.minutes
            yield plan


def _with_chamfers(block: _Block, chamfers: Sequence[float]) -> _Block:
    """The block once with each chamfer."""
    many = len(chamfers)
    return _Block(np.tile(block.finish, many), np.tile(block.passes, many), np.tile(block.first, many),
                  np.tile(block.step, many), np.tile(block.crossfeed, many), np.tile(block.table, many),
                  np.tile(block.bound, many), np.repeat(np.array(chamfers, np.float64), block.passes.size))


def _covers(asked: Asked, kind: FinishKind) -> bool:
    return kind.passes * kind.step * asked.graduation >= COVERING_MM - 1e-12


def _rough(asked: Asked, dress: DressKind, block: _Block, heat_most: Floats | None = None) -> Cutting:
    size = block.passes.size
    return cut(asked, Settings(
        np.asarray(block.first * asked.graduation, np.float64), np.asarray(block.step * asked.graduation, np.float64),
        block.passes, block.crossfeed, block.table, np.where(block.chamfer > 0, block.chamfer, asked.grain),
        np.full(size, DRESSES[dress].sharpness), np.zeros(size)), heat_most)


def _rough_used(asked: Asked, done: Cutting, covered: NDArray[np.bool_]) -> dict[str, Floats]:
    heat = np.maximum(np.where(covered, 1.0, FINISH_HEAT_SHARE) - asked.margin, 1e-9)
    return {
        "temperature": done.heat_share / heat, "power": done.power / asked.machine.spindle_w,
        "hold": asked.hold_wanted / np.maximum(done.hold, 1e-12),
        "wear": np.where(done.over_third, done.worn_share, done.worn_share * 3),
    }


def _whole(asked: Asked, space: Space, block: _Block, index: int, done: Cutting, used: dict[str, Floats]) -> Plan:
    """Put a roughing and its finish together."""
    kind = space.finishes[int(block.finish[index])]
    if space.same_crossfeed:
        kind = FinishKind(kind.passes, kind.step, float(block.crossfeed[index]))
    blanks, left = _rough_blanks(asked, kind, float(done.left[index]), float(block.crossfeed[index]),
                                 int(block.passes[index]))
    finish = best_finish(asked, kind, math.ceil(left / LEFT_STEP_MM - 1e-6) * LEFT_STEP_MM)
    return _described(asked, space.dress, block, index, done, used, finish, blanks)


def _rough_blanks(asked: Asked, kind: FinishKind, left: float, crossfeed: float, passes: int) -> tuple[int, float]:
    """Blanks after roughing until a finish step or less is left; none before a finish that covers it."""
    if passes == 0 or _covers(asked, kind):
        return 0, left
    keeps = (1 - asked.machine.cut_ratio) ** max(1, math.floor(asked.wheel.width_mm / crossfeed + 1e-9))
    blanks = 0
    while left > kind.step * asked.graduation * (1 + 1e-9) and blanks < 100:
        left *= keeps
        blanks += 1
    return blanks, left


def _described(asked: Asked, dress: DressKind, block: _Block, index: int, done: Cutting,
               used: dict[str, Floats], finish: Finish, blanks: int) -> Plan:
    passes, crossfeed, table = int(block.passes[index]), float(block.crossfeed[index]), float(block.table[index])
    strokes = (passes + blanks) * asked.strokes(crossfeed)
    over = bool(done.over_third[index])
    between = int(done.dresses[index])
    dresses = (1 if passes else 0) + between + 1
    minutes = strokes * (asked.stroke / table + asked.machine.reversal_s) / 60 + finish.minutes + dresses * asked.dress_minutes
    shares = {name: max(float(used[name][index]) if name in used and passes else 0.0, dict(finish.used).get(name, 0.0))
              for name in ("temperature", "power", "hold", "wear", "flatness", "finish", "size")}
    worst = max(shares, key=lambda name: shares[name])
    rough_hotter = passes > 0 and done.heat_share[index] >= finish.temperature / finish.limit
    peak, limit = ((float(done.temperature[index]), float(done.limit[index])) if rough_hotter else
                   (finish.temperature, finish.limit))
    caution = "One roughing pass alone wears more than a third of the wheel's face: dress after each." if over else ""
    binding: Binding = worst if shares[worst] >= BINDING_FROM else "none"  # type: ignore[assignment]
    return Plan(
        downfeed_mm=round(int(block.step[index]) * asked.graduation, 9), crossfeed_mm=crossfeed, table_mm_s=table,
        rough_dress=dress, leading_chamfer_mm=float(block.chamfer[index]),
        passes=passes + finish.kind.passes, strokes=strokes + finish.strokes,
        minutes=minutes, dresses=dresses, blanks=blanks, peak_temperature_c=peak, temperature_limit_c=limit,
        temperature_margin=_margin(asked, shares["temperature"]),
        power_w=max(float(done.power[index]), finish.power), hold_safety=min(float(done.hold[index]), finish.hold),
        worn_share=float(done.worn_share[index]), hollow_um=finish.hollow_um, size_lost_um=finish.size_lost_um,
        left_um=finish.left_um, ra_um=finish.ra_um, finish_passes=finish.kind.passes,
        finish_step_mm=round(finish.kind.step * asked.graduation, 9), finish_crossfeed_mm=finish.crossfeed,
        finish_table_mm_s=finish.table, finish_dress=finish.dress, finish_blanks=finish.blanks,
        within_limits=max(shares.values()) <= 1, binding=binding, used=shares, caution=caution)


def _margin(asked: Asked, share: float) -> float:
    """How much more margin the plan would bear than was asked: the used share of the tightest heat limit."""
    return (1 - share) * (FINISH_HEAT_SHARE - asked.margin) + asked.margin


def plan_at(asked: Asked, space: Space, downfeed: int, crossfeed: float, table: float, chamfer: float,
            kind: FinishKind) -> Plan:
    """Work out one plan at given settings, whatever limits it breaks; downfeed in graduations."""
    rough = asked.graduations - kind.passes * kind.step
    step = max(1, min(downfeed, rough)) if rough > 0 else 0
    passes = -(-rough // step) if step else 0
    first = rough - step * (passes - 1) if passes else 0
    block = _Block(np.array([0]), np.array([passes]), np.array([first]), np.array([step]), np.array([crossfeed]),
                   np.array([table]), np.zeros(1), np.array([chamfer]))
    done = _rough(asked, space.dress, block)
    used = _rough_used(asked, done, np.array([_covers(asked, kind)]))
    single = Space([kind], [crossfeed], [chamfer], space.dress, same_crossfeed=space.same_crossfeed)
    return _whole(asked, single, block, 0, done, used)
