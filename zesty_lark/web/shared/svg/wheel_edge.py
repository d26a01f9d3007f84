"""A wheel's edge: the outline of its shape to scale, and its face as it is worn, magnified."""

import math

from markupsafe import Markup

from zesty_lark.core.wheel.profile import WornFace
from zesty_lark.core.wheel.shaping import Profile
from zesty_lark.web.shared.svg.element import drawing, line, polygon, text


def edge_outline(outline: Profile, words: str, *, part: Profile | None = None) -> Markup:
    """Draw a wheel's edge to scale, its lowest line at the bottom, and under it the part's outline where there is one
    [mm]."""
    xs = [x for x, _ in outline + (part or [])]
    ys = [y for _, y in outline + (part or [])]
    wide, high = max(xs) - min(xs), max(max(ys) - min(ys), 1e-6)
    scale = min(260.0 / max(wide, 1e-6), 150.0 / high)
    left, top = 16 - min(xs) * scale, 16 + max(ys) * scale

    def at(points: Profile) -> list[tuple[float, float]]:
        return [(round(left + x * scale, 2), round(top - y * scale, 2)) for x, y in points]

    body = [polygon(at(outline), "edge-wheel")]
    if part:
        body.append(polygon(at(part), "edge-part"))
    bar = _nice(wide / 3)
    foot = top - min(ys) * scale + 14
    body += [
        line(16, foot, 16 + bar * scale, foot, class_="edge-scale"),
        text(20 + bar * scale, foot + 4, f"{bar:g} mm", "flange-words"),
    ]
    return drawing(wide * scale + 72, foot + 10, words, *body, class_="edge-outline")


def _nice(length: float) -> float:
    """The largest of 1, 2, 5 times a power of ten that is not over a length."""
    power = 10.0 ** math.floor(math.log10(max(length, 1e-6)))
    return max(float(step) * power for step in (1, 2, 5) if step * power <= length * (1 + 1e-9))


def worn_drawing(face: WornFace, depth_mm: float) -> Markup:
    """Draw the face across, its front edge left: what is worn back is magnified, a full step deep at the most."""
    width, high, left, top = 300.0, 70.0, 34.0, 30.0
    whole = face.across_mm[-1]

    def x(mm: float) -> float:
        return left + mm / whole * width

    def y(mm: float) -> float:
        return top + high - mm / max(depth_mm, 1e-9) * high

    points = [(left, top - 14.0), (left, y(face.worn_mm[0]))]
    before = 0.0
    for across, worn in zip(face.across_mm, face.worn_mm, strict=True):
        points += [(x(before), y(worn)), (x(across), y(worn))]
        before = across
    points.append((left + width, top - 14.0))
    third = whole / 3
    at = x(whole - third) if face.cuts == "back" else x(third)
    body = [
        polygon(points, "worn-wheel"),
        line(left, top + high, left + width, top + high, class_="worn-level"),
        line(at, top - 10, at, top + high + 8, class_="worn-third"),
        text(at, top + high + 20, "a third", "flange-words", anchor="middle"),
        text(left, top + high + 20, "front", "flange-words", anchor="middle"),
        text(left + width, top + high + 20, "back", "flange-words", anchor="middle"),
        text(left - 4, y(depth_mm) + 4, f"{1000 * depth_mm:.0f} µm", "flange-words", anchor="end"),
        text(left - 4, top + high, "0", "flange-words", anchor="end"),
    ]
    words = f"The wheel's face: worn over {100 * face.worn_share:.0f} % of its width"
    return drawing(left + width + 24, top + high + 28, words, *body, class_="worn-drawing")
