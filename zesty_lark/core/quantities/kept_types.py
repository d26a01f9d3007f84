"""The kinds of figure that a shop's things have, with their bounds, and how what does not go together is refused."""

from collections.abc import Callable, Mapping
from dataclasses import asdict
from decimal import Decimal
from typing import Annotated, Any, Literal

from pydantic import ConfigDict, Field

from zesty_lark.core.quantities.numbers import (
    COARSEST_GRADUATION_MM,
    FINEST_CROSSFEED_MM,
    FINEST_GRADUATION_MM,
    LONGEST_MM,
)

SLOWEST_MM_S, FASTEST_MM_S = Decimal("0.01"), Decimal(5_000)
FINEST_RESOLUTION_MM = Decimal("0.00001")
STRICT = ConfigDict(extra="forbid", str_max_length=4000)
Length = Annotated[Decimal, Field(max_digits=14, decimal_places=7, allow_inf_nan=False, gt=0)]
Extent = Annotated[Length, Field(le=LONGEST_MM)]
"""How long a thing that stands in a shop, or a way in it, may be [mm]."""
Graduated = Annotated[Length, Field(ge=FINEST_GRADUATION_MM, le=COARSEST_GRADUATION_MM)]
Step = Annotated[Length, Field(ge=FINEST_CROSSFEED_MM, le=LONGEST_MM)]
Speed = Annotated[Length, Field(ge=SLOWEST_MM_S, le=FASTEST_MM_S)]
Resolved = Annotated[Length, Field(ge=FINEST_RESOLUTION_MM, le=COARSEST_GRADUATION_MM)]
Amount = Annotated[Decimal, Field(max_digits=14, decimal_places=7, allow_inf_nan=False, ge=0)]
Name = Annotated[str, Field(min_length=1, max_length=80)]
UnitName = Literal["mm", "in"]
Contradictions = dict[str, str]


def refuse(thing: Any, check: Callable[[Mapping[str, Any]], Contradictions]) -> None:
    """Refuse a thing whose fields do not go together, naming the field.

    Raises
    ------
    ValueError
        With the field and the sentence.
    """
    for field, words in check(asdict(thing)).items():
        raise ValueError(f"{field}: {words}")
