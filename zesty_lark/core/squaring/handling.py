"""How long hands take, until the shop's own log knows better; and how long a part has to cool before it is measured."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass

from zesty_lark.core.measure.thickness import HOT_SHARE
from zesty_lark.core.part.sizes import growth
from zesty_lark.core.planning.plan import Plan
from zesty_lark.core.planning.problem import Problem
from zesty_lark.core.process.warmth import SECONDS_A_MINUTE, cooling_s, losses_of, time_constant
from zesty_lark.core.work.learned import Times
from zesty_lark.core.work.plans import NO_ROUNDS, ROUNDS, ROUNDS_ON
from zesty_lark.core.work.time_left import TimeLeft, ranged


@dataclass(frozen=True)
class Handling:
    """Minutes for what is done by hand: clean and place, touch-off, a dress, a measurement, a flip, a fixture."""

    place: float = 4.0
    touch_off: float = 2.0
    dress: float = 1.5
    measure: float = 3.0
    flip: float = 3.0
    fixture: float = 12.0


HANDLING = Handling()
USUAL: Mapping[str, float] = asdict(HANDLING)
"""The same by name, for what the log has not told yet [min]."""


def learned_handling(times: Mapping[str, Times]) -> Handling:
    """Return how long hands take at a machine as its log tells."""
    return Handling(**{name: times[name].minutes if name in times else usual for name, usual in USUAL.items()})


def minutes_in_all(
    plan: Plan, *, on_magnet: bool, blocked: bool, goes_on: bool, ends_on_size: bool, handling: Handling = HANDLING
) -> TimeLeft:
    """Return a face's time with what hands do beside the table: put up, blocks, touch off, measure at the stop and at
    the end, wait; and where it ends on a size, what is planned anew, cut and measured once more.

    One that goes on after a measurement is up and touched off: it is only measured again.
    """
    by_hand = handling.measure + plan.wait_s / SECONDS_A_MINUTE
    if not goes_on:
        by_hand += (handling.place if on_magnet else handling.fixture) + handling.touch_off
        by_hand += handling.place if blocked else 0.0
        by_hand += handling.measure if ends_on_size else 0.0
    rounds = (ROUNDS_ON if goes_on else ROUNDS) if ends_on_size else NO_ROUNDS
    return ranged(plan.minutes, by_hand, plan.finish_minutes + handling.measure, rounds)


def cooling_minutes(problem: Problem, rise_c: float, tolerance_mm: float) -> float:
    """Return how long the coolant has to run over a part before its size can be told [min]: until what it has grown is
    no more than the share of the tolerance at which it counts as warm; 0 when it is cool enough.

    Without coolant the chuck alone takes the heat away.
    """
    height = problem.part.height_mm
    tau = time_constant(height, losses_of(height, problem.coolant))
    return cooling_s(growth(height, rise_c), HOT_SHARE * tolerance_mm, tau) / SECONDS_A_MINUTE
