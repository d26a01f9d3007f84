"""Outlines to scale, one unit of the drawing a millimetre before it is scaled: angles, slots, rolls and radii."""

from collections.abc import Sequence

from markupsafe import Markup

from zesty_lark.core.angles_slots.drawn import Outline
from zesty_lark.web.shared.svg.element import drawing, group, polygon, tag, text

WIDE, HIGH, EDGE = 420.0, 300.0, 34.0
APART = (90.0, 14.0)
"""Words stand so far apart, along and up, that they do not cover each other."""


def outlines(drawn: Sequence[Outline], title: str) -> Markup:
    """Draw outlines as large as there is room, up is up; words stand beside what they are about."""
    xs = [x for each in drawn for x, _ in _reach(each)]
    ys = [y for each in drawn for _, y in _reach(each)]
    scale = min((WIDE - 2 * EDGE) / max(max(xs) - min(xs), 1e-6), (HIGH - 2 * EDGE) / max(max(ys) - min(ys), 1e-6))
    wide, high = (max(xs) - min(xs)) * scale + 2 * EDGE, (max(ys) - min(ys)) * scale + 2 * EDGE

    def at(point: tuple[float, float]) -> tuple[float, float]:
        return round(EDGE + (point[0] - min(xs)) * scale, 3), round(EDGE + (max(ys) - point[1]) * scale, 3)

    body, words, taken = list[Markup](), list[Markup](), list[tuple[float, float]]()
    for each in drawn:
        points = [at(point) for point in each.points]
        if each.radius:
            (cx, cy), r = points[0], round(each.radius * scale, 3)
            body.append(tag("circle", cx=cx, cy=cy, r=r, class_=f"out-{each.role}"))
        elif each.closed:
            body.append(polygon(points, f"out-{each.role}"))
        else:
            path = " ".join(f"{x},{y}" for x, y in points)
            body.append(tag("polyline", points=path, class_=f"out-{each.role} out-line"))
        if each.words:
            x, y = max(points)
            late = x > wide * 0.6
            y += 15 if each.role == "ground" else -6
            while any(abs(x - other) < APART[0] and abs(y - beside) < APART[1] for other, beside in taken):
                y -= APART[1]
            taken.append((x, y))
            words.append(text(x - 4 if late else x + 4, y, each.words, "out-words", anchor="end" if late else "start"))
    return drawing(wide, high, title, group(*body), group(*words), class_="outlines")


def _reach(each: Outline) -> list[tuple[float, float]]:
    if not each.radius:
        return each.points
    (x, y), r = each.points[0], each.radius
    return [(x - r, y - r), (x + r, y + r)]
