"""Thin parts: both sides taken in turn, each an equal part of its stock, until the size is reached."""

from datetime import UTC, datetime
from decimal import Decimal

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy.orm import Session

from tests.core.set_up_shop import facts, part
from zesty_lark.core.part.stock import split
from zesty_lark.core.part.surfaces.part import PairPlan
from zesty_lark.core.setup.thin import MOST_TURNS, bow_turns, is_thin, turns_wanted
from zesty_lark.core.squaring.choices import FaceChoice, PairChoice, RouteChoices
from zesty_lark.core.squaring.remaining import ends_at
from zesty_lark.core.work.entries import Rerouted
from zesty_lark.core.work.machine_acts import PassFed
from zesty_lark.demo.shift import EVEN, Shift
from zesty_lark.shopfloor.stock import goal_of
from zesty_lark.store import jobs, people, shop, shoplog
from zesty_lark.store.models import InstrumentRow, WheelRow
from zesty_lark.store.shoplog import Draft

D = Decimal


@given(
    total=st.decimals("0.05", "2", places=3), share=st.decimals("0.1", "0.9", places=2), turns=st.integers(1, 6)
)  # fmt: skip
@settings(max_examples=60)
def test_each_turn_takes_an_equal_part_and_the_last_ends_at_the_size(
    total: Decimal, share: Decimal, turns: int
) -> None:
    pair = PairPlan(
        "thickness",
        split(
            measured_max_mm=D(4) + total, measured_min_mm=D(4) + total, target_mm=D(4), tol_minus_mm=D(0),
            tol_plus_mm=D(0), first_cleanup_mm=D(0), second_cleanup_mm=D(0), min_skin_mm=D(0), first_share=share,
        ),
        D(4), turns=turns,
    )  # fmt: skip
    height, taken = D(4) + total, []
    for turn in range(1, turns + 1):
        for reference in (True, False):
            goal = ends_at(pair, reference=reference, turn=turn)
            taken.append(height - goal)
            height = goal
    assert height == D(4), "nothing is left on and nothing is taken twice"
    assert sum(taken) == total and min(taken) > 0
    assert max(taken[::2]) - min(taken[::2]) <= D("0.000001") and max(taken[1::2]) - min(taken[1::2]) <= D("0.000001")


def test_what_springs_back_gets_less_from_flip_to_flip_where_foils_fill_the_hollow() -> None:
    of = facts(part(240, 38, 4.2, gap_mm=0.11))
    assert is_thin(of) and not is_thin(facts())
    made = bow_turns(of, hollow_um=0.5)
    assert made[0].foils == ("Foil 0.10",) and made[0].springs_back_um == pytest.approx(10.0)
    assert [each.face for each in made[:4]] == [2, 1, 2, 1]
    assert made[1].gap_um == pytest.approx(made[0].out_um), "under it lies what the other side came out with"
    none = bow_turns(facts(part(240, 38, 4.2, gap_mm=0.11), accessories=()))
    assert all(each.springs_back_um == pytest.approx(110.0) for each in none), "pulled flat it springs back as it was"
    assert turns_wanted(none, 5.0) is None
    assert turns_wanted(bow_turns(facts(part(240, 38, 4.2, gap_mm=0.1))), 5.0) == 1
    assert len(made) == 2 * MOST_TURNS


def test_a_thin_strip_is_ground_in_turns_to_its_size(demo: Session) -> None:
    """TR-120 from its plan on: each side twice, turned over by the log, ending in the zone."""
    job, who = jobs.by_number(demo, "TR-120"), people.by_sign_in_name(demo, "bryn")
    gauge = shop.by_name(demo, InstrumentRow, "Bench comparator B1")
    assert job is not None and who is not None and gauge is not None
    mounted = shop.by_name(demo, WheelRow, str(job.machine.spindle))
    assert mounted is not None
    job.wheel = mounted
    demo.flush()
    shift = Shift(demo, job, who, datetime.now(UTC))
    shift.count = 100
    shift.keep_part_plan(RouteChoices(pairs={"thickness": PairChoice(turns=2)}), release=True)
    taken: dict[int, list[Decimal]] = {1: [], 2: []}
    for turn in (1, 2):
        for face in (1, 2):
            run = shift._run()
            assert run.surface == face
            before = shift._state().pieces[1].sizes["thickness"].by_collar_mm
            goal = goal_of(job, shift._state(), run)
            shift.release(choice=FaceChoice("custom", downfeed_mm=0.01, crossfeed_mm=0.8, table_mm_s=250.0))
            shift.follow()
            shift.measure(gauge, EVEN, short="0.0003")
            for _ in range(6):
                if shift._next().act != "plan" or goal_of(job, shift._state(), shift._run()) >= _thickest(shift):
                    break
                try:
                    shift.release(1, FaceChoice())
                except AssertionError:
                    break
                shift.follow()
                shift.measure(gauge, EVEN, short="0.0002")
            after = shift._state().pieces[1].sizes["thickness"].mm
            assert after == pytest.approx(goal, abs=D("0.006")), (turn, face)
            taken[face].append(before - after)
            if face == 1 or turn == 2:
                shift.close()
            else:
                over = Rerouted(
                    entry_id="turned-over-1", at=shift.clock, change="grind", surface=1, note="Turned over."
                )
                shift._now = shoplog.append(demo, job, who, Draft(over)).job_state
    job_state = shift._state()
    assert job_state.pieces[1].verdicts["thickness"] == "in"
    fed = [entry.surface for entry in job_state.history if isinstance(entry, PassFed)]
    flips = [surface for at, surface in enumerate(fed) if at == 0 or fed[at - 1] != surface]
    assert flips == [1, 2, 1, 2], "the sides were taken in turn"
    for each in taken.values():
        assert each[0] == pytest.approx(each[1], abs=D("0.012")), "in equal parts"


def _thickest(shift: Shift) -> Decimal:
    return shift._state().pieces[1].sizes["thickness"].mm
