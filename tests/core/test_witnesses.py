"""A pass at idle, and a readout off the collar."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zesty_lark.core.work.plans import PlanStep, StepKind
from zesty_lark.core.work.witnesses import disagree, was_air

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


@given(MM, MM)
def test_readout_and_collar_may_differ_by_the_backlash_and_two_graduations(readout: Decimal, collar: Decimal) -> None:
    told = disagree(readout_mm=readout, collar_mm=collar, backlash_mm=D("0.02"), graduation_mm=D("0.002"))
    assert told is (abs(readout - collar) > D("0.024"))
