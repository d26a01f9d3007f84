"""A run of the log as its landing is estimated from: the sizes it began with, the dial, its passes, what was read.

A size that grows as it is ground is mirrored at the middle of its zone; where a feed changes the size by another amount
than itself, everything is told in the size's own direction.
"""

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from zesty_lark.core.landing.asked import Act, PassFigures, PassKind, Piece, Prior, Sparks, Ways
from zesty_lark.core.landing.asked import Run as LandingRun
from zesty_lark.core.part.sizes import Size
from zesty_lark.core.part.surfaces.surface import Surface
from zesty_lark.core.process.evaluate import Coolant
from zesty_lark.core.process.warmth import SECONDS_A_MINUTE, losses_of, time_constant
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.entry import AtMachine, Entry
from zesty_lark.core.work.folding import Folding
from zesty_lark.core.work.job_state import JobState, PieceSize
from zesty_lark.core.work.machine_acts import Dressed, Observed, PassFed, Planned, SparkedOut, StepDone, TouchedOff
from zesty_lark.core.work.plans import FEEDS, PlanStep, PlanSteps
from zesty_lark.core.work.run import Run

TAKEN_IN_U_MM = 0.005
"""How well a size is known that was only taken in, or ground since it was measured, k = 1 [mm]."""
COVERAGE = 2
USUAL_U_MM = Decimal("0.002")
"""U of a reading where nothing was measured yet [mm]."""
USUAL_HEIGHT_MM = 20.0
COOLED_MINUTES = 2.0
USUAL_SPARK_OUTS = 1
BEHIND_FRONT = 0.1
"""The leading slice of a wheel's face wears; what wipes behind it loses about so much of what the mean would."""
MOST_WARMER = 4
"""A deep roughing pass warms the part by up to so many times what a finish pass does: it cuts with less energy."""
SPARKS: dict[str, Sparks] = {"even": "even", "died": "none"}
"""What of the things seen tells how much the last pass cut."""


@dataclass(frozen=True)
class Dial:
    """The dial as it goes under the surface: its graduation, and the U of a reading of the gauge [mm]; the coolant."""

    graduation_mm: Decimal
    uncertainty_mm: Decimal
    coolant: Coolant = "water"


@dataclass(frozen=True)
class _Axis:
    """How sizes and feeds are told: by how much of a feed the size changes, mirrored or not."""

    surface: Surface
    limits: Size

    @property
    def rate(self) -> float:
        return abs(float(self.surface.per_feed))

    def of(self, greatest_mm: Decimal, least_mm: Decimal) -> tuple[float, float]:
        if not self.surface.grows:
            return float(greatest_mm), float(least_mm)
        whole = self.limits.lower_mm + self.limits.upper_mm
        return float(whole - least_mm), float(whole - greatest_mm)


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
    axis = _Axis(surface, limits)
    walk = _Walk(job_state, run, dial, axis=axis, before=job_state.history[:at])
    begun = Folding(job_state.spec, job_state.history[:at]).state()
    acts = tuple(walk.acts(job_state.history[at:]))
    finish = _figures(walk, "finish")
    if finish is None:
        return None
    goal = axis.of(goal_mm, goal_mm)[0]
    lower, upper = sorted(axis.of(limits.upper_mm, limits.lower_mm))
    return LandingRun(
        goal,
        lower,
        upper,
        tuple(_piece(begun, number, axis) for number in run.pieces),
        float(dial.graduation_mm),
        float(dial.graduation_mm),
        job_state.spec.wheel_width_mm,
        _figures(walk, "rough") or finish,
        finish,
        _kept(run.plan, goal, dial.coolant),
        float(dial.uncertainty_mm) / COVERAGE,
        Prior(job_state.spec.cut_ratio),
        acts,
        1,
        Ways((_spark_outs(run.plan),), approach=False, dress=False, dress_levels=True),
    )


def landing_before(
    job_state: JobState, surface: int, steps: PlanSteps, goal_mm: Decimal, *, dial: Dial
) -> LandingRun | None:
    """Return a run that has not begun, as a plan has it, one piece for all; ``None`` where it ends on no size or has no
    finish."""
    asked = job_state.spec.wanted.ends_on(surface)
    if asked is None or not asked.limits.lower_mm <= goal_mm <= asked.limits.upper_mm:
        return None
    run, axis = job_state.runs[surface], _Axis(job_state.spec.wanted.surfaces[surface], asked.limits)
    walk = _Walk(job_state, replace(run, pieces=run.pieces or (1,)), dial, axis=axis, before=())
    walk.plans.append(steps)
    finish = _figures(walk, "finish")
    if finish is None:
        return None
    goal = axis.of(goal_mm, goal_mm)[0]
    lower, upper = sorted(axis.of(asked.limits.upper_mm, asked.limits.lower_mm))
    came = goal + float(steps.stock_mm) * axis.rate
    return LandingRun(
        goal,
        lower,
        upper,
        (Piece(came, came, TAKEN_IN_U_MM),),
        float(dial.graduation_mm),
        float(dial.graduation_mm),
        job_state.spec.wheel_width_mm,
        _figures(walk, "rough") or finish,
        finish,
        _kept(steps, goal, dial.coolant),
        float(dial.uncertainty_mm) / COVERAGE,
        Prior(job_state.spec.cut_ratio),
        (),
        1,
        Ways((_spark_outs(steps),), approach=False, dress=False, dress_levels=True),
    )


def ahead_of(run: Run, landing: LandingRun, rate: float) -> tuple[Act, ...]:
    """Return what the plan in force asks for until the next measurement; ``rate`` is by how much of a feed the size
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


def _piece(begun: JobState, number: int, axis: _Axis) -> Piece:
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
    return Piece(greatest, least, max(float(newest.uncertainty_mm) / COVERAGE, 1e-5))


class _Walk:
    """The log since the touch-off, act by act: which plan was in force, how deep, and with what figures."""

    def __init__(self, job_state: JobState, run: Run, dial: Dial, *, axis: _Axis, before: Sequence[Entry]) -> None:
        self.job_state, self.run, self.dial, self.axis = job_state, run, dial, axis
        self.plans = [entry.plan for entry in before if isinstance(entry, Planned) and entry.place == run.place]
        self.depth = self.begins = Decimal(0)
        self.kind: PassKind = "finish"
        self.figures: PassFigures | None = None
        last = before[-1] if before else None
        self.zero = last.reading_mm if isinstance(last, TouchedOff) else Decimal(0)

    def acts(self, history: Iterable[Entry]) -> Iterator[Act]:
        """Each entry as what it was to the run."""
        for entry in history:
            if isinstance(entry, Dressed):
                self.zero += entry.amount_mm or Decimal(0)
                yield Act("dress")
            elif isinstance(entry, Measured):
                yield from self._measured(entry)
            elif isinstance(entry, AtMachine) and entry.place == self.run.place:
                yield from self._at_machine(entry)

    def _measured(self, entry: Measured) -> Iterator[Act]:
        here = entry.characteristic == self.axis.surface.size and entry.surface == self.run.surface
        if not here or entry.piece not in self.run.pieces or not entry.readings:
            return
        if entry.part_c is not None:  # its warmth is taken out of what was read
            yield Act("cool")
        greatest, least = self.axis.of(entry.greatest_mm, entry.least_mm)
        piece = self.run.pieces.index(entry.piece)
        yield Act("measured", greatest_mm=greatest, least_mm=least, piece=piece)

    def _at_machine(self, entry: AtMachine) -> Iterator[Act]:
        if isinstance(entry, Planned):
            self.plans.append(entry.plan)
            self.begins = self.depth
        elif isinstance(entry, PassFed):
            self.depth = max(entry.reading_mm - self.zero, Decimal(0))
            self._as_planned()
            yield Act("pass", kind=self.kind, to_mm=self._to, figures=self.figures)
        elif isinstance(entry, SparkedOut):
            for _ in range(entry.count):
                yield Act("spark_out", kind=self.kind, to_mm=self._to, figures=self.figures)
        elif isinstance(entry, StepDone) and self._step(entry.step) == "cool":
            yield Act("cool")
        elif isinstance(entry, Observed) and entry.seen in SPARKS:
            yield Act("seen", sparks=SPARKS[entry.seen])

    @property
    def _to(self) -> float:
        return float(self.depth) * self.axis.rate

    def _as_planned(self) -> None:
        """The kind and the figures of the pass that was fed to here: as the plan has it."""
        plan = self.plans[-1] if self.plans else None
        steps = plan.passes if plan is not None else ()
        here = next((step for step in steps if self.begins + step.depth_mm >= self.depth), None)
        self.kind = "rough" if here is not None and here.kind == "rough" else "finish"
        if plan is not None and here is not None and here.step_mm > 0:
            self.figures = self.figures_of(plan, here)

    def figures_of(self, plan: PlanSteps, step: PlanStep) -> PassFigures | None:
        """What a step of a plan does: its step, crossfeed, what it warms the part by and wears off the wheel."""
        if step.crossfeed_mm is None:
            return None
        finish = max((each.step_mm for each in plan.passes if each.kind == "finish"), default=step.step_mm)
        return PassFigures(
            float(step.step_mm) * self.axis.rate,
            float(step.crossfeed_mm),
            _rise_a_pass(plan, self.dial.coolant) * float(step.step_mm / max(finish, step.step_mm / MOST_WARMER)),
            _wear(self.job_state, self.run, float(step.step_mm)),
        )

    def _step(self, number: int) -> str:
        steps = self.plans[-1].steps if self.plans else ()
        return steps[number - 1].kind if 0 < number <= len(steps) else ""


def _figures(walk: "_Walk", kind: PassKind) -> PassFigures | None:
    """A kind of pass by the last plan that has it; a plan of a finish only has its feeds in it."""
    for plan in reversed(walk.plans):
        steps = [step for step in plan.passes if step.kind == kind and step.step_mm > 0]
        if steps:
            return walk.figures_of(plan, max(steps, key=lambda step: step.step_mm))
    return None


def _kept(plan: PlanSteps, height_mm: float, coolant: Coolant) -> float:
    """The share of its rise that the part keeps over a pass."""
    minutes = [step.minutes for step in plan.passes if step.kind == "finish"] or [COOLED_MINUTES]
    height = height_mm if height_mm > 1 else USUAL_HEIGHT_MM
    return math.exp(-minutes[-1] * SECONDS_A_MINUTE / time_constant(height, losses_of(height, coolant)))


def _rise_a_pass(plan: PlanSteps, coolant: Coolant) -> float:
    """What a finish pass warms the part by, where so many of them leave it as warm as the plan has it [K]."""
    kept, passes = _kept(plan, USUAL_HEIGHT_MM, coolant), max(1, sum(step.kind == "finish" for step in plan.passes))
    return float(plan.rise_c) * (1 - kept) / max(1 - kept**passes, 1e-9)


def _wear(job_state: JobState, run: Run, step_mm: float) -> float:
    """What a pass costs of the size by wear at its step: the volume ground over G, spread over the wheel's face, and of
    that what is lost behind the worn front [mm]."""
    wheel, lying = job_state.spec.wheel, job_state.spec.lying_mm.get(run.surface)
    if wheel is None or lying is None:
        return 0.0
    volume = step_mm * lying[0] * lying[1] * len(run.pieces)
    return BEHIND_FRONT * volume / (wheel.g_ratio * math.pi * wheel.diameter_mm * wheel.width_mm)


def _spark_outs(plan: PlanSteps) -> int:
    """How often the plan sparks out before its last measurement."""
    count = 0
    for step in reversed(plan.steps):
        if step.kind == "spark-out":
            count += 1
        elif step.kind in FEEDS:
            break
    return max(count, USUAL_SPARK_OUTS)
