"""Balance: two weights, a ring of screws, and trial runs (ISO 21940-11 for what is permissible)."""

import cmath
import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Annotated

from annotated_types import Ge, Le, MaxLen, MinLen

from zesty_lark.core.quantities.numbers import Angle, InputError, NonNegative, Positive, Rpm
from zesty_lark.core.wheel.ring_search import least_residual

MOST_HOLES = 48
MOST_SCREWS = 12


@dataclass(frozen=True)
class TwoWeights:
    """Where two equal weights sit [°]; when they are too small both stand on the light side and it is said."""

    enough: bool
    half_spread_deg: float
    first_deg: float
    second_deg: float


@dataclass(frozen=True)
class TrialRuns:
    """The unbalance [g·mm] and the angle of the heavy side [°]."""

    unbalance_gmm: float
    heavy_deg: float


@dataclass(frozen=True)
class Ring:
    """A placing and its residual [g·mm]: hole number to mass [g]. The least there is when ``exact``; else the best that
    was found, at most ``from_best_gmm`` from the least."""

    residual_gmm: float
    placed: dict[int, float] = field(default_factory=dict)
    exact: bool = True
    from_best_gmm: float = 0.0


def two_weights(*, unbalance_gmm: NonNegative, heavy_deg: Angle, mass_g: Positive, radius_mm: Positive) -> TwoWeights:
    """Spread two equal weights from the light side: γ = acos(U/(2mR)).

    Parameters
    ----------
    unbalance_gmm, heavy_deg : float
        Unbalance U [g·mm] and the angle where it hangs [°].
    mass_g, radius_mm : float
        Each weight [g] and its radius [mm].
    """
    reach = 2 * mass_g * radius_mm
    enough = unbalance_gmm <= reach
    spread = math.degrees(math.acos(unbalance_gmm / reach)) if enough else 0.0
    light = heavy_deg + 180
    return TwoWeights(enough, spread, (light - spread) % 360, (light + spread) % 360)


def trial_runs(*, a0: NonNegative, a1: NonNegative, a2: NonNegative, a3: NonNegative, trial_gmm: Positive) -> TrialRuns:
    """Find the unbalance from a run without and three runs with a trial weight at 0°, 120° and 240°.

    Amplitudes in any one unit; trial weight T [g·mm].

    Raises
    ------
    InputError
        If the readings contradict each other: s² = (mean(a²) − a0²)/T² is not over 0.

    Notes
    -----
    U = Σ aᵢ²·eᵢ/(3·s²·T); the heavy angle is its direction.
    """
    squares = (a1**2, a2**2, a3**2)
    s2 = (sum(squares) / 3 - a0**2) / trial_gmm**2
    if s2 <= 0:
        raise InputError("a0", "a0 must be smaller than the other readings let it be: they contradict each other")
    vector = sum(
        (square * cmath.rect(1, math.radians(angle)) for square, angle in zip(squares, (0, 120, 240), strict=True)),
        start=0j,
    ) / (3 * s2 * trial_gmm)
    return TrialRuns(abs(vector), math.degrees(cmath.phase(vector)) % 360)


@dataclass(frozen=True)
class Permissible:
    """What may be left: eccentricity e [mm] and unbalance U = M·e [g·mm], aimed at and at most."""

    aim_mm: float
    most_mm: float
    aim_gmm: float
    most_gmm: float


def permissible(
    *, mass_g: Positive, wheel_rpm: Rpm, aim_mm_s: Positive = 1.0, most_mm_s: Positive = 2.5
) -> Permissible:
    """Return the unbalance that may be left in wheel and flange.

    Parameters
    ----------
    mass_g, wheel_rpm : float
        Of wheel and flange together [g], and the spindle [rpm].
    aim_mm_s, most_mm_s : float
        Balance grades e·ω [mm/s] (ISO 21940-11).
    """
    turns = wheel_rpm * 2 * math.pi / 60
    aim, most = aim_mm_s / turns, most_mm_s / turns
    return Permissible(aim, most, mass_g * aim, mass_g * most)


Masses = Annotated[list[Positive], MinLen(0), MaxLen(MOST_SCREWS)]


def ring(
    *,
    unbalance_gmm: NonNegative,
    heavy_deg: Angle,
    holes: Annotated[int, Ge(1), Le(MOST_HOLES)],
    radius_mm: Positive,
    masses_g: Masses,
) -> Ring:
    """Place screws in a ring of tapped holes for the least residual; screws may stay in the box.

    Parameters
    ----------
    unbalance_gmm, heavy_deg : float
        Unbalance [g·mm] and where it hangs [°].
    holes, radius_mm : int, float
        Holes, hole 0 at 0°, counted with the angle, and their radius [mm].
    masses_g : sequence of float
        The screws in the box [g]; at most one a hole.

    Notes
    -----
    Exact: screws are split into two halves, all sums of each half are made, and each sum of the one is met with the
    nearest of the other in a plane grid; placings that use a hole twice are passed over. With more than 1.3 million
    sums in a half, the heaviest screws that have fewer are placed so, and the rest is bettered move by move: nothing is
    under 0, so the best is at most the residual away.
    """
    target = cmath.rect(unbalance_gmm, math.radians(heavy_deg))
    residual, placed, exact = least_residual(target, holes, radius_mm, _counted(masses_g))
    return Ring(residual, dict(sorted(placed.items())), exact, 0.0 if exact else residual)


def _counted(masses: Sequence[float]) -> dict[float, int]:
    counts: dict[float, int] = {}
    for mass in masses:
        counts[mass] = counts.get(mass, 0) + 1
    return dict(sorted(counts.items(), reverse=True))
