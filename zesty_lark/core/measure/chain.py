"""The error chain of a relation on the print."""

import math
from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import MaxLen, MinLen

from zesty_lark.core.quantities import InputError, NonNegative, Positive

__all__ = ["Chain", "Link", "chain"]


@dataclass(frozen=True)
class Link:
    """One link: its limit ± [µm]; an angle holds over its own length [mm] and is scaled, a length is not."""

    name: Annotated[str, MinLen(1), MaxLen(80)]
    limit_um: NonNegative
    kind: Literal["angle", "length"]
    over_mm: Positive | None = None


@dataclass(frozen=True)
class Chain:
    """Worst and likely error, the biggest link, and each link's share of the worst [µm]."""

    worst_um: float
    likely_um: float
    biggest: str
    links_um: dict[str, float]


def chain(*, need_over_mm: Positive, links: Annotated[list[Link], MinLen(1), MaxLen(100)]) -> Chain:
    """Add up an error chain over the length that is needed [mm].

    Worst = Σ limits; likely (k = 2) = min(worst, 2·√Σ(limit/√3)²).

    Raises
    ------
    InputError
        If an angle lacks the length it holds over, or a length has one.
    """
    limits: list[float] = []
    for index, link in enumerate(links):
        field = f"links.{index}.over_mm"
        if link.kind == "angle" and link.over_mm is None:
            raise InputError(field, f"{field} is missing: an angle holds over a length")
        if link.kind == "length" and link.over_mm is not None:
            raise InputError(field, f"{field} must be absent: a length is not scaled")
        limits.append(link.limit_um * (need_over_mm / link.over_mm if link.over_mm else 1.0))
    worst = sum(limits)
    likely = min(worst, 2 * math.sqrt(sum((limit / math.sqrt(3)) ** 2 for limit in limits)))
    biggest = max(range(len(links)), key=lambda index: (limits[index], -index))
    return Chain(worst, likely, links[biggest].name, {link.name: limit for link, limit in zip(links, limits, strict=True)})
