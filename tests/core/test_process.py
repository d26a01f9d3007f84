"""Strokes and springs: closed forms, limits, and what a machinist would expect."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zesty_lark.core.process import springs
from zesty_lark.core.process import strokes as layout
from zesty_lark.core.process.finish import roughness

RATIOS = st.floats(0.05, 1.0)


def strokes(**more: object):  # type: ignore[no-untyped-def]
    values: dict[str, object] = {
        "length_mm": 88.0,
        "width_mm": 54.0,
        "wheel_width_mm": 12.7,
        "crossfeed_mm": 0.4,
        "table_mm_s": 350.0,
    }
    return layout.strokes(**(values | more))  # type: ignore[arg-type]


def test_counts_that_come_out_even_do_not_gain_a_step() -> None:
    assert strokes(width_mm=12.5 - 2.5, wheel_width_mm=2.5, crossfeed_mm=0.25).crossfeed_steps == 50


def test_crosswise_swaps_length_and_width() -> None:
    turned, straight = strokes(skew_deg=90.0), strokes(length_mm=54.0, width_mm=88.0)
    assert turned.stroke_mm == pytest.approx(straight.stroke_mm) and turned.strokes == straight.strokes


@pytest.mark.parametrize(
    "wrong",
    [
        {"length_mm": 0.0},
        {"table_mm_s": -1.0},
        {"crossfeed_mm": float("nan")},
        {"end_overrun_mm": -1.0},
        {"reversal_s": -0.1},
    ],
)
def test_impossible_strokes_are_refused(wrong: dict[str, float]) -> None:
    with pytest.raises(ValueError, match=next(iter(wrong))):
        strokes(**wrong)


@given(
    st.lists(st.tuples(st.floats(0, 0.05), st.floats(0.2, 12.7)), min_size=1, max_size=20), RATIOS, st.floats(0, 0.02)
)
def test_what_is_asked_is_taken_or_still_left(steps: list[tuple[float, float]], ratio: float, before: float) -> None:
    passes = [springs.Pass(step, crossfeed) for step, crossfeed in steps]
    told = springs.pass_left(cut_ratio=ratio, wheel_width_mm=12.7, passes=passes, left_mm=before)
    asked = before + sum(step for step, _ in steps)
    assert told.taken_mm + told.left_um[-1] / 1000 == pytest.approx(asked, abs=1e-12)
    assert all(left >= 0 for left in told.left_um) and -1e-12 <= told.taken_mm


@given(st.floats(0.005, 0.05), st.floats(0.1, 0.9))
def test_a_narrow_crossfeed_wipes_every_line_often_and_leaves_less(step: float, ratio: float) -> None:
    def left(crossfeed: float) -> float:
        return springs.pass_left(cut_ratio=ratio, wheel_width_mm=12.7, passes=[springs.Pass(step, crossfeed)]).left_um[
            -1
        ]

    assert left(6.35) == pytest.approx(1000 * step * (1 - ratio) ** 2)
    assert left(12.7) == pytest.approx(1000 * step * (1 - ratio)) and left(1.27) <= left(6.35)


@given(st.floats(0.001, 0.05), st.integers(1, 20), st.floats(0.05, 0.99))
def test_the_cut_ratio_is_found_again_from_asked_and_got(step: float, steps: int, ratio: float) -> None:
    removed = springs.spark_out(step_mm=step, steps=steps, cut_ratio=ratio, spark_passes=0).removed_mm
    assert springs.cut_ratio(asked_mm=step * steps, got_mm=sum(removed), steps=steps) == pytest.approx(ratio, rel=1e-6)


@given(st.floats(0.001, 0.05), st.integers(1, 9), st.floats(0.05, 0.95), st.floats(0.0001, 0.01))
def test_one_spark_out_less_would_not_be_enough(step: float, steps: int, ratio: float, allow: float) -> None:
    needed = springs.spark_passes_needed(step_mm=step, steps=steps, cut_ratio=ratio, allow_mm=allow)
    left = springs.spark_out(step_mm=step, steps=steps, cut_ratio=ratio, spark_passes=needed).left_mm
    assert left <= allow * (1 + 1e-6)
    if needed:
        before = springs.spark_out(step_mm=step, steps=steps, cut_ratio=ratio, spark_passes=needed - 1)
        assert before.left_mm > allow


@pytest.mark.parametrize(("asked", "got", "steps"), [(0.0, 0.1, 1), (0.1, 0.2, 1), (0.1, 0.0, 1), (0.1, 0.05, 0)])
def test_a_run_that_says_nothing_gives_no_cut_ratio(asked: float, got: float, steps: int) -> None:
    with pytest.raises(ValueError):
        springs.cut_ratio(asked_mm=asked, got_mm=got, steps=steps)


def test_no_passes_at_all_remove_nothing_and_less_than_none_is_refused() -> None:
    nothing = springs.spark_out(step_mm=0.0, steps=0, cut_ratio=0.6, spark_passes=0)
    assert (nothing.removed_mm, nothing.left_mm) == ([], 0.0)
    for wrong in ({"step_mm": -0.001}, {"steps": -1}, {"spark_passes": -1}):
        with pytest.raises(ValueError):
            springs.spark_out(**({"step_mm": 0.002, "steps": 1, "cut_ratio": 0.6, "spark_passes": 1} | wrong))  # type: ignore[arg-type]


@pytest.mark.parametrize(("crossfeed", "shows"), [(4.0, False), (4.001, True), (3.999, False)])
def test_a_step_pattern_shows_under_an_overlap_of_three(crossfeed: float, shows: bool) -> None:
    made = roughness(
        lead_mm=0.2, dress_depth_mm=0.01, equivalent_chip_um=0.1, wheel_width_mm=12.0, crossfeed_mm=crossfeed
    )
    assert made.step_pattern is shows and made.ra_um == pytest.approx(4.6 * 0.2**0.5 * 0.01**0.25)


@pytest.mark.parametrize("ratio", [0.0, -0.1, 1.01, 1.5])
def test_a_wipe_takes_more_than_nothing_and_no_more_than_all(ratio: float) -> None:
    with pytest.raises(ValueError):
        springs.spark_out(step_mm=0.002, steps=1, cut_ratio=ratio, spark_passes=0)
