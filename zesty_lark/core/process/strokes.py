"""Strokes: how far the table and the crossfeed run over a part, and how long a pass takes."""

import math
from dataclasses import dataclass
from typing import Literal

from zesty_lark.core.quantities.numbers import Angle, InputError, NonNegative, Positive

END_OVERRUN_MM = 25.0
"""How far the wheel usually clears the part at each end [mm]."""

RATIO_SLACK = 1e-9

FeedEvery = Literal["stroke", "pair"]


@dataclass(frozen=True)
class Strokes:
    """The strokes of one pass.

    Attributes
    ----------
    projected_length_mm, projected_width_mm : float
        The part's extent along and across the travel [mm].
    stroke_mm, crossfeed_span_mm : float
        What the table and the crossfeed run through [mm].
    crossfeed_steps, strokes : int
        Side steps and strokes of a pass.
    seconds_per_pass : float
        Time of a pass [s].
    """

    projected_length_mm: float
    projected_width_mm: float
    stroke_mm: float
    crossfeed_span_mm: float
    crossfeed_steps: int
    strokes: int
    seconds_per_pass: float


def steps_across(span_mm: float, crossfeed_mm: float) -> int:
    """Return ceil(span/crossfeed): the side steps that cover a span."""
    return math.ceil(span_mm / crossfeed_mm - RATIO_SLACK)


def projected(length_mm: float, width_mm: float, skew_deg: float) -> tuple[float, float]:
    """Return how far a face turned by ``skew_deg`` reaches along and across the travel [mm]."""
    cosine, sine = abs(math.cos(math.radians(skew_deg))), abs(math.sin(math.radians(skew_deg)))
    return length_mm * cosine + width_mm * sine, length_mm * sine + width_mm * cosine


def strokes(
    *,
    length_mm: Positive,
    width_mm: Positive,
    wheel_width_mm: Positive,
    crossfeed_mm: Positive,
    table_mm_s: Positive,
    skew_deg: Angle = 0.0,
    end_overrun_mm: NonNegative = END_OVERRUN_MM,
    side_overrun_mm: NonNegative = 0.0,
    reversal_s: NonNegative = 0.3,
    feed_every: FeedEvery = "stroke",
) -> Strokes:
    """Work out the strokes and the time of one pass over a rectangular face.

    Parameters
    ----------
    length_mm, width_mm : float
        The face, length along the travel at no skew [mm].
    wheel_width_mm, crossfeed_mm : float
        Wheel width and side step [mm].
    table_mm_s : float
        Table speed [mm/s].
    skew_deg : float
        How far the part is turned from the travel [°].
    end_overrun_mm, side_overrun_mm : float
        Clearance beyond the part at each end and side [mm].
    reversal_s : float
        Time lost at each reversal [s].
    feed_every : {"stroke", "pair"}
        Side step at each end of the travel, or at one end only.

    Returns
    -------
    Strokes

    Raises
    ------
    InputError
        If a size or a speed is not over 0, or an overrun or the reversal is negative.

    Notes
    -----
    projected length = L·|cos a| + W·|sin a|, width = L·|sin a| + W·|cos a|; stroke = length + 2·overrun;
    span = width + wheel width + 2·side overrun; steps = ceil(span/crossfeed).
    """
    for name, value in (
        ("length_mm", length_mm),
        ("width_mm", width_mm),
        ("wheel_width_mm", wheel_width_mm),
        ("crossfeed_mm", crossfeed_mm),
        ("table_mm_s", table_mm_s),
    ):
        if not value > 0:
            raise InputError(name, f"{name} must be over 0")
    for name, value in (
        ("end_overrun_mm", end_overrun_mm),
        ("side_overrun_mm", side_overrun_mm),
        ("reversal_s", reversal_s),
    ):
        if not value >= 0:
            raise InputError(name, f"{name} must not be negative")
    projected_length, projected_width = projected(length_mm, width_mm, skew_deg)
    stroke = projected_length + 2 * end_overrun_mm
    span = projected_width + wheel_width_mm + 2 * side_overrun_mm
    steps = steps_across(span, crossfeed_mm)
    count = steps if feed_every == "stroke" else 2 * steps
    return Strokes(
        projected_length_mm=projected_length,
        projected_width_mm=projected_width,
        stroke_mm=stroke,
        crossfeed_span_mm=span,
        crossfeed_steps=steps,
        strokes=count,
        seconds_per_pass=count * (stroke / table_mm_s + reversal_s),
    )
