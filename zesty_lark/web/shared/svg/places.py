"""The face with its numbered measuring places, front at the bottom as the operator stands."""

from collections.abc import Mapping

from markupsafe import Markup

from zesty_lark.web.shared.svg.element import drawing, rect, tag, text

PLACES: Mapping[str, tuple[float, float]] = {
    "front left": (0.1, 0.88),
    "front right": (0.9, 0.88),
    "middle": (0.5, 0.5),
    "back left": (0.1, 0.12),
    "back right": (0.9, 0.12),
}
"""The usual places and where on the face they lie: share of the length from the left, of the width from the back."""

WIDTH, TALLEST = 320.0, 200.0


def places_map(length_mm: float, width_mm: float) -> Markup:
    """Draw the face to scale with its places numbered in the order they are read."""
    height = max(min(WIDTH * width_mm / length_mm, TALLEST), 70.0)
    body = [rect(1, 1, WIDTH - 2, height, class_="places-face")]
    for number, (across, down) in enumerate(PLACES.values(), start=1):
        x, y = 16 + across * (WIDTH - 32), 16 + down * (height - 32)
        body += [
            tag("circle", cx=x, cy=y, r=13, class_="places-dot"),
            text(x, y + 5, str(number), "places-number", anchor="middle"),
        ]
    body.append(text(WIDTH / 2, height + 20, "front", "places-words", anchor="middle"))
    return drawing(WIDTH, height + 28, "Where to measure, front at the bottom", *body, class_="places")
