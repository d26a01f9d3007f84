"""Thin parts: the bow after each flip when both sides are taken in turn, shimmed under the hollow."""

from dataclasses import dataclass

from zesty_lark.core.bench.facts import BenchFacts
from zesty_lark.core.holding import pull, thin_bow
from zesty_lark.core.surfaces.part import BowShape

__all__ = ["MOST_TURNS", "Turn", "bow_turns", "is_thin", "turns_wanted"]

THIN_MM, SLENDER = 6.0, 20.0
"""A part is thin up to this height, or when it is this many times longer than high."""
MOST_TURNS = 6
"""Each side is taken this often at most."""
MOST_FOILS = 3
MICROMETRES_A_MM = 1000.0
OTHER: dict[BowShape, BowShape] = {"middle_up": "ends_up", "ends_up": "middle_up"}


@dataclass(frozen=True)
class Turn:
    """One side taken: which time, the face that is up, the gap under it [µm], the foils under the hollow, how much of
    what is left the magnet pulls flat, what springs back and how far out the side comes out [µm]."""

    number: int
    face: int
    gap_um: float
    foils: tuple[str, ...]
    flattened: float
    springs_back_um: float
    out_um: float


def is_thin(facts: BenchFacts) -> bool:
    """Tell whether a part is so thin that the magnet bends it."""
    part = facts.part
    return part.final_mm <= THIN_MM or max(part.along_mm, part.across_mm) >= SLENDER * part.final_mm


def bow_turns(facts: BenchFacts, *, hollow_um: float = 0.0, low: bool = False, most: int = MOST_TURNS) -> list[Turn]:
    """Work out both sides taken in turn, from how the part lies now.

    Parameters
    ----------
    facts : BenchFacts
        The part with its gap now, the chuck and the shop's foils.
    hollow_um : float
        The hollow that heat leaves on each side [µm].
    low : bool
        The magnet at its lowest setting.
    most : int
        How often each side is taken.

    Notes
    -----
    Under each side lies what the other came out with, its shape turned over; foils fill of it what they can without
    lifting the part, and only the rest is pulled: spring-back = rest · share (``thin.bow``), never more than the rest.
    """
    gap, shape, face = facts.part.gap_mm, facts.part.bow_shape, facts.part.up
    made: list[Turn] = []
    for number in range(2 * most):
        foils, rest = _foils(facts, gap)
        share, back = _pulled(facts, rest, shape, low=low)
        out = back * MICROMETRES_A_MM + hollow_um
        made.append(Turn(number // 2 + 1, face, gap * MICROMETRES_A_MM, foils, share, back * MICROMETRES_A_MM, out))
        gap, shape = out / MICROMETRES_A_MM, OTHER[shape]
        face = facts.part.down if face == facts.part.up else facts.part.up
    return made


def _foils(facts: BenchFacts, gap_mm: float) -> tuple[tuple[str, ...], float]:
    """The foils that go under a hollow, the thickest first, and what they leave [mm]."""
    foils = sorted((each for each in facts.accessories if each.kind == "foil"), key=lambda each: -each.height_mm)
    taken: list[str] = []
    left = gap_mm
    for foil in foils:
        used = 0
        while float(foil.height_mm) <= left + 1e-9 and len(taken) < MOST_FOILS and used < foil.count:
            taken.append(foil.name)
            left, used = left - float(foil.height_mm), used + 1
    return tuple(taken), max(left, 0.0)


def _pulled(facts: BenchFacts, gap_mm: float, shape: BowShape, *, low: bool) -> tuple[float, float]:
    """The share of a gap that the magnet pulls flat, and what springs back of it [mm]."""
    part, chuck = facts.part, facts.chuck
    if gap_mm <= 0 or part.material_factor <= 0:
        return 0.0, 0.0
    area = part.along_mm * part.across_mm
    strength = float(chuck.pull_n_cm2) * (float(chuck.low_share) if low else 1.0)
    pulls = pull(
        area,
        part.across_mm,
        part.final_mm,
        strength,
        gap_mm=gap_mm,
        material_factor=part.material_factor,
        surface_factor=part.surface_factor,
    )
    bow = thin_bow(
        length_mm=part.along_mm,
        thickness_mm=part.final_mm,
        bow_mm=gap_mm,
        pull_n_mm2=pulls / area,
        shape=shape,
        wide=True,
    )
    return bow.flattened_share, min(bow.spring_back_mm, gap_mm)


def turns_wanted(turns: list[Turn], allowed_um: float) -> int | None:
    """Return how often each side has to be taken until both come out within what is allowed; ``None`` when they never
    do."""
    for one, other in zip(turns[::2], turns[1::2], strict=True):
        if one.out_um <= allowed_um and other.out_um <= allowed_um:
            return one.number
    return None
