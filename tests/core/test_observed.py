"""What is seen and heard at the machine puts steps into a plan that is being run, or takes them out of what is left."""

from dataclasses import replace
from decimal import Decimal

import pytest

from tests.core.worklog import plan
from zesty_lark.core.work.observing import MOST_SPARK_OUTS_OPEN, NOT_CLEAN, after_step, observed
from zesty_lark.core.work.plans import PlanSteps

D = Decimal


def kinds(made: PlanSteps, done: int = 0) -> list[str]:
    """What is left of a plan; a step's number and depth are looked at too."""
    assert [step.number for step in made.steps] == list(range(1, len(made.steps) + 1))
    fed = D(0)
    for step in made.steps:
        fed += step.step_mm
        assert step.depth_mm == fed
    return [step.kind for step in made.steps[done:]]


def after(made: PlanSteps, done: int, seen: str, side: str = "", **more: object) -> PlanSteps:
    given: dict[str, object] = {"fed": True, "before": 0, "only_clean": True, "most_mm": D("0.05")}
    return observed(made, done, seen, side, **(given | more))  # type: ignore[arg-type]


ROUGHS = plan(1, "0.02", "0.01", "dress", "spark-out", "0.005", spark_outs=1)


@pytest.mark.parametrize(
    ("done", "left"),
    [
        (0, ["dress", "rough", "rough", "dress", "spark-out", "rough", "spark-out"]),
        (2, ["dress", "spark-out", "rough", "spark-out"]),
        (6, ["dress"]),
    ],
)
def test_a_dull_sound_asks_for_a_dress_unless_one_comes_next(done: int, left: list[str]) -> None:
    made = after(ROUGHS, done, "dull")
    assert kinds(made, done) == left
    if made is not ROUGHS:
        assert (made.steps[done].what, made.steps[done].minutes) == ("", 1.5)


def test_uneven_sparks_before_a_feed_ask_for_another_touch_off_on_the_high_side() -> None:
    made = after(ROUGHS, 0, "uneven", "left", fed=False)
    assert kinds(made)[:3] == ["touch off", "no feed", "rough"]
    assert made.steps[0].what == "high on the left"
    assert (made.steps[1].crossfeed_mm, made.steps[1].table_mm_s) == (D("12.7"), D(350))
    assert (made.steps[1].number, made.steps[1].step_mm) == (2, 0)


def test_uneven_sparks_ask_for_a_blank_and_the_second_time_for_a_measurement() -> None:
    first, second = after(ROUGHS, 1, "uneven", "front"), after(ROUGHS, 1, "uneven", "front", before=1)
    assert kinds(first, 1)[0] == "spark-out" and first.steps[1].crossfeed_mm == D("12.7")
    assert kinds(second, 1)[0] == "measure" and second.steps[1].minutes == 3.0
    assert second.steps[1].what == "high at the front: it leans, or dirt is under it"
    dress = plan(1, "dress", spark_outs=0)
    bare = replace(dress, steps=(replace(dress.steps[0], crossfeed_mm=None, table_mm_s=None),))
    assert after(bare, 1, "uneven") is bare, "no pass to be like"


@pytest.mark.parametrize(
    ("made", "done", "left"),
    [
        (("0.02", "spark-out", "spark-out", "measure"), 2, ["measure"]),
        (("0.02", "spark-out", "spark-out"), 2, []),
        (("0.02", "spark-out", "spark-out"), 3, []),
        (("0.02", "dress", "spark-out", "spark-out", "0.01"), 2, ["rough"]),
        (("0.02", "spark-out", "spark-out"), 1, ["spark-out", "spark-out"]),
        (("0.02", "0.01"), 1, ["measure", "rough"]),
        (("0.02", "dress"), 1, ["dress"]),
        (("dress", "0.02"), 1, ["rough"]),
        (("0.02",), 1, []),
        (("0.02",), 0, ["rough"]),
    ],
)
def test_dead_sparks_end_the_blanks_and_between_feeds_ask_for_a_measurement(
    made: tuple[str, ...], done: int, left: list[str]
) -> None:
    found = after(plan(1, *made, spark_outs=0), done, "died")
    assert kinds(found, done) == left
    if left[:1] == ["measure"] and "0.01" in made:
        assert found.steps[done].minutes == 3.0 and "less is cut than was fed" in found.steps[done].what


@pytest.mark.parametrize(
    ("made", "done", "left"),
    [
        (("0.02", "0.01", "dress", "0.005", "spark-out", "dress"), 1, ["spark-out", "dress"]),
        (("0.02", "0.01", "dress", "spark-out"), 2, ["dress", "spark-out"]),
        (("dress", "0.02", "measure", "0.01"), 0, ["measure"]),
        (("0.02", "0.01"), 2, []),
        (("0.02", "spark-out"), 1, ["spark-out"]),
    ],
)
def test_clean_all_over_ends_the_roughing_and_the_dresses_in_it(
    made: tuple[str, ...], done: int, left: list[str]
) -> None:
    before = plan(1, *made, spark_outs=0)
    assert kinds(after(before, done, "clean"), done) == left
    assert after(before, done, "clean", only_clean=False) is before, "it ends on a size"


def test_clean_all_over_takes_out_the_question_of_a_stop_that_was_reached() -> None:
    made = after_step(plan(1, "0.02", spark_outs=1, until_clean=True), 1, clean=False, died=False, most_mm=D("0.03"))
    assert made.steps[1].what == NOT_CLEAN and made.steps[1].minutes == 3.0
    assert kinds(after(made, 1, "clean"), 1) == ["spark-out"]
    other = plan(1, "0.02", "measure", spark_outs=1)
    assert kinds(after(other, 1, "clean"), 1) == ["measure", "spark-out"], "asked for something else"


@pytest.mark.parametrize(
    ("made", "done", "most", "left"),
    [
        (("0.02", "0.01", "spark-out"), 3, "0.04", ["rough", "spark-out"]),
        (("0.02", "0.01", "spark-out"), 3, "0.0399", []),
        (("0.02", "0.01", "spark-out"), 1, "0.04", ["rough", "spark-out"]),
        (("dress",), 1, "0.04", []),
        (("0.02", "0.01", "spark-out"), 2, "0.04", ["rough", "spark-out", "spark-out"]),
    ],
)
def test_a_patch_asks_for_one_pass_more_like_the_last_while_there_is_stock(
    made: tuple[str, ...], done: int, most: str, left: list[str]
) -> None:
    before = plan(1, *made, spark_outs=0)
    found = after(before, done, "patch", most_mm=D(most))
    assert kinds(found, done) == left
    if left[:1] == ["rough"] and done > 1:
        assert found.steps[done].step_mm == D("0.01")
    assert after(before, done, "patch", most_mm=D(most), only_clean=False) is before


@pytest.mark.parametrize(
    ("made", "done", "clean", "died", "most", "left"),
    [
        (("0.01", "spark-out"), 1, False, False, "0.02", ["rough", "spark-out"]),
        (("0.01", "spark-out", "0.002"), 1, False, False, "0.022", ["rough", "spark-out", "rough"]),
        (("0.01", "spark-out", "0.002"), 1, False, False, "0.0219", ["measure", "spark-out", "rough"]),
        (("0.01",), 1, False, False, "0.02", ["rough"]),
        (("0.01",), 1, False, False, "0.01", ["measure"]),
        (("0.01", "0.01", "spark-out"), 1, False, False, "0.09", ["rough", "spark-out"]),
        (("0.01", "spark-out"), 1, True, False, "0.09", ["spark-out"]),
        (("0.01", "spark-out"), 0, False, False, "0.09", ["rough", "spark-out"]),
        (("0.01", "spark-out", "dress"), 2, True, False, "0.09", ["spark-out", "dress"]),
        (("0.01", "spark-out"), 2, True, False, "0.09", ["spark-out"]),
        (("0.01", "spark-out", "spark-out"), 2, True, False, "0.09", ["spark-out"]),
        (("0.01", "spark-out", "dress"), 2, True, True, "0.09", ["dress"]),
    ],
)
def test_a_plan_until_clean_goes_on_while_a_patch_or_sparks_are_left(
    made: tuple[str, ...], done: int, clean: bool, died: bool, most: str, left: list[str]
) -> None:
    before = plan(1, *made, spark_outs=0, until_clean=True)
    assert kinds(after_step(before, done, clean=clean, died=died, most_mm=D(most)), done) == left
    fixed = plan(1, *made, spark_outs=0)
    assert after_step(fixed, done, clean=clean, died=died, most_mm=D(most)) is fixed


def test_there_are_no_more_blanks_than_so_many() -> None:
    for spark_outs in (MOST_SPARK_OUTS_OPEN - 1, MOST_SPARK_OUTS_OPEN):
        before = plan(1, "0.01", spark_outs=spark_outs, until_clean=True)
        found = after_step(before, 1 + spark_outs, clean=True, died=False, most_mm=D(1))
        assert len(found.of_kind("spark-out")) == MOST_SPARK_OUTS_OPEN
    only = plan(1, spark_outs=3, until_clean=True)
    assert len(after_step(only, 3, clean=True, died=False, most_mm=D(1)).steps) == 4
