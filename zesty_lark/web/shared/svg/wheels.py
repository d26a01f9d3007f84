"""Wheels to scale: on the rack, on their flange with its weights, over the diamond."""

import math
from collections.abc import Sequence

from markupsafe import Markup

from zesty_lark.core.things.rack.entries import Weight
from zesty_lark.core.wheel.dressing import DiamondPlace
from zesty_lark.web.shared.svg.element import drawing, group, line, polygon, rect, tag, text

ROOM, SIDE_GAP = 6.0, 14.0


def _circle(cx: float, cy: float, r: float, class_: str) -> Markup:
    return tag("circle", cx=round(cx, 3), cy=round(cy, 3), r=round(r, 3), class_=class_)


def rack_wheel(
    diameter: float, width: float, bore: float, *, new: float | None, least: float | None, widest: float, words: str
) -> Markup:
    """Draw a wheel from the front and from the side, to the same scale as every other on the rack [mm]; what it was
    when new is a thin ring, where it is worn out a broken one. ``widest`` is the largest of the rack."""
    middle = widest / 2 + ROOM
    side = 2 * middle + SIDE_GAP
    body = [_circle(middle, middle, diameter / 2, "wheel-body")]
    if new is not None and new > diameter:
        body.append(_circle(middle, middle, new / 2, "wheel-new"))
    if least is not None:
        body.append(_circle(middle, middle, least / 2, "wheel-least"))
    body += [
        _circle(middle, middle, bore / 2, "wheel-bore"),
        rect(side, middle - diameter / 2, width, diameter, class_="wheel-body"),
        line(side - 3, middle, side + width + 3, middle, class_="wheel-axis"),
    ]
    if least is not None:
        for up in (-1, 1):
            body.append(
                line(side, middle + up * least / 2, side + width, middle + up * least / 2, class_="wheel-least")
            )
    return drawing(side + width + ROOM, 2 * middle, words, *body, class_="rack-wheel")


def _on_circle(middle: float, r: float, deg: float, *, clockwise: bool) -> tuple[float, float]:
    """A place on a circle about the middle, 0° at the top, counted the way the wheel turns."""
    turn = math.radians(deg if clockwise else -deg)
    return middle + r * math.sin(turn), middle - r * math.cos(turn)


def flange_drawing(
    diameter: float,
    radius: float,
    *,
    holes: int | None,
    weights: Sequence[Weight],
    heavy_deg: float | None,
    trial_deg: float | None,
    clockwise: bool,
) -> Markup:
    """Draw a flange from the front with its weights or screws, the heavy spot and the light side, and where the trial
    weight sits."""
    room = 18.0
    middle = diameter / 2 + room
    body = [
        _circle(middle, middle, diameter / 2, "flange-body"),
        _circle(middle, middle, radius, "flange-groove"),
        *_turning(middle, diameter / 2 + 5, clockwise),
        polygon([(middle, room + 1), (middle - 2.5, room + 5), (middle + 2.5, room + 5)], "turn-tip"),
    ]
    size = max(diameter / 26, 3.0)
    for hole in range(holes or 0):
        x, y = _on_circle(middle, radius, 360 * hole / (holes or 1), clockwise=clockwise)
        body.append(_circle(x, y, size * 0.7, "flange-hole"))
    if heavy_deg is not None:
        for deg, words, class_ in ((heavy_deg, "heavy", "flange-heavy"), (heavy_deg + 180, "light", "flange-light")):
            x, y = _on_circle(middle, diameter / 2 - 2, deg, clockwise=clockwise)
            body.append(line(middle, middle, x, y, class_=class_))
            x, y = _on_circle(middle, radius * 0.55, deg, clockwise=clockwise)
            body.append(text(x, y - 2, words, "flange-angle", anchor="middle"))
    for deg, mass in weights:
        x, y = _on_circle(middle, radius, deg, clockwise=clockwise)
        body += [
            _circle(x, y, size * 1.4, "flange-weight"),
            text(x, y + size / 2.1, f"{mass:g}", "flange-mass", anchor="middle"),
        ]
        x, y = _on_circle(middle, diameter / 2 + 11, deg, clockwise=clockwise)
        body.append(text(x, y + 2, f"{deg:.0f}°", "flange-angle", anchor="middle"))
    if trial_deg is not None:
        x, y = _on_circle(middle, radius, trial_deg, clockwise=clockwise)
        body.append(
            polygon([(x, y - size * 1.6), (x + size * 1.5, y + size), (x - size * 1.5, y + size)], "flange-trial")
        )
    told = ", ".join(f"{mass:g} g at {deg:.0f}°" for deg, mass in weights) or "no weights"
    return drawing(2 * middle, 2 * middle, f"The flange from the front: {told}", *body, class_="flange-drawing")


def _turning(middle: float, radius: float, clockwise: bool) -> list[Markup]:
    """An arrow round the top that says which way it turns."""
    first, last = (-28, 28) if clockwise else (28, -28)

    def at(deg: float) -> tuple[float, float]:
        turn = math.radians(deg)
        return middle + radius * math.sin(turn), middle - radius * math.cos(turn)

    (x1, y1), (x2, y2) = at(first), at(last)
    way = math.radians(last) + (0.0 if clockwise else math.pi)
    tip = [(x2, y2), *((x2 - 7 * math.cos(way + turn), y2 - 7 * math.sin(way + turn)) for turn in (0.45, -0.45))]
    path = f"M{x1:.2f} {y1:.2f}A{radius:.2f} {radius:.2f} 0 0 {int(clockwise)} {x2:.2f} {y2:.2f}"
    return [tag("path", d=path, class_="turn-arrow"), polygon(tip, "turn-tip")]


def diamond_drawing(diameter: float, place: DiamondPlace, *, clockwise: bool) -> Markup:
    """Draw a wheel from the front with the diamond where it stands: past the centre line the way the wheel turns at its
    bottom, tilted to drag."""
    width, radius = 220.0, diameter / 2
    scale = min(1.0, 90.0 / radius)
    r, cx, cy = radius * scale, width / 2, radius * scale + 26
    away = -1 if place.side == "left" else 1 if place.side == "right" else 0
    x = cx + away * place.offset_mm * scale
    y = cy + math.sqrt(max(r**2 - (x - cx) ** 2, 0.0))
    lean = math.radians(place.tilt_deg) * (away or (-1 if clockwise else 1))
    long = 40.0
    foot = (x - long * math.sin(lean), y + long * math.cos(lean))
    side = (math.cos(lean) * 4, math.sin(lean) * 4)
    neck = (x - 9 * math.sin(lean), y + 9 * math.cos(lean))
    body = [
        _circle(cx, cy, r, "wheel-body"),
        *_turning_in(cx, cy, r - 12, clockwise),
        line(cx, cy - 12, cx, cy + r + 54, class_="wheel-axis"),
        polygon([(x, y), (neck[0] + side[0], neck[1] + side[1]), (foot[0] + side[0], foot[1] + side[1]),
                 (foot[0] - side[0], foot[1] - side[1]), (neck[0] - side[0], neck[1] - side[1])], "diamond"),
        line(12, cy + r + 44, width - 12, cy + r + 44, class_="diamond-table"),
        text(14, cy + r + 58, "front view", "flange-words"),
    ]  # fmt: skip
    if away:
        at, anchor = cy + r + 18, "start" if away > 0 else "end"
        body += [
            line(cx, at, x, at, class_="diamond-offset"),
            text(x + away * 14, at + 4, f"{place.offset_mm:.0f} mm", "flange-words", anchor=anchor),
        ]
    where = "on the centre line" if not away else f"{place.offset_mm:.0f} mm {place.side} of the centre line"
    turns = "clockwise" if clockwise else "counter-clockwise"
    words = f"The wheel turns {turns}; the diamond stands {where}, tilted {place.tilt_deg:.0f}°"
    return drawing(width, cy + r + 64, words, *body, class_="diamond-drawing")


def _turning_in(cx: float, cy: float, radius: float, clockwise: bool) -> list[Markup]:
    return [group(*_turning(0.0, radius, clockwise), transform=f"translate({cx:.2f} {cy:.2f})")]
