"""Server-sent events for any number of screens, without a thread for each: what is new on jobs and machines, and what
instruments say.

One thread of a process asks the log for what is new on everything that is followed; an instrument is read by one thread
however many follow it. A server that cannot hand an answer over holds a thread for each follower instead.
"""

import json
import logging
import queue
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from functools import partial
from typing import Literal, Protocol

from flask import Response, abort, request
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session, sessionmaker

from zesty_lark.store import log_rows, sign_ins
from zesty_lark.store.models import SignedIn

LOG = logging.getLogger("zesty_lark.streams")
LOOK_SECONDS = 0.25
HEART_SECONDS = 10.0
LIFE_SECONDS = 600.0
"""After so long a stream ends, and whoever follows it shows again who they are."""
RETRY_MS = 1500
AT_ONCE_MS = 50
"""Who is asked to show again who they are comes back at once: an instrument's button is hardly missed."""
MOST_FOLLOWERS = 1000
MOST_A_PERSON = 40
"""Of one person in one process: some ten screens, each with a run, a readout, a meter and a gauge."""
AWAY_SECONDS = 2.0
Topic = tuple[Literal["job", "machine", "gauge", "sensor"], int]
Source = Callable[[threading.Event], Iterator[str]]
"""What an instrument says, as text to send, until the event is set."""


class Written(Protocol):
    """Where a stream is written to."""

    def write(self, data: bytes) -> None:
        """Send it; raises ``OSError`` when nobody is there."""

    def end(self) -> None:
        """Nothing more follows."""


@dataclass(eq=False)
class _Follower:
    to: Written
    seen: int
    person: int = 0
    role: str = ""
    sign_in: int = 0
    known: bool = False
    """Whether its sign-in was there, for all to see, when it began."""
    began: float = field(default_factory=time.monotonic)
    told: float = field(default_factory=time.monotonic)


class _Queue:
    """A stream for a server that hands nothing over: the thread that answers reads it."""

    def __init__(self, stopping: threading.Event) -> None:
        self._lines: queue.Queue[bytes | None] = queue.Queue(1000)
        self._stopping, self.gone = stopping, False

    def write(self, data: bytes) -> None:
        """Keep it until it is sent."""
        if self.gone:
            raise OSError("nobody reads it")
        try:
            self._lines.put_nowait(data)
        except queue.Full as error:
            raise OSError("nobody reads it") from error

    def end(self) -> None:
        """Nothing more follows."""
        with suppress(queue.Full):
            self._lines.put_nowait(None)

    def __iter__(self) -> Iterator[bytes]:
        try:
            while not self._stopping.is_set():
                try:
                    line = self._lines.get(timeout=LOOK_SECONDS)
                except queue.Empty:
                    continue
                if line is None:
                    return
                yield line
        finally:
            self.gone = True


class Streams:
    """Everyone who follows something in this process.

    Parameters
    ----------
    sessions : sessionmaker
        For asking what is new.
    stopping : threading.Event
        Set when the server stops.
    """

    def __init__(self, sessions: sessionmaker[Session], stopping: threading.Event) -> None:
        self._sessions, self._stopping = sessions, stopping
        self._lock = threading.Lock()
        self._followers: dict[Topic, list[_Follower]] = {}
        self._watching = False
        self._reading: set[Topic] = set()

    def follow(self, topic: Topic, by: SignedIn, seen: int = 0, source: Source | None = None) -> Response:
        """Answer with a stream of what is new on a topic after ``seen``; of an instrument with what its source says. It
        lasts as long as the sign-in that asks."""
        with self._lock:
            everyone = [each for followers in self._followers.values() for each in followers]
            if len(everyone) >= MOST_FOLLOWERS:
                abort(503, "Too many screens follow something just now.")
            if sum(person.person == by.person_id for person in everyone) >= MOST_A_PERSON:
                abort(429, f"You follow {MOST_A_PERSON} things already; close some of your screens.")
        follower = partial(
            _Follower,
            seen=seen,
            person=by.person_id,
            role=by.person.role,
            sign_in=by.id,
            known=by.id in (self._still({by.id}) or {}),
        )

        def begin(to: Written) -> None:
            self._add(topic, follower(to), source)

        hello = f"retry: {RETRY_MS}\n\n".encode()
        hand_over = request.environ.get("lark.hand_over")
        if hand_over is not None:
            hand_over(begin)
            body: Iterator[bytes] = iter([hello])
        else:
            body = self._own(begin, hello)
        return Response((line for line in body), content_type="text/event-stream", headers={"X-Accel-Buffering": "no"})

    def _own(self, begin: Callable[[Written], None], hello: bytes) -> Iterator[bytes]:
        """A stream that the thread which answers reads itself; it begins when it is read on."""
        yield hello
        own = _Queue(self._stopping)
        begin(own)
        yield from own

    def _add(self, topic: Topic, follower: _Follower, source: Source | None) -> None:
        with self._lock:
            self._followers.setdefault(topic, []).append(follower)
            if source is not None:
                if topic not in self._reading:
                    self._reading.add(topic)
                    threading.Thread(target=self._read, args=(topic, source), daemon=True).start()
            if not self._watching:
                self._watching = True
                threading.Thread(target=self._watch, daemon=True, name="what is new").start()

    def _watch(self) -> None:
        """Tell what is new, as long as anybody follows."""
        while not self._stopping.is_set():
            with self._lock:
                followed = {topic: list(each) for topic, each in self._followers.items() if each}
                if not followed:
                    self._watching = False
                    return
            self._let_go(followed)
            self._tell_new(followed)
            self._look_after(followed)
            self._stopping.wait(LOOK_SECONDS)
        with self._lock:
            self._watching = False

    def _let_go(self, followed: dict[Topic, list[_Follower]]) -> None:
        """Whose sign-in has ended, or whose role has changed, follows nothing from then on."""
        still = self._still({follower.sign_in for followers in followed.values() for follower in followers})
        if still is None:
            return  # asked again in a moment
        for topic, followers in followed.items():
            for each in [one for one in followers if one.known and still.get(one.sign_in) != one.role]:
                with suppress(Exception):
                    each.to.end()
                self._drop(topic, each)
                followers.remove(each)

    def _still(self, keys: set[int]) -> dict[int, str] | None:
        """Which sign-ins hold, with the role of whose they are; ``None`` when the database does not answer."""
        try:
            with self._sessions() as session:
                return sign_ins.still(session, keys)
        except SQLAlchemyError:
            return None

    def _tell_new(self, followed: dict[Topic, list[_Follower]]) -> None:
        jobs = [key for kind, key in followed if kind == "job"]
        machines = [key for kind, key in followed if kind == "machine"]
        if not jobs and not machines:
            return
        try:
            with self._sessions() as session:
                newest = log_rows.newest_entries(session, jobs, machines)
        except SQLAlchemyError:
            self._stopping.wait(AWAY_SECONDS)
            return
        for (kind, key), followers in followed.items():
            seq = newest[kind].get(key, 0) if kind in ("job", "machine") else 0
            for follower in followers:
                if seq > follower.seen and self._send((kind, key), follower, data({"seq": seq})):
                    follower.seen = seq

    def _look_after(self, followed: dict[Topic, list[_Follower]]) -> None:
        """A sign of life now and then; who has followed for long enough starts again."""
        now = time.monotonic()
        for topic, followers in followed.items():
            for follower in followers:
                if now - follower.began > LIFE_SECONDS:
                    self._send(topic, follower, f"retry: {AT_ONCE_MS}\n\n")
                    follower.to.end()
                    self._drop(topic, follower)
                elif now - follower.told > HEART_SECONDS:
                    self._send(topic, follower, ": \n\n")

    def _send(self, topic: Topic, follower: _Follower, text: str) -> bool:
        try:
            follower.to.write(text.encode())
        except Exception:  # whatever is wrong with one connection, the others go on
            self._drop(topic, follower)
            return False
        follower.told = time.monotonic()
        return True

    def _drop(self, topic: Topic, follower: _Follower) -> None:
        with self._lock:
            here = self._followers.get(topic, [])
            if follower in here:
                here.remove(follower)
            if not here:
                self._followers.pop(topic, None)

    def _read(self, topic: Topic, source: Source) -> None:
        """Read an instrument as long as anybody follows it; when it ends, those who have heard so are let go."""
        again = True
        while again:
            heard: list[_Follower] = []
            try:
                heard = self._pass_on(topic, source)
            except Exception:
                LOG.exception("reading %s %d ended", *topic)
            with self._lock:
                here = self._followers.get(topic, [])
                left = [each for each in here if each in heard]
                late = [each for each in here if each not in heard]
                again = bool(late) and bool(heard) and not self._stopping.is_set()
                if not again:
                    self._reading.discard(topic)  # whoever comes from now on begins anew
            for each in left + ([] if again else late):
                with suppress(Exception):
                    each.to.end()
                self._drop(topic, each)

    def _pass_on(self, topic: Topic, source: Source) -> list[_Follower]:
        """Send what an instrument says to all who follow it, until nobody does or it ends; return who heard the last
        of it."""
        ended, followers = threading.Event(), list[_Follower]()
        for text in source(ended):
            with self._lock:
                followers = list(self._followers.get(topic, []))
            if not followers or self._stopping.is_set():
                ended.set()
                return followers
            for follower in followers:
                self._send(topic, follower, text)
        return followers


def data(said: object) -> str:
    """Write an event."""
    return f"data: {json.dumps(said)}\n\n"
