"""Keyways, wedges, lead-ins, radii and edges on the simulated grinder by following the screen alone: in tolerance, and
stopped where nobody may go on."""

from dataclasses import replace
from decimal import Decimal

import pytest

from tests import SEARCHES
from tests.shopfloor.former import Former, formed_job
from zesty_lark.core.part.surfaces.features import Feature
from zesty_lark.core.work.folding import Folding
from zesty_lark.core.work.machine_acts import PassFed, TouchedOff
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.next_act import next_act
from zesty_lark.demo.features import GUIDE_SHOE, INDEX_WEDGE

D = Decimal
SHOE, WEDGE = ("120", "60", "30"), ("70", "40", "25")
RUNS, OF_WHICH = 25, 24
MOST_RUNS = 100 if SEARCHES else 25


def run(features: tuple[Feature, ...], sizes: tuple[str, str, str], seed: int) -> Former:
    job = formed_job(features, sizes)
    job.machine.cross_dial_mm = D("0.0254")
    hands = Former(job, seed)
    hands.work(tuple(hands.formed))
    return hands


def is_good(hands: Former) -> bool:
    """Every surface is truly where the print has it."""
    good = True
    for face, made in hands.formed.items():
        least, most = hands.true_sizes(face)
        size = made.size
        good = good and size.target_mm - size.tol_minus_mm <= least and most <= size.target_mm + size.tol_plus_mm
    return good


@pytest.mark.parametrize("first", range(0, MOST_RUNS, RUNS))
def test_a_keyway_ends_in_tolerance(first: int) -> None:
    assert sum(is_good(run(GUIDE_SHOE, SHOE, seed)) for seed in range(first, first + RUNS)) >= OF_WHICH


@pytest.mark.parametrize("first", range(0, MOST_RUNS, RUNS))
def test_a_wedge_with_lead_ins_a_radius_and_an_edge_ends_in_tolerance(first: int) -> None:
    assert sum(is_good(run(INDEX_WEDGE, WEDGE, seed)) for seed in range(first, first + RUNS)) >= OF_WHICH


def test_with_the_wheels_side_it_ends_in_tolerance_too_where_the_dial_is_fine_and_the_wheel_may() -> None:
    job = formed_job([replace(GUIDE_SHOE[0], way="side")], SHOE)
    job.machine.cross_dial_mm, job.wheel.side_work = D("0.01"), True
    hands = Former(job, 3)
    hands.work((7, 8, 9))
    assert is_good(hands) and hands.lumps[8].eta == 0.28


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ({"way": "side"}, "does not allow work on its side"),
        ({"left_now_mm": D("20.98")}, "Decide at take-in before cutting"),
    ],
)
def test_what_is_not_allowed_or_not_decided_is_not_touched_off_nor_ground(more: dict[str, object], said: str) -> None:
    hands = Former(formed_job(GUIDE_SHOE, SHOE), 1)
    hands.work((7,))
    while next_act(hands.now).act != "touch_off":
        hands.act(next_act(hands.now), hands.now)
    bad = formed_job([replace(GUIDE_SHOE[0], **more)], SHOE)  # type: ignore[arg-type]
    stopped = replace(hands.fold.spec, set_up_stops=bad.part.spec().set_up_stops)
    hands.fold = Folding(stopped, hands.fold.entries)
    with pytest.raises(LogError, match=said):
        hands.log(TouchedOff, 8, reading_mm=D(0))
    with pytest.raises(LogError):
        hands.log(PassFed, 8, reading_mm=D("0.00254"))
