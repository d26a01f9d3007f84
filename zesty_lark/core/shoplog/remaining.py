"""What is left on a face: from the last measurement if there is one, else from the collar."""

from decimal import Decimal

from zesty_lark.core.route.block import PairPlan
from zesty_lark.core.shoplog.standing import FaceStanding, Standing

__all__ = ["ends_at", "keeps_wheel_height", "stock_on"]


def ends_at(face: int, reference: int, pair: PairPlan) -> Decimal:
    """Return the thickness at which a face is done: where the pair ends, plus the second face's stock for the first [mm]."""
    return pair.ends_at_mm + (pair.split.second_face_mm if face == reference else Decimal(0))


def keeps_wheel_height(face: FaceStanding, standing: Standing) -> bool:
    """Tell whether a new plan can carry on from the collar's last reading, without a new touch-off."""
    return standing.up == face.face and face.touched_off and face.plan is not None


def stock_on(face: FaceStanding, standing: Standing, goal_mm: Decimal) -> Decimal:
    """Return the stock that is to be fed off a face now [mm]; negative when it is past its goal.

    Where the wheel's height is kept, what the springs still hold back comes off by itself and is not fed again.
    """
    left = standing.thickness_by_collar_mm - goal_mm
    if face.measured is not None and keeps_wheel_height(face, standing):
        left -= face.held_back_mm
    return left
