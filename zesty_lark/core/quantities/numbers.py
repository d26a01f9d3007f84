"""The kinds of number the calculations take, with the bounds a size can have, and how a wrong one is refused.

The headless door reads these bounds from a function's signature; the function itself refuses what the door cannot know.
"""

from decimal import Decimal
from typing import Annotated

from annotated_types import Ge, Gt, Le, Lt
from pydantic import Field


class InputError(ValueError):
    """A value that cannot be; ``field`` names it, the message says what it must be."""

    def __init__(self, field: str, message: str) -> None:
        super().__init__(message)
        self.field = field

    def __reduce__(self) -> tuple[type["InputError"], tuple[str, str]]:
        """Let it travel between processes whole."""
        return type(self), (self.field, str(self))


Positive = Annotated[float, Gt(0), Lt(1e12)]
NonNegative = Annotated[float, Ge(0), Lt(1e12)]
Share = Annotated[float, Ge(0), Le(1)]
Ratio = Annotated[float, Gt(0), Le(1)]
Friction = Annotated[float, Gt(0), Le(1.5)]
Temperature = Annotated[float, Ge(-100), Le(3000)]
Angle = Annotated[float, Ge(-360), Le(360)]
Rpm = Annotated[float, Gt(0), Le(200_000)]
Count = Annotated[int, Ge(1), Le(1_000_000)]
Hardness = Annotated[float, Ge(0), Le(75)]
Whole = Annotated[int, Ge(0), Le(1_000_000)]
MOST_DIGITS, MOST_PLACES = 30, 20
_Digits = Annotated[Decimal, Field(max_digits=MOST_DIGITS, decimal_places=MOST_PLACES, allow_inf_nan=False)]
"""An exact number of a length that is worked with as quickly as any other."""
Exact = Annotated[_Digits, Lt(Decimal(10) ** 7), Gt(-(Decimal(10) ** 7))]
ExactShare = Annotated[_Digits, Ge(0), Le(1)]
ExactPositive = Annotated[_Digits, Gt(0), Lt(Decimal(10) ** 7)]
ExactNonNegative = Annotated[_Digits, Ge(0), Lt(Decimal(10) ** 7)]

LONGEST_MM = 10_000
"""What lies on a chuck, and the chuck, the travel and the wheel, are no longer than this [mm]."""
Extent = Annotated[float, Gt(0), Le(LONGEST_MM)]
TableSpeed = Annotated[float, Gt(0), Le(5_000)]
FINEST_GRADUATION_MM, COARSEST_GRADUATION_MM = Decimal("0.0001"), Decimal(10)
Graduation = Annotated[_Digits, Ge(FINEST_GRADUATION_MM), Le(COARSEST_GRADUATION_MM)]
FINEST_CROSSFEED_MM = Decimal("0.001")
CrossfeedStep = Annotated[_Digits, Ge(FINEST_CROSSFEED_MM), Le(LONGEST_MM)]


def refuse_work(field: str, count: float, most: float, of_what: str) -> None:
    """Refuse, before it is begun, what would take too much work.

    Parameters
    ----------
    field : str
        The field that asks for it.
    count, most : float
        How much it asks for, and how much is done at most.
    of_what : str
        What is counted, in the plural.

    Raises
    ------
    InputError
        If ``count`` is over ``most``, or no number.
    """
    if not count <= most:
        asked = f"{count:.3g}" if count < 1e300 else "far too many"
        raise InputError(field, f"{field} must ask for less: that would be {asked} {of_what}, {most:,.0f} at most")
