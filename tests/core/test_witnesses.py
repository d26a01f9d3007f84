"""A pass at idle, and a readout off the collar."""

from dataclasses import replace
from datetime import timedelta
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.worklog import started
from zesty_lark.core.work.entry import Kind
from zesty_lark.core.work.plans import PlanStep, StepKind
from zesty_lark.core.work.witnesses import disagree, least_seconds, quick_words, seconds_since, too_quick, was_air

D = Decimal
MM = st.decimals(-5, 5, places=4)


def step(kind: StepKind = "rough") -> PlanStep:
    return PlanStep(1, kind, D("0.01"), D("0.01"))


@pytest.mark.parametrize(
    ("kind", "power", "idle", "air"),
    [("rough", "80.9", 61, True), ("rough", "81", 61, False), ("finish", "61", 61, False), ("rough", None, 61, False),
     ("rough", "61", 0, False)],
)  # fmt: skip
def test_a_roughing_pass_at_idle_was_air(kind: StepKind, power: str | None, idle: float, air: bool) -> None:
    assert was_air(step(kind), None if power is None else D(power), idle) is air
    assert not was_air(None, D(61), 61)


@pytest.mark.parametrize(
    ("kind", "seconds", "quick"),
    [("rough", 42.9, True), ("rough", 43.0, False), ("finish", 0, True), ("spark-out", 10, True), ("dress", 1, False),
     ("rough", -5, False)],
)  # fmt: skip
def test_a_pass_takes_at_least_half_of_its_strokes_time(kind: StepKind, seconds: float, quick: bool) -> None:
    log = started()
    asked = replace(step(kind), minutes=86 / 60)
    began = log.now.history[-1].at
    log.add(Kind.NOTE, None, note="a rag")  # what is noted meanwhile is no beginning of a pass
    assert too_quick(asked, log.now, began + timedelta(seconds=seconds)) is quick
    assert seconds_since(log.now, began + timedelta(seconds=seconds)) == pytest.approx(seconds)
    assert least_seconds(None) == 0.0 and not too_quick(None, log.now, began)
    assert "takes 1 min 26 s" in quick_words(asked) and "takes 20 s" in quick_words(replace(asked, minutes=1 / 3))


@given(MM, MM)
def test_readout_and_collar_may_differ_by_the_backlash_and_two_graduations(readout: Decimal, collar: Decimal) -> None:
    told = disagree(readout_mm=readout, collar_mm=collar, backlash_mm=D("0.02"), graduation_mm=D("0.002"))
    assert told is (abs(readout - collar) > D("0.024"))
