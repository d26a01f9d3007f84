"""A machine from the front, to scale: the wheel over the chuck, and the load between them."""

from markupsafe import Markup

from zesty_lark.web.shared.svg.element import drawing, line, rect, tag, text

WIDE, EDGE, CHUCK_MM, TABLE_MM, AIR_MM = 420.0, 10.0, 40.0, 14.0, 30.0
SHARE_SEEN = 0.62
"""So much of the wheel is seen under its guard."""


def machine_front(
    chuck_mm: float,
    wheel_mm: float | None,
    piece_mm: tuple[float, float] | None,
    *,
    many: int,
    touching: bool,
    title: str,
) -> Markup:
    """Draw a machine as it stands.

    Parameters
    ----------
    chuck_mm : float
        How long the chuck is along the travel [mm].
    wheel_mm : float or None
        The wheel's diameter; ``None`` draws where one would be [mm].
    piece_mm : (float, float) or None
        How long and how high a piece that is up is [mm].
    many : int
        How many are up; one is drawn, where the others lie is on the set-up.
    touching : bool
        Whether the wheel is touched off on it; else it stands clear.
    title : str
        The same in words.
    """
    scale = (WIDE - 2 * EDGE) / chuck_mm
    across = wheel_mm or chuck_mm * 0.4
    load_high = 0.0 if piece_mm is None else piece_mm[1]
    clear = 0.0 if touching else AIR_MM
    high = (across * SHARE_SEEN + clear + load_high + CHUCK_MM + TABLE_MM) * scale + EDGE
    top_of_chuck = high - EDGE - (CHUCK_MM + TABLE_MM) * scale
    bottom = top_of_chuck - (load_high + clear) * scale
    middle, radius = WIDE / 2, across / 2 * scale
    wheel = tag(
        "circle", cx=middle, cy=bottom - radius, r=radius, class_="machine-wheel" if wheel_mm else "machine-no-wheel"
    )
    shown = [
        wheel,
        rect(EDGE, top_of_chuck, chuck_mm * scale, CHUCK_MM * scale, class_="machine-chuck"),
        rect(0, top_of_chuck + CHUCK_MM * scale, WIDE, TABLE_MM * scale, class_="machine-table"),
    ]
    if piece_mm is None:
        shown.append(text(middle, top_of_chuck + CHUCK_MM * scale / 2 + 5, "empty", "machine-empty", anchor="middle"))
    else:
        long = min(piece_mm[0], chuck_mm) * scale
        shown.append(
            rect(middle - long / 2, top_of_chuck - load_high * scale, long, load_high * scale, class_="machine-load")
        )
    if many > 1:
        shown.append(
            text(
                WIDE - EDGE - 4,
                top_of_chuck + CHUCK_MM * scale / 2 + 5,
                f"{many} pieces",
                "machine-empty",
                anchor="end",
            )
        )
    if touching:
        shown.append(line(middle - 30, bottom, middle + 30, bottom, class_="machine-touch"))
    return drawing(WIDE, high, title, *shown, class_="machine-front")
