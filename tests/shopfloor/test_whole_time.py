"""How long a whole plan takes: every piece and load of it, with hands, dresses, stops to measure and waits."""

import math
from dataclasses import replace
from datetime import UTC, datetime

import pytest
from sqlalchemy.orm import Session

from tests.shopfloor.test_as_it_stands import job_of
from zesty_lark.shopfloor.companion import companion
from zesty_lark.shopfloor.loads import room_in
from zesty_lark.shopfloor.part_planning import part_planning
from zesty_lark.shopfloor.planning import plan_face
from zesty_lark.shopfloor.whole_time import runs_now, whole_time

NOW = datetime(2026, 9, 24, 9, tzinfo=UTC)


@pytest.mark.parametrize("number", ["TR-101", "TR-120", "TR-133"])
def test_of_one_piece_it_is_the_sum_of_what_plan_and_grind_say_of_each_face(demo: Session, number: str) -> None:
    job, job_state = job_of(demo, number)
    where = part_planning(demo, job, job_state, NOW.date())
    route = where.basis.worked(where.choices)
    whole, minutes, loads = whole_time(where, route), 0.0, 0
    for face, face_plan in route.faces.items():
        run, surface = job_state.runs[face], job_state.spec.wanted.surfaces[face]
        if face_plan.plan is None or not job_state.pieces[1].wants(surface):
            continue
        steps = plan_face(where.basis, face, route, job.owner).steps
        if run == runs_now(job_state):
            left = companion(demo, job, job_state, run).left
            assert left is not None
            minutes += left.likely
        elif steps is not None:
            minutes += steps.likely_minutes
        loads += 1
    assert whole.minutes == pytest.approx(minutes) and whole.minutes > whole.table_minutes > 0
    assert (whole.pieces, whole.loads) == (1, loads)


def test_of_a_batch_every_load_is_put_up_and_every_piece_measured(demo: Session) -> None:
    job, job_state = job_of(demo, "TR-140")
    job_state = replace(job_state, runs={face: replace(run, plan=None) for face, run in job_state.runs.items()})
    where = part_planning(demo, job, job_state, NOW.date())
    where = replace(where, basis=replace(where.basis, job_state=job_state))
    route = where.basis.worked(where.choices)
    whole = whole_time(where, route)
    loads = 0
    for face, face_plan in route.faces.items():
        surface = job_state.spec.wanted.surfaces[face]
        pieces = sum(job_state.pieces[number].wants(surface) for number in job_state.live)
        if face_plan.plan is not None and pieces:
            loads += math.ceil(pieces / room_in(job, job_state, face, where.choices.gap_mm))
    assert whole.pieces == len(job_state.live) and whole.loads == loads > len(route.faces)
    by_hand = where.basis.handling
    least = loads * (min(by_hand.place, by_hand.flip, by_hand.fixture) + by_hand.touch_off)
    assert whole.minutes - whole.table_minutes > least
    skipped = {key: replace(each, plan=None) for key, each in route.faces.items()}
    assert whole_time(where, replace(route, faces=skipped)).minutes == 0
