"""A predicted surface from above: height in bands from the highest, which is 0; front at the bottom."""

from markupsafe import Markup

from zesty_lark.core.process.heat import HeatMap
from zesty_lark.web.shared.svg.element import drawing, rect, text

WIDTH, BANDS, MOST_ACROSS = 380.0, 7, 48


def plate(heat: HeatMap) -> Markup:
    """Draw a heat map's heights in even bands."""
    rows = heat.heights_um
    step = max(1, len(rows[0]) // MOST_ACROSS)
    shown = [row[::step] for row in rows[::step]]
    cell = WIDTH / len(shown[0])
    height = cell * len(shown)
    least = min(min(row) for row in rows)
    body = []
    for y, row in enumerate(shown):
        for x, value in enumerate(row):
            band = 0 if least == 0 else min(BANDS - 1, int(value / least * BANDS))
            body.append(
                rect(x * cell, height - (y + 1) * cell, cell + 0.6, cell + 0.6, class_=f"plate-band band-{band}")
            )
    body += [
        text(6, height + 18, "front", "plate-word"),
        text(WIDTH, height + 18, f"darkest {-least:.2f} µm low when cold", "plate-word", anchor="end"),
    ]
    return drawing(
        WIDTH, height + 24, f"Predicted hollow of {heat.hollow_um:.2f} micrometres when cold", *body, class_="plate"
    )


def share_bar(value: float, most: float) -> Markup:
    """Draw a value as a bar beside the greatest of its kind."""
    share = value / most if most > 0 else 0.0
    return drawing(
        120,
        12,
        f"{share:.0%} of the greatest",
        rect(0, 1, 120, 10, class_="share-all"),
        rect(0, 1, 120 * share, 10, class_="share-part"),
        class_="share-bar",
    )
