"""The usual sets of gauge blocks."""

import json
import re
from collections.abc import Mapping
from datetime import date
from decimal import Decimal, InvalidOperation
from functools import cache
from importlib import resources
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator
from pydantic.dataclasses import dataclass as checked

from zesty_lark.core.quantities.kept_types import STRICT, Contradictions, Name, UnitName, refuse


@cache
def block_set(name: str) -> tuple[Decimal, ...]:
    """Return a built-in set's sizes in its own unit, from ``gauge_sets.json`` beside this module."""
    sets = json.loads(resources.files("zesty_lark.core.angles_slots").joinpath("gauge_sets.json").read_text("utf-8"))
    sizes: list[Decimal] = []
    for first, last, step in sets[name]["runs"]:
        count = int((Decimal(last) - Decimal(first)) / Decimal(step)) + 1
        sizes += [Decimal(first) + number * Decimal(step) for number in range(count)]
    return tuple(sizes)


BlockSetName = Literal["inch81", "metric47", "metric88", "own"]
BLOCK_SETS: dict[BlockSetName, str] = {
    "inch81": "81 pieces, inch",
    "metric47": "47 pieces, metric",
    "metric88": "88 pieces, metric",
    "own": "a list of its own",
}
MOST_BLOCKS = 300


def block_sizes(text: str) -> tuple[Decimal, ...]:
    """Read a list of block sizes as people write it, apart by spaces or commas.

    Raises
    ------
    ValueError
        If a word is no size.
    """
    sizes = []
    for word in re.split(r"[\s,;]+", text.strip()):
        if not word:
            continue
        try:
            size = Decimal(word)
        except InvalidOperation:
            size = Decimal(0)
        if not size.is_finite() or not 0 < size <= 1000 or size != round(size, 5):
            raise ValueError(f"“{word[:20]}” is no size of a block.")
        sizes.append(size)
    if len(sizes) > MOST_BLOCKS:
        raise ValueError(f"A set has {MOST_BLOCKS} blocks at most.")
    return tuple(sizes)


def block_contradictions(of: Mapping[str, Any]) -> Contradictions:
    """Return what of a block set does not go together, by field, in words."""
    said: Contradictions = {}
    lists: dict[str, tuple[Decimal, ...]] = {}
    for field in ("blocks", "missing", "worn"):
        try:
            lists[field] = block_sizes(of[field])
        except ValueError as error:
            said[field] = str(error)
    if of["set_name"] == "own" and not lists.get("blocks"):
        said.setdefault("blocks", "Which blocks are in it?")
    own_unit = "in" if of["set_name"] == "inch81" else "mm"
    if of["set_name"] != "own" and of["unit"] != own_unit:
        said["unit"] = f"That set is in {'inches' if own_unit == 'in' else 'mm'}."
    if not said:
        known = lists["blocks"] if of["set_name"] == "own" else block_set(of["set_name"])
        for field in ("missing", "worn"):
            strange = [size for size in lists[field] if size not in known]
            if strange:
                said[field] = f"The set has no block of {strange[0].normalize():f}."
    if of["due_on"] < of["calibrated_on"]:
        said["due_on"] = "It cannot be due before it was calibrated."
    return said


@checked(frozen=True, config=STRICT)
class BlockSet:
    """A set of gauge blocks: a built-in set or a list of its own, in its unit; which are missing and which are worn;
    U of a block, k = 2 [µm]; calibrated and due when."""

    name: Name
    unit: UnitName
    set_name: BlockSetName
    u_um: Annotated[Decimal, Field(gt=0, le=50, max_digits=6, decimal_places=3, allow_inf_nan=False)]
    calibrated_on: date
    due_on: date
    blocks: Annotated[str, Field(max_length=4000)] = ""
    missing: Annotated[str, Field(max_length=4000)] = ""
    worn: Annotated[str, Field(max_length=4000)] = ""

    @model_validator(mode="after")
    def _goes_together(self) -> "BlockSet":
        refuse(self, block_contradictions)
        return self

    @property
    def usable(self) -> tuple[Decimal, ...]:
        """The sizes that are neither missing nor worn, in its unit."""
        whole = list(block_sizes(self.blocks) if self.set_name == "own" else block_set(self.set_name))
        for size in (*block_sizes(self.missing), *block_sizes(self.worn)):
            if size in whole:
                whole.remove(size)
        return tuple(whole)
