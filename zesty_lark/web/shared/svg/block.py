"""The block as it is taken in, drawn to scale as its sizes are typed, with the stock of each size as a sliver."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from markupsafe import Markup

from zesty_lark.core.part.surfaces.on_block import Drawn
from zesty_lark.core.quantities.units import Unit, size_text, small_text
from zesty_lark.web.shared.svg.element import drawing, line, polygon, rect, tag, text

WIDTH, HEIGHT = 360.0, 250.0
SLANT = 0.45


@dataclass(frozen=True)
class SizeDrawn:
    """A size as far as it is known: target and greatest measured [mm]."""

    target_mm: Decimal | None
    measured_mm: Decimal | None


def block(sizes: Mapping[str, SizeDrawn], unit: Unit, other: Unit, features: Sequence[Drawn] = ()) -> Markup:
    """Draw the block in an oblique view, with what is cut into it where it lies; sizes not known yet are drawn as a
    plain outline."""
    known = {axis: float(size.target_mm) for axis, size in sizes.items() if size.target_mm}
    usual = max(known.values(), default=1.0)
    long, wide, thick = (
        known.get(axis, usual * share) for axis, share in (("length", 1.0), ("width", 0.6), ("thickness", 0.3))
    )
    scale = min((WIDTH - 110) / (long + wide * SLANT), (HEIGHT - 70) / (thick + wide * SLANT))
    length, depth, height = long * scale, wide * scale * SLANT, max(thick * scale, 3.0)
    x, y = 14.0, 24.0 + depth
    body = [
        polygon([(x, y), (x + depth, y - depth), (x + depth + length, y - depth), (x + length, y)], "block-top"),
        polygon(
            [
                (x + length, y),
                (x + length + depth, y - depth),
                (x + length + depth, y - depth + height),
                (x + length, y + height),
            ],
            "block-end",
        ),
        rect(x, y, length, height, class_="block-front"),
        *_features(features, (x, y + height), scale),
        _label(x + length / 2, y + height + 20, sizes["length"], unit, anchor="middle"),
        _label(x + length + depth + 8, y - depth + height / 2 + 5, sizes["thickness"], unit, anchor="start"),
        _label(x + length + depth / 2 + 12, y + height - depth / 2 + 12, sizes["width"], unit, anchor="start"),
    ]
    words = " × ".join(_written(sizes[axis], unit) for axis in ("length", "width", "thickness"))
    if unit != other and all(size.target_mm for size in sizes.values()):
        body.append(
            text(
                x,
                HEIGHT - 8,
                " × ".join(_written(sizes[axis], other) for axis in ("length", "width", "thickness")) + f" {other}",
                "block-other",
            )
        )
    return drawing(WIDTH, HEIGHT, f"The block: {words}", *body, class_="block")


SEEN = (1, 5, 6)
"""The faces of the block that the view shows: from above, the front and the right end."""


def _features(features: Sequence[Drawn], corner: tuple[float, float], scale: float) -> list[Markup]:
    """Edges of slots, angles and edges; those on faces that are turned away are dashed."""

    def at(point: tuple[float, float, float]) -> tuple[float, float]:
        x, y, z = point
        return corner[0] + (x + y * SLANT) * scale, corner[1] - (z + y * SLANT) * scale

    made: list[Markup] = []
    for feature in features:
        points = [at(point) for point in feature.points]
        path = " ".join(f"{x:.2f},{y:.2f}" for x, y in [*points, *(points[:1] if feature.closed else [])])
        hidden = "" if set(feature.faces) & set(SEEN) else " hidden"
        made.append(tag("polyline", points=path, class_=f"block-feature{hidden}"))
        if feature.words:
            middle_x = sum(px for px, _ in points) / len(points)
            middle_y = sum(py for _, py in points) / len(points)
            made.append(text(middle_x, middle_y - 3, feature.words, "block-feature-words", anchor="middle"))
    return made


def _written(size: SizeDrawn, unit: Unit) -> str:
    return size_text(size.target_mm, unit) if size.target_mm else "?"


def _label(x: float, y: float, size: SizeDrawn, unit: Unit, *, anchor: str) -> Markup:
    return text(x, y, _written(size, unit), "block-size", anchor=anchor)


def sliver(size: SizeDrawn, unit: Unit) -> Markup | None:
    """Draw the stock on a size as a sliver beside the size itself, a hundred times enlarged; nothing if unknown."""
    if not size.target_mm or not size.measured_mm or size.measured_mm < size.target_mm:
        return None
    stock = size.measured_mm - size.target_mm
    width = min(float(stock / size.target_mm) * 100 * 100, 100.0)
    return drawing(
        200,
        22,
        f"{small_text(stock, unit)} of stock",
        rect(0, 4, 60, 14, class_="sliver-size"),
        rect(60, 4, max(width * 0.6, 1.5), 14, class_="sliver-stock"),
        line(60, 1, 60, 21, class_="sliver-edge"),
        text(66 + max(width * 0.6, 1.5), 16, f"+{small_text(stock, unit)}", "sliver-words"),
        class_="sliver",
    )
