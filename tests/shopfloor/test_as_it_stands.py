"""What the work floor makes of the demonstration, job by job: stock, verdicts, plans, what stands beside an act."""

from collections.abc import Iterator
from datetime import UTC, datetime, time, timedelta
from decimal import Decimal
from pathlib import Path

import pytest
from sqlalchemy.orm import Session

from tests.told import compare, told
from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.part.sizes import Reading
from zesty_lark.core.work.ahead import ahead
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.next_act import next_act
from zesty_lark.shopfloor import loads, planning, simulation, stock
from zesty_lark.shopfloor.basis import Basis, basis_of
from zesty_lark.shopfloor.companion import companion, next_pass
from zesty_lark.shopfloor.cooling import clock_of
from zesty_lark.shopfloor.measuring import Taken, Tool, budget_for, due, measurement, rise_of, surface_of
from zesty_lark.store import job_states, jobs, people, shop
from zesty_lark.store.models import InstrumentRow, Job, Person

D = Decimal
JOBS = ("TR-101", "TR-114", "TR-120", "TR-133", "TR-140")
HERE = Path(__file__).parent / "told"
TENTH = D("0.00254")


def job_of(session: Session, number: str) -> tuple[Job, JobState]:
    job = jobs.by_number(session, number)
    assert job is not None
    return job, job_states.state_of(session, job)


def in_its_date(gauge: InstrumentRow) -> datetime:
    """A month after a gauge was calibrated, at noon."""
    return datetime.combine(gauge.calibrated_on + timedelta(days=30), time(12), tzinfo=UTC)


def surfaces(job: Job, job_state: JobState) -> Iterator[str]:
    """What is on each surface, its dial, and how many go up together."""
    for number, surface in job_state.spec.wanted.surfaces.items():
        run = job_state.runs[number]
        if not run.pieces:
            continue
        yield f"{surface.name}: {told(stock.stock_of(job, job_state, number))}"
        yield f"  pair {told(stock.pair_of(job, number))}"
        yield f"  dial {told(stock.graduation_of(job, number))}, deep {told(stock.depth_graduation(job, number))}"
        rooms = [loads.room_in(job, job_state, number, lead_in=lead_in) for lead_in in (True, False)]
        yield f"  room {told(rooms)}, rise {told(rise_of(run, job_state))}, next {told(next_pass(job_state, run))}"
        first = stock.stock_of(job, job_state, number, pieces=(1,))
        yield f"  of piece 1 alone {told(first.on_mm)} to {told(first.goal_mm)}"


def characteristics(job: Job, job_state: JobState, gauges: list[InstrumentRow]) -> Iterator[str]:
    """What is due, and what a reading at, over and under what is asked comes to."""
    for number in job_state.pieces:
        yield f"piece {number} due: {told(due(job_state, number))}"
    for asked in job_state.spec.wanted.characteristics:
        yield f"{asked.name} of {surface_of(job_state, asked)}: {told(clock_of(job, job_state, asked))}"
        for gauge in gauges:
            budget = budget_for(job_state, asked, Tool(gauge), at=in_its_date(gauge), taken_c=False)
            taken = budget_for(job_state, asked, Tool(gauge), at=in_its_date(gauge), taken_c=True, length_mm=50.0)
            yield f"  {gauge.name}: U {told(budget.expanded_mm)}, of 50 mm at its temperature {told(taken.expanded_mm)}"
        yield from (f"  {reading}" for reading in readings(job, job_state, asked, gauges[0]))


def readings(job: Job, job_state: JobState, asked: Characteristic, gauge: InstrumentRow) -> Iterator[str]:
    """A measurement of it, as it is logged."""
    limits = asked.limits
    goal = limits.upper_mm / 2 if asked.is_zone else limits.goal_mm
    over, under = limits.upper_mm + D("0.004"), max(limits.lower_mm - D("0.004"), D(0))
    for name, value in (("goal", goal), ("upper", limits.upper_mm), ("over", over), ("under", under)):
        places = (Reading("middle", value), Reading("left", value + D("0.0005")))
        for warm in (False, True):
            taken = Taken(asked.name, 1, places, D(24) if warm else None, None, D(20) if warm else None, warm=warm)
            made = measurement(job, job_state, gauge, taken, entry_id="told-00001", at=in_its_date(gauge))
            yield f"{name}{' warm' if warm else ''}: {made.verdict} of {made.surface}, U {told(made.uncertainty_mm)}"


def questions(session: Session, basis: Basis, who: tuple[Person, ...]) -> Iterator[str]:
    """What a face's plan is worked out from, and what would be released."""
    face = basis.job_state.surface
    yield f"means {told(basis.means)}"
    yield f"done {told(basis.done)} learned {told(basis.learned)} handling {told(basis.handling)}"
    yield f"shop {told((basis.shop.chuck, basis.shop.flat_measured_um))} U {told(basis.shop.measuring_um)}"
    if face is None:
        return
    route = basis.worked(basis.job.part.route_choices, only=face)
    for person in who:
        made = planning.plan_face(basis, face, route, person)
        yield f"{person.role} plans {made.face}, goes on {made.carries_on}, reason {told(made.asks_reason)}"
        yield f"  {made.most_graduations} graduations, crossfeeds {told(made.crossfeeds)}, lead {made.a_lead_only}"
        if made.steps is None:
            continue
        yield f"  stock {told(made.steps.stock_mm)} on {told(made.steps.left_on_mm)}, {made.steps.minutes:.4g} min"
        yield "  " + " ".join(f"{step.kind}({step.what})@{told(step.depth_mm)}" for step in made.steps.steps)
        if made.plan is not None:
            yield f"  in all {made.in_all(made.plan).likely:.4g} min"


@pytest.mark.parametrize("number", JOBS)
def test_a_job_comes_to_what_is_told_of_it(demo: Session, number: str) -> None:
    job, job_state = job_of(demo, number)
    gauges = sorted(shop.listed(demo, InstrumentRow), key=lambda each: each.name)
    who = tuple(people.by_sign_in_name(demo, name) for name in ("isa", "wen"))
    basis = basis_of(demo, job, job_state, in_its_date(gauges[0]).date())
    compare(
        HERE / f"{number}.txt",
        [
            *surfaces(job, job_state),
            *characteristics(job, job_state, gauges),
            *questions(demo, basis, tuple(each for each in who if each is not None)),
        ],
    )


@pytest.mark.parametrize("number", ("TR-101", "TR-140"))
def test_what_stands_beside_an_act_and_what_a_grinder_is_told_follow_the_plan(demo: Session, number: str) -> None:
    job, job_state = job_of(demo, number)
    lines = []
    for now in (job_state, *ahead(job_state, datetime(2026, 3, 2, tzinfo=UTC), TENTH)):
        what = next_act(now)
        run = None if what.surface is None else now.runs[what.surface]
        beside = companion(demo, job, now, run)
        lines.append(f"{what.act}: {told(beside)}")
        if run is not None:
            try:
                lines.append("  " + "; ".join(simulation._lines(job, now, what, run)))
            except simulation.SimulationError as error:
                lines.append(f"  refused: {error}")
    compare(HERE / f"beside-{number}.txt", lines)
