"""The kinds of things that have a log, and what may stand in each."""

from typing import Any, Literal, get_args

from pydantic import TypeAdapter

from zesty_lark.core.things.chuck import CHUCK_ENTRIES
from zesty_lark.core.things.gauge import GAUGE_ENTRIES
from zesty_lark.core.things.log import Said
from zesty_lark.core.things.machine import MACHINE_ENTRIES
from zesty_lark.core.things.rack.entries import WHEEL_ENTRIES

ThingKind = Literal["wheel", "chuck", "gauge", "machine"]
THING_KINDS: tuple[ThingKind, ...] = get_args(ThingKind)
ENTRIES: dict[ThingKind, dict[str, type[Said]]] = {
    "wheel": {entry.kind: entry for entry in WHEEL_ENTRIES},
    "chuck": {each.kind: each for each in CHUCK_ENTRIES},
    "gauge": {each.kind: each for each in GAUGE_ENTRIES},
    "machine": {each.kind: each for each in MACHINE_ENTRIES},
}


def loaded_entry(thing: ThingKind, kind: str, said: dict[str, Any]) -> Said:
    """Return what an entry of a thing's log says from plain values.

    Raises
    ------
    ValueError
        If it is none.
    """
    if kind not in ENTRIES[thing]:
        raise ValueError(f"there is no such entry of a {thing}: {kind}")
    made: Said = TypeAdapter(ENTRIES[thing][kind]).validate_python(said)
    return made
