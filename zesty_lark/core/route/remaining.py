"""What is left on a surface: from the last measurement if there is one, else from the collar."""

from decimal import Decimal

from zesty_lark.core.sizes import Size
from zesty_lark.core.surfaces.part import PairPlan
from zesty_lark.core.work.standing import NOTHING, Run, Standing

__all__ = ["ends_at", "keeps_wheel_height", "skin_again", "stock_on"]


def ends_at(pair: PairPlan, *, reference: bool) -> Decimal:
    """Return the size at which a face is done: where the pair ends, plus the second face's stock for the first [mm]."""
    return pair.ends_at_mm + (pair.split.second_face_mm if reference else NOTHING)


def keeps_wheel_height(run: Run, standing: Standing) -> bool:
    """Tell whether a new plan can carry on from the collar's last reading, without a new touch-off."""
    return standing.is_up(run) and run.touched_off and run.plan is not None


def skin_again(size_mm: Decimal, limits: Size | None, uncertainty_mm: Decimal, skin_mm: Decimal) -> Decimal:
    """Return what a surface that is ground again may give [mm]: the part's skin; where it bounds a size, no more of it
    than is sure to stay over the lower limit."""
    if limits is None:
        return skin_mm
    return max(min(skin_mm, size_mm - uncertainty_mm - limits.lower_mm), NOTHING)


def stock_on(run: Run, standing: Standing, goal_mm: Decimal) -> Decimal:
    """Return the stock that is to be fed off the highest piece now [mm]; negative when it is past its goal.

    Where the wheel's height is kept, what the springs still hold back comes off by itself and is not fed again.
    """
    highest = standing.highest(run)
    left = (NOTHING if highest is None else highest.by_collar_mm) - goal_mm
    if run.proofs and keeps_wheel_height(run, standing):
        left -= run.held_back_mm
    return left
