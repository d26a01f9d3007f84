"""The logs that a process keeps folded: those used last, and always the last one."""

import pytest
from sqlalchemy.orm import Session

from zesty_lark.core.work.folding import Folding
from zesty_lark.store import jobs, shoplog
from zesty_lark.store.known_logs import KnownLogs


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
