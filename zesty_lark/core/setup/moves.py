"""Moving, turning, adding and taking off; what is let go near an edge snaps to it."""

from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import Any, get_args

from zesty_lark.core.setup.facts import SetUpFacts
from zesty_lark.core.setup.layout import Layout, Lies, Piece, Role
from zesty_lark.core.setup.solids import Built, Solid, build

SNAP_MM = 5.0
"""Let go this near to an edge, it goes to the edge [mm]."""
PLACES = 3


def _at(x_mm: float, y_mm: float) -> Callable[[Any], Any]:
    return lambda each: replace(each, x_mm=round(each.x_mm + x_mm, PLACES), y_mm=round(each.y_mm + y_mm, PLACES))


def shift(layout: Layout, keys: Iterable[str], x_mm: float, y_mm: float) -> Layout:
    """Shift some by so much [mm]."""
    for key in keys:
        layout = layout.changed(key, _at(x_mm, y_mm))
    return layout


def carried(built: Built, key: str) -> list[str]:
    """Return what goes along when one thing is moved: itself; with a fixture the pieces in it and what they rest on."""
    pieces = [each for each in built.pieces if built.seats.get(each.key) == key]
    rests = [under.key for piece in pieces for under in built.under(piece)]
    return list(dict.fromkeys([key, *(each.key for each in pieces), *rests]))


def move(layout: Layout, facts: SetUpFacts, key: str, *, x_mm: float, y_mm: float, snap: bool = True) -> Layout:
    """Move one thing's middle to a place; let go near an edge of the chuck or of another thing it snaps to it.

    Raises
    ------
    KeyError
        If there is no such thing.
    """
    thing = layout.find(key)
    if thing is None:
        raise KeyError(key)
    built = build(layout, facts)
    keys = carried(built, key)
    moved = shift(layout, keys, x_mm - thing.x_mm, y_mm - thing.y_mm)
    if not snap:
        return moved
    after = build(moved, facts)
    mine = next((each for each in after.solids if each.key == key), None)
    if mine is None:
        return moved
    others = [each for each in after.solids if each.key not in keys and each.role not in ("shim", "clamp")]
    return shift(moved, keys, *_snapped(mine, others, facts))


def _snapped(mine: Solid, others: list[Solid], facts: SetUpFacts) -> tuple[float, float]:
    """How far it is to the nearest edge, along and across: the chuck's, and those of things beside it."""
    left, front, right, back = mine.bounds
    along, across = [0.0 - left, facts.length - right], [0.0 - front, facts.width - back]
    for other in others:
        its_left, its_front, its_right, its_back = other.bounds
        if min(back, its_back) > max(front, its_front) - SNAP_MM:
            along += [its_right - left, its_left - right]
        if min(right, its_right) > max(left, its_left) - SNAP_MM:
            across += [its_back - front, its_front - back]
            along += [its_left - left, its_right - right]
        if min(back, its_back) > max(front, its_front):
            across += [its_front - front, its_back - back]
    return _nearest(along), _nearest(across)


def _nearest(ways: list[float]) -> float:
    best = min(ways, key=abs)
    return best if abs(best) <= SNAP_MM else 0.0


def turn(layout: Layout, facts: SetUpFacts, key: str, by_deg: float) -> Layout:
    """Turn a thing about its middle; a fixture with the pieces in it, each about its own."""
    built = build(layout, facts)
    keys = carried(built, key) if key in {each.key for each in built.solids} else [key]
    for each in keys:
        layout = layout.changed(each, lambda thing: replace(thing, turn_deg=_wrapped(thing.turn_deg + by_deg)))
    return layout


def _wrapped(deg: float) -> float:
    return round((deg + 180) % 360 - 180, PLACES) or 0.0


def nudge(layout: Layout, facts: SetUpFacts, key: str, x_mm: float, *, y_mm: float) -> Layout:
    """Shift a thing by so much, with what goes along; it snaps to nothing [mm]."""
    return shift(layout, carried(build(layout, facts), key), x_mm, y_mm)


def turn_to(layout: Layout, facts: SetUpFacts, key: str, deg: float) -> Layout:
    """Turn a thing until it stands at an angle [°]."""
    thing = layout.find(key)
    return layout if thing is None else turn(layout, facts, key, deg - thing.turn_deg)


def tip_over(layout: Layout, key: str) -> Layout:
    """Lay a thing on its next side: flat, on its edge, on its end."""
    ways = get_args(Lies)
    thing = layout.find(key)
    if thing is None or isinstance(thing, Piece):
        return layout
    return stand(layout, key, ways[(ways.index(thing.lies) + 1) % len(ways)])


def stand(layout: Layout, key: str, lies: Lies) -> Layout:
    """Lay a thing on another of its sides."""
    return layout.changed(key, lambda each: each if isinstance(each, Piece) else replace(each, lies=lies))


def role_for(facts: SetUpFacts, name: str, role: str = "") -> Role:
    """Return what a thing of the shop is put down as: a block as it is asked, all else as what it is.

    Raises
    ------
    KeyError
        If the shop has nothing of that name.
    """
    if facts.fixture(name) is not None:
        return "fixture"
    thing = facts.accessory(name)
    if thing is None:
        raise KeyError(name)
    usual: dict[str, Role] = {"parallel": "under", "pin": "under", "clamp": "clamp", "foil": "shim"}
    if thing.kind in usual:
        return usual[thing.kind]
    return role if role in ("backing", "support", "lead_in", "under") else "backing"  # type: ignore[return-value]


def add(layout: Layout, facts: SetUpFacts, name: str, role: str = "") -> Layout:
    """Put a thing of the shop down in front of the work, where there is room to take it from.

    Raises
    ------
    KeyError
        If the shop has nothing of that name.
    """
    made = role_for(facts, name, role)
    return layout.with_thing(name, made, facts.length / 2, 20.0)
