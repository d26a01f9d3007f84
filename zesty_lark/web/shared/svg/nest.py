"""A load of parts and blocks on the chuck, from above, front at the bottom."""

from collections.abc import Sequence

from markupsafe import Markup

from zesty_lark.core.squaring.nest import Nest
from zesty_lark.web.shared.svg.element import drawing, line, rect, text

WIDTH, EDGE, POLE_MM = 560.0, 8.0, 12.0


def nest_plan(nest: Nest, chuck_length_mm: float, chuck_width_mm: float, pieces: Sequence[int] = ()) -> Markup:
    """Draw a load to scale on its chuck; its parts bear the numbers of these pieces."""
    scale = (WIDTH - 2 * EDGE) / chuck_length_mm
    height = chuck_width_mm * scale + 2 * EDGE
    body = [rect(EDGE, EDGE, chuck_length_mm * scale, chuck_width_mm * scale, class_="nest-chuck")]
    body += [
        line(EDGE + at * POLE_MM * scale, EDGE, EDGE + at * POLE_MM * scale, height - EDGE, class_="nest-pole")
        for at in range(1, int(chuck_length_mm / POLE_MM))
    ]
    number = 0
    for place in nest.places:
        y = height - EDGE - (place.y_mm + place.across_mm) * scale
        part = place.kind == "part"
        body.append(
            rect(
                EDGE + place.x_mm * scale,
                y,
                place.along_mm * scale,
                place.across_mm * scale,
                class_="nest-part" if part else "nest-block",
            )
        )
        if part:
            number += 1
            body.append(
                text(
                    EDGE + (place.x_mm + place.along_mm / 2) * scale,
                    y + place.across_mm * scale / 2 + 5,
                    str(pieces[number - 1] if number <= len(pieces) else number),
                    "nest-number",
                    anchor="middle",
                )
            )
    return drawing(
        WIDTH,
        height,
        f"{nest.a_load} parts on the chuck, {nest.along} along and {nest.across} across, with lead-in "
        "and support blocks",
        *body,
        class_="nest",
    )
