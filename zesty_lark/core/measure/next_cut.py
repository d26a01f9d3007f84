"""How much to take after a measurement: one number, in whole graduations, for sentence, button and plan alike."""

from dataclasses import dataclass
from decimal import ROUND_CEILING, ROUND_DOWN, ROUND_FLOOR, ROUND_HALF_DOWN, Decimal
from typing import Literal

from zesty_lark.core.measure.thickness import Judgement
from zesty_lark.core.part.sizes import Size

SMALL_MM = Decimal("0.0005")
"""Springs that hold back less than this give nothing more that matters [mm]."""


@dataclass(frozen=True)
class NextCut:
    """What to do about a size: take so much [mm], or let the springs come off first, or nothing can be done on this
    dial, or read it again: it is not what was expected, or one reading is not enough to cut by.

    ``certain`` when after it the size would be in whichever end of ± U is true, or is as likely in as not by the run's
    estimate; the chances of that are told where there is one, and whether it took the zero anew, or is surprised by
    what was read.
    """

    what: Literal["take", "spark out", "nothing", "read again"]
    amount_mm: Decimal = Decimal(0)
    certain: bool = False
    chance_in: float | None = None
    chance_under: float = 0.0
    zero_anew: bool = False
    surprised: bool = False


def next_cut(
    judged: Judgement, size: Size, goal_mm: Decimal, graduation_mm: Decimal, *, held_back_mm: Decimal = Decimal(0)
) -> NextCut:
    """Return the next cut.

    Parameters
    ----------
    judged : Judgement
        What the readings came to.
    size : Size
        What the print asks.
    goal_mm, graduation_mm, held_back_mm : Decimal
        The size aimed at, the dial's graduation, and what the springs still give back by themselves [mm].

    Notes
    -----
    A size that is surely over is taken down to the goal, never past it. An unsure one is only cut where some whole
    graduations leave it in whichever end of ± U is true.
    """
    if judged.under or judged.verdict == "in":
        return NextCut("nothing")
    high, low, u = judged.greatest.value_mm - held_back_mm, judged.least.value_mm - held_back_mm, judged.uncertainty_mm
    if judged.over:
        whole = int(((high - goal_mm) / graduation_mm).to_integral_value(ROUND_DOWN))
        if whole >= 1:
            amount = whole * graduation_mm
            return NextCut("take", amount, _certain(high, low, amount, u, size=size))
        if held_back_mm > SMALL_MM:
            return NextCut("spark out")
        return NextCut("take", graduation_mm) if low - graduation_mm >= size.lower_mm else NextCut("nothing")
    fewest = max(1, _whole((high + u - size.upper_mm) / graduation_mm, ROUND_CEILING))
    most = _whole((low - u - size.lower_mm) / graduation_mm, ROUND_FLOOR)
    if fewest > most:
        return NextCut("nothing")
    wanted = _whole(((high + low) / 2 - goal_mm) / graduation_mm, ROUND_HALF_DOWN)
    return NextCut("take", min(max(wanted, fewest), most) * graduation_mm, certain=True)


def _whole(graduations: Decimal, rounding: str) -> int:
    return int(graduations.to_integral_value(rounding))


def _certain(high: Decimal, low: Decimal, amount: Decimal, u: Decimal, *, size: Size) -> bool:
    return high + u - amount <= size.upper_mm and low - u - amount >= size.lower_mm
