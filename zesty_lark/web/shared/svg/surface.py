"""A measured surface from above, front at the bottom: areas by height, points, the feather line, what was seen."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

from markupsafe import Markup

from zesty_lark.core.measure.maps.contour import Outline
from zesty_lark.core.measure.maps.layout import Layout
from zesty_lark.core.measure.maps.view import MOST_DRAWN, Ground, Plate
from zesty_lark.web.shared.svg.element import drawing, group, line, polygon, rect, tag, text

WIDTH, TALLEST, LEFT, TOP, LEGEND = 600.0, 400.0, 34.0, 22.0, 150.0
HEIGHTS = ("height-0", "height-1", "height-2", "height-3", "height-4", "height-5", "height-6")
"""Areas from the lowest to the highest; the lower ones are hatched too, so that grey paper tells them apart."""
LOWER = 3
MOST_LABELLED = 60
ARROW = 46.0


@dataclass(frozen=True)
class Shown:
    """What else a drawing shows: the feather line's area, what was seen ground or not by place and which of it differs,
    the points that hold the minimum zone, the slopes along and across [µm per 100 mm] for the taper's arrows, the whole
    surface's length and width [mm]."""

    ground: Ground | None = None
    seen: Mapping[int, bool] = field(default_factory=dict)
    off: tuple[int, ...] = ()
    held_by: tuple[int, ...] = ()
    slopes: tuple[float, float] | None = None
    size: tuple[float, float] | None = None
    title: str = "The measured surface"
    change: bool = False


@dataclass(frozen=True)
class _Frame:
    """Where millimetres go on the drawing."""

    x0: float
    y0: float
    x1: float
    y1: float

    @property
    def scale(self) -> float:
        across, up = max(self.x1 - self.x0, 1e-6), max(self.y1 - self.y0, 1e-6)
        return min(WIDTH / across, TALLEST / up)

    @property
    def width(self) -> float:
        return (self.x1 - self.x0) * self.scale

    @property
    def height(self) -> float:
        return (self.y1 - self.y0) * self.scale

    def at(self, x: float, y: float) -> tuple[float, float]:
        return LEFT + (x - self.x0) * self.scale, TOP + (self.y1 - y) * self.scale


def _frame(extent: tuple[float, float, float, float], size: tuple[float, float] | None) -> _Frame:
    if size is None:
        return _Frame(*extent)
    return _Frame(min(0.0, extent[0]), min(0.0, extent[1]), max(size[0], extent[2]), max(size[1], extent[3]))


def surface_plate(plate: Plate, shown: Shown) -> Markup:
    """Draw a map."""
    frame = _frame(plate.extent, shown.size)
    body = [_hatch(), rect(LEFT, TOP, frame.width, frame.height, class_="plate-edge")]
    for band in plate.bands:
        number = band.number + LOWER
        path = _path(band.outlines, frame.at)
        body.append(tag("path", d=path, class_=f"plate-area {HEIGHTS[number]}", fill_rule="evenodd"))
        if number < LOWER:
            body.append(tag("path", d=path, class_="plate-hatch", fill="url(#low)", fill_rule="evenodd"))
    if shown.ground is not None:
        path = _path(shown.ground.outlines, frame.at)
        body.append(tag("path", d=path, class_="feather", fill_rule="evenodd"))
    body += [
        rect(frame.at(x0, y1)[0], frame.at(x0, y1)[1], (x1 - x0) * frame.scale, (y1 - y0) * frame.scale, class_="patch")
        for x0, y0, x1, y1 in (plate.outlines if len(plate.outlines) > 1 else ())
    ]
    body += _points(plate, shown, frame)
    if shown.slopes is not None:
        body += _arrows(shown.slopes, frame)
    body += _legend(plate, frame, change=shown.change)
    body.append(text(LEFT, TOP + frame.height + 18, "front", "plate-word"))
    over = plate.high_um - plate.low_um
    words = f"{shown.title}: {len(plate.points)} points over {over:.2f} micrometres, front at the bottom"
    return drawing(LEFT + frame.width + LEGEND, TOP + max(frame.height, 210.0) + 40, words, *body, class_="surface")


def _hatch() -> Markup:
    stripe = tag("path", d="M0 6 L6 0", class_="hatch-line")
    return tag("defs", tag("pattern", stripe, id="low", width=6, height=6, patternUnits="userSpaceOnUse"))


def _path(outlines: Sequence[Outline], at: Callable[[float, float], tuple[float, float]]) -> str:
    parts = []
    for outline in outlines:
        corners = [at(x, y) for x, y in outline]
        parts.append("M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in corners) + "Z")
    return "".join(parts)


def _points(plate: Plate, shown: Shown, frame: _Frame) -> list[Markup]:
    numbers = range(len(plate.points)) if len(plate.points) <= MOST_DRAWN else (plate.high, plate.low)
    labelled = len(plate.points) <= MOST_LABELLED
    body = []
    for number in numbers:
        x, y, z = plate.points[number]
        here = frame.at(x, y)
        body += _mark(here, shown.seen.get(number), off=number in shown.off)
        body.append(tag("circle", cx=here[0], cy=here[1], r=13, class_="plate-hit", data_number=number))
        if labelled and number not in (plate.high, plate.low):
            body.append(
                text(here[0], here[1] - 7, f"{z:+.1f}" if shown.change else f"{z:.1f}", "plate-number", anchor="middle")
            )
    for number in shown.held_by:
        x, y = frame.at(*plate.points[number][:2])
        body.append(tag("circle", cx=x, cy=y, r=8, class_="zone-holder"))
    for number, word, up in ((plate.high, "high", -1), (plate.low, "low", 1)):
        x, y = frame.at(*plate.points[number][:2])
        flag = [(x, y + 3 * up), (x - 6, y + 13 * up), (x + 6, y + 13 * up)]
        below = y + 26 if up > 0 else y - 17
        body += [
            polygon(flag, "plate-flag"),
            text(
                min(max(x, LEFT + 24), LEFT + frame.width - 24),
                below,
                f"{word} {plate.points[number][2]:.2f}",
                "plate-flag-word",
                anchor="middle",
            ),
        ]
    return body


def _mark(here: tuple[float, float], seen: bool | None, *, off: bool) -> list[Markup]:
    x, y = here
    if seen is None:
        return [tag("circle", cx=x, cy=y, r=3, class_="plate-point")]
    mark = rect(x - 6, y - 6, 12, 12, class_="seen-ground" if seen else "seen-not")
    return [mark, tag("circle", cx=x, cy=y, r=11, class_="seen-off")] if off else [mark]


def _arrows(slopes: tuple[float, float], frame: _Frame) -> list[Markup]:
    """The taper: an arrow along and one across, each to the lower side, with what it falls in 100 mm."""
    body = []
    along, across = slopes
    middle_x, bottom = LEFT + frame.width / 2, TOP + frame.height + 14
    if abs(along) >= 0.05:
        body += _arrow((middle_x, bottom), (-1 if along > 0 else 1, 0))
        body.append(text(middle_x, bottom + 18, f"{abs(along):.2f} µm in 100 mm", "plate-word", anchor="middle"))
    if abs(across) >= 0.05:
        x, y = LEFT - 14, TOP + frame.height / 2
        body += _arrow((x, y), (0, 1 if across > 0 else -1))
        words = text(0, 0, f"{abs(across):.2f} µm in 100", "plate-word", anchor="middle")
        body.append(group(words, transform=f"translate({x - 7:.1f} {y:.1f}) rotate(-90)"))
    return body


def _arrow(middle: tuple[float, float], to: tuple[int, int]) -> list[Markup]:
    (x, y), (dx, dy) = middle, to
    tip = x + dx * ARROW, y + dy * ARROW
    head = [
        tip,
        (tip[0] - dx * 10 - dy * 5, tip[1] - dy * 10 - dx * 5),
        (tip[0] - dx * 10 + dy * 5, tip[1] - dy * 10 + dx * 5),
    ]
    return [line(x - dx * ARROW, y - dy * ARROW, *tip, class_="taper-line"), polygon(head, "taper-head")]


def _legend(plate: Plate, frame: _Frame, *, change: bool) -> list[Markup]:
    x, row = LEFT + frame.width + 22, 26.0
    body = [text(x, TOP + 4, "change, µm" if change else "height, µm", "plate-word")]
    for place, band in enumerate(sorted(plate.bands, key=lambda band: -band.number)):
        y = TOP + 14 + place * row
        number = band.number + LOWER
        body.append(rect(x, y, 30, row, class_=f"plate-area {HEIGHTS[number]}"))
        if number < LOWER:
            body.append(rect(x, y, 30, row, class_="plate-hatch", fill="url(#low)"))
        sign = "middle" if number == LOWER else "▲" if number > LOWER else "▼"
        body.append(text(x + 38, y + row / 2 + 5, f"{(band.from_um + band.to_um) / 2:.1f} {sign}", "plate-scale"))
    return body


def places_plate(layout: Layout, size: tuple[float, float] | None, done: Mapping[int, str], now: int | None) -> Markup:
    """Draw where a map is read, in which order, what was read, and where the next reading is taken."""
    xs, ys = [each.x_mm for each in layout.places], [each.y_mm for each in layout.places]
    frame = _frame((min(xs), min(ys), max(xs), max(ys)), size)
    corners = [frame.at(place.x_mm, place.y_mm) for place in layout.places]
    walk = " ".join(f"{x:.1f},{y:.1f}" for x, y in corners)
    body = [
        rect(LEFT, TOP, frame.width, frame.height, class_="plate-edge"),
        tag("polyline", points=walk, class_="walk"),
    ]
    target = 0 if now == len(layout.places) else now
    for number, (x, y) in enumerate(corners):
        here = number == target
        read = number in done
        look = "place-now" if here else "place-read" if read else "place-open"
        body.append(tag("circle", cx=x, cy=y, r=15 if here else 9, class_=look))
        words = done[number] if read and not here else str(number + 1)
        body.append(
            text(
                x,
                y + (5 if here else -13 if read else 4),
                words,
                "place-word-now" if here else "place-word",
                anchor="middle",
            )
        )
    body.append(text(LEFT, TOP + frame.height + 18, "front", "plate-word"))
    return drawing(
        LEFT + frame.width + 40, TOP + frame.height + 30, "Where to read, front at the bottom", *body, class_="surface"
    )
