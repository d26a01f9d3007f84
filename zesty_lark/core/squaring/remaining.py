"""What is left on a surface: from the last measurement if there is one, else from the collar."""

from decimal import ROUND_UP, Decimal

from zesty_lark.core.part.sizes import Size
from zesty_lark.core.part.surfaces.part import PairPlan
from zesty_lark.core.quantities.units import SMALLEST_MM
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import PassFed
from zesty_lark.core.work.run import NOTHING, Run


def ends_at(pair: PairPlan, *, reference: bool, turn: int = 1) -> Decimal:
    """Return the size at which a face is done: where the pair ends, plus the second face's stock for the first [mm].

    Where both sides are taken in several turns, each takes an equal part of its stock in each: what later turns take is
    still on.
    """
    first, second = pair.split.first_face_mm, pair.split.second_face_mm
    later = (first + second) * max(pair.turns - turn, 0) / pair.turns
    own = second / pair.turns if reference else NOTHING
    return (pair.ends_at_mm + later + own).quantize(SMALLEST_MM, ROUND_UP)


def turn_of(job_state: JobState, run: Run) -> int:
    """Return which time a surface is taken: how often it was fed with its opposite in between, this time counted."""
    sides = (run.surface, job_state.spec.wanted.surfaces[run.surface].opposite)
    fed = [entry.surface for entry in job_state.history if isinstance(entry, PassFed) and entry.surface in sides]
    begun = sum(1 for at, surface in enumerate(fed) if surface == run.surface and (at == 0 or fed[at - 1] != surface))
    return begun if fed and fed[-1] == run.surface else begun + 1


def keeps_wheel_height(run: Run, job_state: JobState) -> bool:
    """Tell whether a new plan can carry on from the collar's last reading, without a new touch-off."""
    return job_state.is_up(run) and run.touched_off and run.plan is not None


def skin_again(size_mm: Decimal, limits: Size | None, uncertainty_mm: Decimal, skin_mm: Decimal) -> Decimal:
    """Return what a surface that is ground again may give [mm]: the part's skin; where it bounds a size, no more of it
    than is sure to stay over the lower limit."""
    if limits is None:
        return skin_mm
    return max(min(skin_mm, size_mm - uncertainty_mm - limits.lower_mm), NOTHING)


def stock_on(run: Run, job_state: JobState, goal_mm: Decimal) -> Decimal:
    """Return the stock that is to be fed off the highest piece now [mm]; negative when it is past its goal.

    Where the wheel's height is kept, what the springs still hold back comes off by itself and is not fed again.
    """
    highest, surface = job_state.highest(run), job_state.spec.wanted.surfaces[run.surface]
    left = surface.to_feed(NOTHING if highest is None else highest.by_collar_mm, goal_mm)
    if run.proofs and keeps_wheel_height(run, job_state):
        left -= run.held_back_mm
    return left
