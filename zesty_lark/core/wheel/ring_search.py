"""The search behind the balance ring: exact, meeting in the middle over the kinds of screw; where there are too many
placings for that, from the heaviest screws that can be searched so, bettered move by move."""

from collections.abc import Mapping, Sequence
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

MOST_SUMS = 1_300_000
"""Of a half: eight like screws in 24 holes have 1.27 million, and are searched exactly within a second."""
FIRST_NEIGHBOURS = 8
LEAST_GAIN = 1e-9
"""A move that betters it by less betters it by nothing but rounding."""

Sums = tuple[NDArray[np.complex128], NDArray[np.int64], list[NDArray[np.int64]]]


def least_residual(
    target: complex, holes: int, radius_mm: float, counts: Mapping[float, int]
) -> tuple[float, dict[int, float], bool]:
    """Return |target + Σ m·r·e(hole)| [g·mm], the placing (hole to mass) that gives it, and whether it is the least
    there is. Which it is depends on the question alone, never on the time.
    """
    arms = radius_mm * np.exp(2j * np.pi * np.arange(holes) / holes)
    searched, left = _as_many_as_can_be(holes, counts)
    placed = _exact(target, arms, list(searched.items()))
    if left:
        placed = _bettered(target, arms, placed, left)
    return float(abs(_rest(target, arms, placed))), placed, not left


def _rest(target: complex, arms: NDArray[np.complex128], placed: Mapping[int, float]) -> complex:
    return target + complex(sum(mass * arms[hole] for hole, mass in placed.items()))


def _can_be(sizes: Sequence[int]) -> bool:
    return all(np.prod([float(sizes[kind]) for kind in half]) <= MOST_SUMS for half in _halves(sizes))


def _as_many_as_can_be(holes: int, counts: Mapping[float, int]) -> tuple[dict[float, int], list[float]]:
    """The screws that can be searched exactly, the heaviest first, and those that are left, heaviest first."""
    searched: dict[float, int] = {}
    screws = [mass for mass, count in sorted(counts.items(), reverse=True) for _ in range(count)]
    for place, mass in enumerate(screws):
        more = searched | {mass: searched.get(mass, 0) + 1}
        if not _can_be([_placings(holes, min(count, holes)) for count in more.values()]):
            return searched, screws[place:]
        searched = more
    return searched, []


def _exact(target: complex, arms: NDArray[np.complex128], kinds: Sequence[tuple[float, int]]) -> dict[int, float]:
    sizes = [_placings(arms.size, min(count, arms.size)) for _, count in kinds]
    first, second = _halves(sizes)
    one = _half([kinds[kind] for kind in first], arms)
    two = _half([kinds[kind] for kind in second], arms)
    _, here, there = _closest(target, one, two)
    placed = _unpack([kinds[kind][0] for kind in first], one, here)
    return placed | _unpack([kinds[kind][0] for kind in second], two, there)


def _bettered(
    target: complex, arms: NDArray[np.complex128], placed: Mapping[int, float], box: Sequence[float]
) -> dict[int, float]:
    """Better a placing move by move, until no screw put in, taken out, moved or changed for another makes it better."""
    now, left = dict(placed), list(box)
    best = abs(_rest(target, arms, now))
    while True:
        tries = [_moved(now, left, hole, mass) for hole in range(arms.size) for mass in (None, *sorted(set(left)))]
        tries += [
            ({each: mass for each, mass in now.items() if each != here} | {there: now[here]}, left)
            for here in sorted(now)
            for there in range(arms.size)
            if there not in now
        ]
        found = min(tries, key=lambda each: (abs(_rest(target, arms, each[0])), sorted(each[0].items())))
        if not abs(_rest(target, arms, found[0])) < best * (1 - LEAST_GAIN):
            return now
        now, left = found
        best = abs(_rest(target, arms, now))


def _moved(
    now: Mapping[int, float], left: Sequence[float], hole: int, mass: float | None
) -> tuple[dict[int, float], list[float]]:
    """The placing and the box with another screw, or none, in a hole."""
    box = [*left, *([now[hole]] if hole in now else [])]
    others = {each: kept for each, kept in now.items() if each != hole}
    if mass is None:
        return others, box
    box.remove(mass)
    return others | {hole: mass}, box


def _placings(holes: int, count: int) -> int:
    """How many ways there are to put up to ``count`` like screws into holes."""
    total, ways = 1, 1
    for placed in range(count):
        ways = ways * (holes - placed) // (placed + 1)
        total += ways
    return total


def _halves(sizes: Sequence[int]) -> tuple[list[int], list[int]]:
    """Split the kinds so that the two halves together have the fewest sums."""
    everything = range(len(sizes))
    best: tuple[float, list[int]] = (float("inf"), [])
    for count in range(len(sizes) + 1):
        for half in combinations(everything, count):
            other = [kind for kind in everything if kind not in half]
            cost = float(
                np.prod([float(sizes[kind]) for kind in half]) + np.prod([float(sizes[kind]) for kind in other])
            )
            if cost < best[0]:
                best = (cost, list(half))
    return best[1], [kind for kind in everything if kind not in best[1]]


def _subsets(holes: int, count: int) -> NDArray[np.int64]:
    """All sets of at most ``count`` holes, as bit masks, grown hole by hole."""
    level = np.zeros(1, dtype=np.int64)
    next_hole = np.zeros(1, dtype=np.int64)
    levels = [level]
    for _ in range(count):
        room = holes - next_hole
        parents = np.repeat(np.arange(level.size), room)
        offsets = np.arange(parents.size) - np.repeat(np.cumsum(room) - room, room)
        hole = next_hole[parents] + offsets
        level, next_hole = level[parents] | (np.int64(1) << hole), hole + 1
        levels.append(level)
    return np.concatenate(levels)


def _vector_sums(masks: NDArray[np.int64], arms: NDArray[np.complex128], mass: float) -> NDArray[np.complex128]:
    total = np.zeros(masks.size, dtype=np.complex128)
    for hole, arm in enumerate(arms):
        total += ((masks >> hole) & 1) * (mass * arm)
    return total


def _half(kinds: Sequence[tuple[float, int]], arms: NDArray[np.complex128]) -> Sums:
    """All sums of a half's kinds, the holes they use, and each kind's own holes."""
    sums = np.zeros(1, dtype=np.complex128)
    used = np.zeros(1, dtype=np.int64)
    own: list[NDArray[np.int64]] = []
    for mass, count in kinds:
        masks = _subsets(arms.size, min(count, arms.size))
        vectors = _vector_sums(masks, arms, mass)
        left = np.repeat(np.arange(sums.size), masks.size)
        right = np.tile(np.arange(masks.size), sums.size)
        free = (used[left] & masks[right]) == 0
        left, right = left[free], right[free]
        sums, used = sums[left] + vectors[right], used[left] | masks[right]
        own = [masks_before[left] for masks_before in own] + [masks[right]]
    return sums, used, own


def _closest(target: complex, one: Sums, two: Sums) -> tuple[float, int, int]:
    """The pair, one of each half and no hole twice, whose sum comes nearest to −target; exact."""
    from scipy.spatial import cKDTree

    if one[0].size > two[0].size:
        residual, there, here = _closest(target, two, one)
        return residual, here, there
    tree = cKDTree(np.column_stack((two[0].real, two[0].imag)), balanced_tree=False, compact_nodes=False)
    wanted = -target - one[0]
    waiting = np.arange(wanted.size)
    best = (float("inf"), 0, 0)
    neighbours = min(FIRST_NEIGHBOURS, two[0].size)
    while waiting.size:
        points = np.column_stack((wanted[waiting].real, wanted[waiting].imag))
        distance, index = tree.query(points, k=list(range(1, neighbours + 1)))
        clash = (one[1][waiting][:, None] & two[1][index]) != 0
        allowed = np.where(clash, np.inf, distance)
        row, column = np.unravel_index(int(np.argmin(allowed)), allowed.shape)
        if allowed[row, column] < best[0]:
            best = (float(allowed[row, column]), int(waiting[row]), int(index[row, column]))
        if neighbours == two[0].size:
            break
        unsettled = np.all(clash, axis=1) & (distance[:, -1] < best[0])
        waiting, neighbours = waiting[unsettled], min(neighbours * 8, two[0].size)
    return best


def _unpack(masses: Sequence[float], half: Sums, index: int) -> dict[int, float]:
    placed: dict[int, float] = {}
    for mass, masks in zip(masses, half[2], strict=True):
        mask = int(masks[index])
        placed |= {hole: mass for hole in range(mask.bit_length()) if mask >> hole & 1}
    return placed
