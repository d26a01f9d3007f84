"""The log since a touch-off as acts of a landing: each pass with its own figures, each reading as it comes down.

A size that grows as it is ground is mirrored at the middle of its zone; where a feed changes the size by another amount
than itself, everything is told in the size's own direction.
"""

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from decimal import Decimal

from zesty_lark.core.landing.asked import Act, PassFigures, PassKind, Sparks
from zesty_lark.core.part.sizes import Size
from zesty_lark.core.part.surfaces.surface import Surface
from zesty_lark.core.process.evaluate import Coolant
from zesty_lark.core.process.warmth import SECONDS_A_MINUTE, losses_of, time_constant
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.entry import AtMachine, Entry
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import Dressed, Observed, PassFed, Planned, SparkedOut, StepDone, TouchedOff
from zesty_lark.core.work.plans import PlanStep, PlanSteps
from zesty_lark.core.work.run import Run

USUAL_HEIGHT_MM = 20.0
COOLED_MINUTES = 2.0
BEHIND_FRONT = 0.1
"""The leading slice of a wheel's face wears; what wipes behind it loses about so much of what the mean would."""
MOST_WARMER = 4
"""A deep roughing pass warms the part by up to so many times what a finish pass does: it cuts with less energy."""
SPARKS: dict[str, Sparks] = {"even": "even", "died": "none"}
"""What of the things seen tells how much the last pass cut."""


@dataclass(frozen=True)
class Dial:
    """The dial as it goes under the surface: its graduation [mm]; and the coolant."""

    graduation_mm: Decimal
    coolant: Coolant = "water"


@dataclass(frozen=True)
class Axis:
    """How sizes and feeds are told: by how much of a feed the size changes, mirrored or not."""

    surface: Surface
    limits: Size

    @property
    def rate(self) -> float:
        """By how much of a feed the size changes."""
        return abs(float(self.surface.per_feed))

    def of(self, greatest_mm: Decimal, least_mm: Decimal) -> tuple[float, float]:
        """The highest and the lowest place, as they come down with the feed [mm]."""
        if not self.surface.grows:
            return float(greatest_mm), float(least_mm)
        whole = self.limits.lower_mm + self.limits.upper_mm
        return float(whole - least_mm), float(whole - greatest_mm)


class Walk:
    """The log since the touch-off, act by act: which plan was in force, how deep, and with what figures."""

    def __init__(self, job_state: JobState, run: Run, dial: Dial, *, axis: Axis, before: Sequence[Entry]) -> None:
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


def figures(walk: Walk, kind: PassKind) -> PassFigures | None:
    """A kind of pass by the last plan that has it; a plan of a finish only has its feeds in it."""
    for plan in reversed(walk.plans):
        steps = [step for step in plan.passes if step.kind == kind and step.step_mm > 0]
        if steps:
            return walk.figures_of(plan, max(steps, key=lambda step: step.step_mm))
    return None


def kept(plan: PlanSteps, height_mm: float, coolant: Coolant) -> float:
    """The share of its rise that the part keeps over a pass."""
    minutes = [step.minutes for step in plan.passes if step.kind == "finish"] or [COOLED_MINUTES]
    height = height_mm if height_mm > 1 else USUAL_HEIGHT_MM
    return math.exp(-minutes[-1] * SECONDS_A_MINUTE / time_constant(height, losses_of(height, coolant)))


def _rise_a_pass(plan: PlanSteps, coolant: Coolant) -> float:
    """What a finish pass warms the part by, where so many of them leave it as warm as the plan has it [K]."""
    share, passes = kept(plan, USUAL_HEIGHT_MM, coolant), max(1, sum(step.kind == "finish" for step in plan.passes))
    return float(plan.rise_c) * (1 - share) / max(1 - share**passes, 1e-9)


def _wear(job_state: JobState, run: Run, step_mm: float) -> float:
    """What a pass costs of the size by wear at its step: the volume ground over G, spread over the wheel's face, and of
    that what is lost behind the worn front [mm]."""
    wheel, lying = job_state.spec.wheel, job_state.spec.lying_mm.get(run.surface)
    if wheel is None or lying is None:
        return 0.0
    volume = step_mm * lying[0] * lying[1] * len(run.pieces)
    return BEHIND_FRONT * volume / (wheel.g_ratio * math.pi * wheel.diameter_mm * wheel.width_mm)
