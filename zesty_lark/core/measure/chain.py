"""The error chain of a relation on the print."""

import math
from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import MaxLen, MinLen

from zesty_lark.core.quantities.numbers import InputError, NonNegative, Positive

EXPECTED_SHARE = 0.5
"""What is expected may come out this much more or less, as a share of itself."""


@dataclass(frozen=True)
class Link:
    """One link: its limit [µm]. An angle holds ± over its own length [mm] and is scaled; a length is ± and not scaled;
    what is expected goes one way and adds as it is, with half of itself as ±."""

    name: Annotated[str, MinLen(1), MaxLen(80)]
    limit_um: NonNegative
    kind: Literal["angle", "length", "expected"]
    over_mm: Positive | None = None


@dataclass(frozen=True)
class Chain:
    """Worst and likely error, the biggest link, and what each link gives: its limit, or what is expected of it [µm]."""

    worst_um: float
    likely_um: float
    biggest: str
    links_um: dict[str, float]


def chain(*, need_over_mm: Positive, links: Annotated[list[Link], MinLen(1), MaxLen(100)]) -> Chain:
    """Add up an error chain over the length that is needed [mm].

    Worst = Σ limits; likely (k = 2) = min(worst, 2·√Σ(limit/√3)²); what is expected adds to both as it is.

    Raises
    ------
    InputError
        If an angle lacks the length it holds over, or another link has one.
    """
    limits: list[float] = []
    for index, link in enumerate(links):
        field = f"links.{index}.over_mm"
        if link.kind == "angle" and link.over_mm is None:
            raise InputError(field, f"{field} is missing: an angle holds over a length")
        if link.kind != "angle" and link.over_mm is not None:
            raise InputError(field, f"{field} must be absent: only an angle is scaled")
        limits.append(link.limit_um * (need_over_mm / link.over_mm if link.over_mm else 1.0))
    expected = sum(limit for link, limit in zip(links, limits, strict=True) if link.kind == "expected")
    either_way = [
        limit * (EXPECTED_SHARE if link.kind == "expected" else 1.0) for link, limit in zip(links, limits, strict=True)
    ]
    spread = min(sum(either_way), 2 * math.sqrt(sum((limit / math.sqrt(3)) ** 2 for limit in either_way)))
    worst, likely = expected + sum(either_way), expected + spread
    biggest = max(range(len(links)), key=lambda index: (limits[index], -index))
    return Chain(
        worst, likely, links[biggest].name, {link.name: limit for link, limit in zip(links, limits, strict=True)}
    )
