"""The range of a chuck's maps over the years."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from markupsafe import Markup

from zesty_lark.web.shared.svg.element import drawing, line, rect, tag, text

WIDTH, HEIGHT, LEFT, BOTTOM = 420.0, 150.0, 44.0, 30.0
LEFTWARDS = 0.8
"""Figures of marks beyond this share of the width stand left of them."""


@dataclass(frozen=True)
class Past:
    """A map: when, and its range [µm]."""

    at: datetime
    range_um: float


def range_history(past: Sequence[Past], limit_um: float) -> Markup:
    """Draw ranges against time, each a mark with its figure, and the limit [µm]."""
    most = max(limit_um, *(each.range_um for each in past)) * 1.25
    span = max((past[-1].at - past[0].at).total_seconds(), 1.0)

    def at(each: Past) -> tuple[float, float]:
        along = (each.at - past[0].at).total_seconds() / span
        return LEFT + along * (WIDTH - LEFT - 40), HEIGHT - BOTTOM - each.range_um / most * (HEIGHT - BOTTOM - 16)

    body = [
        rect(LEFT, 6, WIDTH - LEFT - 20, HEIGHT - BOTTOM - 6, class_="plate-edge"),
        text(4, 18, "µm", "plate-word"),
        line(LEFT, HEIGHT - BOTTOM, WIDTH - 20, HEIGHT - BOTTOM, class_="taper-line"),
        tag("polyline", points=" ".join(f"{x:.1f},{y:.1f}" for x, y in map(at, past)), class_="walk"),
    ]
    height = HEIGHT - BOTTOM - limit_um / most * (HEIGHT - BOTTOM - 16)
    body += [
        line(LEFT, height, WIDTH - 20, height, class_="limit-line"),
        text(LEFT + 6, height - 5, f"limit {limit_um:g}", "plate-word"),
    ]
    for number, each in enumerate(past):
        x, y = at(each)
        left = x > LEFTWARDS * WIDTH
        body += [
            tag("circle", cx=x, cy=y, r=4, class_="plate-point"),
            text(
                x - 6 if left else x + 6,
                y + 16,
                f"{each.range_um:.1f}",
                "plate-word",
                anchor="end" if left else "start",
            ),
        ]
        if number in (0, len(past) - 1):
            anchor = "start" if number == 0 else "end"
            body.append(
                text(x if number == 0 else WIDTH - 20, HEIGHT - 10, f"{each.at:%b %Y}", "plate-word", anchor=anchor)
            )
    words = ", ".join(f"{each.at:%b %Y} {each.range_um:.1f}" for each in past)
    return drawing(WIDTH, HEIGHT, f"Range of the maps in micrometres: {words}", *body, class_="history")
