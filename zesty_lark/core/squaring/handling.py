"""How long hands take, until the shop's own log knows better; and how long a part has to cool before it is measured."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass

from zesty_lark.core.measure.thickness import HOT_SHARE
from zesty_lark.core.part.sizes import growth
from zesty_lark.core.planning.plan import Plan
from zesty_lark.core.planning.problem import Problem
from zesty_lark.core.process.warmth import SECONDS_A_MINUTE, cooling_s, losses_of, time_constant
from zesty_lark.core.work.learned import Times
from zesty_lark.core.work.plans import PlanSteps
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


def instead(other: Plan, chosen: Plan, steps: PlanSteps, handling: Handling = HANDLING) -> TimeLeft:
    """Return what another plan of a face would take in all: its passes and dresses, its wait and its rounds, with the
    same hands as in the ``steps`` of the chosen one."""
    by_hand = steps.minutes - steps.table_minutes + (other.wait_s - chosen.wait_s) / SECONDS_A_MINUTE
    return ranged(other.minutes, max(by_hand, 0.0), other.finish_minutes + handling.measure, steps.rounds)


def cooling_minutes(problem: Problem, rise_c: float, tolerance_mm: float) -> float:
    """Return how long the coolant has to run over a part before its size can be told [min]: until what it has grown is
    no more than the share of the tolerance at which it counts as warm; 0 when it is cool enough.

    Without coolant the chuck alone takes the heat away.
    """
    height = problem.part.height_mm
    tau = time_constant(height, losses_of(height, problem.coolant))
    return cooling_s(growth(height, rise_c), HOT_SHARE * tolerance_mm, tau) / SECONDS_A_MINUTE
