"""Batches: how many parts lie on the chuck at one head height, and the minutes a part."""

import math
from dataclasses import dataclass

from zesty_lark.core.process.strokes import FeedEvery, strokes
from zesty_lark.core.quantities.numbers import Count, Extent, InputError, NonNegative, Positive, Whole, refuse_work

LEAD_IN_MM = 45.0
BELOW_THE_FACE_MM = 0.1
SUPPORT_MM = 20.0
MOST_A_LOAD = 2_000
MOST_WORK = {"nest": {"parts in one load": MOST_A_LOAD}}
DRESS_SHARE = 1 / 3


@dataclass(frozen=True)
class Place:
    """Where something lies on the chuck: its corner and size [mm], from the chuck's front left corner."""

    kind: str
    x_mm: float
    y_mm: float
    along_mm: float
    across_mm: float


@dataclass(frozen=True)
class Nest:
    """A load of parts.

    ``loads`` with the batch's last one perhaps not full; ``minutes_a_part`` at the chuck, without loading and
    measuring; ``dresses`` a load; ``places`` of parts and blocks; ``block_height_mm`` the highest a lead-in block may
    be.
    """

    along: int
    across: int
    a_load: int
    loads: int
    strokes: int
    minutes_a_load: float
    minutes_a_part: float
    dresses: int
    block_height_mm: float
    places: list[Place]


def capacity(
    *,
    length_mm: float,
    width_mm: float,
    chuck_length_mm: float,
    chuck_width_mm: float,
    gap_mm: float = 2.0,
    lead_in: bool = True,
) -> tuple[int, int]:
    """Return how many parts of a length and width lie along and across a chuck with their blocks; 0 when not one
    does."""
    blocks = LEAD_IN_MM + gap_mm if lead_in else 0.0
    along = math.floor((chuck_length_mm - 2 * blocks + gap_mm) / (length_mm + gap_mm) + 1e-9)
    across = math.floor(
        (chuck_width_mm - (SUPPORT_MM + gap_mm if lead_in else 0.0) + gap_mm) / (width_mm + gap_mm) + 1e-9
    )
    return max(along, 0), max(across, 0)


def in_rows(quantity: int, along: int, across: int) -> tuple[int, int, int]:
    """Return how so many pieces lie where so many have room along and across: in a row, rows, and how many in all."""
    rows = min(across, math.ceil(quantity / along))
    a_load = min(along * rows, quantity)
    return math.ceil(a_load / rows), rows, a_load


def nest(
    *,
    length_mm: Extent,
    width_mm: Extent,
    height_mm: Extent,
    quantity: Count,
    chuck_length_mm: Extent,
    chuck_width_mm: Extent,
    wheel_width_mm: Extent,
    rough_passes: Whole,
    finish_passes: Count,
    spark_outs: Whole,
    crossfeed_mm: Positive,
    finish_crossfeed_mm: Positive,
    table_mm_s: Positive,
    finish_table_mm_s: Positive,
    reversal_s: NonNegative,
    worn_a_pass_mm: NonNegative = 0.0,
    dress_minutes: NonNegative = 1.5,
    gap_mm: NonNegative = 2.0,
    feed_every: FeedEvery = "stroke",
    lead_in: bool = True,
) -> Nest:
    """Lay parts out in rows along the travel, a lead-in block at both ends, and support blocks behind the last row.

    Parameters
    ----------
    length_mm, width_mm, height_mm : float
        A part as it lies: along and across the travel, and its final height [mm].
    quantity : int
        How many there are in all.
    chuck_length_mm, chuck_width_mm : float
        The chuck along and across the travel [mm].
    rough_passes, finish_passes, spark_outs : int
        Of the plan for one part; passes are the same for all on the chuck, each stroke longer.
    crossfeed_mm, finish_crossfeed_mm, table_mm_s, finish_table_mm_s, reversal_s : float
        What the machine is set to.
    worn_a_pass_mm : float
        How far one roughing pass over one part wears the wheel's front back [mm]; it adds up over the parts.
    gap_mm : float
        Between parts: enough to get a finger, a rag and coolant in [mm].

    Raises
    ------
    InputError
        If not even one part and its blocks lie on the chuck.
    """
    blocks = LEAD_IN_MM + gap_mm if lead_in else 0.0
    along, across = capacity(
        length_mm=length_mm,
        width_mm=width_mm,
        chuck_length_mm=chuck_length_mm,
        chuck_width_mm=chuck_width_mm,
        gap_mm=gap_mm,
        lead_in=lead_in,
    )
    if along < 1 or across < 1:
        raise InputError(
            "chuck_length_mm" if along < 1 else "chuck_width_mm",
            "not one part with its blocks lies on this chuck; leave the blocks out or use a longer chuck",
        )
    columns, rows, a_load = in_rows(quantity, along, across)
    refuse_work("quantity", a_load, MOST_A_LOAD, "parts in one load")
    laid = {
        "length_mm": columns * (length_mm + gap_mm) - gap_mm,
        "width_mm": rows * (width_mm + gap_mm) - gap_mm,
        "wheel_width_mm": wheel_width_mm,
        "reversal_s": reversal_s,
        "side_overrun_mm": 0.0,
    }
    rough = strokes(crossfeed_mm=crossfeed_mm, table_mm_s=table_mm_s, feed_every=feed_every, **laid)
    finish = strokes(crossfeed_mm=finish_crossfeed_mm, table_mm_s=finish_table_mm_s, feed_every=feed_every, **laid)
    dresses = _dresses(rough_passes, worn_a_pass_mm * a_load * rough_passes / wheel_width_mm)
    last = finish_passes + spark_outs
    seconds = rough_passes * rough.seconds_per_pass + last * finish.seconds_per_pass
    minutes = seconds / 60 + dresses * dress_minutes
    loads = math.ceil(quantity / a_load)
    return Nest(
        columns,
        rows,
        a_load,
        loads,
        rough_passes * rough.strokes + last * finish.strokes,
        minutes,
        minutes * loads / quantity,
        dresses,
        height_mm - BELOW_THE_FACE_MM,
        _places(columns, rows, a_load, length_mm, width=width_mm, gap=gap_mm, begin=blocks, lead_in=lead_in),
    )


def _dresses(rough_passes: int, worn_share: float) -> int:
    """The dresses of a load: before roughing, as often as its share of the front is worn, and before the finish."""
    return 1 + (1 if rough_passes else 0) + max(0, math.ceil(worn_share / DRESS_SHARE - 1e-9) - 1)


def _places(
    columns: int, rows: int, a_load: int, length: float, *, width: float, gap: float, begin: float, lead_in: bool
) -> list[Place]:
    places = [
        Place("part", begin + column * (length + gap), row * (width + gap), length, width)
        for row in range(rows)
        for column in range(columns)
    ][:a_load]
    if lead_in:
        deep = rows * (width + gap) - gap
        end = begin + columns * (length + gap)
        places += [
            Place("lead-in block", 0.0, 0.0, LEAD_IN_MM, deep),
            Place("lead-in block", end, 0.0, LEAD_IN_MM, deep),
            Place("support block", begin, deep + gap, end - gap - begin, SUPPORT_MM),
        ]
    return places
