"""The tolerance zone as a band, with every reading and its uncertainty on it."""

from collections.abc import Callable, Sequence
from decimal import Decimal

from markupsafe import Markup

from zesty_lark.core.part.shown_units import ShownUnits
from zesty_lark.core.part.sizes import Reading, Size
from zesty_lark.web.shared.svg.element import drawing, line, polygon, rect, text

WIDTH, ROW, TOP, LEFT, RIGHT = 560.0, 30.0, 40.0, 118.0, 96.0


def zone(readings: Sequence[Reading], size: Size, uncertainty_mm: Decimal, units: ShownUnits) -> Markup:
    """Draw each reading as a mark with its ± U against the zone from lower to upper limit."""
    values = [reading.value_mm for reading in readings]
    low = min(*values, size.lower_mm) - uncertainty_mm
    high = max(*values, size.upper_mm) + uncertainty_mm
    margin = (high - low) / 12
    low, high = low - margin, high + margin
    height = TOP + ROW * len(readings) + 26

    def x(value: Decimal) -> float:
        return LEFT + float((value - low) / (high - low)) * (WIDTH - LEFT - RIGHT)

    lower, upper, target = x(size.lower_mm), x(size.upper_mm), x(size.target_mm)
    body = [
        rect(lower, TOP - 14, upper - lower, height - TOP, class_="zone-band"),
        line(target, TOP - 14, target, height - 14, class_="zone-target"),
        text(
            (lower + upper) / 2,
            18,
            f"{units.size(size.lower_mm)} to {units.size(size.upper_mm)}",
            "zone-note",
            anchor="middle",
        ),
    ]
    guard = x(size.lower_mm + uncertainty_mm), x(size.upper_mm - uncertainty_mm)
    if guard[0] < guard[1]:
        body += [line(each, TOP - 14, each, height - 14, class_="zone-guard") for each in guard]
    for row, each in enumerate(readings):
        body += _reading(row, each, uncertainty_mm, x, units=units)
    words = "; ".join(f"{each.place} {units.size(each.value_mm)}" for each in readings)
    return drawing(WIDTH, height, f"Readings against the tolerance: {words}", *body, class_="zone")


def _reading(
    row: int, each: Reading, uncertainty_mm: Decimal, x: Callable[[Decimal], float], *, units: ShownUnits
) -> list[Markup]:
    y = TOP + ROW * row + 6
    here = x(each.value_mm)
    ends = x(each.value_mm - uncertainty_mm), x(each.value_mm + uncertainty_mm)
    return [
        text(LEFT - 14, y + 5, each.place, "zone-place", anchor="end"),
        line(ends[0], y, ends[1], y, class_="zone-whisker"),
        line(ends[0], y - 5, ends[0], y + 5, class_="zone-whisker"),
        line(ends[1], y - 5, ends[1], y + 5, class_="zone-whisker"),
        polygon([(here, y - 6), (here + 6, y), (here, y + 6), (here - 6, y)], "zone-value"),
        text(WIDTH - 4, y + 5, units.size_number(each.value_mm), "zone-number", anchor="end"),
    ]
