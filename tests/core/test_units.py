"""Lengths as people write them, kept exactly."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zesty_lark.core.quantities.units import (
    LengthError,
    dial_text,
    known_text,
    parse_length,
    size_text,
    small_text,
    step_text,
)

EXACT = st.decimals(min_value=0, max_value=9999, places=7, allow_nan=False)


@pytest.mark.parametrize(
    ("typed", "unit", "mm"),
    [
        ("0.0004", "in", "0.01016"),
        ("4 tenths", "mm", "0.01016"),
        ("1 tenth", "mm", "0.00254"),
        ("2.5 thou", "mm", "0.0635"),
        ("12 um", "in", "0.012"),
        ("12µm", "mm", "0.012"),
        ("3/8", "in", "9.525"),
        ("1 3/8 in", "mm", "34.925"),
        ('1-3/8"', "mm", "34.925"),
        ("18 mm", "in", "18"),
        (".5", "mm", "0.5"),
        ("22.", "mm", "22"),
        ("2 cm", "mm", "20"),
        ("-0.5 thou", "mm", "-0.0127"),
        ("1/128", "in", "0.1984375"),
    ],
)
def test_reads_what_people_type(typed: str, unit: str, mm: str) -> None:
    assert parse_length(typed, unit) == Decimal(mm)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ("", "needed"),
        ("abc", "not a length"),
        ("22 kg", "not a unit"),
        ("22,003", "point"),
        ("1/0", "below the line"),
        ("1/3 in", "exactly"),
        ("1e3", "not a unit"),
        ("nan", "not a length"),
        ("inf", "not a length"),
        ("9999999", "far larger"),
        ("2" * 50, "too long"),
        ("12 12", "not a length"),
    ],
)
def test_says_plainly_what_is_wrong(typed: str, says: str) -> None:
    with pytest.raises(LengthError, match=says):
        parse_length(typed, "mm")


@given(EXACT)
def test_a_length_written_out_reads_back_exactly(value: Decimal) -> None:
    assert parse_length(f"{value:f} mm", "in") == value


@given(st.integers(0, 10**7))
def test_tenths_and_inches_are_the_same_length(tenths: int) -> None:
    assert parse_length(f"{tenths} tenths", "mm") == parse_length(f"{Decimal(tenths) / 10000:f}", "in")


@pytest.mark.parametrize(
    ("mm", "unit", "text"),
    [
        ("22", "mm", "22.000"),
        ("22.0041", "mm", "22.0041"),
        ("22.00408", "mm", "22.0041"),
        ("25.4", "in", "1.0000"),
        ("22", "in", "0.86614"),
        ("-0.00001", "mm", "0.000"),
    ],
)
def test_sizes_are_written_for_the_print(mm: str, unit: str, text: str) -> None:
    assert size_text(Decimal(mm), unit) == text  # type: ignore[arg-type]


def test_small_amounts_speak_the_trade() -> None:
    assert small_text(Decimal("0.2032"), "in") == "8.0 thou"
    assert small_text(Decimal("0.0041"), "in") == "1.6 tenths"
    assert small_text(Decimal("0.00254"), "in") == "1 tenth"
    assert small_text(Decimal("0.203"), "mm") == "0.203 mm"


def test_a_collar_is_written_to_its_graduation() -> None:
    assert dial_text(Decimal("0.08636"), "in", Decimal("0.00254")) == "3.4"
    assert dial_text(Decimal("0.086"), "mm", Decimal("0.002")) == "0.086"
    assert step_text(Decimal("0.0127"), "in", Decimal("0.00254")) == "0.5 thou"
    assert step_text(Decimal("0.5"), "mm", Decimal("0.01")) == "0.50 mm"


@pytest.mark.parametrize(
    ("value", "unsure", "down", "told"),
    [
        (335.2, 0.3, False, "340"),
        (1078.0, 0.25, False, "1100"),
        (5.46, 0.15, False, "5.5"),
        (33.4, 0.15, False, "33"),
        (7.9, 0.3, True, "7"),
        (0.1951, 0.5, False, "0.20"),
        (0.626, 0.4, False, "0.6"),
        (9e-10, 0.5, False, "0"),
        (0.0, 0.3, False, "0"),
    ],
)
def test_a_figure_has_no_more_digits_than_what_is_known_of_it_bears(
    value: float, unsure: float, down: bool, told: str
) -> None:
    assert known_text(value, unsure, down=down) == told


@given(st.floats(1e-3, 1e6), st.floats(0.05, 0.6))
def test_what_is_left_out_of_a_figure_is_less_than_half_of_what_is_not_known(value: float, unsure: float) -> None:
    assert abs(float(known_text(value, unsure, places=9)) - value) <= 0.51 * unsure * value
    assert float(known_text(value, unsure, down=True, places=9)) <= value * (1 + 1e-6)
