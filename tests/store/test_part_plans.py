"""A part's plan in versions: none lost, none doubled, one in force."""

from collections.abc import Callable
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import select
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from zesty_lark.core.squaring.choices import FaceChoice, RouteChoices
from zesty_lark.store import maps, part_plans, people, shop
from zesty_lark.store.jobs import by_number
from zesty_lark.store.models import ChuckRow, FixtureRow, Job, MachineRow, PartPlanRow, Person

NOW = datetime(2026, 3, 1, 8, tzinfo=UTC)
FIGURES = {"face 1": {"minutes": 4.5, "method": "Quickest"}}


@pytest.fixture
def job(demo: Session) -> Job:
    found = by_number(demo, "TR-120")
    assert found is not None
    return found


def person(demo: Session, name: str) -> Person:
    return next(each for each in people.everyone(demo) if each.sign_in_name == name)


def keep(demo: Session, job: Job, who: str, squareness: str, based_on: int, **more: object) -> PartPlanRow:
    return part_plans.save(
        demo,
        job,
        person(demo, who),
        RouteChoices(squareness=squareness),
        figures=FIGURES,  # type: ignore[arg-type]
        based_on=based_on,
        at=NOW,
        **more,
    )  # type: ignore[arg-type]


def test_versions_count_up_and_come_back_as_they_were(demo: Session, job: Job) -> None:
    choices = RouteChoices(faces={2: FaceChoice("custom", 0.1, 15.0, 0.01, 1.0, 200.0)})
    first = part_plans.save(demo, job, person(demo, "bryn"), choices, figures=FIGURES, based_on=0, at=NOW)
    second = keep(demo, job, "isa", "shim", 1)
    demo.expire_all()
    assert [row.number for row in part_plans.versions(demo, job)] == [2, 1]
    assert part_plans.choices_of(first) == choices and part_plans.figures_of(first) == FIGURES
    assert part_plans.newest(demo, job) is second and part_plans.versions(demo, job)[1] is first
    assert part_plans.choices_of(None) == RouteChoices()


def test_the_same_sent_twice_is_kept_once(demo: Session, job: Job) -> None:
    assert keep(demo, job, "bryn", "shim", 0) is keep(demo, job, "bryn", "shim", 0)
    other = part_plans.save(
        demo,
        job,
        person(demo, "bryn"),
        RouteChoices(squareness="shim"),
        figures={"face 1": {"minutes": 5.0}},
        based_on=1,
        at=NOW,
    )
    assert other.number == 2, "the same choices come out otherwise now"


def test_a_newer_version_stops_one_made_from_an_older_and_both_can_stay(demo: Session, job: Job) -> None:
    keep(demo, job, "isa", "shim", 0)
    with pytest.raises(part_plans.NewerVersion, match="Isa Quillon saved version 1") as error:
        keep(demo, job, "bryn", "assembly", 0)
    assert error.value.newest.number == 1
    assert keep(demo, job, "bryn", "assembly", 0, over=True).number == 2
    assert part_plans.choices_of(part_plans.versions(demo, job)[1]).squareness == "shim"


def test_a_version_is_kept_and_released_with_the_job_held_against_all_others(
    demo: Session, job: Job, statements: Callable[[], object]
) -> None:
    with statements() as sent:  # type: ignore[attr-defined]
        row = keep(demo, job, "isa", "shim", 0)
        part_plans.release(demo, job, row, person(demo, "isa"), at=NOW)
    first = next(place for place, each in enumerate(sent) if each.endswith("FOR UPDATE") and "FROM job" in each)
    assert first < next(place for place, each in enumerate(sent) if "FROM part_plan" in each)


def test_the_version_released_last_is_in_force(demo: Session, job: Job) -> None:
    first, second = keep(demo, job, "isa", "shim", 0), keep(demo, job, "isa", "assembly", 1)
    assert part_plans.in_force(part_plans.versions(demo, job)) is None
    part_plans.release(demo, job, second, person(demo, "isa"), at=NOW)
    part_plans.release(demo, job, first, person(demo, "bryn"), at=NOW + timedelta(minutes=1))
    assert part_plans.in_force(part_plans.versions(demo, job)) is first
    assert (job.part.route, first.release, first.released_by.name) == (first.choices, 2, person(demo, "bryn").name)
    assert second.release == 1


def test_a_number_is_used_once_even_in_the_database(demo: Session, job: Job) -> None:
    row = keep(demo, job, "isa", "shim", 0)
    demo.add(
        PartPlanRow(
            job_id=job.id, number=row.number, based_on=0, choices="{}", figures="{}", made_by=row.made_by, made_at=NOW
        )
    )
    with pytest.raises(DBAPIError):
        demo.flush()


def test_a_machine_has_one_chuck_and_the_newest_map_counts(demo: Session) -> None:
    chuck = shop.by_name(demo, ChuckRow, "Chuck A")
    assert chuck is not None and chuck.newest_map is not None
    machine = shop.by_name(demo, MachineRow, chuck.machine.name)
    assert machine is not None and machine.chuck is chuck
    maps.add(demo, chuck, [[0, 0, 0], [10, 0, 1], [0, 10, 2]], datetime(2027, 1, 1, tzinfo=UTC))
    assert chuck.newest_map.readings() == [[0, 0, 0], [10, 0, 1], [0, 10, 2]]
    values = {
        "name": "Chuck C",
        "machine_id": machine.id,
        "length_mm": chuck.length_mm,
        "width_mm": chuck.width_mm,
        "pull_n_cm2": chuck.pull_n_cm2,
        "pull_tested": False,
    }
    with pytest.raises(shop.MachineTaken, match="Chuck A is on that machine"):
        shop.keep(demo, ChuckRow, values)


def test_the_database_refuses_a_fixture_that_cannot_be(demo: Session) -> None:
    plate = shop.by_name(demo, FixtureRow, "Angle plate P1")
    assert plate is not None
    plate.kind = "magic"
    with pytest.raises(DBAPIError):
        demo.flush()


def test_a_clock_put_back_changes_nothing_that_was_decided(demo: Session, job: Job) -> None:
    first, second = keep(demo, job, "bryn", "shim", 0), keep(demo, job, "bryn", "angle_plate", 1)
    part_plans.release(demo, job, first, person(demo, "bryn"), at=NOW)
    part_plans.release(demo, job, second, person(demo, "bryn"), at=NOW - timedelta(days=400))
    assert part_plans.in_force(part_plans.versions(demo, job)) is second
    part_plans.release(demo, job, first, person(demo, "bryn"), at=NOW - timedelta(days=800))
    assert part_plans.in_force(part_plans.versions(demo, job)) is first
    chuck = demo.scalars(select(ChuckRow)).first()
    assert chuck is not None
    newer = maps.add(demo, chuck, [[0.0, 0.0, 0.0], [1.0, 0.0, 1.0], [0.0, 1.0, 1.0]], NOW - timedelta(days=9999))
    demo.expire_all()
    assert chuck.newest_map is newer


def test_what_was_released_before_releases_were_counted_gives_way_to_what_was_counted(demo: Session, job: Job) -> None:
    first, second = keep(demo, job, "isa", "shim", 0), keep(demo, job, "isa", "assembly", 1)
    for row in (first, second):
        part_plans.release(demo, job, row, person(demo, "isa"), at=NOW)
    assert [first.release, second.release] == [1, 2]
    first.release = None
    assert part_plans.in_force([first, second]) is second and part_plans.in_force([second, first]) is second
    second.release = 1
    assert part_plans.in_force([first, second]) is second
