"""The coolant's concentration: what the refractometer says, and what brings it to where it is wanted."""

from dataclasses import dataclass
from typing import Annotated

from annotated_types import Ge, Gt, Le, Lt

from zesty_lark.core.quantities.numbers import InputError, Positive

Percent = Annotated[float, Ge(0), Le(100)]
Wanted = Annotated[float, Gt(0), Lt(100)]
WHOLE = 100.0


@dataclass(frozen=True)
class Coolant:
    """The concentration [%], and the concentrate or the water that brings it to the wanted one [l]; where the tank is
    filled up, the concentration to mix what is added at and what the tank then has [%]."""

    percent: float
    concentrate_litres: float
    water_litres: float
    fill_percent: float | None = None
    percent_then: float | None = None


def coolant_mix(
    *,
    litres: Positive,
    reading_percent: Percent,
    factor: Positive = 1.0,
    wanted_percent: Wanted,
    fill_to_litres: Positive | None = None,
) -> Coolant:
    """Return a coolant's concentration and what to add.

    Parameters
    ----------
    litres : float
        What is in the tank, V [l].
    reading_percent, factor : float
        The refractometer's reading [%] and the product's factor: c is their product.
    wanted_percent : float
        The concentration wanted, t [%].
    fill_to_litres : float, optional
        What the tank is to be filled up to, V2 [l].

    Raises
    ------
    InputError
        If the reading times the factor is over 100 %, or the tank would be filled to less than it has.

    Notes
    -----
    Too lean: V·(t − c)/(100 − t) of concentrate. Too rich: V·(c − t)/t of water. Filled up: what is added is mixed at
    (t·V2 − c·V)/(V2 − V); where that is under 0, water alone leaves c·V/V2, and where it is over 100, concentrate alone
    does not bring it all the way. The mass balance of the concentrate; the tank's size is not known here.
    """
    percent = reading_percent * factor
    if percent > WHOLE:
        raise InputError("factor", f"factor must be smaller: {reading_percent:g} % read times {factor:g} is over 100 %")
    if fill_to_litres is not None and fill_to_litres <= litres:
        raise InputError("fill_to_litres", f"fill_to_litres must be more than the {litres:g} l that are in the tank")
    lean, rich = max(wanted_percent - percent, 0.0), max(percent - wanted_percent, 0.0)
    concentrate, water = litres * lean / (WHOLE - wanted_percent), litres * rich / wanted_percent
    if fill_to_litres is None:
        return Coolant(percent, concentrate, water)
    more = fill_to_litres - litres
    mixed = min(max((wanted_percent * fill_to_litres - percent * litres) / more, 0.0), WHOLE)
    return Coolant(percent, concentrate, water, mixed, (percent * litres + mixed * more) / fill_to_litres)
