"""The logs that a process keeps folded: those used last, and always the last one."""

from dataclasses import replace
from datetime import UTC, datetime

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from zesty_lark.core.work.entries import Entry, Noted
from zesty_lark.core.work.folding import Folding
from zesty_lark.store import jobs, shoplog
from zesty_lark.store.known_logs import KNOWN, KnownLogs, fold_of, fold_with


@pytest.fixture
def folds(demo: Session) -> list[Folding]:
    """Two jobs' logs, folded."""
    found = [jobs.by_number(demo, number) for number in ("TR-101", "TR-140")]
    return [shoplog.folding_of(demo, job) for job in found if job is not None]


def test_what_was_used_longest_ago_goes_when_there_are_too_many_entries(folds: list[Folding]) -> None:
    one, other = folds
    room = len(one.entries) + len(other.entries)
    for most, left in ((room, one), (room - 1, None)):
        known = KnownLogs(most)
        known.put(1, one)
        known.put(2, other)
        assert known.take(1) is left and known.take(2) is other


def test_a_log_longer_than_there_is_room_for_is_kept_while_it_is_the_last(folds: list[Folding]) -> None:
    known = KnownLogs(1)
    known.put(1, folds[0])
    assert known.take(1) is folds[0] and known.take(1) is None, "who takes it has it alone"


def test_a_fold_that_has_come_less_far_takes_no_other_s_place(folds: list[Folding]) -> None:
    less, further = sorted(folds, key=lambda each: each.last_seq)
    for first, second in ((less, further), (further, less)):
        known = KnownLogs()
        known.put(1, first)
        known.put(1, second)
        assert known.take(1) is further
    known.put(1, further)
    again = Folding(further.brief, further.entries)
    known.put(1, again)
    assert known.take(1) is again, "as far, and read later"


def test_what_was_used_longest_ago_goes_first(folds: list[Folding]) -> None:
    one, other = folds
    known = KnownLogs(2 * len(one.entries) + len(other.entries))
    known.put(1, one)
    known.put(2, other)
    known.put(1, one)
    known.put(3, one)
    assert known.take(2) is other and known.take(1) is one and known.take(3) is one
    known = KnownLogs(len(one.entries) + len(other.entries))
    for job_id in (1, 2, 1, 3):
        known.put(job_id, one)
    assert known.take(2) is None and known.take(3) is one


def test_a_fold_is_kept_between_two_looks_and_made_anew_when_the_job_was_changed(demo: Session) -> None:
    job, known = jobs.by_number(demo, "TR-101"), KnownLogs()
    assert job is not None
    asked: list[int] = []

    def read(after: int) -> list[Entry]:
        asked.append(after)
        return shoplog.entries_of(demo, job, after)

    brief, last = job.part.brief(), shoplog.standing_of(demo, job).last_seq
    demo.info.pop(KNOWN, None)
    with_none = fold_of(demo, job.id, brief, read)
    assert asked == [0] and fold_of(demo, job.id, brief, read) is not with_none, "nothing is shared without a shelf"
    demo.info[KNOWN] = known
    first = fold_of(demo, job.id, brief, read)
    assert fold_of(demo, job.id, brief, read) is first and asked == [0, 0, 0, last]
    other = replace(brief, cut_ratio=brief.cut_ratio / 2)
    changed = fold_of(demo, job.id, other, read)
    assert changed is not first and changed.brief == other and changed.entries == first.entries


def test_what_is_not_committed_is_in_its_own_transaction_s_fold_only(demo: Session) -> None:
    job, known = jobs.by_number(demo, "TR-101"), KnownLogs()
    assert job is not None
    demo.info[KNOWN] = known
    fold = fold_of(demo, job.id, job.part.brief(), lambda after: shoplog.entries_of(demo, job, after))
    entry = Noted(entry_id="known-0001", at=datetime.now(UTC), by="bryn", note="Mist.", seq=fold.last_seq + 1)
    before = list(fold.entries)
    with demo.begin_nested():
        assert fold_with(demo, job.id, fold, entry) is fold and known.take(job.id) is None
        assert fold_of(demo, job.id, fold.brief, lambda _after: []) is fold and fold.entries == [*before, entry]
    demo.commit()
    assert known.take(job.id) is fold
    known.put(job.id, fold)
    second = replace(entry, entry_id="known-0002", seq=entry.seq + 1)
    assert demo.scalar(text("select 1"))
    fold_with(demo, job.id, fold, second)
    demo.rollback()
    assert known.take(job.id) is None
    assert fold_of(demo, job.id, fold.brief, lambda after: [] if after else before).entries == before


def test_without_a_shelf_a_fold_is_added_to_all_the_same(demo: Session) -> None:
    job = jobs.by_number(demo, "TR-101")
    assert job is not None
    demo.info.pop(KNOWN, None)
    fold = shoplog.folding_of(demo, job)
    entry = Noted(entry_id="known-0003", at=datetime.now(UTC), by="bryn", note="Mist.", seq=fold.last_seq + 1)
    assert fold_with(demo, job.id, fold, entry).entries[-1] is entry
