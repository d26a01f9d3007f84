"""Thin parts: the bow after each flip when both sides are taken in turn, shimmed under the hollow."""

from dataclasses import dataclass

from zesty_lark.core.part.surfaces.part import BowShape
from zesty_lark.core.process.holding import Bow, pulled_flat
from zesty_lark.core.quantities.units import UM_A_MM
from zesty_lark.core.setup.facts import SetUpFacts
from zesty_lark.core.squaring import under
from zesty_lark.core.squaring.hold import OTHER_SHAPE
from zesty_lark.core.squaring.under import foils_for

MOST_TURNS = 6
"""Each side is taken this often at most."""


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


def is_thin(facts: SetUpFacts) -> bool:
    """Tell whether a part is so thin that the magnet bends it."""
    part = facts.part
    return under.is_thin(part.along_mm, part.across_mm, part.held_as_mm)


def bow_turns(facts: SetUpFacts, *, hollow_um: float = 0.0, low: bool = False, most: int = MOST_TURNS) -> list[Turn]:
    """Work out both sides taken in turn, from how the part lies now.

    Parameters
    ----------
    facts : SetUpFacts
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
    foils = [accessory for accessory in facts.accessories if accessory.kind == "foil"]
    made: list[Turn] = []
    for number in range(2 * most):
        filled = foils_for(foils, gap)
        bow = _pulled(facts, gap - sum(float(each.height_mm) for each in filled), shape, low=low)
        share, back = (0.0, 0.0) if bow is None else (bow.flattened_share, bow.spring_back_mm * UM_A_MM)
        names = tuple(each.name for each in filled)
        made.append(Turn(number // 2 + 1, face, gap * UM_A_MM, names, share, back, back + hollow_um))
        gap, shape = (back + hollow_um) / UM_A_MM, OTHER_SHAPE[shape]
        face = facts.part.down if face == facts.part.up else facts.part.up
    return made


def _pulled(facts: SetUpFacts, gap_mm: float, shape: BowShape, *, low: bool) -> Bow | None:
    """What the magnet does to what is left of a gap."""
    part, chuck = facts.part, facts.chuck
    strength = float(chuck.pull_n_cm2) * (float(chuck.low_share) if low else 1.0)
    return pulled_flat(
        (part.along_mm, part.across_mm, part.final_mm),
        gap_mm,
        shape,
        strength,
        material_factor=part.material_factor,
        surface_factor=part.surface_factor,
    )


def turns_wanted(turns: list[Turn], allowed_um: float) -> int | None:
    """Return how often each side has to be taken until both come out within what is allowed; ``None`` when they never
    do."""
    for one, other in zip(turns[::2], turns[1::2], strict=True):
        if one.out_um <= allowed_um and other.out_um <= allowed_um:
            return one.number
    return None
