"""One plan at a person's own settings, whatever limits it breaks."""

from dataclasses import dataclass

from zesty_lark.core.process.evaluate import Coolant
from zesty_lark.core.process.finishing import FinishKind
from zesty_lark.core.process.optimise import Margin, Skew
from zesty_lark.core.process.plan_input import Asked, ChuckIn, DressKind, MachineIn, PartIn, WheelIn, asked
from zesty_lark.core.process.planner import Plan, finish_kinds, plan_at
from zesty_lark.core.quantities import Count, ExactPositive, InputError, NonNegative, Positive

__all__ = ["OwnPlan", "own_plan", "own_plan_of"]


@dataclass(frozen=True)
class OwnPlan:
    """The plan at these settings."""

    plan: Plan


def own_plan(
    *, part: PartIn, stock_mm: ExactPositive, tolerance_mm: ExactPositive, flatness_um: Positive, ra_um: Positive,
    machine: MachineIn, wheel: WheelIn, chuck: ChuckIn, coolant: Coolant, downfeed_mm: Positive, crossfeed_mm: Positive,
    table_mm_s: Positive, leading_chamfer_mm: NonNegative = 0.0, rough_dress: DressKind = "rough",
    finish_passes: Count | None = None, finish_step_mm: Positive | None = None, skew_deg: Skew = 0.0,
    dress_minutes: NonNegative = 1.5, blocked: bool = False, temperature_margin: Margin = 0.0,
) -> OwnPlan:
    """Work out the plan of a face at given settings, and every limit it keeps or breaks.

    As ``pass.optimise`` is asked, and with it: downfeed and crossfeed [mm], rounded down to whole graduations within the
    machine's range; table [mm/s]; the leading chamfer [mm]; the rough dress; and the finish passes and their step [mm], else
    the usual finish of one pass. The finish's crossfeed, table and dress are the quickest that keep to the limits.

    Raises
    ------
    InputError
        If the stock or a step is under a graduation, a speed is out of the machine's range, or a range is the wrong way round.
    """
    question = asked(part, stock_mm, tolerance_mm, flatness_um, ra_um, machine, wheel, chuck, coolant, skew_deg,
                     dress_minutes, blocked, temperature_margin)
    return OwnPlan(own_plan_of(question, downfeed_mm, crossfeed_mm, table_mm_s, leading_chamfer_mm, rough_dress,
                               finish_passes, finish_step_mm))


def own_plan_of(question: Asked, downfeed_mm: float, crossfeed_mm: float, table_mm_s: float, leading_chamfer_mm: float,
                rough_dress: DressKind, finish_passes: int | None, finish_step_mm: float | None) -> Plan:
    """``own_plan`` on a question that was asked before."""
    machine, usual = question.machine, finish_kinds(question)[0]
    if not machine.table_min_mm_s <= table_mm_s <= machine.table_max_mm_s:
        raise InputError("table_mm_s", f"table_mm_s must be from {machine.table_min_mm_s:g} to {machine.table_max_mm_s:g}")
    step = usual.step if finish_step_mm is None else _graduations("finish_step_mm", finish_step_mm, question)
    passes = usual.passes if finish_passes is None else finish_passes
    kind = FinishKind(min(passes, question.graduations // step), step) if question.graduations >= step else usual
    return plan_at(question, rough_dress, _graduations("downfeed_mm", downfeed_mm, question),
                   question.snap_crossfeed(crossfeed_mm), table_mm_s, leading_chamfer_mm, kind)


def _graduations(field: str, length_mm: float, question: Asked) -> int:
    whole = int(length_mm / question.graduation + 1e-9)
    if whole < 1:
        raise InputError(field, f"{field} must be at least one graduation of the dial ({question.graduation:g} mm)")
    return whole
