"""The logs that a process keeps folded: those used last, and always the last one."""

import threading
from dataclasses import replace
from datetime import UTC, datetime

import pytest
from sqlalchemy.orm import Session

from zesty_lark.core.work.entries import Noted
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.folding import Folding
from zesty_lark.store import job_states, jobs, log_rows
from zesty_lark.store.known_logs import KNOWN, KnownLogs, Log, folds_of, hold, state_of
from zesty_lark.store.models import Job


@pytest.fixture
def folds(demo: Session) -> list[Folding]:
    """Two jobs' logs, folded."""
    found = [jobs.by_number(demo, number) for number in ("TR-101", "TR-140")]
    return [Folding(job.part.spec(), log_rows.entries_of(demo, job)) for job in found if job is not None]


def test_what_was_used_longest_ago_goes_when_there_are_too_many_entries(folds: list[Folding]) -> None:
    one, other = folds
    room = len(one.entries) + len(other.entries)
    for most, left in ((room, one), (room - 1, None)):
        known = KnownLogs(most)
        known.put(("job", 1), one)
        known.put(("job", 2), other)
        assert known.take(("job", 1)) is left and known.take(("job", 2)) is other


def test_a_log_longer_than_there_is_room_for_is_kept_while_it_is_the_last(folds: list[Folding]) -> None:
    known = KnownLogs(1)
    known.put(("job", 1), folds[0])
    assert known.take(("job", 1)) is folds[0] and known.take(("job", 1)) is None, "who takes it has it alone"


def test_a_fold_that_has_come_less_far_takes_no_other_s_place(folds: list[Folding]) -> None:
    less, further = sorted(folds, key=lambda each: each.last_seq)
    for first, second in ((less, further), (further, less)):
        known = KnownLogs()
        known.put(("job", 1), first)
        known.put(("job", 1), second)
        assert known.take(("job", 1)) is further
    known.put(("job", 1), further)
    again = Folding(further.spec, further.entries)
    known.put(("job", 1), again)
    assert known.take(("job", 1)) is again, "as far, and read later"


def test_what_was_used_longest_ago_goes_first(folds: list[Folding]) -> None:
    one, other = folds
    known = KnownLogs(2 * len(one.entries) + len(other.entries))
    known.put(("job", 1), one)
    known.put(("job", 2), other)
    known.put(("job", 1), one)
    known.put(("job", 3), one)
    assert known.take(("job", 2)) is other and known.take(("job", 1)) is one and known.take(("job", 3)) is one
    known = KnownLogs(len(one.entries) + len(other.entries))
    for job_id in (1, 2, 1, 3):
        known.put(("job", job_id), one)
    assert known.take(("job", 2)) is None and known.take(("job", 3)) is one


def log_of(session: Session, job: Job, asked: list[int] | None = None) -> Log:
    """The log of a job; what it is asked for is noted."""

    def read(after: int) -> list[Entry]:
        if asked is not None:
            asked.append(after)
        return log_rows.entries_of(session, job, after)

    return Log(("job", job.id), job.part.spec(), read, Folding)


def note(number: int, seq: int) -> Noted:
    return Noted(entry_id=f"known-{number:04d}", at=datetime.now(UTC), by="bryn", note="Mist.", seq=seq)


@pytest.fixture
def job(demo: Session) -> Job:
    found = jobs.by_number(demo, "TR-101")
    assert found is not None
    return found


def test_a_fold_is_kept_between_two_looks_and_made_anew_when_the_job_was_changed(demo: Session, job: Job) -> None:
    asked: list[int] = []
    last = job_states.state_of(demo, job).last_seq
    log, known = log_of(demo, job, asked), KnownLogs()
    demo.info.pop(KNOWN, None)
    state_of(demo, log)
    state_of(demo, log)
    assert asked == [0, 0], "nothing is shared without a shelf"
    demo.info[KNOWN] = known
    first = state_of(demo, log)
    assert state_of(demo, log) is first and asked == [0, 0, 0, last]
    changed = state_of(demo, replace(log, spec=replace(log.spec, cut_ratio=log.spec.cut_ratio / 2)))
    assert changed.spec != log.spec and changed.history == first.history
    assert folds_of(demo, [log.key, ("job", 0)]) == {log.key: last, ("job", 0): 0}


def test_what_is_not_committed_is_in_its_own_transaction_s_fold_only(demo: Session, job: Job) -> None:
    known = KnownLogs()
    demo.info[KNOWN] = known
    log = log_of(demo, job)
    before = state_of(demo, log).last_seq
    with demo.begin_nested():
        fold = hold(demo, log)
        fold.add(note(1, before + 1))
        assert known.take(log.key, 0) is None
        assert state_of(demo, replace(log, read=lambda _: [])).last_seq == before + 1
    demo.commit()
    assert folds_of(demo, [log.key]) == {log.key: before + 1}
    hold(demo, log).add(note(2, before + 2))
    demo.rollback()
    assert known.take(log.key, 0) is None, "what was added to and undone is thrown away"
    hold(demo, log)
    demo.rollback()
    assert folds_of(demo, [log.key]) == {log.key: before}, "what nothing was added to stays"


def test_another_thread_never_sees_what_is_added_before_it_is_committed(demo: Session, job: Job) -> None:
    """It waits a moment for the fold that is being added to, then reads the log by itself; either way it sees what is
    committed, and a rollback takes nothing back from it."""
    known = KnownLogs()
    log = log_of(demo, job)
    entries = log_rows.entries_of(demo, job)
    other = Session(info={KNOWN: known})
    demo.info[KNOWN] = known
    last = state_of(demo, log).last_seq
    seen: list[int] = []

    def look() -> None:
        apart = replace(log, read=lambda after: [entry for entry in entries if entry.seq > after])
        for _ in range(3):
            seen.append(state_of(other, apart).last_seq)

    for ends in (demo.rollback, demo.commit):
        held = hold(demo, log)
        looking = threading.Thread(target=look, daemon=True)
        looking.start()
        held.add(note(len(seen), last + 1))
        looking.join()
        ends()
    assert seen == [last] * 6
    assert folds_of(demo, [log.key]) == {log.key: last + 1}


def test_whoever_waits_has_the_fold_as_soon_as_it_is_put_back(folds: list[Folding]) -> None:
    known, got = KnownLogs(), list[object]()
    known.put(("job", 1), folds[0])
    taken = known.take(("job", 1))
    waiting = threading.Thread(target=lambda: got.append(known.take(("job", 1), 60)), daemon=True)
    waiting.start()
    assert taken is folds[0]
    known.put(("job", 1), taken)
    waiting.join()
    assert got == [folds[0]]
    known.give_up(("job", 1))
    assert known.take(("job", 1), 60) is None, "nothing is waited for that does not come"


def test_a_log_that_cannot_be_read_leaves_nothing_half_done(demo: Session, job: Job) -> None:
    known = KnownLogs()
    demo.info[KNOWN] = known
    log = log_of(demo, job)
    state_of(demo, log)

    def broken(_after: int) -> list[Entry]:
        raise OSError("gone")

    with pytest.raises(OSError, match="gone"):
        state_of(demo, replace(log, read=broken))
    assert known.take(log.key, 60) is None, "it is read anew, and nobody waits for it"
