"""Slots, inclined faces, chamfers and edges where they lie on their block: edges in space, from the print's figures.

The block's frame: x along its length from face 4, y along its width from face 5, z up its thickness from face 2 [mm].
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from zesty_lark.core.part.faces import AXIS, OPPOSITE
from zesty_lark.core.part.surfaces.features import EdgeBreak, Feature, Incline, LeadIns, Radius, Slot
from zesty_lark.core.part.surfaces.incline import incline_normal
from zesty_lark.core.part.surfaces.slot import aim_of, slot_axes

Point = tuple[float, float, float]
PLACE = {"length": 0, "width": 1, "thickness": 2}
UPPER = (6, 3, 1)
"""The faces at the far end of length, width and thickness."""
ARC_PARTS = 8


@dataclass(frozen=True)
class Drawn:
    """A line in space [mm], closed where it bounds a surface; the faces it is seen on, and its words."""

    feature: str
    points: tuple[Point, ...]
    faces: tuple[int, ...]
    closed: bool = False
    words: str = ""


class _Frame:
    """Places on a block, from its faces: so far in from one, so far in from another, so far along the third."""

    def __init__(self, sizes: Mapping[str, float]) -> None:
        self.sizes = sizes

    def at(self, **ways: float) -> Point:
        """A point by ``face3=5.0``: so far in from each of three faces [mm]."""
        made = [0.0, 0.0, 0.0]
        for name, far in ways.items():
            face = int(name.removeprefix("face"))
            axis = AXIS[face]
            made[PLACE[axis]] = self.sizes[axis] - far if face in UPPER else far
        return made[0], made[1], made[2]


def drawn_on_block(feature: Feature, sizes: Mapping[str, float]) -> list[Drawn]:
    """Return a feature's edges on a block of so much length, width and thickness [mm]."""
    return _DRAWERS[feature.kind](feature, _Frame(sizes))


def _third(one: int, other: int) -> tuple[int, int]:
    """The two faces at the ends of an edge between two faces."""
    axis = next(each for each in PLACE if each not in (AXIS[one], AXIS[other]))
    ends = [face for face, of in AXIS.items() if of == axis]
    return ends[0], ends[1]


def _slot(slot: Slot, frame: _Frame) -> list[Drawn]:
    run, _ = slot_axes(slot)
    first, last = (face for face, axis in AXIS.items() if axis == run)
    aim, long = aim_of(slot), frame.sizes[run]
    left, right, deep = float(aim.left_mm), float(aim.right_mm), float(slot.depth_mm)
    up, datum = f"face{slot.on_face}", f"face{slot.datum}"

    def at(wall: float, down: float, along: float) -> Point:
        return frame.at(**{up: down, datum: wall, f"face{first}": along})

    lines = [
        Drawn(slot.name, (at(wall, 0, 0), at(wall, 0, long)), (slot.on_face,), words=slot.name if wall == left else "")
        for wall in (left, right)
    ]
    for end, along in ((first, 0.0), (last, long)):
        profile = (at(left, 0, along), at(left, deep, along), at(right, deep, along), at(right, 0, along))
        lines.append(Drawn(slot.name, profile, (end,)))
    return lines


def _incline(incline: Incline, frame: _Frame) -> list[Drawn]:
    """Its four corners: where its plane meets the block's sides, down to the foot at most."""
    normal = incline_normal(incline)
    up, low = incline.on_face, incline.falls_to
    high_side = OPPOSITE[low]
    one, other = _third(up, low)
    long, wide = frame.sizes[AXIS[low]], frame.sizes[AXIS[one]]
    whole, top = frame.sizes[AXIS[up]], float(incline.height_mm)

    def corner(along: float, across: float) -> Point:
        height = top - (normal.nx * along + normal.ny * across) / normal.nz
        down = whole - min(max(height, 0.0), whole)
        return frame.at(**{f"face{up}": down, f"face{high_side}": along, f"face{one}": across})

    ring = (corner(0, 0), corner(long, 0), corner(long, wide), corner(0, wide))
    return [Drawn(incline.name, ring, (up, one, other, low, high_side), closed=True, words=incline.name)]


def _lead_ins(pair: LeadIns, frame: _Frame) -> list[Drawn]:
    """The floor's chamfer falls to the end, the wall's turns away from its side."""
    up, wall, end = f"face{pair.on_face}", f"face{pair.wall_face}", f"face{pair.end}"
    floor_long, wall_long = float(pair.floor_long_mm), float(pair.wall_long_mm)
    drop = floor_long * math.tan(math.radians(pair.floor_deg))
    aside = wall_long * math.tan(math.radians(pair.wall_deg))
    wide = frame.sizes[AXIS[pair.wall_face]]
    floor = (
        frame.at(**{up: 0, wall: 0, end: floor_long}),
        frame.at(**{up: 0, wall: wide, end: floor_long}),
        frame.at(**{up: drop, wall: wide, end: 0}),
        frame.at(**{up: drop, wall: 0, end: 0}),
    )
    beside = (
        frame.at(**{up: 0, wall: 0, end: wall_long}),
        frame.at(**{up: 0, wall: aside, end: 0}),
        frame.at(**{up: drop, wall: aside, end: 0}),
    )
    return [
        Drawn(pair.name, floor, (pair.on_face, pair.end), closed=True, words=pair.name),
        Drawn(pair.name, beside, (pair.on_face, pair.wall_face, pair.end)),
    ]


def _radius(radius: Radius, frame: _Frame) -> list[Drawn]:
    one, other = _third(radius.on_face, radius.to_face)
    r, long = float(radius.radius_mm), frame.sizes[AXIS[one]]
    up, side = f"face{radius.on_face}", f"face{radius.to_face}"

    def at(turn: float, along: float) -> Point:
        return frame.at(**{up: r - r * math.cos(turn), side: r - r * math.sin(turn), f"face{one}": along})

    turns = [number * math.pi / 2 / ARC_PARTS for number in range(ARC_PARTS + 1)]
    lines = [
        Drawn(radius.name, (at(0, 0), at(0, long)), (radius.on_face,), words=radius.name),
        Drawn(radius.name, (at(math.pi / 2, 0), at(math.pi / 2, long)), (radius.to_face,)),
    ]
    ends = ((one, 0.0), (other, long))
    return lines + [Drawn(radius.name, tuple(at(turn, along) for turn in turns), (end,)) for end, along in ends]


def _edge(edge: EdgeBreak, frame: _Frame) -> list[Drawn]:
    one, other = _third(edge.on_face, edge.to_face)
    off, long = float(edge.flat_mm) / math.sqrt(2), frame.sizes[AXIS[one]]
    up, side, begin = f"face{edge.on_face}", f"face{edge.to_face}", f"face{one}"
    ring = (
        frame.at(**{up: 0, side: off, begin: 0}),
        frame.at(**{up: 0, side: off, begin: long}),
        frame.at(**{up: off, side: 0, begin: long}),
        frame.at(**{up: off, side: 0, begin: 0}),
    )
    return [Drawn(edge.name, ring, (edge.on_face, edge.to_face), closed=True, words=edge.name)]


_DRAWERS: dict[str, Callable[[Any, _Frame], list[Drawn]]] = {
    "slot": _slot,
    "incline": _incline,
    "lead_ins": _lead_ins,
    "radius": _radius,
    "edge": _edge,
}
