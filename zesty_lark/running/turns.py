"""Threads are shared out fairly: whoever sends many requests at once waits for their own, and nobody else does."""

from collections import Counter, deque
from collections.abc import Callable
from typing import Any

from waitress.task import ThreadedTaskDispatcher

A_FLOOD = 7
"""So many requests of one person that wait are a flood: a browser has six at most on their way."""


class FairTurns(ThreadedTaskDispatcher):  # type: ignore[misc]
    """Hands requests to threads, of each person a share of the threads at most, and those who have fewer at work first.
    Whoever floods it has one thread.

    Parameters
    ----------
    whose : callable
        Returns whom a connection's next request is of.
    most : int
        How many requests of one person are worked on at a time.
    """

    def __init__(self, whose: Callable[[Any], str], most: int) -> None:
        super().__init__()
        self.queue = _Turns(whose, most)

    def handler_thread(self, thread_no: int) -> None:
        """Work on one request after another, until as many threads as are too many have ended."""
        turns = self.queue
        while True:
            with self.lock:
                while not turns.ready() and self.stop_count == 0:
                    self.active_count -= 1
                    self.queue_cv.wait()
                    self.active_count += 1
                if self.stop_count > 0:
                    self.active_count -= 1
                    self.stop_count -= 1
                    self.threads.discard(thread_no)
                    self.thread_exit_cv.notify()
                    break
                who, task = turns.take()
            try:
                task.service()
            except BaseException:
                self.logger.exception("Exception when servicing %r", task)
            with self.lock:
                turns.done(who)
                self.queue_cv.notify()


class _Turns:
    """The requests that wait, each person's in order; it stands where the dispatcher keeps its queue."""

    def __init__(self, whose: Callable[[Any], str], most: int) -> None:
        self._whose, self._most = whose, most
        self._waiting: dict[str, deque[Any]] = {}
        self._at_work: Counter[str] = Counter()

    def append(self, task: Any) -> None:
        """Let a request wait."""
        self._waiting.setdefault(self._whose(task), deque()).append(task)

    def __len__(self) -> int:
        return sum(map(len, self._waiting.values()))

    def ready(self) -> bool:
        """Whether somebody's turn has come."""
        return any(map(self._has_room, self._waiting))

    def _has_room(self, who: str) -> bool:
        most = 1 if len(self._waiting[who]) >= A_FLOOD else self._most
        return self._at_work[who] < most

    def take(self) -> tuple[str, Any]:
        """Return the next request and whose it is: of those with the fewest at work, who has waited longest."""
        who = min(filter(self._has_room, self._waiting), key=lambda one: self._at_work[one])
        waiting = self._waiting.pop(who)
        task = waiting.popleft()
        if waiting:
            self._waiting[who] = waiting  # behind the others
        self._at_work[who] += 1
        return who, task

    def done(self, who: str) -> None:
        """One of a person's requests is answered."""
        self._at_work[who] -= 1
        if not self._at_work[who]:
            del self._at_work[who]

    def popleft(self) -> Any:
        """Return any request that waits; for the end, when they are all let go."""
        who, waiting = next(iter(self._waiting.items()))
        task = waiting.popleft()
        if not waiting:
            del self._waiting[who]
        return task
