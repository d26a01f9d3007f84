"""Uncertainty and verdict: what may be called in, and the sentence that says so."""

import math
from dataclasses import replace
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zesty_lark.core.measure.sentence import sentence
from zesty_lark.core.measure.thickness import (
    Gauge,
    Reading,
    Size,
    at_reference,
    expanded_uncertainty,
    growth,
    is_hot,
    judge,
    verdict,
)
from zesty_lark.core.shoplog.telling import Tongue

D = Decimal
SIZE = Size(D(22), D("0.003"), D("0.003"))
GAUGE = Gauge(D("0.001"), D("0.001"), D("0.0008"), D("0.0004"))
TONGUE = Tongue("mm", "in", D("0.00254"))
VALUES = st.decimals(min_value="21.99", max_value="22.01", places=5)


def readings(*values: str) -> list[Reading]:
    return [Reading(f"place {number}", D(value)) for number, value in enumerate(values, start=1)]


def test_uncertainty_is_the_root_sum_square_of_its_parts() -> None:
    parts = (0.001 / 2 / math.sqrt(3), 0.001 / math.sqrt(3), 0.0008 / 2, 0.0004, 22 * 11.5e-6 * 0.5)
    expected = 2 * math.sqrt(sum(part**2 for part in parts))
    got = expanded_uncertainty(GAUGE, 22)
    assert 0 <= float(got) - expected < 1.1e-5  # rounded up to 0.01 µm


def test_repeating_a_reading_helps_only_its_repeatability() -> None:
    shaky = replace(GAUGE, repeatability_mm=D("0.01"))
    assert expanded_uncertainty(shaky, 22, readings_each=25) < expanded_uncertainty(shaky, 22) / 3
    with pytest.raises(ValueError):
        expanded_uncertainty(GAUGE, 22, readings_each=0)
    with pytest.raises(ValueError):
        expanded_uncertainty(GAUGE, 0)


@given(VALUES, st.decimals(min_value=0, max_value="0.002", places=5))
def test_a_larger_uncertainty_never_turns_unsure_into_in(value: Decimal, uncertainty: Decimal) -> None:
    if verdict(value, SIZE.lower_mm, SIZE.upper_mm, uncertainty) != "in":
        assert verdict(value, SIZE.lower_mm, SIZE.upper_mm, uncertainty * 2) != "in"


@given(VALUES)
def test_without_uncertainty_there_is_no_unsure(value: Decimal) -> None:
    assert (verdict(value, SIZE.lower_mm, SIZE.upper_mm, D(0)) == "in") == (SIZE.lower_mm <= value <= SIZE.upper_mm)


def test_limits_the_wrong_way_round_are_refused() -> None:
    with pytest.raises(ValueError):
        verdict(D(1), D(2), D(1), D(0))
    with pytest.raises(ValueError):
        verdict(D(1), D(0), D(2), D(-1))


def test_the_verdict_takes_the_worst_place() -> None:
    assert judge(readings("22.000", "22.001"), SIZE, D("0.0009")).verdict == "in"
    assert judge(readings("22.000", "22.0025"), SIZE, D("0.0009")).verdict == "unsure"
    assert judge(readings("22.000", "22.0055"), SIZE, D("0.0009")).verdict == "out"
    with pytest.raises(ValueError):
        judge([], SIZE, D("0.0009"))


def test_a_hot_part_or_an_overdue_gauge_is_never_in() -> None:
    assert judge(readings("22"), SIZE, D("0.0009"), hot=True).verdict == "unsure"
    assert judge(readings("22"), SIZE, D("0.0009"), overdue=True).verdict == "unsure"


def test_parallelism_is_judged_too() -> None:
    out = judge(readings("21.9985", "22.0015"), SIZE, D("0.0009"), parallel_mm=D("0.002"))
    assert out.parallel == "out" and out.verdict == "out" and out.spread_mm == D("0.003")
    near = judge(readings("21.9985", "22.0015"), SIZE, D("0.0009"), parallel_mm=D("0.003"))
    assert near.parallel == "unsure" and near.verdict == "unsure"
    assert judge(readings("22"), SIZE, D("0.0009"), parallel_mm=D("0.002")).parallel is None


def test_growth_with_heat() -> None:
    assert growth(25, 1) == pytest.approx(0.29e-3, rel=0.01)
    assert is_hot(22, 23.0, 0.006) and not is_hot(22, 21.0, 0.006)
    assert at_reference(Reading("middle", D("100")), D(21)).value_mm == D("99.99885")
    assert at_reference(Reading("middle", D("100")), D(20)).value_mm == 100


@pytest.mark.parametrize(("value", "uncertainty", "says"), [
    ("22.0041", "0.0009", "Not there yet: 22.0041 mm ± 0.0009 mm. "
                          "Take 1 tenth more (1.6 tenths to go), then spark out."),
    ("22.0005", "0.0009", "In: 22.0005 mm ± 0.0009 mm. Nothing more to take."),
    ("21.9950", "0.0009", "Under size: place 1 is 21.995 mm. It cannot be put back; stop and tell the lead."),
    ("22.0000", "0.0040", "Unsure: with ± 0.004 mm this gauge could call nothing in. "
                          "Do not cut yet; measure with a better one."),
    ("22.0023", "0.0009", "Unsure: 22.0023 mm ± 0.0009 mm (0.9 tenths over the target). "
                          "Do not cut yet: measure better, or take the next cut smaller."),
    ("21.9975", "0.0009", "Unsure: 21.9975 mm ± 0.0009 mm. "
                          "Do not cut yet: measure better, or take the next cut smaller."),
])
def test_one_plain_sentence(value: str, uncertainty: str, says: str) -> None:
    assert sentence(judge(readings(value), SIZE, D(uncertainty)), TONGUE) == says


def test_the_sentence_says_why_in_is_held_back() -> None:
    assert "warm" in sentence(judge(readings("22"), SIZE, D("0.0009"), hot=True), TONGUE)
    assert "calibration" in sentence(judge(readings("22"), SIZE, D("0.0009"), overdue=True), TONGUE)
    tilted = judge(readings("21.9985", "22.0015"), SIZE, D("0.0009"), parallel_mm=D("0.002"))
    assert "Not parallel" in sentence(tilted, TONGUE, parallel_mm=D("0.002"))
