"""One wear of the wheel: what a plan counts on for a load is what is followed while it is ground."""

from decimal import Decimal

import pytest

from tests.core.test_route import planned
from zesty_lark.core.planning.means import LoadIn
from zesty_lark.core.planning.methods import methods_of
from zesty_lark.core.planning.plan import Plan
from zesty_lark.core.planning.problem import Problem
from zesty_lark.core.process.springs import kept_share, overlaps_of, still_left
from zesty_lark.core.squaring.nest import nest
from zesty_lark.core.wheel.wear import DRESS_SHARE
from zesty_lark.core.work.wheel_use import Pass, WheelFacts, WheelUse

ROW = LoadIn(4, 1, 2.0, 4)
TWO_ROWS = LoadIn(3, 2, 2.0, 5)


def followed(problem: Problem, plan: Plan) -> tuple[float, int]:
    """The most that the front is worn and the dresses between, pass after pass as the log follows them."""
    facts = WheelFacts(180.0, 12.7, 3000.0, problem.g_ratio, problem.volume_reference, problem.grain)
    fresh = WheelUse(chamfer_mm=plan.leading_chamfer_mm)
    use, left, most, dresses = fresh, 0.0, 0.0, 0
    for graduations in plan.rough_steps:
        step = graduations * problem.graduation
        rest = still_left(left, step, kept_share(problem.machine.cut_ratio, overlaps_of(12.7, plan.crossfeed_mm)))
        along = problem.along * problem.load.pieces
        made = Pass(left + step - rest, plan.crossfeed_mm, plan.table_mm_s, along, problem.across)
        left, after = rest, use.after(made, Decimal(str(step)), facts)
        if use.front_mm > 0 and after.front_mm > facts.width_mm * DRESS_SHARE:
            dresses, after = dresses + 1, fresh.after(made, Decimal(str(step)), facts)
        use, most = after, max(most, after.share(facts))
    return most, dresses


@pytest.mark.parametrize("load", [LoadIn(), ROW, TWO_ROWS])
@pytest.mark.parametrize("face", [1, 2])
def test_what_a_plan_says_is_worn_is_what_the_log_follows(load: LoadIn, face: int) -> None:
    face_plan = planned(loads={1: load, 2: load}).faces[face]
    assert face_plan.problem is not None and face_plan.plan is not None
    for plan in (face_plan.plan, *methods_of(face_plan.problem)):
        worn, dresses = followed(face_plan.problem, plan)
        assert plan.worn_share == pytest.approx(worn, rel=1e-6, abs=1e-9)
        assert plan.dresses == dresses + 1 + bool(plan.rough_passes)


def test_more_pieces_take_longer_and_wear_more_and_a_dress_counts_once_a_load() -> None:
    minutes = []
    for pieces in (1, 2, 4):
        plan = planned(loads={2: LoadIn(pieces, 1, 2.0, pieces)}).faces[2].plan
        assert plan is not None
        minutes.append(plan.minutes)
    assert minutes == sorted(minutes) and minutes[2] < 4 * minutes[0], "strokes run through from piece to piece"


@pytest.mark.parametrize(("quantity", "rows"), [(4, 1), (5, 2)])
def test_a_load_takes_as_long_as_it_is_laid_out(quantity: int, rows: int) -> None:
    in_a_row = -(-quantity // rows)
    face_plan = planned(loads={2: LoadIn(in_a_row, rows, 2.0, quantity)}).faces[2]
    problem, plan = face_plan.problem, face_plan.plan
    assert problem is not None and plan is not None
    laid = nest(
        length_mm=problem.part.length_mm, width_mm=problem.part.width_mm, height_mm=22.0, quantity=quantity,
        chuck_length_mm=in_a_row * 90.0 + 100, chuck_width_mm=200.0, wheel_width_mm=12.7,
        rough_passes=plan.rough_passes,
        finish_passes=plan.finish_passes, spark_outs=plan.finish_spark_outs, crossfeed_mm=plan.crossfeed_mm,
        finish_crossfeed_mm=plan.finish_crossfeed_mm, table_mm_s=plan.table_mm_s,
        finish_table_mm_s=plan.finish_table_mm_s, reversal_s=problem.machine.reversal_s, dress_minutes=0.0,
    )  # fmt: skip
    sparking = plan.spark_outs * problem.strokes(plan.crossfeed_mm)
    extra = sparking * (problem.stroke / plan.table_mm_s + problem.machine.reversal_s) / 60
    assert (laid.along, laid.across) == (in_a_row, rows)
    assert plan.minutes - plan.dresses * problem.dress_minutes == pytest.approx(laid.minutes_a_load + extra, rel=1e-6)


def test_a_part_in_a_fixture_is_planned_alone() -> None:
    route = planned(loads=dict.fromkeys((1, 3), ROW))
    assert route.faces[1].problem is not None and route.faces[1].problem.load == ROW
    assert route.faces[3].problem is not None and route.faces[3].problem.load == LoadIn()
    assert route.faces[1].problem.stroke > 4 * route.faces[1].problem.along
