"""The usual sets of gauge blocks."""

import json
from decimal import Decimal
from functools import cache
from importlib import resources


@cache
def block_set(name: str) -> tuple[Decimal, ...]:
    """Return a built-in set's sizes in its own unit, from ``gauge_sets.json`` beside this module."""
    sets = json.loads(resources.files("zesty_lark.core").joinpath("gauge_sets.json").read_text("utf-8"))
    sizes: list[Decimal] = []
    for first, last, step in sets[name]["runs"]:
        count = int((Decimal(last) - Decimal(first)) / Decimal(step)) + 1
        sizes += [Decimal(first) + number * Decimal(step) for number in range(count)]
    return tuple(sizes)
