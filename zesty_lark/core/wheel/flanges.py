"""Flanges that wheels stay on, and what they are balanced with: two weights in a groove, or screws in a ring of
holes."""

from collections.abc import Mapping
from decimal import Decimal, InvalidOperation
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator
from pydantic.dataclasses import dataclass as checked

from zesty_lark.core.quantities.kept_types import STRICT, Contradictions, Extent, Name, refuse

FlangeKind = Literal["weights", "ring", "plain"]
FLANGE_KINDS: dict[str, str] = {
    "weights": "Two weights in a groove",
    "ring": "Screws in a ring of holes",
    "plain": "Nothing to balance with",
}
MOST_MASSES = 12
HEAVIEST_G = Decimal(500)


def masses_of(text: str) -> list[Decimal]:
    """Read masses apart by spaces or commas [g].

    Raises
    ------
    ValueError
        If one is none, or there are too many.
    """
    found = []
    for part in text.replace(",", " ").split():
        try:
            mass = Decimal(part)
        except InvalidOperation:
            mass = Decimal(0)
        if not 0 < mass <= HEAVIEST_G:
            raise ValueError(f"“{part}” is no mass in grams, from above 0 to {HEAVIEST_G}.")
        found.append(mass)
    if len(found) > MOST_MASSES:
        raise ValueError(f"That is more than {MOST_MASSES} weights.")
    return found


def flange_contradictions(of: Mapping[str, Any]) -> Contradictions:
    """Return what of a flange does not go together, by field, in words."""
    said: Contradictions = {}
    try:
        masses = masses_of(of["masses"] or "")
    except ValueError as error:
        return {"masses": str(error)}
    if of["kind"] == "weights" and (len(masses) != 2 or masses[0] != masses[1]):
        said["masses"] = "Two equal weights: give the mass of each, twice."
    if of["kind"] == "ring" and not of["holes"]:
        said["holes"] = "How many holes has the ring?"
    if of["kind"] == "ring" and not masses:
        said["masses"] = "Which screws are in the box?"
    if of["radius_mm"] * 2 >= of["diameter_mm"]:
        said["radius_mm"] = "The weights have to sit inside the flange."
    return said


@checked(frozen=True, config=STRICT)
class Flange:
    """A flange: its outside and its spigot [mm], what it is balanced with and at which radius [mm], how many holes, the
    masses of its weights or of the screws in the box [g], apart by spaces."""

    name: Name
    kind: FlangeKind
    diameter_mm: Extent
    spigot_mm: Extent
    radius_mm: Extent
    holes: Annotated[int, Field(ge=1, le=48)] | None = None
    masses: Annotated[str, Field(max_length=200)] = ""

    @model_validator(mode="after")
    def _goes_together(self) -> "Flange":
        refuse(self, flange_contradictions)
        return self

    @property
    def masses_g(self) -> list[float]:
        """The masses of its weights or screws [g]."""
        return [float(mass) for mass in masses_of(self.masses)]
