"""What is on a surface now, and how a measurement of it is judged."""

from dataclasses import replace
from decimal import Decimal

import pytest
from sqlalchemy.orm import Session

from tests.shopfloor.test_as_it_stands import in_its_date, job_of
from tests.store.test_learning import LaidOut
from zesty_lark.core.part.sizes import Reading
from zesty_lark.core.part.surfaces.part import PairPlan
from zesty_lark.core.work.entries import Measured, Rerouted
from zesty_lark.core.work.machine_acts import PassFed, SparkedOut
from zesty_lark.shopfloor import stock
from zesty_lark.shopfloor.measuring import Taken, measurement
from zesty_lark.store import job_states
from zesty_lark.store.models import InstrumentRow

D = Decimal


def test_a_reference_that_is_called_back_gives_its_skin_until_it_is_cut(demo: Session) -> None:
    job, job_state = job_of(demo, "TR-101")
    at = job_state.history[-1].at
    called = Rerouted(entry_id="again-0001", at=at, change="grind", surface=1, note="x")
    cut = PassFed(entry_id="again-0002", at=at, surface=1, reading_mm=D(1))
    other = PassFed(entry_id="again-0003", at=at, surface=2, reading_mm=D(1))

    def again(*more: object) -> bool:
        return stock._ground_again(replace(job_state, history=(*job_state.history, *more)), 1)  # type: ignore[arg-type]

    assert [again(), again(called), again(called, other), again(called, cut), again(cut, called)] == [
        False, True, True, False, True
    ]  # fmt: skip
    assert not stock._ground_again(replace(job_state, history=()), 1)
    assert not again(replace(called, surface=2))


def test_a_skin_is_taken_again_only_where_every_piece_of_the_load_was_measured(demo: Session) -> None:
    job, job_state = job_of(demo, "TR-140")
    run = replace(job_state.runs[1], pieces=(1, 2))
    none = replace(job_state, history=())
    assert stock._skin_again(job, run, none) == (job.part.min_skin_mm if none.spec.wanted.ends_on(1) is None else 0)
    two = replace(job_state.runs[2], pieces=(1, 2))
    at, size = job_state.history[-1].at, job_state.spec.wanted.ends_on(2)
    assert size is not None
    lower = size.limits.lower_mm
    one, other = (
        Measured(entry_id=f"skin-000{n}", at=at, surface=2, piece=n, readings=(Reading("m", lower + more),))
        for n, more in ((1, D("0.05")), (2, D("0.003")))
    )
    assert stock._skin_again(job, two, replace(job_state, history=(one,))) == 0
    both = stock._skin_again(job, two, replace(job_state, history=(one, other)))
    alone = stock._skin_again(job, replace(two, pieces=(2,)), replace(job_state, history=(one, other)))
    assert 0 < both == alone < job.part.min_skin_mm
    assert stock._skin_again(job, replace(two, pieces=(1,)), replace(job_state, history=(one,))) >= both


@pytest.mark.parametrize(
    ("part", "gauge_c", "room", "warm"),
    [(None, None, None, False), ("20.5", None, None, False), ("26", None, None, True), ("26", "26", None, False),
     ("26", "26", "20", True), ("26", None, "25.9", False)],
)  # fmt: skip
def test_a_part_is_warm_against_the_room_its_gauge_lies_in(
    demo: Session, part: str | None, gauge_c: str | None, room: str | None, warm: bool
) -> None:
    at = job_of(demo, "TR-101")[1].history[-1].at
    given = {name: None if value is None else D(value) for name, value in
             (("part_c", part), ("gauge_c", gauge_c), ("room_c", room))}  # fmt: skip
    entry = Measured(entry_id="warm-00001", at=at, surface=2, **given)
    assert stock._warm(entry, 22.0, 0.006) is warm


def test_what_is_on_a_surface_after_a_measurement_is_the_cut_it_asks_for(demo: Session) -> None:
    laid_out = LaidOut(demo)
    run = job_states.state_of(demo, laid_out.job).runs[2]
    before = stock.stock_of(laid_out.job, job_states.state_of(demo, laid_out.job), 2)
    assert before.cut is None and before.goal_mm == 22 and run.next_reading_mm is not None
    laid_out.log(PassFed, surface=2, reading_mm=run.next_reading_mm)
    laid_out.log(SparkedOut, surface=2)
    measured = laid_out.measure("22.16")
    now = job_states.state_of(demo, laid_out.job)
    after = stock.stock_of(laid_out.job, now, 2)
    assert after.cut is not None and after.on_mm == after.cut.amount_mm
    assert D("0.14") < after.on_mm <= D("0.165") and after.cut.chance_in is not None
    run = now.runs[2]
    assert stock.measured_entry(run, now) == stock.measured_entry(run, now, 1)
    found = stock.measured_entry(run, now)
    assert found is not None and found.entry_id == measured.entry_id
    assert stock.measured_entry(run, now, 2) is None and stock.measured_entry(replace(run, proofs={}), now) is None
    thick = replace(run.proofs[1], greatest_mm=D(30), entry_id="thick-0001")
    two = replace(run, pieces=(1, 2), proofs={1: run.proofs[1], 2: thick})
    other = replace(found, entry_id="thick-0001", piece=2)
    known = replace(now, history=(*now.history, other))
    assert [stock.measured_entry(two, known, piece) for piece in (None, 1, 2)] == [other, found, other]
    assert stock.measured_entry(replace(two, pieces=(1,)), known) == found, "of the pieces still to be done"
    assert stock.measured_entry(replace(two, pieces=()), known) == other


def test_only_sizes_of_the_load_say_how_thin_it_is(demo: Session) -> None:
    job, job_state = job_of(demo, "TR-140")
    run = replace(job_state.runs[2], pieces=(1,))
    size, at = job_state.spec.wanted.ends_on(2), job_state.history[-1].at
    assert size is not None
    thick, thin = size.limits.lower_mm + D("0.05"), size.limits.lower_mm + D("0.003")
    own = Measured(entry_id="thin-0001", at=at, surface=2, piece=1, readings=(Reading("m", thick),))
    others = (
        replace(own, entry_id="thin-0002", piece=2, readings=(Reading("m", thin),)),
        replace(own, entry_id="thin-0003", characteristic="width", readings=(Reading("m", thin),)),
    )
    alone = stock._skin_again(job, run, replace(job_state, history=(own,)))
    assert alone == stock._skin_again(job, run, replace(job_state, history=(own, *others))) == job.part.min_skin_mm


def test_a_reference_called_back_has_its_skin_on_it_until_it_is_cut(demo: Session) -> None:
    job, job_state = job_of(demo, "TR-101")
    called = Rerouted(entry_id="skin-0001", at=job_state.history[-1].at, change="grind", surface=3, note="x")
    run = replace(job_state.runs[3], pieces=(1,))
    size = replace(job_state.pieces[1].sizes["width"], by_collar_mm=D("54.193"), mm=D("54.193"))
    pieces = {1: replace(job_state.pieces[1], sizes={**job_state.pieces[1].sizes, "width": size})}
    now = replace(job_state, runs={**job_state.runs, 3: run}, pieces=pieces)
    assert stock.stock_of(job, now, 3).on_mm == 0
    again = stock.stock_of(job, replace(now, history=(*now.history, called)), 3)
    assert again.on_mm == job.part.min_skin_mm > 0 and again.cut is None


def test_what_was_logged_as_unsure_is_never_judged_in(demo: Session, gauge: InstrumentRow) -> None:
    job, job_state = job_of(demo, "TR-101")
    taken = Taken("width", 1, (Reading("middle", D(54)), Reading("left", D("54.001"))))
    made = measurement(job, job_state, gauge, taken, entry_id="judged-001", at=in_its_date(gauge))
    asked = job_state.spec.wanted.named("width")
    assert asked is not None and made.verdict == "in"
    for logged, verdict, overdue in (("in", "in", False), ("unsure", "unsure", True), (None, "in", False)):
        found = stock.judged(job, replace(made, verdict=logged), asked)  # type: ignore[arg-type]
        assert (found.verdict, found.overdue) == (verdict, overdue)
    warm = stock.judged(job, replace(made, note="part still warm"), asked)
    assert warm.verdict == "unsure"


def test_a_size_is_judged_against_the_goal_its_stock_was_shared_for_and_with_its_own_parallelism(
    demo: Session, gauge: InstrumentRow, monkeypatch: pytest.MonkeyPatch
) -> None:
    job, job_state = job_of(demo, "TR-101")
    seen: list[dict[str, object]] = []
    as_it_is = stock.judge

    def noted(*given: object, **named: object) -> object:
        seen.append(named)
        return as_it_is(*given, **named)  # type: ignore[arg-type]

    monkeypatch.setattr(stock, "judge", noted)
    for name, parallel in (("thickness", D("0.003")), ("width", None)):
        asked = job_state.spec.wanted.named(name)
        assert asked is not None
        value = asked.limits.goal_mm
        entry = Measured(
            entry_id="goal-00001", at=in_its_date(gauge), characteristic=name, readings=(Reading("m", value),)
        )
        stock.judged(job, entry, asked)
        goal = stock.pair_of(job, asked.surfaces[0]).ends_at_mm
        assert (seen[-1]["goal_mm"], seen[-1]["parallel_mm"]) == (goal, parallel)
    other = replace(job_state.spec.wanted.characteristics[0], name="step")
    stock.judged(job, Measured(entry_id="s", at=in_its_date(gauge), readings=(Reading("m", D(22)),)), other)
    assert seen[-1]["goal_mm"] == other.limits.goal_mm


def test_a_surface_taken_in_turns_is_done_for_this_turn_at_its_own_size(
    demo: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    job, job_state = job_of(demo, "TR-101")
    run, once = job_state.runs[2], stock.pair_of(job, 2)
    monkeypatch.setattr(stock, "turn_of", lambda _state, _run: 2)
    seen: list[int] = []
    as_it_is = stock.ends_at

    def noted(pair: PairPlan, *, reference: bool, turn: int) -> Decimal:
        seen.append(turn)
        return as_it_is(pair, reference=reference, turn=turn)

    monkeypatch.setattr(stock, "ends_at", noted)
    assert stock.goal_of(job, job_state, run) == stock.goal_of(job, job_state, run, once) == 22
    twice = stock.goal_of(job, job_state, run, replace(once, turns=2))
    assert seen == [1, 1, 2] and twice == as_it_is(replace(once, turns=2), reference=False, turn=2)
