"""Logging: once, in order, by one person at a time, and never after a screen that was behind."""

import threading
from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import UTC, datetime
from decimal import Decimal

import pytest
from sqlalchemy import Engine, event, select, text
from sqlalchemy.orm import Session, sessionmaker

from tests.store.test_migrate import made
from zesty_lark.core.part.sizes import Reading
from zesty_lark.core.squaring.choices import RouteChoices, dumped
from zesty_lark.core.work.entries import Measured, Noted, Undone
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import Dressed, PassFed, Planned
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.next_act import Next, next_act
from zesty_lark.core.work.plans import PlanStep
from zesty_lark.core.work.rules import with_asked_and_got
from zesty_lark.running.mariadb import PrivateMariaDB
from zesty_lark.store import job_states, jobs, log_rows, migrate, people, rows, shoplog
from zesty_lark.store.database import sessions
from zesty_lark.store.models import Job, LogEntry, Person, PlanRow, PlanStepRow
from zesty_lark.store.shoplog import BehindError, Draft

D = Decimal
NOW = datetime(2026, 5, 4, 9, tzinfo=UTC)


def job_and_person(session: Session, number: str = "TR-101", name: str = "bryn") -> tuple[Job, Person]:
    job, person = jobs.by_number(session, number), people.by_sign_in_name(session, name)
    assert job is not None and person is not None
    return job, person


def pass_entry(session: Session, job: Job, entry_id: str = "press-0001") -> tuple[PassFed, int]:
    job_state = job_states.state_of(session, job)
    assert job_state.at is not None and job_state.at.next_reading_mm is not None
    return PassFed(
        entry_id=entry_id, at=NOW, surface=job_state.at.surface, reading_mm=job_state.at.next_reading_mm
    ), job_state.last_seq


def test_sending_the_same_press_again_logs_nothing(demo: Session) -> None:
    job, person = job_and_person(demo)
    entry, seen = pass_entry(demo, job)
    first = shoplog.append(demo, job, person, Draft(entry, seen))
    again = shoplog.append(demo, job, person, Draft(entry, seen))
    assert not first.already and again.already
    assert again.job_state.runs[2].passes_done == first.job_state.runs[2].passes_done == 6
    assert again.job_state.last_seq == first.job_state.last_seq


def test_a_screen_that_was_behind_is_refused(demo: Session) -> None:
    job, person = job_and_person(demo)
    entry, seen = pass_entry(demo, job)
    shoplog.append(demo, job, person, Draft(entry, seen))
    other, _ = pass_entry(demo, job, "press-0002")
    with pytest.raises(BehindError):
        shoplog.append(demo, job, person, Draft(other, seen))


def test_an_id_cannot_be_used_for_something_else(demo: Session) -> None:
    job, person = job_and_person(demo)
    entry, seen = pass_entry(demo, job)
    shoplog.append(demo, job, person, Draft(entry, seen))
    with pytest.raises(LogError, match="another entry"):
        shoplog.append(demo, job, person, Draft(Noted(entry_id=entry.entry_id, at=NOW, note="x")))


def test_the_demonstration_stands_where_it_says(demo: Session) -> None:
    job, _ = job_and_person(demo)
    job_state = job_states.state_of(demo, job)
    assert job_state.surface_up == 2 and 1 in job_state.pieces[1].done and job_state.runs[2].passes_done == 5
    batch, _ = job_and_person(demo, "TR-140")
    twelve = job_states.state_of(demo, batch)
    assert len(twelve.pieces) == 12 and twelve.at is not None and twelve.at.pieces == (1, 2, 3, 4, 5, 6)
    assert next_act(twelve) == Next("measure", 2, (6,), "thickness")


def test_reading_a_log_takes_the_same_statements_however_long_it_is(
    demo: Session, statements: Callable[[], object]
) -> None:
    job, person = job_and_person(demo)
    counts = []
    for repeat in range(2):
        demo.expire_all()
        job, person = job_and_person(demo)
        with statements() as sent:  # type: ignore[attr-defined]
            log_rows.entries_of(demo, job)
        counts.append(len(sent))
        for number in range(30):
            shoplog.append(demo, job, person, Draft(Noted(entry_id=f"note-{repeat}-{number}", at=NOW, note="n")))
    assert counts[0] == counts[1] <= 5


@pytest.fixture
def shop(server: PrivateMariaDB, demo_engine: Engine) -> Iterator[Engine]:
    """The demonstration in a database of the test's own: what it commits stays there."""
    engine = made(server, "lark_shop")
    revision = migrate.newest_revision(engine) or ""
    with rows.as_one_moment(demo_engine) as tables:
        rows.put_in(engine, revision, tables)
    yield engine
    engine.dispose()


def test_two_presses_at_once_make_one_pass(shop: Engine) -> None:
    """Two tablets press “pass done” from the same screen at the same moment; one wins, the other is told."""
    make = sessions(shop)
    with make() as session:
        job, _ = job_and_person(session)
        entry, seen = pass_entry(session, job)
    outcomes: list[str] = []
    ready = threading.Barrier(6)

    def press(number: int) -> None:
        with make() as own:
            mine, person = job_and_person(own)
            draft = Draft(replace(entry, entry_id=f"press-{number // 2:04d}"), seen)
            ready.wait()
            try:
                outcome = shoplog.append(own, mine, person, draft)
                own.commit()
                outcomes.append("again" if outcome.already else "logged")
            except BehindError:
                outcomes.append("behind")

    threads = [threading.Thread(target=press, args=(number,), daemon=True) for number in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(outcomes) == ["again", "behind", "behind", "behind", "behind", "logged"]
    for maker in (make, sessions(shop)):
        with maker() as session:
            job, _ = job_and_person(session)
            assert job_states.state_of(session, job).runs[2].passes_done == 6


def test_a_press_is_judged_by_the_job_and_its_wheel_as_they_are_by_then(shop: Engine) -> None:
    """Another changes a size, then the route, then puts the wheel out of use, after this one has read the job."""
    make = sessions(shop)
    with make() as mine, make() as theirs:
        job, person = job_and_person(mine)
        other, lead = job_and_person(theirs, name="isa")
        was = jobs.take_in_of(other)
        width = was.sizes["width"]
        wider = replace(width, measured_max_mm=width.measured_max_mm + Decimal("0.01"))
        jobs.amend(theirs, other, replace(was, sizes={**was.sizes, "width": wider}), other.version)
        theirs.commit()
        after = shoplog.append(mine, job, person, Draft(Noted(entry_id="note-wider", at=NOW, note="n"))).job_state
        assert after.spec == other.part.spec() and job.part.size("width").measured_max_mm == wider.measured_max_mm
        mine.commit()
        left = dumped(RouteChoices(squareness="shim"))
        other.part.route = left
        theirs.commit()
        after = shoplog.append(mine, job, person, Draft(Noted(entry_id="note-route", at=NOW, note="n"))).job_state
        assert after.spec == other.part.spec() and job.part.route == left
        mine.commit()
        theirs.execute(text("update wheel set scrapped = 1 where id = :wheel"), {"wheel": job.wheel_id})
        theirs.commit()
        theirs.refresh(other.wheel)
        after = shoplog.append(mine, job, person, Draft(Noted(entry_id="note-wheel", at=NOW, note="n"))).job_state
        assert job.wheel.scrapped and after.spec == other.part.spec() and after.spec.stops


def press(make: sessionmaker[Session], number: str, entry_id: str) -> None:
    with make() as session:
        job = jobs.by_number(session, number)
        person = people.by_sign_in_name(session, "bryn")
        assert job is not None and person is not None
        shoplog.append(session, job, person, Draft(Noted(entry_id=entry_id, at=NOW, note="n")))
        session.commit()


def test_a_press_never_waits_for_one_on_another_job(shop: Engine) -> None:
    """Two jobs of one person on one machine with one wheel: the first press is not committed yet."""
    make = sessions(shop)
    with make() as session, session.begin():
        session.execute(text("update job set machine_id = 1, wheel_id = 1, owner_id = 1"))
    with make() as held:
        job, person = job_and_person(held)
        shoplog.append(held, job, person, Draft(Noted(entry_id="held-0001", at=NOW, note="n")))
        with make() as other:
            other.execute(text("set innodb_lock_wait_timeout = 1"))
            second = jobs.by_number(other, "TR-114")
            assert second is not None
            shoplog.append(other, second, person_of(other), Draft(Noted(entry_id="other-0001", at=NOW, note="n")))
            other.commit()
        held.commit()


def person_of(session: Session) -> Person:
    found = people.by_sign_in_name(session, "bryn")
    assert found is not None
    return found


def test_a_press_reads_what_is_new_of_the_log_however_long_it_is(shop: Engine) -> None:
    make = sessions(shop)
    read: list[int] = []
    event.listen(LogEntry, "load", lambda row, _: read.append(row.seq))
    counts = []
    for number in range(40):
        read.clear()
        press(make, "TR-140", f"note-{number:04d}")
        counts.append(len(read))
    assert counts[0] > 20 and set(counts[1:]) <= {0, 1}, counts
    with make() as session:
        for number, entry_id in (("TR-140", "both-0001"), ("TR-101", "both-0002")):
            job, person = job_and_person(session, number)
            shoplog.append(session, job, person, Draft(Noted(entry_id=entry_id, at=NOW, note="n")))
        session.commit()
    read.clear()
    for number in ("TR-140", "TR-101"):
        press(make, number, f"then-{number}")
    assert len(read) <= 2, "what one transaction logged on two jobs is known of both"


def test_a_log_known_already_stands_as_one_read_whole_and_nothing_uncommitted_is_known(shop: Engine) -> None:
    make = sessions(shop)

    def stands(maker: sessionmaker[Session]) -> JobState:
        with maker() as session:
            job, _ = job_and_person(session)
            return job_states.state_of(session, job)

    before = stands(make)
    with make() as session:
        job, person = job_and_person(session)
        entry, seen = pass_entry(session, job)
        after = shoplog.append(session, job, person, Draft(entry, seen)).job_state
        assert job_states.state_of(session, job) == after != before, "the transaction sees its own"
        assert stands(make) == before, "others do not"
        session.rollback()
    assert stands(make) == before
    with make() as session:
        job, person = job_and_person(session)
        shoplog.append(session, job, person, Draft(entry, seen))
        session.commit()
    undo = Undone(entry_id="undo-0001", at=NOW, supersedes=entry.entry_id)
    with sessions(shop)() as elsewhere:
        job, person = job_and_person(elsewhere)
        shoplog.append(elsewhere, job, person, Draft(undo))
        elsewhere.commit()
    assert stands(make) == stands(sessions(shop)), "what another process has logged is read"


def test_a_job_s_number_is_meant_to_the_letter(demo: Session) -> None:
    assert jobs.by_number(demo, "TR-101") is not None
    assert [jobs.by_number(demo, each) for each in ("tr-101", "TR-101 ", "TR‑101", "ＴR-101")] == [None] * 4


@pytest.mark.parametrize("entry_id", ["short", "x" * 37, "with spaces in it", "übel-00001"])
def test_an_id_that_is_none_is_refused_in_words(demo: Session, entry_id: str) -> None:
    job, person = job_and_person(demo)
    with pytest.raises(LogError, match="8 to 36"):
        shoplog.append(demo, job, person, Draft(Noted(entry_id=entry_id, at=NOW, note="n")))


def test_a_dress_and_a_note_are_kept_exactly(demo: Session) -> None:
    job, person = job_and_person(demo)
    shoplog.append(
        demo, job, person, Draft(Dressed(entry_id="dress-0001", at=NOW, surface=2, amount_mm=Decimal("0.0203201")))
    )
    demo.expire_all()
    job, _ = job_and_person(demo)
    last = log_rows.entries_of(demo, job)[-1]
    assert isinstance(last, Dressed) and (last.setup, last.load) == ("2", 1)
    assert last.amount_mm == Decimal("0.0203201") and last.at == NOW and last.by == "bryn"


def test_a_plan_is_released_once_and_with_its_job_held(demo: Session, statements: Callable[[], object]) -> None:
    job, person = job_and_person(demo)
    planned = next(each for each in log_rows.entries_of(demo, job) if isinstance(each, Planned))
    plans = len(list(demo.scalars(select(PlanRow))))
    with statements() as sent:  # type: ignore[attr-defined]
        again = shoplog.release_plan(
            demo, job, person, planned.plan, entry_id=planned.entry_id, at=planned.at, seen=None
        )
    assert again.already and len(list(demo.scalars(select(PlanRow)))) == plans
    assert any("FROM job" in each and each.endswith("FOR UPDATE") for each in sent)


def test_asked_against_got_is_kept_with_a_measured_size_and_with_nothing_else(demo: Session) -> None:
    job, _ = job_and_person(demo)
    job_state = job_states.state_of(demo, job)
    asked = job_state.pieces[1].sizes["thickness"].asked_mm
    assert asked

    def gap(**more: object) -> object:
        given = {"surface": 2, "piece": 1, "characteristic": "thickness", "readings": (Reading("middle", D("22.1")),)}
        entry = Measured(entry_id="gap-000001", at=NOW, **(given | more))  # type: ignore[arg-type]
        made = with_asked_and_got(entry, job_state)
        assert isinstance(made, Measured)
        return made.asked_mm

    assert gap() == asked
    for more in (
        {"readings": ()}, {"surface": None}, {"surface": 99}, {"piece": 9}, {"characteristic": "width"},
        {"characteristic": "flat"},
    ):  # fmt: skip
        assert gap(**more) is None, more
    noted = Noted(entry_id="gap-000002", at=NOW, note="x")
    assert with_asked_and_got(noted, job_state) is noted


def test_readings_are_kept_in_their_order_from_one_on(demo: Session) -> None:
    readings = (Reading("middle", D("22.1")), Reading("left", D("22.2")), Reading("right", D("22.3")))
    entry = Measured(entry_id="order-0001", at=NOW, surface=2, piece=1, characteristic="thickness", readings=readings)
    assert [(each["position"], each["place"]) for each in log_rows.readings_of(entry)] == [
        (1, "middle"), (2, "left"), (3, "right")
    ]  # fmt: skip


def test_a_plan_s_minutes_are_kept_to_the_thousandth(demo: Session) -> None:
    step = PlanStep(1, "rough", D("0.01"), D("0.01"), D("0.4"), D(200), minutes=1.23456)
    assert PlanStepRow.of(step).minutes == D("1.235")


def test_what_was_made_after_an_entry_that_is_not_the_newest_is_behind(demo: Session) -> None:
    job, person = job_and_person(demo)
    entry, seen = pass_entry(demo, job)
    newest = log_rows.entries_of(demo, job)[-1].entry_id
    for after, wrong in (("somewhere-else", seen), (newest[:-1] + "x", None)):
        with pytest.raises(BehindError):
            shoplog.append(demo, job, person, Draft(entry, wrong, after=after))
    assert not shoplog.append(demo, job, person, Draft(entry, seen - 1, after=newest)).already, "its own word counts"
    note = Noted(entry_id="note-00001", at=NOW, note="Mist.")
    assert not shoplog.append(demo, job, person, Draft(note)).already, "a note is never behind"
