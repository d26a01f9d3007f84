"""The kinds of number the calculations take, with the bounds a size can have, and how a wrong one is refused.

The headless door reads these bounds from a function's signature; the function itself refuses what the door cannot know.
"""

from decimal import Decimal
from typing import Annotated

from annotated_types import Ge, Gt, Le, Lt

__all__ = [
    "Angle",
    "Count",
    "Exact",
    "ExactNonNegative",
    "ExactPositive",
    "ExactShare",
    "Friction",
    "InputError",
    "NonNegative",
    "Positive",
    "Ratio",
    "Rpm",
    "Share",
    "Temperature",
    "Whole",
]


class InputError(ValueError):
    """A value that cannot be; ``field`` names it, the message says what it must be."""

    def __init__(self, field: str, message: str) -> None:
        super().__init__(message)
        self.field = field


Positive = Annotated[float, Gt(0), Lt(1e12)]
NonNegative = Annotated[float, Ge(0), Lt(1e12)]
Share = Annotated[float, Ge(0), Le(1)]
Ratio = Annotated[float, Gt(0), Le(1)]
Friction = Annotated[float, Gt(0), Le(1.5)]
Temperature = Annotated[float, Ge(-100), Le(3000)]
Angle = Annotated[float, Ge(-360), Le(360)]
Rpm = Annotated[float, Gt(0), Le(200_000)]
Count = Annotated[int, Ge(1), Le(1_000_000)]
Whole = Annotated[int, Ge(0), Le(1_000_000)]
Exact = Annotated[Decimal, Lt(Decimal(10) ** 7), Gt(-(Decimal(10) ** 7))]
ExactShare = Annotated[Decimal, Ge(0), Le(1)]
ExactPositive = Annotated[Decimal, Gt(0), Lt(Decimal(10) ** 7)]
ExactNonNegative = Annotated[Decimal, Ge(0), Lt(Decimal(10) ** 7)]
