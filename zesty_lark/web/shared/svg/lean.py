"""A side that leans, exaggerated and said so: out or in at the top, beside the upright it should be."""

from markupsafe import Markup

from zesty_lark.core.measure.square import Lean
from zesty_lark.web.shared.svg.element import drawing, line, polygon, text

WIDTH, HEIGHT, FOOT, TALL, DRAWN = 360.0, 250.0, 150.0, 180.0, 40.0
BASE_Y = 215.0


def lean_drawing(lean: Lean) -> Markup:
    """Draw a side over the height it was measured over; its lean is drawn forty units wide, whatever it is, and U as a
    band about it."""
    u = float(lean.budget.expanded_mm) * 1000
    most = abs(lean.error_um) + u
    scale = DRAWN / most
    top = FOOT + lean.error_um * scale
    y = BASE_Y - TALL
    times = scale / (TALL / lean.over_mm) * 1000
    body = [
        polygon([(30, BASE_Y), (FOOT, BASE_Y), (top, y), (30, y)], "lean-part"),
        polygon([(FOOT, BASE_Y), (top - u * scale, y), (top + u * scale, y)], "lean-u"),
        line(FOOT, BASE_Y, FOOT, y - 14, class_="lean-upright"),
        line(FOOT, BASE_Y, top, y, class_="lean-side"),
        line(10, BASE_Y, WIDTH - 60, BASE_Y, class_="taper-line"),
        text(FOOT + 52, y + 6, f"{lean.error_um:+.2f} ± {u:.2f} µm", "lean-number"),
        text(FOOT + 52, y + 28, f"over {lean.over_mm:g} mm: {lean.arcsec:+.1f}″", "plate-word"),
        text(30, BASE_Y + 24, f"drawn about {times:,.0f} times; + leans out at the top", "plate-word"),
    ]
    words = f"The side {lean.words} by {abs(lean.error_um):.2f} micrometres over {lean.over_mm:g} millimetres"
    return drawing(WIDTH, HEIGHT, words, *body, class_="lean")
