"""A set-up as it is laid out: where pieces and things stand on the chuck, how far the strokes run, where it starts.

The machine's frame: x along the travel from the chuck's left end, y across it from its front edge, z up from its face
[mm]; a turn is counter-clockwise seen from above [°].
"""

import json
from collections.abc import Callable
from dataclasses import replace
from itertools import count
from typing import Annotated, Any, Literal

from annotated_types import Ge, Le, MaxLen
from pydantic import ConfigDict, Field, TypeAdapter
from pydantic.dataclasses import dataclass as checked

from zesty_lark.core.process.strokes import END_OVERRUN_MM

_STRICT = ConfigDict(extra="forbid", allow_inf_nan=False)
MOST_THINGS = 400
FURTHEST_MM = 12_000.0
"""A thing's middle is no further than this from the chuck's corner [mm]."""
LONGEST_OVERRUN_MM = 500.0
Where = Annotated[float, Ge(-FURTHEST_MM), Le(FURTHEST_MM)]
Turn = Annotated[float, Ge(-180), Le(180)]
Overrun = Annotated[float, Ge(0), Le(LONGEST_OVERRUN_MM)]
Key = Annotated[str, Field(pattern=r"^[a-z]{1,3}[0-9]{1,4}$")]
Role = Literal["fixture", "backing", "support", "lead_in", "under", "clamp", "shim"]
ROLES: dict[str, str] = {
    "fixture": "holds the part",
    "backing": "backing block",
    "support": "support block",
    "lead_in": "lead-in block",
    "under": "under the part",
    "clamp": "clamp",
    "shim": "under the hollow",
}
Lies = Literal["flat", "edge", "end"]
LIES: dict[str, str] = {"flat": "flat", "edge": "on its edge", "end": "on its end"}
Nozzle = Literal["off", "entry", "exit"]
"""The coolant's nozzle: off, on the side where the wheel enters the cut, or on the other."""


@checked(frozen=True, config=_STRICT)
class Piece:
    """A piece by its number, where its middle lies [mm], and its turn [°]."""

    number: Annotated[int, Ge(1), Le(9999)]
    x_mm: Where
    y_mm: Where
    turn_deg: Turn = 0.0

    @property
    def key(self) -> str:
        """Its name in the set-up."""
        return f"p{self.number}"


@checked(frozen=True, config=_STRICT)
class Stood:
    """A thing of the shop's on the chuck: its key here, its name in the shop, what for, where its middle is [mm], its
    turn [°], and on which of its sides it lies."""

    key: Key
    name: Annotated[str, Field(min_length=1, max_length=80)]
    role: Role
    x_mm: Where
    y_mm: Where
    turn_deg: Turn = 0.0
    lies: Lies = "flat"


Thing = Piece | Stood


@checked(frozen=True, config=_STRICT)
class Layout:
    """A set-up laid out; overruns are the wheel's clearance beyond the work at each end and side [mm]; ``start`` is the
    side the wheel begins on; ``magnet`` its setting; ``nozzle`` which side the coolant comes from, and whether a
    second, gentle one wets what is not ground."""

    pieces: Annotated[tuple[Piece, ...], MaxLen(400)] = ()
    things: Annotated[tuple[Stood, ...], MaxLen(MOST_THINGS)] = ()
    left_mm: Overrun = END_OVERRUN_MM
    right_mm: Overrun = END_OVERRUN_MM
    front_mm: Overrun = 0.0
    back_mm: Overrun = 0.0
    start: Literal["front", "back"] = "front"
    magnet: Literal["full", "low"] = "full"
    nozzle: Nozzle = "entry"
    second_nozzle: bool = False

    def find(self, key: str) -> Thing | None:
        """Return a piece or thing by its key."""
        everything: tuple[Thing, ...] = (*self.pieces, *self.things)
        return next((each for each in everything if each.key == key), None)

    def is_for(self, on_end: bool) -> bool:
        """Whether a fixture in it stands as it is to stand: upright, or on its end; so does a set-up without one."""
        stand = [thing.lies == "end" for thing in self.things if thing.role == "fixture"]
        return not stand or on_end in stand

    def changed(self, key: str, change: Callable[[Any], Any]) -> "Layout":
        """The same with one piece or thing changed."""
        return replace(
            self,
            pieces=tuple(change(piece) if piece.key == key else piece for piece in self.pieces),
            things=tuple(change(thing) if thing.key == key else thing for thing in self.things),
        )

    def without(self, key: str) -> "Layout":
        """The same without a thing; pieces stay, they are the load's."""
        return replace(self, things=tuple(thing for thing in self.things if thing.key != key))

    def with_thing(self, name: str, role: Role, x_mm: float, y_mm: float, **more: object) -> "Layout":
        """The same with one more thing, under a key that is free; the same as it is when the set-up is full."""
        if len(self.things) >= MOST_THINGS:
            return self
        taken = {thing.key for thing in self.things}
        key = next(f"b{number}" for number in count(1) if f"b{number}" not in taken)
        made = Stood(key, name, role, round(x_mm, 3), round(y_mm, 3), **more)  # type: ignore[arg-type]
        return replace(self, things=(*self.things, made))


_ADAPTER: TypeAdapter[Layout] = TypeAdapter(Layout)
FORMAT = "set-up 1"


def dumped(layout: Layout) -> str:
    """Return a layout as JSON text that says its format."""
    return json.dumps({"format": FORMAT, "layout": json.loads(_ADAPTER.dump_json(layout))}, separators=(",", ":"))


def loaded(text: str) -> Layout:
    """Read a layout from JSON text.

    Raises
    ------
    ValueError
        If it holds no layout of this form.
    """
    try:
        kept = json.loads(text)
        if not isinstance(kept, dict) or kept.get("format") != FORMAT or set(kept) != {"format", "layout"}:
            raise ValueError(f"a set-up says “{FORMAT}”")
        return _ADAPTER.validate_python(kept["layout"], strict=False)
    except (ValueError, RecursionError) as error:
        raise ValueError(f"this is no set-up: {error}") from error
