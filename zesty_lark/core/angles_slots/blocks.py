"""Gauge blocks and the sine plate: the fewest blocks that add up exactly."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from functools import lru_cache
from typing import Annotated, Literal

import numpy as np
from annotated_types import Gt, Lt, MaxLen
from numpy.typing import NDArray

from zesty_lark.core.angles_slots.block_sets import block_set
from zesty_lark.core.quantities.numbers import ExactPositive, InputError, Positive

MOST_BLOCKS = 5
SMALL_SET = 18
"""Sets up to this are searched over every subset, whatever the count."""
LARGEST_TABLE = 50_000_000
UM_A_UNIT = {"mm": Decimal(1000), "in": Decimal(25_400)}
SECONDS_A_DEGREE = 3600

SetName = Literal["inch81", "metric47", "metric88"]
Integers = NDArray[np.int64]


@dataclass(frozen=True)
class Stack:
    """The blocks, large to small, in the unit asked; when not exact, the sum's error [µm]."""

    blocks: list[Decimal]
    count: int
    sum: Decimal
    exact: bool
    unit: Literal["mm", "in"]
    error_um: float | None = None


@dataclass(frozen=True)
class SineStack:
    """Height [mm], what a micrometre of stack is worth ["], and the complement above 45° [°] [mm]."""

    height_mm: float
    arcsec_per_um: float
    complement_deg: float | None = None
    complement_height_mm: float | None = None


def gauge_stack(
    *,
    target: ExactPositive,
    unit: Literal["mm", "in"],
    set: SetName | None = None,
    blocks: Annotated[list[ExactPositive], MaxLen(300)] | None = None,
    missing: Annotated[list[ExactPositive], MaxLen(300)] | None = None,
) -> Stack:
    """Find the fewest blocks that add up to the target exactly, else the nearest sum (then the fewest blocks).

    Parameters
    ----------
    target : Decimal
        Height wanted, in ``unit``.
    unit : {"mm", "in"}
        Unit of target, blocks and missing; a built-in set of the other unit is converted exactly.
    set : {"inch81", "metric47", "metric88"}, optional
        A built-in set; each size once.
    blocks : sequence of Decimal, optional
        The shop's own list instead.
    missing : sequence of Decimal, optional
        Sizes of the set that are not to be had.

    Raises
    ------
    InputError
        If there is neither a set nor a list, there are both, or no block is left.
    """
    if (set is None) == (blocks is None):
        raise InputError("set", "set or blocks must be given, and only one of them")
    sizes = list(blocks) if blocks is not None else _in_unit(str(set), unit)
    for size in missing or []:
        if size in sizes:
            sizes.remove(size)
    if not sizes:
        raise InputError("blocks", "blocks must have at least one block that is not missing")
    scale = 10 ** max(-int(each.as_tuple().exponent) for each in [*sizes, target])
    whole = np.array(sorted(int(size * scale) for size in sizes), dtype=np.int64)
    chosen = _search(whole, int(target * scale))
    made = sorted((Decimal(int(whole[index])) / scale for index in chosen), reverse=True)
    total = sum(made, Decimal(0))
    exact = total == target
    return Stack(made, len(made), total, exact, unit, None if exact else float((total - target) * UM_A_UNIT[unit]))


def _in_unit(name: str, unit: Literal["mm", "in"]) -> list[Decimal]:
    own = "in" if name.startswith("inch") else "mm"
    if own == unit:
        return list(block_set(name))
    if unit == "in":
        raise InputError("unit", f"unit must be mm for the set {name}: its sizes are not exact in inches")
    return [size * Decimal("25.4") for size in block_set(name)]


def _search(whole: Integers, target: int) -> list[int]:
    """Return the indices of the best stack; exact and fewest first, else nearest and then fewest."""
    if whole.size <= SMALL_SET:
        return _every_subset(whole, target)
    step = int(np.gcd.reduce(whole))
    units = whole // step
    pairs = _pairs(units)
    most = int(units[-MOST_BLOCKS:].sum())
    if target >= most * step:
        return list(range(units.size - MOST_BLOCKS, units.size))
    sum_ = _nearest(tuple(int(unit) for unit in units), target, step)
    return _exactly(units, pairs, sum_)


@lru_cache(maxsize=16)
def _reach(units: tuple[int, ...]) -> tuple[int, ...]:
    """For each count of blocks, the sums that so many can make, each block once: bit n of the number is the sum n."""
    reach = [1] + [0] * MOST_BLOCKS
    for unit in units:
        for count in range(MOST_BLOCKS, 0, -1):
            reach[count] |= reach[count - 1] << unit
    return tuple(reach[1:])


def _nearest(units: tuple[int, ...], target: int, step: int) -> int:
    """The sum nearest the target, made by the fewest blocks, then the smaller; in units."""
    below = target // step
    found: list[tuple[int, int, int]] = []
    for count, sums in enumerate(_reach(units), start=1):
        under = (sums & ((1 << (below + 1)) - 1)).bit_length() - 1
        over = sums >> (below + 1)
        if under > 0:
            found.append((abs(under * step - target), count, under))
        if over:
            above = below + 1 + (over & -over).bit_length() - 1
            found.append((abs(above * step - target), count, above))
    return min(found)[2]


def _every_subset(whole: Integers, target: int) -> list[int]:
    masks = np.arange(1, 1 << whole.size, dtype=np.int64)
    sums = np.zeros(masks.size, dtype=np.int64)
    counts = np.zeros(masks.size, dtype=np.int64)
    for index, size in enumerate(whole):
        bit = (masks >> index) & 1
        sums += bit * size
        counts += bit
    best = np.lexsort((counts, np.abs(sums - target)))[0]
    return [index for index in range(whole.size) if int(masks[best]) >> index & 1]


@dataclass(frozen=True)
class _Pairs:
    sums: Integers
    first: Integers
    second: Integers
    there: NDArray[np.bool_]

    def hits(self, wanted: Integers) -> Integers:
        """Positions in ``wanted`` that some pair makes."""
        inside = np.clip(wanted, 0, self.there.size - 1)
        return np.flatnonzero(self.there[inside] & (inside == wanted))

    def making(self, sum_: int) -> range:
        """The pairs that make a sum."""
        return range(int(np.searchsorted(self.sums, sum_, "left")), int(np.searchsorted(self.sums, sum_, "right")))


def _pairs(whole: Integers) -> _Pairs:
    first, second = np.triu_indices(whole.size, 1)
    sums = whole[first] + whole[second]
    order = np.argsort(sums, kind="stable")
    if int(sums.max()) > LARGEST_TABLE:
        raise InputError("blocks", "blocks must have sizes with fewer decimals, or fewer blocks")
    there = np.zeros(int(sums.max()) + 1, dtype=bool)
    there[sums] = True
    return _Pairs(sums[order], first[order], second[order], there)


def _exactly(whole: Integers, pairs: _Pairs, target: int) -> list[int]:
    """The fewest blocks, up to five, that make ``target``; an empty list when none do."""
    at = int(np.searchsorted(whole, target))
    if at < whole.size and whole[at] == target:
        return [at]
    two = _match(pairs, np.array([target]))
    if two:
        return [int(pairs.first[two[0][1]]), int(pairs.second[two[0][1]])]
    return _three(whole, pairs, target) or _four(pairs, target, ()) or _five(whole, pairs, target)


def _match(pairs: _Pairs, wanted: Integers) -> list[tuple[int, int]]:
    """All (position in ``wanted``, pair) with equal sums."""
    return [(int(position), pair) for position in pairs.hits(wanted) for pair in pairs.making(int(wanted[position]))]


def _three(whole: Integers, pairs: _Pairs, target: int) -> list[int]:
    for single, pair in _match(pairs, target - whole):
        first, second = int(pairs.first[pair]), int(pairs.second[pair])
        if single not in (first, second):
            return [single, first, second]
    return []


def _four(pairs: _Pairs, target: int, taken: Sequence[int]) -> list[int]:
    wanted = target - pairs.sums
    for position in pairs.hits(wanted):
        one = (int(pairs.first[position]), int(pairs.second[position]))
        if any(block in taken for block in one):
            continue
        for pair in pairs.making(int(wanted[position])):
            two = (int(pairs.first[pair]), int(pairs.second[pair]))
            if not {*one, *taken} & {*two}:
                return [*taken, *one, *two]
    return []


def _five(whole: Integers, pairs: _Pairs, target: int) -> list[int]:
    for single in range(whole.size - 1, -1, -1):
        rest = target - int(whole[single])
        if rest > 0 and (found := _four(pairs, rest, (single,))):
            return found
    return []


def sine_stack(*, centres_mm: Positive, angle_deg: Annotated[float, Gt(0), Lt(90)]) -> SineStack:
    """Return the stack under a sine plate: centres·sin(angle) [mm].

    Parameters
    ----------
    centres_mm : float
        Distance of the rolls [mm].
    angle_deg : float
        Angle, decimal or as degrees-minutes-seconds [°].

    Raises
    ------
    InputError
        If the angle is over 60°: set its complement from the other side.

    Notes
    -----
    Arc-seconds per µm of stack: (1e-3/(centres·cos angle)) in degrees × 3600. Above 45° the complement is offered; it
    needs proven square faces.
    """
    if angle_deg > 60:
        raise InputError("angle_deg", f"angle_deg must be at most 60; set {90 - angle_deg:g} from the other side")
    angle = math.radians(angle_deg)
    worth = math.degrees(1e-3 / (centres_mm * math.cos(angle))) * SECONDS_A_DEGREE
    complement = 90 - angle_deg if angle_deg > 45 else None
    height = None if complement is None else centres_mm * math.sin(math.radians(complement))
    return SineStack(centres_mm * math.sin(angle), worth, complement, height)
