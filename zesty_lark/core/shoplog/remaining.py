"""What is left on a face: from the last measurement if there is one, else from the collar."""

from decimal import ROUND_DOWN, Decimal

from zesty_lark.core.measure.thickness import Size
from zesty_lark.core.process import springs
from zesty_lark.core.shoplog.standing import FaceStanding, Standing
from zesty_lark.core.stock import StockSplit
from zesty_lark.core.units import SMALLEST_MM

__all__ = ["goal_thickness", "keeps_wheel_height", "still_to_spark", "stock_on"]


def goal_thickness(face: int, reference: int, size: Size, split: StockSplit) -> Decimal:
    """Return the thickness at which a face is done: the target, plus the second face's stock for the first [mm]."""
    return size.target_mm + (split.second_face_mm if face == reference else Decimal(0))


def keeps_wheel_height(face: FaceStanding, standing: Standing) -> bool:
    """Tell whether a new plan can carry on from the collar's last reading, without a new touch-off."""
    return standing.up == face.face and face.touched_off and face.plan is not None


def still_to_spark(face: FaceStanding, cut_ratio: float, wheel_width_mm: Decimal, crossfeed_mm: Decimal) -> Decimal:
    """Return what the springs hold back after the passes and blanks done so far [mm]."""
    if face.plan is None or not face.done:
        return Decimal(0)
    ratio = springs.crossfed_cut_ratio(cut_ratio, float(wheel_width_mm), float(crossfeed_mm))
    steps = [float(step.step_mm) for step in face.plan.steps[: face.done]] + [0.0] * face.spark_done
    return Decimal(repr(round(springs.left_after(steps, ratio), 9))).quantize(SMALLEST_MM, ROUND_DOWN)


def stock_on(face: FaceStanding, standing: Standing, goal_mm: Decimal, held_back_mm: Decimal = Decimal(0)) -> Decimal:
    """Return the stock that is on a face now [mm]; negative when it is past its goal.

    Parameters
    ----------
    face : FaceStanding
        The face.
    standing : Standing
        The job it belongs to.
    goal_mm : Decimal
        The thickness at which the face is done [mm].
    held_back_mm : Decimal
        What is still to spark out; it comes off a measured remainder when the wheel height is kept [mm].
    """
    left = standing.thickness_by_collar_mm - goal_mm
    if face.measured is not None and keeps_wheel_height(face, standing):
        left -= held_back_mm
    return left
