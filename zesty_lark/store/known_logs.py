"""The logs that this process has read and folded already: what is appended is read and folded on top of them.

A log is append-only, and whoever appends to it holds its job or its wheel: what was read of it stays true for ever. A
fold grows, so it is never two threads' at once: whoever looks takes it, brings it up, and puts it back before anything
is done with what it says; whoever appends has it alone until that is committed, or undone.
"""

import threading
from collections import OrderedDict
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any, Protocol

from sqlalchemy import event
from sqlalchemy.orm import Session

KNOWN, OWN = "known logs", "own logs"
"""Where a session has the process's logs, and those that its own transaction may add to."""
MOST_ENTRIES = 120_000
PATIENCE_SECONDS = 0.2
"""So long a look waits for a fold that is being added to; then the log is read and folded anew."""
Key = tuple[str, int]
"""Whose log it is: "job" or a kind of thing, and its number."""


class Grows(Protocol):
    """A log that is folded as it grows."""

    spec: Any
    entries: list[Any]

    @property
    def last_seq(self) -> int:
        """The number of its newest entry."""

    def add(self, entry: Any) -> None:
        """Fold one entry more."""

    def state(self) -> Any:
        """What it all comes to: nothing that changes later."""


@dataclass(frozen=True)
class Log:
    """One thing's log: its key, what the fold has to know beside it, how it is read after a number, and folded."""

    key: Key
    spec: Any
    read: Callable[[int], list[Any]]
    fold: Callable[[Any, list[Any]], Grows]


class KnownLogs:
    """The folded logs used last, up to a number of entries in all; to be shared by threads."""

    def __init__(self, most_entries: int = MOST_ENTRIES) -> None:
        self._most = most_entries
        self._changed = threading.Condition()
        self._folds: OrderedDict[Key, Grows] = OrderedDict()
        self._out: set[Key] = set()

    def take(self, key: Key, patience: float = PATIENCE_SECONDS) -> Grows | None:
        """Take a fold out: until it is put back it is the taker's alone. ``None`` when there is none, or somebody else
        has it for longer than that."""
        with self._changed:
            if key in self._out:
                self._changed.wait_for(lambda: key not in self._out, patience)
            found = self._folds.pop(key, None)
            if found is not None:
                self._out.add(key)
            return found

    def put(self, key: Key, fold: Grows) -> None:
        """Put a fold of committed entries back; the one that has come further stays."""
        with self._changed:
            self._out.discard(key)
            there = self._folds.get(key)
            if there is None or there.last_seq <= fold.last_seq:
                self._folds[key] = fold
                self._folds.move_to_end(key)
            while len(self._folds) > 1 and sum(len(each.entries) for each in self._folds.values()) > self._most:
                self._folds.popitem(last=False)
            self._changed.notify_all()

    def give_up(self, key: Key) -> None:
        """Tell that a fold that was taken does not come back."""
        with self._changed:
            self._out.discard(key)
            self._changed.notify_all()


def state_of(session: Session, log: Log) -> Any:
    """Return what a log comes to as this transaction sees it; what is known of it is not read again."""
    own = _own(session).get(log.key)
    if own is not None:
        return _brought_up(own.fold, log).state()
    known: KnownLogs | None = session.info.get(KNOWN)
    if known is None:
        return log.fold(log.spec, log.read(0)).state()
    fold = _taken(known, log)
    job_state = fold.state()
    known.put(log.key, fold)
    return job_state


def folds_of(session: Session, keys: Iterable[Key]) -> dict[Key, int]:
    """Return the number of the newest entry that is known of each log; 0 where nothing is."""
    known: KnownLogs | None = session.info.get(KNOWN)
    found = {}
    for key in keys:
        own = _own(session).get(key)
        fold = own.fold if own is not None else None if known is None else known.take(key)
        found[key] = 0 if fold is None else fold.last_seq
        if own is None and fold is not None and known is not None:
            known.put(key, fold)
    return found


def hold(session: Session, log: Log) -> Any:
    """Return a log folded, for whoever appends to it: it is this transaction's alone until it ends, and others see what
    was added once that is committed."""
    own = _own(session)
    if log.key not in own:
        known: KnownLogs | None = session.info.get(KNOWN)
        fold = log.fold(log.spec, log.read(0)) if known is None else _taken(known, log)
        _listen(session)
        own[log.key] = _Held(fold, fold.last_seq)
    held = own[log.key]
    held.fold = _brought_up(held.fold, log)
    return held.fold


@dataclass(frozen=True)
class Added:
    """What became of an entry: what its log came to before and after it, and the entry as it was logged; ``None`` when
    it was there already."""

    before: Any
    after: Any
    entry: Any | None


def append(session: Session, log: Log, *, sent: Callable[[], bool], make: Callable[[Any], Any]) -> Added:
    """Log one entry, once: the one way into any log.

    Parameters
    ----------
    session : Session
        Whose transaction holds the job or the thing.
    log : Log
    sent : callable
        Tells whether the entry is there already.
    make : callable
        Takes the fold; refuses what cannot be, else keeps the entry and returns it as it was logged.
    """
    fold = hold(session, log)
    before = fold.state()
    if sent():
        return Added(before, before, None)
    entry = make(fold)
    fold.add(entry)
    return Added(before, fold.state(), entry)


@dataclass
class _Held:
    """A fold that a transaction has, and how far it had come when that began."""

    fold: Grows
    committed: int


def _own(session: Session) -> dict[Key, _Held]:
    held: dict[Key, _Held] = session.info.setdefault(OWN, {})
    return held


def _taken(known: KnownLogs, log: Log) -> Grows:
    fold = known.take(log.key)
    try:
        return _brought_up(fold, log)
    except BaseException:
        known.give_up(log.key)  # it may have come half-way
        raise


def _brought_up(fold: Grows | None, log: Log) -> Grows:
    fresh = log.read(0 if fold is None else fold.last_seq)
    if fold is None:
        return log.fold(log.spec, fresh)
    if fold.spec != log.spec:
        return log.fold(log.spec, [*fold.entries, *fresh])
    for entry in fresh:
        fold.add(entry)
    return fold


def _listen(session: Session) -> None:
    if not event.contains(session, "after_commit", _committed):
        event.listen(session, "after_commit", _committed)
        event.listen(session, "after_soft_rollback", _rolled_back)
        event.listen(session, "after_transaction_end", _ended)


def _committed(session: Session) -> None:
    _release(session, committed=True)


def _rolled_back(session: Session, _transaction: Any) -> None:
    _release(session, committed=False)


def _ended(session: Session, transaction: Any) -> None:
    if transaction.parent is None:  # closed with neither
        _release(session, committed=False)


def _release(session: Session, *, committed: bool) -> None:
    """Put back what is committed; of a transaction that was undone, what it added nothing to."""
    known: KnownLogs | None = session.info.get(KNOWN)
    own = _own(session)
    for key, held in own.items():
        if known is None:
            continue
        if committed or held.fold.last_seq == held.committed:
            known.put(key, held.fold)
        else:
            known.give_up(key)
    own.clear()
