"""Foils under a hollow: never more than the gap, and what the plan counts on is what lies there."""

from dataclasses import replace
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.set_up_shop import ACCESSORIES, facts, part
from tests.core.test_route import BLOCK, SHOP, planned
from zesty_lark.core.setup.suggest import suggest
from zesty_lark.core.squaring.under import SHIM_FROM_MM, foils_for, shimmed_mm

FOILS = [each for each in ACCESSORIES if each.kind == "foil"]


@given(st.floats(0, 1))
def test_foils_never_lift_the_part(gap: float) -> None:
    filled = shimmed_mm(FOILS, gap)
    assert 0 <= filled <= gap + 1e-9
    assert filled == (sum(float(each.height_mm) for each in foils_for(FOILS, gap)) if gap >= SHIM_FROM_MM else 0)
    assert gap < 0.05 or filled or gap < SHIM_FROM_MM, "a foil that fits goes in"


def test_what_is_planned_to_be_shimmed_is_shimmed_where_it_is_laid_out() -> None:
    bowed = facts(part(240.0, 38.0, 4.0, gap_mm=0.12))
    laid_out = next(way for way in suggest(bowed) if way.name == "magnet").layout
    heights = {each.name: float(each.height_mm) for each in FOILS}
    lies = sum(heights[thing.name] for thing in laid_out.things if thing.role == "shim")
    assert lies == pytest.approx(shimmed_mm(FOILS, 0.12)) == pytest.approx(0.1)


def test_less_stock_than_the_bow_is_said_to_stay_unclean() -> None:
    shop, bowed = replace(SHOP, accessories=FOILS), replace(BLOCK, bow_mm=0.1)
    said = {mm: planned(shop=shop, block=bowed, left_mm={1: Decimal(mm)}).faces[1].advice for mm in ("0.09", "0.12")}
    assert "stays unclean" in said["0.09"] and "stays unclean" not in said["0.12"]
