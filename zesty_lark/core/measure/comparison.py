"""A size by comparison: a gauge block stack of the same size, and what an indicator shows between the two."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import ROUND_HALF_EVEN, Decimal
from typing import Annotated

from annotated_types import Ge, Lt
from pydantic import ConfigDict, Field
from pydantic.dataclasses import dataclass as checked

from zesty_lark.core.angles_slots.block_sets import BlockSet
from zesty_lark.core.angles_slots.blocks import Stack, gauge_stack
from zesty_lark.core.measure.budget import COVERAGE, RECTANGLE, Budget, budget_of
from zesty_lark.core.measure.thickness import Gauge
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.quantities.steel import STEEL_EXPANSION
from zesty_lark.core.quantities.units import SMALLEST_MM, UM_A_MM

TipAngle = Annotated[float, Ge(0), Lt(75)]
WRINGING_UM = 0.03
"""What a wringing film adds at most, half its spread [µm]: own estimate."""
TIP_U_DEG = 5.0
"""How well a tip's angle is known [°]: own estimate."""


@dataclass(frozen=True)
class Wrung:
    """A stack of the shop's own blocks: sizes large to small as they are wrung [mm], their sum [mm], what it is off the
    size wanted [mm], and U of it, k = 2 [µm]."""

    blocks: tuple[Decimal, ...]
    unit: str
    sum_mm: Decimal
    off_mm: Decimal
    u_um: float
    set_name: str

    @property
    def words(self) -> str:
        """The stack in words, in the order of wringing."""
        return f"{' + '.join(f'{block.normalize():f}' for block in self.blocks)} {self.unit} of {self.set_name}"


def wring(wanted_mm: Decimal, blocks: BlockSet) -> Wrung:
    """Return the fewest blocks of a set of the shop's that add up to a size, else the nearest; worn and missing blocks
    are left out.

    Raises
    ------
    InputError
        If the set has nothing left, or the size cannot be said in its unit.
    """
    factor = Decimal("25.4") if blocks.unit == "in" else Decimal(1)
    wanted = (wanted_mm / factor).quantize(SMALLEST_MM, ROUND_HALF_EVEN)
    usable = blocks.usable
    if not usable:
        raise InputError("blocks", f"{blocks.name} has no block that is neither missing nor worn.")
    made: Stack = gauge_stack(target=wanted, unit=blocks.unit, blocks=list(usable))
    total = made.sum * factor
    u = math.hypot(
        float(blocks.u_um) / COVERAGE * math.sqrt(made.count),
        WRINGING_UM / RECTANGLE * math.sqrt(max(0, made.count - 1)),
    )
    return Wrung(tuple(made.blocks), blocks.unit, total, total - wanted_mm, COVERAGE * u, blocks.name)


@checked(frozen=True, config=ConfigDict(extra="forbid"))
class Comparison:
    """How a size was compared: against a stack [mm], with a lever whose tip stood at an angle [°]."""

    stack_mm: Annotated[Decimal, Field(gt=0, le=10_000)]
    tip_deg: TipAngle = 0.0

    def size_of(self, deviation_mm: Decimal) -> Decimal:
        """Return the size for what the indicator showed over the stack: true = reading·cos(tip angle) [mm]."""
        share = Decimal(repr(math.cos(math.radians(self.tip_deg))))
        return (self.stack_mm + deviation_mm * share).quantize(SMALLEST_MM, ROUND_HALF_EVEN)


def comparison_budget(
    gauge: Gauge, how: Comparison, stack_u_um: float, deviations_mm: Sequence[Decimal], *, temperature_u_c: float
) -> Budget:
    """Return the budget of a size by comparison; a null measurement hardly cares for the lever's angle.

    Notes
    -----
    Two readings are taken, on the stack and on the part. Temperature is that of the difference between the two: part
    and stack of one material at one temperature cancel.
    """
    off = max((abs(float(each)) for each in deviations_mm), default=0.0) * UM_A_MM
    tip = off * math.sin(math.radians(how.tip_deg)) * math.radians(TIP_U_DEG)
    return budget_of(
        [
            ("resolution", float(gauge.resolution_mm) / 2 / RECTANGLE * UM_A_MM * math.sqrt(2)),
            ("stated error", float(gauge.error_limit_mm) / RECTANGLE * UM_A_MM),
            ("repeatability", float(gauge.repeatability_mm) * math.sqrt(2) * UM_A_MM),
            ("master", stack_u_um / COVERAGE),
            ("temperature", float(how.stack_mm) * STEEL_EXPANSION * temperature_u_c * UM_A_MM),
            ("tip angle", tip),
        ]
    )
