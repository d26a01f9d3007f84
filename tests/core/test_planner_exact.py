"""The planner's search against trying everything, on a machine small enough for it."""

import json
from collections.abc import Iterator
from dataclasses import replace

import numpy as np
import pytest

from tests.core.test_heat_and_plan import change
from zesty_lark.core.calc import _request, answer
from zesty_lark.core.measure.feather import cleaned
from zesty_lark.core.process import finishing, optimise
from zesty_lark.core.process.evaluate_arrays import Conditions, evaluate_many
from zesty_lark.core.process.plan_input import Asked, asked
from zesty_lark.core.process.planner import Plan, finish_kinds, plan_at

SMALL: dict[str, object] = {"machine__crossfeed_min_mm": "0.5", "machine__crossfeed_graduation_mm": "1.5",
                            "machine__table_min_mm_s": 300, "stock_mm": "0.1016"}
CASES = [{}, {"coolant": "dry"}, {"part__temper_c": 500}, {"wheel__grade": "N"}, {"stock_mm": "0.0254"},
         {"machine__cut_ratio": 0.35, "dress_minutes": 0}]


def question_of(made: dict[str, object]) -> Asked:
    asks = _request("pass.schools").model_validate_json(json.dumps(made))
    fields = {name: getattr(asks, name) for name in type(asks).model_fields}
    margin = fields.pop("temperature_margin")
    return asked(temperature_margin=margin, **fields)


def every_plan(question: Asked) -> Iterator[Plan]:
    for kind in finish_kinds(question):
        rough = question.graduations - kind.passes * kind.step
        downfeeds = sorted({-(-rough // passes) for passes in range(1, rough + 1)}) or [0]
        for downfeed in downfeeds:
            for crossfeed in question.crossfeeds:
                for table in question.speeds:
                    for chamfer in question.chamfers():
                        yield plan_at(question, "rough", downfeed, crossfeed, table, chamfer, kind)


@pytest.mark.parametrize("more", CASES)
def test_the_best_plan_is_the_best_of_all(more: dict[str, object]) -> None:
    question = question_of(change(**(SMALL | more)))
    fitting = [plan.minutes for plan in every_plan(question) if plan.within_limits]
    best = optimise._best(question)
    assert best is not None and best.minutes == pytest.approx(min(fitting), abs=1e-9) or (
        best is not None and best.minutes < min(fitting)), "a school may use another dress or crossfeed"
    alone = optimise.best_plan(question, optimise._whole_space(question))
    assert alone is not None and alone.minutes == pytest.approx(min(fitting), abs=1e-9)


def test_every_point_of_the_curve_is_the_shortest() -> None:
    made = change(**SMALL)
    for point in answer("pass.optimise", made)["curve"][1:]:
        question = replace(question_of(made), margin=point["temperature_margin"])
        fitting = [plan.minutes for plan in every_plan(question) if plan.within_limits]
        assert point["minutes"] == (pytest.approx(min(fitting), abs=1e-9) if fitting else None)


@pytest.mark.parametrize("more", CASES[:4])
@pytest.mark.parametrize("left_um", [0, 3, 20])
def test_the_finish_is_the_quickest_of_all(more: dict[str, object], left_um: float) -> None:
    question = question_of(change(**more))
    for kind in finish_kinds(question):
        finishing.best_finish(question, kind, 0.0)
        best = finishing.best_finish(question, kind, left_um / 1000)
        grid = finishing._grid(question, kind)
        nothing = np.zeros(grid.seconds.size, np.bool_)
        whole = finishing._search(question, kind, left_um / 1000, grid, nothing, careless=True)
        direct = finishing._described(question, kind, left_um / 1000, grid, whole)
        assert (best.minutes, best.worst <= 1) == (direct.minutes, direct.worst <= 1)


def test_an_earlier_answer_can_be_filled_again() -> None:
    depth = np.linspace(0.002, 0.05, 40_000)
    first = evaluate_many(Conditions(180, 3000, 250, depth, 1, 0.5, 0.8), "water")
    again = evaluate_many(Conditions(180, 3000, 250, depth[::-1], 1, 0.5, 0.8), "water", out=first)
    assert again is first and np.all(np.diff(again.power_w) < 0)
    with pytest.raises(ValueError, match="shape"):
        evaluate_many(Conditions(180, 3000, 250, depth[:10], 1, 0.5, 0.8), "water", out=first)
    empty = evaluate_many(Conditions(180, 3000, 250, np.empty(0), 1, 0.5, 0.8), "water")
    assert empty.power_w.shape == (0,)


def test_the_feather_line_is_the_same_however_the_points_are_given() -> None:
    """As a grid, shuffled, and against the share worked out by chance."""
    random = np.random.default_rng(8)
    x, y = (each.ravel() for each in np.meshgrid(np.arange(30.0), np.arange(20.0)))
    z, depths = 0.3 * x - 0.2 * y, np.linspace(0, 13, 40)
    grid = cleaned(x, y, z, depths)
    order = random.permutation(x.size)
    shuffled = cleaned(x[order], y[order], z[order], depths)
    assert np.allclose(grid[0], shuffled[0]) and np.allclose(grid[1], shuffled[1])
    px, py = random.uniform(0, 29, 200_000), random.uniform(0, 19, 200_000)
    above = z.max() - (0.3 * px - 0.2 * py)
    share = np.array([(above <= depth).mean() for depth in depths])
    assert np.allclose(grid[0], share, atol=0.005)
    assert grid[1][-1] == pytest.approx((z.mean() - (z.max() - 13)) * 29 * 19 / 1000, rel=1e-6)
