"""Slots, angles and edges on the block net: the lines that each face shows of them."""

from collections.abc import Iterator, Mapping

from markupsafe import Markup

from zesty_lark.core.part.surfaces.formed_face import drawn_on_block
from zesty_lark.core.part.surfaces.on_block import Drawn
from zesty_lark.store.models import Part
from zesty_lark.web.shared.svg.element import tag

Box = tuple[float, float, float, float]
Point = tuple[float, float, float]
OFF_MM = 1e-6


def lines_on_net(part: Part, boxes: Mapping[int, Box]) -> list[Markup]:
    """Return the lines of a part's features in the net's cells; none for a plain block."""
    shapes = part.shapes
    if not shapes:
        return []
    sizes = {axis: float(part.size(axis).target_mm) for axis in ("length", "width", "thickness")}
    made = []
    for feature in shapes:
        for drawn in drawn_on_block(feature, sizes):
            made += [_line(points, face, boxes[face], sizes) for face, points in _on_faces(drawn, sizes)]
    return made


def _on_faces(drawn: Drawn, sizes: Mapping[str, float]) -> Iterator[tuple[int, list[Point]]]:
    """The stretches of an outline that lie in a face."""
    ring = [*drawn.points, *(drawn.points[:1] if drawn.closed else ())]
    for face in drawn.faces:
        for one, other in zip(ring, ring[1:], strict=False):
            if _lies_in(one, face, sizes) and _lies_in(other, face, sizes):
                yield face, [one, other]


def _lies_in(point: Point, face: int, sizes: Mapping[str, float]) -> bool:
    x, y, z = point
    off = {1: z - sizes["thickness"], 2: z, 3: y - sizes["width"], 5: y, 4: x, 6: x - sizes["length"]}[face]
    return abs(off) < OFF_MM


def _line(points: list[Point], face: int, box: Box, sizes: Mapping[str, float]) -> Markup:
    """A stretch in its cell: seen from outside, as the net unfolds."""
    length, width, thick = sizes["length"], sizes["width"], sizes["thickness"]
    left, top, wide, tall = box

    def at(point: Point) -> str:
        x, y, z = point
        u, v = {
            1: (x / length, 1 - y / width),
            2: (1 - x / length, 1 - y / width),
            3: (x / length, z / thick),
            5: (x / length, 1 - z / thick),
            4: (z / thick, 1 - y / width),
            6: (1 - z / thick, 1 - y / width),
        }[face]
        return f"{left + u * wide:.2f},{top + v * tall:.2f}"

    return tag("polyline", points=" ".join(at(point) for point in points), class_="net-feature")
