"""Slips of ten and of 25.4 get a question, honest sizes none."""

from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from zesty_lark.core.quantities.plausible import SLIPS, doubt_against, doubt_beyond

SIZES = st.decimals(min_value="0.5", max_value="400", places=3)


def test_2200_for_22_is_asked_about_with_what_was_meant() -> None:
    doubt = doubt_beyond(Decimal(2200), Decimal(450), Decimal("22.26"))
    assert doubt is not None and doubt.meant_mm == 22


def test_an_inch_reading_on_a_metric_print_is_named() -> None:
    doubt = doubt_against(Decimal("0.866"), Decimal(22))
    assert doubt is not None and "inches" in doubt.slip


def test_what_fits_no_slip_is_still_doubted_beyond_the_machine() -> None:
    doubt = doubt_beyond(Decimal(10) ** 7, Decimal(450))
    assert doubt is not None and doubt.meant_mm is None
    assert doubt_beyond(Decimal(450), Decimal(450)) is None


@given(SIZES, st.sampled_from([factor for factor, _ in SLIPS]), st.booleans())
def test_every_slip_is_caught_and_undone(size: Decimal, factor: Decimal, larger: bool) -> None:
    slipped = size * factor if larger else size / factor
    doubt = doubt_against(slipped, size)
    assert doubt is not None and doubt.meant_mm is not None
    assert abs(doubt.meant_mm / size - 1) < Decimal("1e-6")


@given(SIZES, st.decimals(min_value="0.3", max_value="3", places=2))
def test_an_honest_size_is_never_doubted(size: Decimal, share: Decimal) -> None:
    assert doubt_against(size * share, size) is None
