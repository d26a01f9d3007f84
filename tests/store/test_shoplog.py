"""Logging: once, in order, by one person at a time, and never after a screen that was behind."""

import threading
from collections.abc import Callable
from datetime import UTC, datetime
from decimal import Decimal
from pathlib import Path

import pytest
from sqlalchemy.orm import Session

from zesty_lark.core.shoplog.entries import Entry, Kind
from zesty_lark.core.shoplog.rules import LogError
from zesty_lark.demo import scenario
from zesty_lark.running.mariadb import PrivateMariaDB, free_port
from zesty_lark.store import jobs, migrate, people, shoplog
from zesty_lark.store.database import connect, sessions
from zesty_lark.store.models import Job, Person
from zesty_lark.store.shoplog import BehindError, Draft

NOW = datetime(2026, 5, 4, 9, tzinfo=UTC)


def job_and_person(session: Session, number: str = "TR-101", name: str = "bryn") -> tuple[Job, Person]:
    job, person = jobs.by_number(session, number), people.by_sign_in_name(session, name)
    assert job is not None and person is not None
    return job, person


def pass_entry(session: Session, job: Job, entry_id: str = "press-0001") -> tuple[Entry, int]:
    standing = shoplog.standing_of(job, shoplog.entries_of(session, job))
    assert standing.face is not None
    face = standing.faces[standing.face]
    return Entry(0, entry_id, Kind.PASS, NOW, "", face=face.face, reading_mm=face.next_reading_mm), standing.last_seq


def test_sending_the_same_press_again_logs_nothing(demo: Session) -> None:
    job, person = job_and_person(demo)
    entry, seen = pass_entry(demo, job)
    first = shoplog.append(demo, job, person, Draft(entry, seen))
    again = shoplog.append(demo, job, person, Draft(entry, seen))
    assert not first.already and again.already
    assert again.standing.faces[2].passes_done == first.standing.faces[2].passes_done == 6
    assert again.standing.last_seq == first.standing.last_seq


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
        shoplog.append(demo, job, person, Draft(Entry(0, entry.entry_id, Kind.NOTE, NOW, "", note="x")))


def test_the_demonstration_stands_where_it_says(demo: Session) -> None:
    job, _ = job_and_person(demo)
    standing = shoplog.standing_of(job, shoplog.entries_of(demo, job))
    assert standing.up == 2 and standing.faces[1].ended and standing.faces[2].passes_done == 5
    finished, _ = job_and_person(demo, "TR-140")
    done = shoplog.standing_of(finished, shoplog.entries_of(demo, finished))
    assert done.signed_off is not None and len(done.gaps) == 2


def test_reading_a_log_takes_the_same_statements_however_long_it_is(
        demo: Session, statements: Callable[[], object]) -> None:
    job, person = job_and_person(demo)
    counts = []
    for repeat in range(2):
        demo.expire_all()
        job, person = job_and_person(demo)
        with statements() as sent:  # type: ignore[attr-defined]
            shoplog.entries_of(demo, job)
        counts.append(len(sent))
        for number in range(30):
            shoplog.append(demo, job, person, Draft(Entry(0, f"note-{repeat}-{number}", Kind.NOTE, NOW, "", note="n")))
    assert counts[0] == counts[1] <= 5


def test_two_presses_at_once_make_one_pass(tmp_path: Path) -> None:
    """Two tablets press “pass done” from the same screen at the same moment; one wins, the other is told."""
    database = PrivateMariaDB(tmp_path / "db", free_port(), durable=False)
    database.create()
    database.start()
    try:
        engine = connect(database.url())
        migrate.upgrade(engine)
        make = sessions(engine)
        with make() as session:
            scenario.load(session, datetime.now(UTC))
            session.commit()
            job, _ = job_and_person(session)
            entry, seen = pass_entry(session, job)
        outcomes: list[str] = []
        ready = threading.Barrier(6)

        def press(number: int) -> None:
            with make() as own:
                mine, person = job_and_person(own)
                draft = Draft(Entry(0, f"press-{number // 2:04d}", entry.kind, NOW, "", face=entry.face,
                                    reading_mm=entry.reading_mm), seen)
                ready.wait()
                try:
                    outcome = shoplog.append(own, mine, person, draft)
                    own.commit()
                    outcomes.append("again" if outcome.already else "logged")
                except BehindError:
                    outcomes.append("behind")

        threads = [threading.Thread(target=press, args=(number,)) for number in range(6)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        assert sorted(outcomes) == ["again", "behind", "behind", "behind", "behind", "logged"]
        with make() as session:
            job, _ = job_and_person(session)
            assert shoplog.standing_of(job, shoplog.entries_of(session, job)).faces[2].passes_done == 6
        engine.dispose()
    finally:
        database.stop()


def test_a_dress_and_a_note_are_kept_exactly(demo: Session) -> None:
    job, person = job_and_person(demo)
    shoplog.append(demo, job, person, Draft(Entry(0, "dress-0001", Kind.DRESSED, NOW, "", face=2,
                                                  amount_mm=Decimal("0.0203201"))))
    demo.expire_all()
    job, _ = job_and_person(demo)
    last = shoplog.entries_of(demo, job)[-1]
    assert last.amount_mm == Decimal("0.0203201") and last.at == NOW and last.by == "bryn"
