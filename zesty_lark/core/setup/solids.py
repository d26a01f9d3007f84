"""The solids a layout makes on the chuck: their outline from above, how high they stand, and where the wheel goes."""

import math
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property

from shapely import Polygon, box, union_all
from shapely.affinity import rotate, translate

from zesty_lark.core.setup.facts import SetUpFacts
from zesty_lark.core.setup.layout import Layout, Piece, Role, Stood
from zesty_lark.core.things.shop import Accessory, Fixture

LIES_ON_MM2 = 1.0
"""What shares more than this with something lower lies on it [mm²]."""
TOUCH_MM = 0.5
"""What stands this near touches: more than a placing error, less than a gap [mm]."""


def outline(along_mm: float, across_mm: float, at: Piece | Stood) -> Polygon:
    """Return a rectangle's outline where something stands, turned as it is."""
    flat = box(-along_mm / 2, -across_mm / 2, along_mm / 2, across_mm / 2)
    return translate(rotate(flat, at.turn_deg, origin=(0, 0)), at.x_mm, at.y_mm)


@dataclass(frozen=True)
class Solid:
    """Something set up: its outline from above, from how high to how high it stands [mm], and for a piece how
    high its face will end."""

    key: str
    name: str
    role: Role | str
    shape: Polygon
    bottom: float
    top: float
    final: float = 0.0
    turn_deg: float = 0.0
    thing: Accessory | Fixture | None = None
    lies: str = "flat"

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, front, right and back [mm]."""
        left, front, right, back = self.shape.bounds
        return float(left), float(front), float(right), float(back)

    @property
    def middle(self) -> tuple[float, float]:
        """Its middle [mm]."""
        left, front, right, back = self.bounds
        return (left + right) / 2, (front + back) / 2

    def distance(self, other: "Solid") -> float:
        """How far apart two outlines are [mm]."""
        return float(self.shape.distance(other.shape))


def near(one: Solid, other: Solid, mm: float) -> bool:
    """Tell whether two outlines are no further apart than this; by their bounds first, which is quick."""
    left, front, right, back = one.bounds
    its_left, its_front, its_right, its_back = other.bounds
    apart = max(its_left - right, left - its_right, its_front - back, front - its_back)
    return apart <= mm and one.distance(other) <= mm


@dataclass(frozen=True)
class Strokes:
    """Where the wheel goes: its middle along from and to, its face across from and to, and how low [mm]."""

    left: float
    right: float
    front: float
    back: float
    low: float

    def top_allowed(self, solid: Solid, radius: float) -> float | None:
        """How high something may stand before the wheel strikes it [mm]; ``None`` where the wheel never comes."""
        left, front, right, back = solid.bounds
        if back <= self.front or front >= self.back:
            return None
        away = max(self.left - right, left - self.right, 0.0)
        return None if away >= radius else self.low + radius - math.sqrt(radius**2 - away**2)


@dataclass(frozen=True)
class Built:
    """A layout as solids; ``missing`` are the keys of things the shop does not own."""

    layout: Layout
    facts: SetUpFacts
    pieces: tuple[Solid, ...]
    things: tuple[Solid, ...]
    missing: tuple[str, ...]
    seats: dict[str, str] = field(default_factory=dict)

    @cached_property
    def solids(self) -> tuple[Solid, ...]:
        """All of it."""
        return (*self.pieces, *self.things)

    @cached_property
    def plate(self) -> Polygon:
        """The chuck's face."""
        return box(0, 0, self.facts.length, self.facts.width)

    @cached_property
    def strokes(self) -> Strokes | None:
        """Where the wheel goes; ``None`` while nothing is to be ground."""
        if not self.pieces:
            return None
        left, front, right, back = (float(each) for each in union_all([each.shape for each in self.pieces]).bounds)
        wheel, layout = self.facts.wheel_width, self.layout
        return Strokes(
            left - layout.left_mm,
            right + layout.right_mm,
            front - wheel - layout.front_mm,
            back + wheel + layout.back_mm,
            min(piece.final for piece in self.pieces),
        )

    def of_role(self, *roles: str) -> Iterator[Solid]:
        """The things that serve as something."""
        return (thing for thing in self.things if thing.role in roles)

    def fixture_of(self, piece: Solid) -> Solid | None:
        """The fixture a piece is in or at."""
        key = self.seats.get(piece.key)
        return next((thing for thing in self.things if thing.key == key), None)

    def under(self, piece: Solid) -> list[Solid]:
        """What lies between a piece and the chuck."""
        return [
            each
            for each in self.of_role("under", "shim")
            if near(each, piece, 0.0) and each.shape.intersection(piece.shape).area > LIES_ON_MM2
        ]


def build(layout: Layout, facts: SetUpFacts) -> Built:
    """Stand a layout's things and pieces on the chuck."""
    things: list[Solid] = []
    missing: list[str] = []
    for stood in sorted(layout.things, key=lambda each: each.role == "clamp"):
        made = _thing(stood, facts, things)
        if made is None:
            missing.append(stood.key)
        else:
            things.append(made)
    seats: dict[str, str] = {}
    pieces = tuple(_piece(piece, facts, things, seats) for piece in layout.pieces if piece.number in facts.pieces)
    return Built(layout, facts, pieces, tuple(things), tuple(missing), seats)


def _thing(stood: Stood, facts: SetUpFacts, below: list[Solid]) -> Solid | None:
    """Stand one thing up: a clamp on the block it is on, all else on the chuck."""
    turn = stood.turn_deg
    if stood.role == "fixture":
        fixture = facts.fixture(stood.name)
        if fixture is None:
            return None
        long, wide, high = fixture.stood(on_end=stood.lies == "end")
        shape = outline(long, wide, stood)
        return Solid(stood.key, stood.name, "fixture", shape, 0.0, high, turn_deg=turn, thing=fixture, lies=stood.lies)
    thing = facts.accessory(stood.name)
    if thing is None:
        return None
    long, wide, high = thing.lying(stood.lies)
    shape = outline(long, wide, stood)
    bottom = 0.0
    if stood.role == "clamp":
        bottom = max((_grip(each, facts) for each in below if each.shape.intersects(shape)), default=0.0)
    return Solid(stood.key, stood.name, stood.role, shape, bottom, bottom + high, turn_deg=turn, thing=thing)


def _grip(on: Solid, facts: SetUpFacts) -> float:
    """How high over the chuck a clamp takes hold of what it is on [mm]: halfway up it, or up the part that hangs at a
    plate's corner."""
    corner = facts.corner
    if corner is not None and corner.fixture.name == on.name:
        return corner.hangs(facts.part.up) + facts.part.final_mm / 2
    return on.top / 2


def _piece(piece: Piece, facts: SetUpFacts, things: list[Solid], seats: dict[str, str]) -> Solid:
    """Stand a piece up: in or at its fixture, or on whatever lies under it."""
    part = facts.part
    shape = outline(part.along_mm, part.across_mm, piece)
    on = (each for each in things if each.role == "under" and each.shape.intersection(shape).area > LIES_ON_MM2)
    under = [each.top for each in on]
    bottom = max(under, default=0.0)
    for thing in things:
        if not isinstance(thing.thing, Fixture):
            continue
        if thing.thing.is_beside and thing.shape.distance(shape) <= TOUCH_MM:
            seats[piece.key] = thing.key
            if not under and facts.corner is not None and facts.corner.fixture.name == thing.name:
                bottom = facts.corner.hangs(part.up)
        elif not thing.thing.is_beside and thing.shape.contains(shape.centroid):
            seats[piece.key] = thing.key
            bottom = max(bottom, float(thing.thing.seat_mm))
    higher = part.higher_mm.get(piece.number, 0.0)
    return Solid(
        piece.key,
        f"piece {piece.number}",
        "piece",
        shape,
        bottom,
        bottom + part.height_mm + higher,
        bottom + part.final_mm,
        piece.turn_deg,
    )
