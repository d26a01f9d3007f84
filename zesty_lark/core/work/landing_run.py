"""A run of the log as its landing is estimated from: the sizes it began with, the dial, its passes, what was read."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from decimal import Decimal

from zesty_lark.core.landing.asked import Act, PassKind, Piece, Prior, Ways
from zesty_lark.core.landing.asked import Run as LandingRun
from zesty_lark.core.landing.landed import chances_until
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.folding import Folding
from zesty_lark.core.work.job_state import JobState, PieceSize
from zesty_lark.core.work.landing_acts import Axis, Dial, Walk, figures, kept
from zesty_lark.core.work.machine_acts import TouchedOff
from zesty_lark.core.work.plans import FEEDS, PlanStep, PlanSteps
from zesty_lark.core.work.run import Run

TAKEN_IN_U_MM = 0.005
"""How well a size is known that was only taken in, or ground since it was measured, k = 1 [mm]."""
LEAST_U_MM = 1e-5
COVERAGE = 2
USUAL_U_MM = Decimal("0.002")
"""U of a reading where nothing was measured yet [mm]."""
USUAL_SPARK_OUTS = 1
SAID_UNDER = 0.0015
"""From here on going under is said to be likely enough to stop before it: what is taken is 1 in 1,000, rounded."""


def landing_of(job_state: JobState, run: Run, goal_mm: Decimal, dial: Dial) -> LandingRun | None:
    """Return a run as its landing is estimated from; ``None`` where it ends on no size, or its zero is not known.

    Parameters
    ----------
    job_state : JobState
    run : Run
    goal_mm : Decimal
        The size it is taken to [mm].
    dial : Dial
    """
    asked, surface = job_state.spec.wanted.ends_on(run.surface), job_state.spec.wanted.surfaces[run.surface]
    if asked is None or not run.touched_off or run.plan is None or not run.pieces:
        return None
    limits = asked.limits
    if not limits.lower_mm <= goal_mm <= limits.upper_mm:
        return None
    at = _touched_off_at(job_state, run)
    if at is None:
        return None
    axis = Axis(surface, limits)
    walk = Walk(job_state, run, dial, axis=axis, before=job_state.history[:at])
    begun = Folding(job_state.spec, job_state.history[:at]).state()
    acts = tuple(walk.acts(job_state.history[at:]))
    pieces = tuple(_piece(begun, number, axis) for number in run.pieces)
    return _made(walk, run.plan, goal_mm, pieces, acts=acts)


def landing_before(
    job_state: JobState, surface: int, steps: PlanSteps, goal_mm: Decimal, *, dial: Dial
) -> LandingRun | None:
    """Return a run that has not begun, as a plan has it, one piece for all; ``None`` where it ends on no size or has no
    finish."""
    asked = job_state.spec.wanted.ends_on(surface)
    if asked is None or not asked.limits.lower_mm <= goal_mm <= asked.limits.upper_mm:
        return None
    run, axis = job_state.runs[surface], Axis(job_state.spec.wanted.surfaces[surface], asked.limits)
    walk = Walk(job_state, replace(run, pieces=run.pieces or (1,)), dial, axis=axis, before=())
    walk.plans.append(steps)
    came = axis.of(goal_mm, goal_mm)[0] + float(steps.stock_mm) * axis.rate
    return _made(walk, steps, goal_mm, (Piece(came, came, TAKEN_IN_U_MM),))


def _made(
    walk: Walk, plan: PlanSteps, goal_mm: Decimal, pieces: tuple[Piece, ...], *, acts: tuple[Act, ...] = ()
) -> LandingRun | None:
    """A run with the figures of its plans; ``None`` where none of them has a finish."""
    finish, axis, dial, spec = figures(walk, "finish"), walk.axis, walk.dial, walk.job_state.spec
    if finish is None:
        return None
    goal, limits = axis.of(goal_mm, goal_mm)[0], axis.limits
    lower, upper = sorted(axis.of(limits.upper_mm, limits.lower_mm))
    return LandingRun(
        goal,
        lower,
        upper,
        pieces,
        float(dial.graduation_mm),
        float(dial.graduation_mm),
        spec.wheel_width_mm,
        figures(walk, "rough") or finish,
        finish,
        kept(plan, goal, dial.coolant),
        float(_uncertainty_mm(walk.job_state, walk.run.surface)) / COVERAGE,
        Prior(spec.cut_ratio),
        acts,
        1,
        Ways((_spark_outs(plan),), approach=False, dress=False, dress_levels=True),
    )


def of_what_waits(run: Run) -> Run:
    """Return a run of those of its pieces that were measured and are not in, where any was measured since the last
    cut; else the run as it is."""
    waiting = [number for number in run.pieces if number in run.proofs and run.proofs[number].verdict != "in"]
    return replace(run, pieces=tuple(waiting)) if run.proofs else run


def _uncertainty_mm(job_state: JobState, surface: int) -> Decimal:
    """U of a reading of a surface's size, as it was last measured [mm]."""
    measured = (each for each in reversed(job_state.history) if isinstance(each, Measured) and each.surface == surface)
    return next((each.uncertainty_mm for each in measured if each.uncertainty_mm), USUAL_U_MM)


@dataclass(frozen=True)
class Ahead:
    """What is expected at the next measurement, as the plan goes: in of a hundred, under of a thousand; ``risky`` when
    that is more than is taken."""

    inside: float
    under: float
    risky: bool


def ahead(landing: LandingRun, job_state: JobState, run: Run) -> Ahead | None:
    """Return what the plan in force comes to at its next measurement; ``None`` when there is nothing left to do."""
    acts = _acts_ahead(run, landing, abs(float(job_state.spec.wanted.surfaces[run.surface].per_feed)))
    if not acts:
        return None
    found = chances_until(landing, acts)
    return Ahead(round(found.inside, 4), round(found.under, 5), found.under > SAID_UNDER)


def _acts_ahead(run: Run, landing: LandingRun, rate: float) -> tuple[Act, ...]:
    """What the plan in force asks for until the next measurement; ``rate`` is by how much of a feed the size
    changes."""
    here = max((act.to_mm for act in landing.acts if act.to_mm is not None), default=0.0)
    acts: list[Act] = []
    for step in run.plan.steps[run.done :] if run.plan else ():
        if step.kind == "measure":
            break
        acts += _act_of(step, here + max(float(step.depth_mm - run.depth_mm), 0.0) * rate)
    return tuple(acts)


def _act_of(step: PlanStep, depth: float) -> Iterable[Act]:
    kind: PassKind = "rough" if step.kind == "rough" else "finish"
    if step.kind in FEEDS:
        return [Act("pass", kind=kind, to_mm=depth)]
    if step.kind in ("spark-out", "no feed"):
        return [Act("spark_out", kind=kind, to_mm=depth)]
    return [Act("dress")] if step.kind == "dress" else [Act("cool")] if step.kind == "cool" else []


def _touched_off_at(job_state: JobState, run: Run) -> int | None:
    """The place of the last touch-off in the log, just after it."""
    history = job_state.history
    for number in range(len(history) - 1, -1, -1):
        entry = history[number]
        if isinstance(entry, TouchedOff) and entry.place == run.place:
            return number + 1
    return None


def _piece(begun: JobState, number: int, axis: Axis) -> Piece:
    """A piece as it was at the touch-off."""
    size: PieceSize = begun.pieces[number].sizes[axis.surface.size]
    newest = next(
        (
            entry
            for entry in reversed(begun.history)
            if isinstance(entry, Measured) and entry.characteristic == axis.surface.size and entry.piece == number
        ),
        None,
    )
    if newest is None or size.asked_mm:
        mm = axis.of(size.by_collar_mm, size.by_collar_mm)[0]
        return Piece(mm, mm, TAKEN_IN_U_MM)
    greatest, least = axis.of(newest.greatest_mm, newest.least_mm)
    return Piece(greatest, least, max(float(newest.uncertainty_mm) / COVERAGE, LEAST_U_MM))


def _spark_outs(plan: PlanSteps) -> int:
    """How often the plan sparks out before its last measurement."""
    count = 0
    for step in reversed(plan.steps):
        if step.kind == "spark-out":
            count += 1
        elif step.kind in FEEDS:
            break
    return max(count, USUAL_SPARK_OUTS)
