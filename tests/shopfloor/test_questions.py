"""What the work floor asks the core, and makes of the answer: means, situations, budgets, the meter's word."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from types import SimpleNamespace
from typing import Any

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from tests.shopfloor.test_as_it_stands import in_its_date, job_of
from zesty_lark.core.part.sizes import Reading
from zesty_lark.core.squaring.choices import RouteChoices
from zesty_lark.core.squaring.face_plan import USUAL_FLAT_UM, USUAL_RA_UM
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.learned import CutRatio
from zesty_lark.core.work.run import Run
from zesty_lark.shopfloor import basis, loads, measuring, planning, stock
from zesty_lark.shopfloor.basis import basis_of
from zesty_lark.shopfloor.measuring import Taken, Tool, budget_for, characteristic_of, due, measurement, surface_of
from zesty_lark.store import people, shop
from zesty_lark.store.models import BlockSetRow, InstrumentRow, Job, Person

D = Decimal
NOW = datetime.now(UTC)


def test_what_a_job_is_ground_with_is_its_own_else_the_usual(demo: Session, at_work: tuple[Job, JobState, Run]) -> None:
    job, job_state, _ = at_work
    usual = CutRatio(0.6, 0)
    with demo.no_autoflush:
        means = basis.means_of(job, usual)
        assert job.machine.chuck is not None and means.pull_n_cm2 == float(job.machine.chuck.pull_n_cm2)
        assert (means.hardness_hrc, means.flatness_um, means.ra_um) == (60.0, 2.0, 0.8)
        job.part.hardness_hrc = job.part.flat_mm = job.part.ra_um = None
        job.machine.chuck.pull_n_cm2 = D(55)
        means = basis.means_of(job, usual)
        assert (means.hardness_hrc, means.flatness_um, means.ra_um) == (None, USUAL_FLAT_UM, USUAL_RA_UM)
        assert means.pull_n_cm2 == 55.0
        job.machine.chuck.length_mm, job.machine.chuck.width_mm = D(401), D(151)
        assert loads.chuck_size(job) == (401.0, 151.0)
        job.machine.chuck = None
        assert basis.means_of(job, usual).pull_n_cm2 == float(basis.UNKNOWN_PULL)
        travel = float(job.machine.travel_long_mm), float(job.machine.travel_cross_mm)
        assert loads.chuck_size(job) == travel
        facts = basis._shop(demo, job, job_state, NOW.date())
        assert (float(facts.chuck.length_mm), float(facts.chuck.width_mm), facts.chuck_map) == (*travel, ())
        demo.expire_all()


def test_the_shop_measures_as_finely_as_the_best_gauge_that_reaches(demo: Session) -> None:
    today = in_its_date(next(iter(shop.listed(demo, InstrumentRow)))).date()
    reach = [row for row in shop.listed(demo, InstrumentRow)]
    fine = basis._least_u(demo, D(22), today)
    assert fine is not None and basis._least_u(demo, D(5000), today) is None
    most = max(row.most_mm for row in reach)
    assert basis._least_u(demo, most, today) is not None and basis._least_u(demo, most + D("0.001"), today) is None
    for row in reach:
        row.least_mm, row.most_mm = D(10), max(row.most_mm, D(20))
    assert basis._least_u(demo, D(10), today) is not None and basis._least_u(demo, D("9.999"), today) is None


def test_the_flatness_of_a_face_is_the_one_measured_last(at_work: tuple[Job, JobState, Run]) -> None:
    _, job_state, _ = at_work
    given = {"at": NOW, "characteristic": "flat"}
    told = [
        Measured(entry_id=f"flat-{n:04d}", surface=face, readings=(Reading("m", D(mm)),), **given)  # type: ignore[arg-type]
        for n, (face, mm) in enumerate(((1, "0.002"), (2, "0.004"), (1, "0.003"), (None, "0.009")))
    ]
    other = replace(told[0], characteristic="thickness", surface=5)
    now = replace(job_state, history=(*told, other))
    assert basis._flat_measured(now) == {1: 3.0, 2: 4.0}


def lead(session: Session, name: str = "isa") -> Person:
    found = people.by_sign_in_name(session, name)
    assert found is not None
    return found


@pytest.fixture
def asked(monkeypatch: pytest.MonkeyPatch) -> list[Any]:
    """The situations that a face's steps were asked for in."""
    seen: list[Any] = []
    monkeypatch.setattr(planning, "plan_steps", lambda _face_plan, now, reason: seen.append(now))
    return seen


def test_a_plan_s_steps_follow_from_who_plans_where_it_stands_and_what_was_dressed(
    demo: Session, at_work: tuple[Job, JobState, Run], asked: list[Any]
) -> None:
    job, job_state, run = at_work
    made = basis_of(demo, job, job_state, NOW.date())
    route = made.worked(job.part.route_choices, only=2)
    face_plan = route.faces[2]
    assert face_plan.plan is not None
    apprentice = lead(
        demo, next(person.sign_in_name for person in people.everyone(demo) if person.role == "apprentice")
    )

    def now(who: Person, of: JobState = job_state, *, carries_on: bool = True) -> Any:
        planning._steps(replace(made, job_state=of), face_plan, carries_on, who, reason="")
        return asked.pop()

    surfaces = job_state.spec.wanted.surfaces
    half = replace(surfaces[2], per_feed=D("-0.5"))
    tilted = replace(
        job_state, spec=replace(job_state.spec, wanted=replace(job_state.spec.wanted, surfaces={**surfaces, 2: half}))
    )
    assert now(lead(demo), tilted).tolerance_mm == D("0.012"), "what the wheel may be off by, by its feed"
    first = now(lead(demo))
    assert (first.is_up, first.is_flip, first.ends_on_size, first.carries_on) == (True, True, True, True)
    assert first.tolerance_mm == D("0.006") and first.stops_once_more, "a tight size is looked at once more"
    assert first.held_back_mm == stock.stock_of(job, job_state, 2).held_back_mm
    assert now(lead(demo), carries_on=False).held_back_mm == 0
    away = now(lead(demo), replace(job_state, up=None))
    assert (away.is_up, away.is_flip) == (False, False)
    other = now(lead(demo), replace(job_state, up=("1", 1, 1)))
    assert (other.is_up, other.is_flip) == (False, True)
    assert now(lead(demo), replace(job_state, dressed=face_plan.plan.finish_dress)).finish_dressed
    assert not now(lead(demo), replace(job_state, dressed="odd")).finish_dressed
    assert run.plan is not None
    looked = replace(run.plan.steps[0], kind="measure", what=planning.AFTER_FIRST)
    steps = (looked, *run.plan.steps[1:])
    for done, once_more in ((1, False), (0, True)):
        stopped = replace(run, plan=replace(run.plan, steps=steps), done=done)
        of = replace(job_state, runs={**job_state.runs, 2: stopped})
        assert now(lead(demo), of).stops_once_more is once_more
    loose, _ = job_of(demo, "TR-114")
    wide = basis_of(demo, loose, job_of(demo, "TR-114")[1], NOW.date())
    route = wide.worked(loose.part.route_choices, only=1)
    for who, once_more in ((lead(demo), False), (apprentice, True)):
        planning._steps(wide, route.faces[1], False, who, reason="")
        assert asked.pop().stops_once_more is once_more


def test_a_face_that_cannot_be_planned_has_no_steps_and_no_range(
    demo: Session, at_work: tuple[Job, JobState, Run], monkeypatch: pytest.MonkeyPatch
) -> None:
    job, job_state, _ = at_work
    made = basis_of(demo, job, job_state, NOW.date())
    route = made.worked(job.part.route_choices, only=2)
    plan = planning.plan_face(made, 2, route, lead(demo))
    assert plan.problem is not None and plan.most_graduations == plan.problem.graduations > 1
    assert plan.crossfeeds == plan.problem.crossfeed_range() != (1, 1)
    bare = replace(plan, face_plan=replace(plan.face_plan, problem=None))
    assert plan.problem_mark == f"{hash(plan.problem) % 2**32:x}" and len(plan.problem_mark) <= 8
    assert (bare.most_graduations, bare.crossfeeds, bare.columns, bare.problem) == (1, (1, 1), [], None)

    def refuses(*_given: object, **_named: object) -> None:
        raise ValueError("no")

    monkeypatch.setattr(planning, "plan_steps", refuses)
    assert planning.plan_face(made, 2, route, lead(demo)).steps is None
    with pytest.raises(planning.FaceError, match="Face 5 is done, or no set-up"):
        planning.plan_face(made, 5, replace(route, faces={}), lead(demo))
    with pytest.raises(planning.FaceError, match="Face 99 is done"):
        planning.plan_face(made, 99, route, lead(demo))


def test_own_settings_stand_beside_the_methods_when_they_are_chosen(
    demo: Session, at_work: tuple[Job, JobState, Run], asked: list[Any]
) -> None:
    job, job_state, _ = at_work
    made = basis_of(demo, job, job_state, NOW.date())
    route = made.worked(RouteChoices(), only=2)
    face_plan = route.faces[2]
    methods = [column.key for column in planning._columns(face_plan)]
    assert methods[0] == "quickest" and "custom" not in methods and len(methods) > 3
    own = replace(face_plan, choice=replace(face_plan.choice, method="custom"))
    last = planning._columns(own)[-1]
    assert (last.key, last.plan, last.refused) == ("custom", face_plan.plan, face_plan.refused)
    assert (last.name, last.short, last.letter) == (planning.METHODS["custom"], "Custom", "o")
    planning._steps(made, face_plan, True, lead(demo), reason="")
    assert asked[0].cut_ratio == made.learned.eta and asked[0].plunged is False
    slot, _ = job_of(demo, "TR-114")
    of_slot = basis_of(demo, slot, job_of(demo, "TR-114")[1], NOW.date())
    walls = replace(face_plan, face=8)
    planning._steps(of_slot, walls, False, lead(demo), reason="")
    feeding = planning.feeding_of(of_slot.block, 8)
    assert asked[1].cut_ratio == (feeding.cut_ratio or of_slot.learned.eta)


def test_what_is_on_a_limit_or_does_not_clean_up_is_released_with_a_reason(
    demo: Session, at_work: tuple[Job, JobState, Run]
) -> None:
    job, job_state, _ = at_work
    made = basis_of(demo, job, job_state, NOW.date())
    route = made.worked(job.part.route_choices, only=2)
    near = SimpleNamespace(
        near_limits={2: "close to what it bears", 1: "hot"}, short_of_clean_up=["width"], surfaces=route.surfaces
    )
    plan = replace(planning.plan_face(made, 2, route, lead(demo)), route=near, carries_on=False)  # type: ignore[arg-type]
    assert plan.asks_reason == [
        "Face 2 is close to what it bears.", "The width does not clean up: a lead releases it, with a reason."
    ]  # fmt: skip
    assert plan.a_lead_only and not replace(plan, carries_on=True).a_lead_only
    assert replace(plan, carries_on=True).asks_reason == ["Face 2 is close to what it bears."]
    near.short_of_clean_up = []
    assert not plan.a_lead_only and len(plan.asks_reason) == 1


def test_a_question_without_reserve_is_asked_once(demo: Session, at_work: tuple[Job, JobState, Run]) -> None:
    job, job_state, _ = at_work
    made = basis_of(demo, job, job_state, NOW.date())
    problem = made.worked(job.part.route_choices, only=2).faces[2].problem
    assert problem is not None and problem.temperature_margin > 0
    bare = planning.without_reserve(problem)
    assert (bare.temperature_margin, bare.power_share) == (0.0, 1.0) and planning.without_reserve(bare) is bare
    nobody_s = replace(
        problem, temperature_margin=problem.temperature_margin / 3, dress_minutes=problem.dress_minutes + 0.123
    )
    assert not planning.curve_at_hand(nobody_s), "a question that no other test has asked"


def test_a_characteristic_that_is_not_named_is_the_size_at_work_else_the_first(
    at_work: tuple[Job, JobState, Run],
) -> None:
    _, job_state, _ = at_work
    wanted = job_state.spec.wanted
    side = replace(job_state, at=replace(job_state.runs[3]))
    assert [characteristic_of(now, "").name for now in (job_state, side)] == ["thickness", "width"]
    assert characteristic_of(replace(job_state, at=None), "").name == "thickness"
    assert characteristic_of(side, "flat").name == "flat"
    width, flat = wanted.named("width"), wanted.named("flat")
    assert width is not None and flat is not None
    assert [surface_of(now, width) for now in (job_state, side, replace(job_state, at=None))] == [5, 3, 5]
    assert surface_of(replace(job_state, at=replace(job_state.runs[1])), flat) == 2


def test_what_is_due_is_unproved_with_every_surface_it_relates_done(at_work: tuple[Job, JobState, Run]) -> None:
    _, job_state, _ = at_work
    done = frozenset(job_state.spec.wanted.surfaces)
    assert due(job_state, 1) == []
    finished = replace(job_state.pieces[1], done=done)
    all_done = replace(job_state, pieces={1: finished})
    names = [characteristic.name for characteristic in job_state.spec.wanted.characteristics]
    assert due(all_done, 1) == names
    proved = replace(finished, verdicts={"flat": "in", "width": "out"})
    assert due(replace(job_state, pieces={1: proved}), 1) == [name for name in names if name != "flat"]
    pair = replace(job_state.pieces[1], done=frozenset((1, 2)))
    assert due(replace(job_state, pieces={1: pair}), 1) == ["thickness", "parallel", "flat", "finish"]


def test_a_size_compared_against_a_stack_is_told_with_it_and_is_as_late_as_its_blocks(
    demo: Session, at_work: tuple[Job, JobState, Run]
) -> None:
    job, job_state, _ = at_work
    gauge = next(row for row in shop.listed(demo, InstrumentRow) if row.reads == "deviations")
    row = next(scalar for scalar in demo.scalars(select(BlockSetRow)) if scalar.unit == "mm")
    blocks, at = row.to_core(), in_its_date(gauge)
    asked = job_state.spec.wanted.named("thickness")
    flat = job_state.spec.wanted.named("flat")
    assert asked is not None and flat is not None
    stack = measuring.stack_for(asked, blocks)
    readings = (Reading("middle", D("0.0004")), Reading("left", D("-0.0002")))

    def taken(tool: Tool, name: str = "thickness", at: datetime = at) -> Measured:
        return measurement(job, job_state, tool, Taken(name, 1, readings), entry_id="stack-0001", at=at)

    straight = taken(Tool(gauge, blocks))
    assert [reading.value_mm for reading in straight.readings] == [stack.sum_mm + each.value_mm for each in readings]
    assert straight.how == f"against {stack.words}" and "tip" not in straight.how
    tipped = taken(Tool(gauge, blocks, tip_deg=12.5))
    assert tipped.how.endswith("; tip at 12.5°") and tipped.readings != straight.readings
    assert taken(Tool(gauge, None)).readings == readings and taken(Tool(gauge, None)).how == ""
    assert taken(Tool(gauge, blocks), "flat").readings == readings, "a form is no comparison"
    due_on = replace(blocks, due_on=at.date())
    late = replace(blocks, due_on=at.date() - timedelta(days=1))
    assert [taken(Tool(gauge, each)).verdict for each in (due_on, late)] == ["in", "unsure"]
    plain = next(row for row in shop.listed(demo, InstrumentRow) if row.reads == "sizes")
    assert not Tool(plain, blocks).compares and Tool(gauge, blocks).compares and not Tool(gauge, None).compares
    assert not measuring._overdue(Tool(plain, late), in_its_date(plain))
    compared = budget_for(job_state, asked, Tool(gauge, blocks), at=at, taken_c=True)
    assert compared.expanded_mm != budget_for(job_state, asked, Tool(gauge, None), at=at, taken_c=True).expanded_mm
    assert budget_for(job_state, flat, Tool(gauge, blocks), at=at, taken_c=True) == budget_for(
        job_state, flat, Tool(gauge, None), at=at, taken_c=False
    )


def test_a_size_measured_to_see_what_is_left_for_the_other_side_has_no_verdict(
    demo: Session, at_work: tuple[Job, JobState, Run]
) -> None:
    job, job_state, _ = at_work
    gauge = next(iter(shop.listed(demo, InstrumentRow)))
    for surface, verdict in ((1, None), (2, "not yet")):
        now = replace(job_state, at=job_state.runs[surface])
        taken = Taken("thickness", 1, (Reading("middle", D("22.2")),))
        made = measurement(job, now, gauge, taken, entry_id="left-00001", at=in_its_date(gauge))
        assert (made.surface, made.verdict) == (surface, verdict)


def test_a_place_has_a_size_s_budget_and_no_rise(demo: Session) -> None:
    job, job_state = job_of(demo, "TR-114")
    gauge = next(iter(shop.listed(demo, InstrumentRow)))
    place = job_state.spec.wanted.named("keyway position")
    assert place is not None
    small, far = (
        budget_for(job_state, place, Tool(gauge), at=in_its_date(gauge), taken_c=False, length_mm=mm).expanded_mm
        for mm in (1.0, 200.0)
    )
    assert small < far
    assert (
        budget_for(job_state, place, Tool(gauge), at=in_its_date(gauge), taken_c=False, length_mm=0.2).expanded_mm
        == small
    )
    taken = Taken("keyway position", 1, (Reading("middle", D(30)),))
    made = measurement(job, job_state, gauge, taken, entry_id="place-0001", at=in_its_date(gauge))
    assert made.verdict == "in" and made.surface == 9
