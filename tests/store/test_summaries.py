"""What lists show is what the logs say, whatever was logged; and it costs the same after years."""

import random
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from typing import Any

import pytest
from sqlalchemy import delete, func, select, text
from sqlalchemy.orm import Session

from zesty_lark.core.work.entries import Noted, Rerouted, Undone
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.machine_acts import PassFed, Placed, SparkedOut, TouchedOff
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.summary import Summary, summary_of
from zesty_lark.store import job_states, jobs, people, rebuilding, shoplog, summaries
from zesty_lark.store.models import Job, MachineRow, Person
from zesty_lark.store.models.summaries import JobSummary, JobWord
from zesty_lark.store.shoplog import Draft
from zesty_lark.store.summaries import Wanted

NOW = datetime(2026, 5, 4, 9, tzinfo=UTC)


def kept(session: Session, job: Job) -> Summary:
    row = session.get(JobSummary, job.id)
    assert row is not None
    return summaries.summary_from(row)


def told(session: Session, job: Job) -> Summary:
    return summary_of(job_states.state_of(session, job))


def bryn(session: Session) -> Person:
    who = people.by_sign_in_name(session, "bryn")
    assert who is not None
    return who


def test_every_demonstration_job_is_listed_as_its_log_has_it(demo: Session) -> None:
    for job in demo.scalars(select(Job)):
        assert kept(demo, job) == told(demo, job)
    demo.execute(text("delete from job_summary"))
    demo.expire_all()
    assert rebuilding.rebuild(demo, every=False) == 5 and rebuilding.rebuild(demo) == 5
    for job in demo.scalars(select(Job)):
        assert kept(demo, job) == told(demo, job)


@pytest.mark.parametrize("seed", range(3))
def test_after_any_act_the_list_says_what_the_log_says(demo: Session, seed: int) -> None:
    """Acts at random, most of them not allowed just then: whatever got in, the list agrees."""
    chance, job, who = random.Random(seed), jobs.by_number(demo, "TR-101"), bryn(demo)
    assert job is not None
    logged = 0
    for number in range(60):
        job_state = job_states.state_of(demo, job)
        at, undoable = job_state.at, job_state.undoable
        assert at is not None and undoable is not None
        reading = at.next_reading_mm or at.reading_mm
        act: Entry = chance.choice(
            [
                PassFed(entry_id="x", at=NOW, surface=at.surface, reading_mm=reading),
                SparkedOut(entry_id="x", at=NOW, surface=at.surface),
                Placed(entry_id="x", at=NOW, surface=chance.choice((1, 2, 3))),
                Noted(entry_id="x", at=NOW, note="seen"),
                TouchedOff(entry_id="x", at=NOW, surface=at.surface, reading_mm=reading),
                Undone(entry_id="x", at=NOW, supersedes=undoable.entry_id),
                Rerouted(
                    entry_id="x",
                    at=NOW,
                    change=chance.choice(("skip", "first")),
                    setup=chance.choice(("5", "6", "3+4")),
                    note="so",
                ),
            ]
        )
        try:
            shoplog.append(demo, job, who, Draft(replace(act, entry_id=f"any-{seed}-{number:04d}")))
            logged += 1
        except LogError:
            continue
        assert kept(demo, job) == told(demo, job)
    assert logged > 10


def test_what_is_up_on_a_machine_is_its_own_and_not_finished(demo: Session) -> None:
    machines = list(demo.scalars(select(MachineRow)))
    for machine in machines:
        up = summaries.running_on(demo, machine)
        of = [
            scalar
            for scalar in demo.scalars(select(Job).where(Job.machine_id == machine.id))
            if job_states.state_of(demo, scalar).at is not None
        ]
        last = max(of, key=lambda each: job_states.state_of(demo, each).history[-1].at, default=None)
        assert up is last, machine.name
    assert any(summaries.running_on(demo, each) is not None for each in machines)
    demo.execute(text("update job_summary set finished_at = '2026-05-04'"))
    assert not any(summaries.running_on(demo, each) for each in machines)


def test_jobs_are_found_by_filter_and_by_word(demo: Session) -> None:
    me = bryn(demo)

    def numbers(wanted: Wanted) -> list[str]:
        return [job.number for job, _ in summaries.find(demo, wanted, me).rows]

    assert set(numbers(Wanted())) == {"TR-101", "TR-114", "TR-120", "TR-133", "TR-140"} and numbers(Wanted())[0] in (
        "TR-101",
        "TR-140",
    )
    assert numbers(Wanted(finished=True)) == []
    assert numbers(Wanted(words="wear str")) == ["TR-120"] and numbers(Wanted(words="tr-114")) == ["TR-114"]
    assert numbers(Wanted(words="wear nothing")) == [] and numbers(Wanted(words="%")) == numbers(Wanted())
    assert numbers(Wanted(words="wear s_r")) == [] == numbers(Wanted(words="str_p w")), "a line is a line, no any sign"
    assert set(numbers(Wanted(waits_for="planning"))) == {"TR-114", "TR-120"}
    assert numbers(Wanted(waits_for="measuring")) == ["TR-140"]
    assert "TR-114" not in numbers(Wanted(owner_id=me.id)) and "TR-120" in numbers(Wanted(owner_id=me.id))
    due = jobs.by_number(demo, "TR-140")
    assert due is not None and due.due_on is not None
    assert set(numbers(Wanted(due_by=due.due_on))) == {"TR-101", "TR-140"}
    assert set(numbers(Wanted(machine_id=due.machine_id))) == {"TR-114", "TR-120", "TR-140"}


@contextmanager
def rows_read(session: Session) -> Iterator[list[int]]:
    """How many rows the database reads meanwhile."""

    def read() -> int:
        return sum(int(value) for _, value in session.execute(text("show session status like 'Handler_read%'")))

    before, counted = read(), list[int]()
    yield counted
    counted.append(read() - before)


def test_a_list_reads_as_many_rows_after_years_as_on_the_first_day(
    demo: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    me, pattern = bryn(demo), jobs.by_number(demo, "TR-114")
    assert pattern is not None
    counts = {}
    for years in (0, 1):
        if years:
            finish_many(demo, pattern, 150)
        for name, wanted in (
            ("under way", Wanted()),
            ("by number", Wanted(words="tr-114")),
            ("waits", Wanted(waits_for="measuring")),
            ("newest finished", Wanted(finished=True)),
        ):
            demo.expire_all()
            with rows_read(demo) as counted:
                summaries.find(demo, wanted, me)
            counts.setdefault(name, []).append(counted[0])
    assert counts.pop("newest finished")[1] < 1200
    for name, (first, later) in counts.items():
        assert later <= first + 40, f"{name}: {first} rows, after years {later}"
    found = summaries.find(demo, Wanted(finished=True, page=3), me)
    assert (found.page, found.more, len(found.rows)) == (3, True, 25)
    assert [job.number for job, _ in found.rows][:2] == ["OLD-0099", "OLD-0098"]
    assert not summaries.find(demo, Wanted(finished=True, page=6), me).more
    monkeypatch.setattr(summaries, "MOST_PAGES", 2)
    for page, last, more in ((1, 1, True), (2, 2, False), (3, 2, False)):
        found = summaries.find(demo, Wanted(finished=True, page=page), me)
        assert (found.page, found.more, len(found.rows)) == (last, more, 25), "nobody pages through all the years"


def finish_many(session: Session, pattern: Job, how_many: int) -> None:
    """Jobs like another, all of them finished long ago."""
    for number in range(how_many):
        job = jobs.take_in(
            session, replace(jobs.take_in_of(pattern), number=f"OLD-{number:04d}", title="Old spacer"), NOW
        )
        row = session.get(JobSummary, job.id)
        assert row is not None
        row.finished_at, row.waits_for = NOW + timedelta(hours=number), ""
    session.flush()


def test_a_job_without_a_summary_is_told_and_gets_one(demo: Session) -> None:
    all_jobs = list(demo.scalars(select(Job).order_by(Job.id)))
    assert summaries.without(demo) == [] and rebuilding.rebuild(demo, every=False) == 0
    lost = [all_jobs[1], all_jobs[3]]
    demo.execute(delete(JobSummary).where(JobSummary.job_id.in_([each.id for each in lost])))
    demo.expire_all()
    assert {each.number for each in summaries.without(demo)} == {each.number for each in lost}
    assert rebuilding.rebuild(demo, every=False) == 2 and summaries.without(demo) == []
    assert rebuilding.rebuild(demo) == len(all_jobs)


def test_words_are_kept_as_far_as_there_is_room_and_only_what_changed_is_written(
    demo: Session, monkeypatch: pytest.MonkeyPatch, statements: Callable[[], Any]
) -> None:
    job = jobs.by_number(demo, "TR-101")
    assert job is not None
    with statements() as sent:
        summaries.keep_words(demo, job)
    assert len(sent) == 1, "nothing to take away, nothing to add"
    before = set(demo.scalars(select(JobWord.word).where(JobWord.job_id == job.id)))
    others = demo.scalar(select(func.count()).select_from(JobWord).where(JobWord.job_id != job.id))
    assert "tr-101" in before
    job.title = "Quill"
    summaries.keep_words(demo, job)
    after = set(demo.scalars(select(JobWord.word).where(JobWord.job_id == job.id)))
    assert "quill" in after and after - {"quill"} < before
    assert demo.scalar(select(func.count()).select_from(JobWord).where(JobWord.job_id != job.id)) == others
    job_state = job_states.state_of(demo, job)
    told = replace(summaries.summary_of(job_state), words="Grind on. " * 30)
    monkeypatch.setattr(summaries, "summary_of", lambda _state: told)
    summaries.keep(demo, job, job_state)
    assert kept(demo, job).words == told.words[:200]


def test_the_longest_word_is_looked_up_first_and_jobs_need_every_word(
    demo: Session, statements: Callable[[], Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    looked: list[tuple[str, ...]] = []
    as_it_is = summaries._with_words

    def noted(session: Session, *words: str) -> list[int]:
        looked.append(words)
        return as_it_is(session, *words)

    monkeypatch.setattr(summaries, "_with_words", noted)
    assert [job.number for job, _ in summaries.find(demo, Wanted(words="zz str wear"), bryn(demo)).rows] == []
    assert [job.number for job, _ in summaries.find(demo, Wanted(words="str wear"), bryn(demo)).rows] == ["TR-120"]
    assert looked[1] == ("wear", "str") and set(looked[0]) == {"wear", "str", "zz"}
    monkeypatch.setattr(summaries, "MOST_WORDS", 1)
    assert [job.number for job, _ in summaries.find(demo, Wanted(words="tr str wear"), bryn(demo)).rows] == ["TR-120"]


def test_a_page_is_followed_by_another_while_there_is_one_row_more(
    demo: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    me, every = bryn(demo), [job.number for job, _ in summaries.find(demo, Wanted(), bryn(demo)).rows]
    for size in (len(every) - 1, len(every), 2):
        monkeypatch.setattr(summaries, "PAGE", size)
        found = [summaries.find(demo, Wanted(page=number), me) for number in range(1, 1 + -(-len(every) // size))]
        assert [job.number for page in found for job, _ in page.rows] == every
        assert [page.more for page in found] == [True] * (len(found) - 1) + [False]


def test_what_is_mine_and_running_comes_first_then_what_is_mine_then_by_the_day_it_is_due(demo: Session) -> None:
    for number, owner, running, due in (
        ("TR-101", "isa", True, 3), ("TR-114", "isa", False, None), ("TR-120", "bryn", False, 5),
        ("TR-133", "bryn", True, None), ("TR-140", "bryn", False, 4),
    ):  # fmt: skip
        job, who = jobs.by_number(demo, number), people.by_sign_in_name(demo, owner)
        assert job is not None and who is not None
        job.owner_id, job.due_on = who.id, None if due is None else date(2026, 5, due)
        row = demo.get(JobSummary, job.id)
        assert row is not None
        row.running = running
    demo.flush()
    found = [job.number for job, _ in summaries.find(demo, Wanted(), bryn(demo)).rows]
    assert found == ["TR-133", "TR-140", "TR-120", "TR-101", "TR-114"]
