"""How long a part's whole plan takes: every piece and load of it, with hands, dresses, stops to measure and waits."""

import math
from dataclasses import dataclass

from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.squaring.planned import RoutePlan
from zesty_lark.core.work.plans import PlanSteps
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
        planning = plan_face(where.basis, face, route, where.job.owner)
        if planning.steps is None:
            continue
        ups = math.ceil(len(pieces) / room_in(where.job, job_state, face, where.choices.gap_mm))
        of_table = _table_minutes(where, planning, math.ceil(len(pieces) / ups))
        measured = planning.handling.measure * len(planning.steps.of_kind("measure"))
        minutes += ups * (of_table + by_hand(planning.steps)) + (len(pieces) - ups) * measured
        table, loads = table + ups * of_table, loads + ups
    return WholeTime(minutes, table, len(job_state.live), loads)


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
