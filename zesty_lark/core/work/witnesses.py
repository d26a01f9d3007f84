"""Power meter and readout as witnesses of a pass: what they show against it is asked about before it counts."""

from decimal import Decimal

from zesty_lark.core.process.power_watch import LEAST_W
from zesty_lark.core.work.plans import PlanStep


def was_air(step: PlanStep | None, power_w: Decimal | None, idle_w: float) -> bool:
    """Tell whether the meter showed no more in a roughing pass than in one without feed [W]: then nothing was cut, or
    the meter is wrong. Where either is not known nobody can tell."""
    if step is None or step.kind != "rough" or power_w is None or not idle_w:
        return False
    return float(power_w) - idle_w < LEAST_W


def disagree(*, readout_mm: Decimal, collar_mm: Decimal, backlash_mm: Decimal, graduation_mm: Decimal) -> bool:
    """Tell whether readout and collar differ by more than the backlash and two graduations [mm]."""
    return abs(readout_mm - collar_mm) > backlash_mm + 2 * graduation_mm
