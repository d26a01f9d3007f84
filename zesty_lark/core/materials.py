"""Materials: which a magnet holds, and which are not ground here at all."""

import json
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib import resources

__all__ = ["Material", "materials"]


@dataclass(frozen=True)
class Material:
    """One material.

    Attributes
    ----------
    key : str
        Its name in the trade.
    magnetic : bool
        Whether a magnetic chuck holds it.
    declined : str
        Why it is not planned here and who to ask; empty when it is.
    temper_c : float
        What it was usually tempered at last, or bears as well as if it had been [°C]; an own estimate.
    """

    key: str
    magnetic: bool
    declined: str
    temper_c: float = 200.0


@cache
def materials() -> Mapping[str, Material]:
    """Return all materials by name, from ``materials.json`` beside this module."""
    rows = json.loads(resources.files("zesty_lark.core").joinpath("materials.json").read_text("utf-8"))
    return {row["key"]: Material(**row) for row in rows}
