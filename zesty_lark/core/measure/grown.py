"""A size that grows as it is ground: a slot's width, a depth, a chamfer's length.

It is judged as one that shrinks, mirrored at the middle of its zone: too narrow is what still has stock on, too wide
what cannot be put back.
"""

from collections.abc import Callable, Sequence
from dataclasses import replace
from decimal import Decimal

from zesty_lark.core.measure.next_cut import NextCut, next_cut
from zesty_lark.core.measure.thickness import Judgement
from zesty_lark.core.part.sizes import Reading, Size
from zesty_lark.core.part.surfaces.surface import Surface

Judge = Callable[[Sequence[Reading], Decimal], Judgement]


def mirrored(size_mm: Decimal, limits: Size) -> Decimal:
    """Return a size mirrored at the middle of its zone [mm]."""
    return limits.lower_mm + limits.upper_mm - size_mm


def fed_zone(surface: Surface, limits: Size, stock_mm: Decimal) -> tuple[Decimal, Decimal]:
    """Return the feeds between which a size is within its limits, where so much is fed to its goal [mm]."""
    ends = sorted(stock_mm + surface.to_feed(limits.goal_mm, each) for each in (limits.lower_mm, limits.upper_mm))
    return ends[0], ends[1]


def judged_as_ground(
    surface: Surface, readings: Sequence[Reading], limits: Size, goal_mm: Decimal, *, judge: Judge
) -> Judgement:
    """Judge readings of a surface's size with ``judge``, which takes readings and a goal as of a size that shrinks.

    Of one that grows the judgement's ``greatest`` is the narrowest place, with the most still on.
    """
    if not surface.grows:
        return judge(readings, goal_mm)
    made = judge([Reading(each.place, mirrored(each.value_mm, limits)) for each in readings], mirrored(goal_mm, limits))
    actual = {reading.place: reading for reading in readings}
    return replace(made, greatest=actual[made.greatest.place], least=actual[made.least.place], grows=True)


def cut_of(
    surface: Surface,
    judged: Judgement,
    limits: Size,
    goal_mm: Decimal,
    *,
    graduation_mm: Decimal,
    held_back_mm: Decimal = Decimal(0),
) -> NextCut:
    """Return the next cut at the dial, whose graduation changes the size by ``per_feed`` of it [mm]."""
    rate = abs(surface.per_feed)
    if judged.grows:
        judged = replace(
            judged,
            greatest=Reading(judged.greatest.place, mirrored(judged.greatest.value_mm, limits)),
            least=Reading(judged.least.place, mirrored(judged.least.value_mm, limits)),
        )
        goal_mm = mirrored(goal_mm, limits)
    if rate == 1:
        return next_cut(judged, limits, goal_mm, graduation_mm, held_back_mm=held_back_mm)
    step = graduation_mm * rate
    made = next_cut(judged, limits, goal_mm, step, held_back_mm=held_back_mm * rate)
    return replace(made, amount_mm=round(made.amount_mm / step) * graduation_mm)
