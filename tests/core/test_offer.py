"""What is offered first keeps the table brisk, unless that costs over a fifth; ``pass.optimise`` does not know it."""

import pytest

from tests.core.test_heat_and_plan import change
from tests.core.test_limits import drawn
from tests.core.test_planner_exact import question_of
from zesty_lark.core.calc import answer
from zesty_lark.core.planning.best import best_of
from zesty_lark.core.planning.offer import BRISK_MM_S, WORTH, offered
from zesty_lark.core.quantities.numbers import InputError


def tables(plan: object) -> list[float]:
    rough = [plan.table_mm_s] if plan.rough_passes else []  # type: ignore[attr-defined]
    return [*rough, plan.finish_table_mm_s]  # type: ignore[attr-defined]


@pytest.mark.parametrize("seed", range(12))
def test_a_first_offer_is_brisk_or_saves_more_than_a_fifth(seed: int) -> None:
    try:
        problem = question_of(drawn(seed) | {"temperature_margin": 0.23, "power_share": 0.77})
        best = best_of(problem)
    except InputError:
        return
    offer = offered(problem)
    assert offer.plan.within_limits and offer.plan.minutes <= WORTH * best.minutes + 1e-9
    if min(tables(offer.plan)) < BRISK_MM_S:
        assert offer.plan == best and offer.problem == problem
        with_brisk = question_of(drawn(seed) | {"temperature_margin": 0.23, "power_share": 0.77})
        assert min(with_brisk.speeds) < BRISK_MM_S
    assert best_of(offer.problem) == offer.plan, "the question it answers has it as its best plan"


def test_a_slow_best_plan_makes_room_for_a_brisk_one_and_the_planner_itself_does_not() -> None:
    made = change(temperature_margin=0.23, power_share=0.77, machine__table_min_mm_s=60)
    slow = best_of(question_of(made))
    assert min(tables(slow)) < BRISK_MM_S
    offer = offered(question_of(made))
    assert min(tables(offer.plan)) >= BRISK_MM_S and offer.plan.minutes <= WORTH * slow.minutes
    assert answer("pass.optimise", made | {"with_curve": False})["plan"]["minutes"] == slow.minutes


def test_a_machine_that_is_never_brisk_offers_its_best() -> None:
    problem = question_of(change(machine__table_min_mm_s=40, machine__table_max_mm_s=90))
    assert offered(problem).plan == best_of(problem)
