"""The logs that this process has read and folded already: what is appended is read and folded on top of them.

A log is append-only, and whoever appends to it holds its job: what was read of it stays true for ever. Only what is
committed is kept; a fold with more in it is the transaction's own until then.
"""

import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Any

from sqlalchemy import event
from sqlalchemy.orm import Session

from zesty_lark.core.work.entries import Entry
from zesty_lark.core.work.folding import Folding
from zesty_lark.core.work.standing import Brief

__all__ = ["KNOWN", "KnownLogs", "fold_of", "fold_with", "keep_apart"]

KNOWN, OWN = "known logs", "own logs"
"""Where a session has the process's logs, and those that its own transaction has added to."""
MOST_ENTRIES = 60_000

Read = Callable[[int], list[Entry]]
"""Reads a job's entries after a number."""


class KnownLogs:
    """The folded logs used last, up to a number of entries in all; to be shared by threads."""

    def __init__(self, most_entries: int = MOST_ENTRIES) -> None:
        self._most = most_entries
        self._lock = threading.Lock()
        self._folds: OrderedDict[int, Folding] = OrderedDict()

    def take(self, job_id: int) -> Folding | None:
        """Take a job's fold out: until it is put back it is the taker's alone."""
        with self._lock:
            return self._folds.pop(job_id, None)

    def put(self, job_id: int, fold: Folding) -> None:
        """Put a fold of committed entries back; the one that has come further stays."""
        with self._lock:
            there = self._folds.get(job_id)
            if there is None or there.last_seq <= fold.last_seq:
                self._folds[job_id] = fold
                self._folds.move_to_end(job_id)
            while len(self._folds) > 1 and sum(len(each.entries) for each in self._folds.values()) > self._most:
                self._folds.popitem(last=False)


def fold_of(session: Session, job_id: int, brief: Brief, read: Read) -> Folding:
    """Return a job's log folded as this transaction sees it; what is known of it is not read again."""
    own: dict[int, Folding] = session.info.get(OWN, {})
    if job_id in own:
        return _brought_up(own[job_id], brief, read)
    known: KnownLogs | None = session.info.get(KNOWN)
    if known is None:
        return Folding(brief, read(0))
    fold = _brought_up(known.take(job_id), brief, read)
    known.put(job_id, fold)
    return fold


def fold_with(session: Session, job_id: int, fold: Folding, entry: Entry) -> Folding:
    """Add an entry that this transaction has inserted; others see the fold once that is committed."""
    keep_apart(session, job_id, fold)
    fold.add(entry)
    return fold


def keep_apart(session: Session, job_id: int, fold: Folding) -> None:
    """Keep a fold for this transaction alone, which adds to the job's log; others see it once that is committed."""
    known: KnownLogs | None = session.info.get(KNOWN)
    if known is not None and job_id not in session.info.get(OWN, {}):
        known.take(job_id)
        if OWN not in session.info:
            session.info[OWN] = {}
            event.listen(session, "after_commit", _committed)
            event.listen(session, "after_soft_rollback", _rolled_back)
        session.info[OWN][job_id] = fold


def _brought_up(fold: Folding | None, brief: Brief, read: Read) -> Folding:
    fresh = read(0 if fold is None else fold.last_seq)
    if fold is None:
        return Folding(brief, fresh)
    if fold.brief != brief:
        return Folding(brief, [*fold.entries, *fresh])
    for entry in fresh:
        fold.add(entry)
    return fold


def _committed(session: Session) -> None:
    known: KnownLogs = session.info[KNOWN]
    for job_id, fold in session.info[OWN].items():
        known.put(job_id, fold)
    session.info[OWN].clear()


def _rolled_back(session: Session, _transaction: Any) -> None:
    session.info[OWN].clear()
