"""Minutes against temperature margin: the curve of the quickest plans, and where each method lies."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from markupsafe import Markup

from zesty_lark.core.planning.problem import RESERVE
from zesty_lark.web.shared.svg.element import drawing, group, line, polygon, rect, tag, text

WIDTH, HEIGHT, LEFT, RIGHT, TOP, FOOT = 262.0, 236.0, 30.0, 12.0, 14.0, 34.0
TICKS = (1, 2, 3, 5, 10, 20, 30, 50, 100, 200, 300, 500, 1000)
LETTER = 7.0
Box = tuple[float, float, float, float]


@dataclass(frozen=True)
class Point:
    """One method: its name, margin, minutes, whether it keeps to the limits, is chosen, and where choosing it leads."""

    name: str
    margin: float
    minutes: float
    fits: bool
    chosen: bool
    url: str


def curve(points: Sequence[Point], best: Sequence[tuple[float, float, str]], *, waiting: bool = False) -> Markup:
    """Draw the methods as points to be chosen, and the curve of the quickest plans: margin, minutes, and where choosing
    it leads."""
    shown = [(point.margin, point.minutes) for point in points] + [(margin, minutes) for margin, minutes, _ in best]
    if not shown:
        return Markup("")
    low_x, high_x = min(0.0, *(x for x, _ in shown)), max(0.45, *(x for x, _ in shown))
    low_y, high_y = min(y for _, y in shown) * 0.72, max(y for _, y in shown) * 1.2

    def x(margin: float) -> float:
        return LEFT + (max(margin, -0.5) - max(low_x, -0.5)) / (high_x - max(low_x, -0.5)) * (WIDTH - LEFT - RIGHT)

    def y(minutes: float) -> float:
        return TOP + (math.log(high_y) - math.log(minutes)) / (math.log(high_y) - math.log(low_y)) * (
            HEIGHT - TOP - FOOT
        )

    body = [
        rect(x(RESERVE), TOP, WIDTH - RIGHT - x(RESERVE), HEIGHT - TOP - FOOT, class_="curve-safe"),
        line(LEFT, HEIGHT - FOOT, WIDTH - RIGHT, HEIGHT - FOOT, class_="curve-axis"),
        line(LEFT, TOP, LEFT, HEIGHT - FOOT, class_="curve-axis"),
    ]
    for tick in TICKS:
        if low_y < tick < high_y:
            body += [
                line(LEFT, y(tick), WIDTH - RIGHT, y(tick), class_="curve-grid"),
                text(LEFT - 6, y(tick) + 4, str(tick), "curve-number", anchor="end"),
            ]
    for tenth in range(-4, 9, 2):
        if max(low_x, -0.5) <= tenth / 10 <= high_x:
            body.append(text(x(tenth / 10), HEIGHT - FOOT + 15, f"{tenth * 10} %", "curve-number", anchor="middle"))
    body += [
        text(WIDTH - RIGHT, HEIGHT - 3, "temperature margin", "curve-word", anchor="end"),
        text(LEFT + 4, TOP + 10, "min", "curve-word"),
    ]
    if len(best) > 1:
        body.append(tag("polyline", points=" ".join(f"{x(a):.1f},{y(b):.1f}" for a, b, _ in best), class_="curve-best"))
        body += [
            tag(
                "a",
                tag("circle", cx=x(a), cy=y(b), r=4, class_="curve-stop"),
                rect(x(a) - 10, y(b) - 10, 20, 20, class_="curve-touch"),
                href=url,
                class_="curve-step",
                aria_label=f"The quickest plan that keeps {100 * a:.0f} % margin: {b:.1f} min",
            )
            for a, b, url in best
        ]
    elif waiting:
        body.append(text((LEFT + WIDTH) / 2, HEIGHT / 2, "working out the curve …", "curve-word", anchor="middle"))
    body += _points(points, x, y)
    told = "; ".join(f"{point.name} {point.minutes:.1f} min at {100 * point.margin:.0f} % margin" for point in points)
    return drawing(WIDTH, HEIGHT, f"Minutes against temperature margin: {told}", *body, class_="curve", role="group")


def _points(points: Sequence[Point], x: Callable[[float], float], y: Callable[[float], float]) -> list[Markup]:
    """Each way as a mark with its name; names are kept off each other and off the marks, by going up."""
    drawn: list[Markup] = []
    marks = [(x(point.margin), y(point.minutes)) for point in points]
    taken: list[Box] = [(here - 7, there - 7, here + 7, there + 7) for here, there in marks]
    for point in sorted(points, key=lambda each: -y(each.minutes)):
        here, there = x(point.margin), y(point.minutes)
        box = _free(here, there, LETTER * len(point.name), taken)
        taken.append(box)
        mark = (
            polygon([(here, there - 7), (here + 7, there), (here, there + 7), (here - 7, there)], "curve-mark")
            if point.fits
            else group(
                line(here - 6, there - 6, here + 6, there + 6, class_="curve-cross"),
                line(here - 6, there + 6, here + 6, there - 6, class_="curve-cross"),
            )
        )
        label = text(box[0], box[3] - 2, point.name, "curve-name")
        drawn.append(
            tag(
                "a",
                rect(here - 16, there - 16, 32, 32, class_="curve-touch"),
                mark,
                label,
                href=point.url,
                class_="curve-point" + (" chosen" if point.chosen else ""),
                aria_label=f"{point.name}: {point.minutes:.1f} min",
            )
        )
    return drawn


def _free(here: float, there: float, long: float, taken: Sequence[Box]) -> Box:
    """Where a name has room beside its mark, on either side: level with it, else the least way up."""
    starts = [start for start in (here + 11, here - 11 - long) if LEFT <= start and start + long <= WIDTH]
    for up in range(0, int(there - TOP), 3):
        for start in starts:
            box = (start, there - 6 - up, start + long, there + 6 - up)
            if not any(_touch(box, other) for other in taken):
                return box
    return (starts[0], there - 6, starts[0] + long, there + 6)


def _touch(one: Box, other: Box) -> bool:
    return one[0] < other[2] and other[0] < one[2] and one[1] < other[3] and other[1] < one[3]
