"""Logging: once, in order, by one person at a time, and never after a screen that was behind."""

import threading
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime
from decimal import Decimal
from pathlib import Path

import pytest
from sqlalchemy.orm import Session

from zesty_lark.core.work.entries import Dressed, Noted, PassFed
from zesty_lark.core.work.next_act import Next, next_act
from zesty_lark.core.work.rules import LogError
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


def pass_entry(session: Session, job: Job, entry_id: str = "press-0001") -> tuple[PassFed, int]:
    standing = shoplog.standing_of(job, shoplog.entries_of(session, job))
    assert standing.at is not None and standing.at.next_reading_mm is not None
    return PassFed(
        entry_id=entry_id, at=NOW, surface=standing.at.surface, reading_mm=standing.at.next_reading_mm
    ), standing.last_seq


def test_sending_the_same_press_again_logs_nothing(demo: Session) -> None:
    job, person = job_and_person(demo)
    entry, seen = pass_entry(demo, job)
    first = shoplog.append(demo, job, person, Draft(entry, seen))
    again = shoplog.append(demo, job, person, Draft(entry, seen))
    assert not first.already and again.already
    assert again.standing.runs[2].passes_done == first.standing.runs[2].passes_done == 6
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
        shoplog.append(demo, job, person, Draft(Noted(entry_id=entry.entry_id, at=NOW, note="x")))


def test_the_demonstration_stands_where_it_says(demo: Session) -> None:
    job, _ = job_and_person(demo)
    standing = shoplog.standing_of(job, shoplog.entries_of(demo, job))
    assert standing.surface_up == 2 and 1 in standing.pieces[1].done and standing.runs[2].passes_done == 5
    batch, _ = job_and_person(demo, "TR-140")
    twelve = shoplog.standing_of(batch, shoplog.entries_of(demo, batch))
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
            shoplog.entries_of(demo, job)
        counts.append(len(sent))
        for number in range(30):
            shoplog.append(demo, job, person, Draft(Noted(entry_id=f"note-{repeat}-{number}", at=NOW, note="n")))
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
                draft = Draft(replace(entry, entry_id=f"press-{number // 2:04d}"), seen)
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
            assert shoplog.standing_of(job, shoplog.entries_of(session, job)).runs[2].passes_done == 6
        engine.dispose()
    finally:
        database.stop()


def test_a_dress_and_a_note_are_kept_exactly(demo: Session) -> None:
    job, person = job_and_person(demo)
    shoplog.append(
        demo, job, person, Draft(Dressed(entry_id="dress-0001", at=NOW, surface=2, amount_mm=Decimal("0.0203201")))
    )
    demo.expire_all()
    job, _ = job_and_person(demo)
    last = shoplog.entries_of(demo, job)[-1]
    assert isinstance(last, Dressed) and (last.setup, last.load) == ("2", 1)
    assert last.amount_mm == Decimal("0.0203201") and last.at == NOW and last.by == "bryn"
