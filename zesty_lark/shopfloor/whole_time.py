"""How long a part's whole plan takes: every piece and load of it, as room on the chuck and the log have them."""

import math
from collections.abc import Iterator

from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.squaring.planned import RoutePlan
from zesty_lark.core.squaring.whole_time import WholeTime, of_loads, of_run, together
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.run import Run
from zesty_lark.shopfloor.loads import room_in
from zesty_lark.shopfloor.part_planning import PartPlanning
from zesty_lark.shopfloor.planning import Planning, plan_face


def whole_time(where: PartPlanning, route: RoutePlan) -> WholeTime:
    """Return how long what is left of a route takes."""
    faces = [face for face, each in route.faces.items() if each.plan is not None and not route.is_skipped(face)]
    times = [time for face in faces for time in _of_face(where, route, face)]
    return together(times, len(where.basis.job_state.live))


def runs_now(job_state: JobState) -> Run | None:
    """Return the run that is at work by a released plan that no measurement has overtaken; ``None`` without one."""
    at = job_state.at
    return at if at is not None and at.goes_by_plan else None


def _of_face(where: PartPlanning, route: RoutePlan, face: int) -> Iterator[WholeTime]:
    """The load of a face that is at work, and those to come."""
    job_state = where.basis.job_state
    surface, run = job_state.spec.wanted.surfaces[face], runs_now(job_state)
    pieces = [number for number in job_state.live if job_state.pieces[number].wants(surface)]
    if run is not None and run.surface == face:
        yield of_run(run, where.basis.times, is_flip=job_state.up is not None)
        pieces = [number for number in pieces if number not in run.pieces]
    planning = plan_face(where.basis, face, route, where.job.owner) if pieces else None
    if planning is None or planning.steps is None:
        return
    held = planning.face_plan.held.fixture
    room = 1 if held is not None else room_in(where.job, job_state, face, where.choices.gap_mm)
    loads = math.ceil(len(pieces) / room)
    table = _table_minutes(where, planning, math.ceil(len(pieces) / loads))
    yield of_loads(planning.steps, pieces=len(pieces), loads=loads, table_minutes=table)


def _table_minutes(where: PartPlanning, planning: Planning, pieces: int) -> float:
    """Passes and dresses of a load [min]; where it was planned for another number, as they lie side by side."""
    assert planning.steps is not None and planning.problem is not None
    planned, alone = planning.problem.load.pieces, planning.steps.table_minutes
    if pieces == planned:
        return alone
    try:
        return where.nested(planning, pieces).minutes_a_load
    except InputError:
        return pieces * alone
