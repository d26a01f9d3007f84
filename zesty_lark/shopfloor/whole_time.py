"""How long a part's whole plan takes: every piece and load of it, with hands, dresses, stops to measure and waits."""

import math
from dataclasses import dataclass

from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.squaring.planned import RoutePlan
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.plans import AT_TABLE, PlanSteps
from zesty_lark.core.work.run import Run
from zesty_lark.shopfloor.loads import room_in
from zesty_lark.shopfloor.part_planning import PartPlanning
from zesty_lark.shopfloor.planning import Planning, plan_face


@dataclass(frozen=True)
class WholeTime:
    """Minutes in all and at the table; of how many pieces, put up how often."""

    minutes: float
    table_minutes: float
    pieces: int
    loads: int


def whole_time(where: PartPlanning, route: RoutePlan) -> WholeTime:
    """Return how long what is left of a route takes."""
    job_state = where.basis.job_state
    minutes, table, loads = 0.0, 0.0, 0
    for face, face_plan in route.faces.items():
        step, surface = route.step_of(face), job_state.spec.wanted.surfaces[face]
        pieces = [number for number in job_state.live if job_state.pieces[number].wants(surface)]
        if face_plan.plan is None or step is None or step.skip or not pieces:
            continue
        run = job_state.runs[face]
        if runs_on(run, job_state):
            minutes, table = minutes + _left(run), table + _left(run, at_table=True)
            pieces, loads = [number for number in pieces if number not in run.pieces], loads + 1
        planning = plan_face(where.basis, face, route, where.job.owner)
        if planning.steps is None or not pieces:
            continue
        ups = math.ceil(len(pieces) / room_in(where.job, job_state, face, where.choices.gap_mm))
        of_table = _table_minutes(where, planning, math.ceil(len(pieces) / ups))
        measured = planning.handling.measure * len(planning.steps.of_kind("measure"))
        minutes += ups * (of_table + by_hand(planning.steps)) + (len(pieces) - ups) * measured
        table, loads = table + ups * of_table, loads + ups
    return WholeTime(minutes, table, len(job_state.live), loads)


def runs_on(run: Run, job_state: JobState) -> bool:
    """Whether a run is at work by a released plan that no measurement has overtaken."""
    at = job_state.at
    return run.plan is not None and at is not None and at.place == run.place and not run.proofs


def _left(run: Run, *, at_table: bool = False) -> float:
    """What is left of a plan that runs [min]."""
    steps = run.plan.steps[run.done :] if run.plan is not None else ()
    return sum(step.minutes for step in steps if not at_table or step.kind in AT_TABLE)


def by_hand(steps: PlanSteps) -> float:
    """Return the minutes of a plan that are not the table's: hands and waits."""
    return steps.minutes - steps.table_minutes


def _table_minutes(where: PartPlanning, planning: Planning, together: int) -> float:
    """Passes and dresses of a load; of several pieces as they lie side by side."""
    assert planning.steps is not None
    if together == 1:
        return planning.steps.table_minutes
    try:
        return where.nested(planning, together).minutes_a_load
    except InputError:
        return together * planning.steps.table_minutes
