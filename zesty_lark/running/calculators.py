"""Processes of their own for what may take long: with a time and a memory limit, and nobody's thread waiting.

The web server's parent forks them beside its workers, and puts back one that its limits have ended. A worker lays the
question down and rings; the answer lies in the home directory for whoever asks next, in whichever worker. All of these
are the application's own processes.
"""

import contextlib
import os
import pickle
import resource
import signal
import socket
import threading
import time
from collections import OrderedDict
from pathlib import Path
from typing import Any

from zesty_lark.running.questions import MOST_WAITING, Questions, Told
from zesty_lark.shopfloor.long_work import LOST, READING, Crowded, Limits, Lost, Question, StillWorking, TooLong, laid
from zesty_lark.shopfloor.long_work import asker as who_asks

PATIENCE_SECONDS = 1.2
"""How long a worker's thread waits."""
LOOKS = (0.004,) * 40 + (0.03,)
"""How long apart it looks for an answer [s]; the last goes on."""
GIVEN_UP_SECONDS = 120.0
"""After so long what was given up may be asked again."""
LESS_URGENT = 5
"""Pages come before what takes long."""
HARD_BYTES = 1200 * 1024 * 1024
ANSWERS_AT_HAND = 64
TOO_LONG = (
    "This takes longer than is allowed here ({0:g} s), or more memory. Ask for less: coarser steps, fewer of them."
)
CROWDED = "{0} of your questions are waiting already, and each person has one answered at a time. Wait for those first."


class Calculators:
    """The workers' side.

    Parameters
    ----------
    bell : socket
        The end of a datagram socket pair whose other end the calculators share.
    folder : Path
        Where questions and answers lie; shared by all workers.
    """

    def __init__(self, bell: socket.socket, folder: Path) -> None:
        bell.setblocking(False)
        self._bell, self._questions = bell, Questions(folder)
        self._at_hand: OrderedDict[str, Told] = OrderedDict()
        self._lock = threading.Lock()
        self._waiting: set[str] = set()

    def run(self, question: Question, asker: str) -> Any:
        """Return the answer, waiting for it a moment.

        Raises
        ------
        StillWorking, TooLong, Crowded
            If it is not there then, was given up, or too many wait; or whatever the function raises.
        """
        asked, key = laid(question)
        told = self._still_known(key)
        if told is None:
            self._ask(key, asker, asked)
            told = self._wait(key, question.limits, asker)
        return self._given(key, told)

    def again(self, key: str) -> Any:
        """Return the answer to a question that was asked before; ``Lost`` when nothing is known of it."""
        told = self._known(key)
        if told is None:
            begun = self._questions.begun(key)
            if begun is None and not self._questions.waits(key):
                raise Lost(LOST)
            told = self._wait(key, READING, who_asks.get())
        return self._given(key, told)

    def at_hand(self, question: Question) -> bool:
        """Whether the answer is there without any work."""
        return self._still_known(laid(question)[1]) is not None

    def _given(self, key: str, told: Told) -> Any:
        self._keep(key, told)
        what, answer = told
        if what == "done":
            return answer
        raise answer.with_traceback(None)

    def _still_known(self, key: str) -> Told | None:
        """An answer; what was given up long ago may be asked anew."""
        told = self._known(key)
        if told is not None and isinstance(told[1], TooLong):
            found = self._questions.answer(key)
            if found is None or found[1] >= GIVEN_UP_SECONDS:
                self._questions.forget(key)
                return None
        return told

    def _known(self, key: str) -> Told | None:
        with self._lock:
            if key in self._at_hand:
                self._at_hand.move_to_end(key)
                return self._at_hand[key]
        found = self._questions.answer(key)
        return None if found is None else found[0]

    def _keep(self, key: str, told: Told) -> None:
        if isinstance(told[1], TooLong):
            return  # asked again later it may do
        with self._lock:
            self._at_hand[key] = told
            while len(self._at_hand) > ANSWERS_AT_HAND:
                self._at_hand.popitem(last=False)

    def _ask(self, key: str, asker: str, asked: bytes) -> None:
        """Lay a question down, where nobody has it in hand already."""
        begun = self._questions.begun(key)
        if begun is not None and begun[1]:
            return
        if self._questions.of_person(asker) >= MOST_WAITING:
            raise Crowded(CROWDED.format(MOST_WAITING))
        self._questions.lay_down(key, asker, asked)
        with contextlib.suppress(BlockingIOError):  # it has been rung often enough
            self._bell.send(b"!")

    def _wait(self, key: str, limits: Limits, asker: str) -> Told:
        """Wait a moment; of each person one thread does, the others are told at once that it is on its way."""
        with self._lock:
            first = asker not in self._waiting
            self._waiting.add(asker)
        try:
            return self._looked_for(key, limits, PATIENCE_SECONDS if first else 0.0)
        finally:
            if first:
                with self._lock:
                    self._waiting.discard(asker)

    def _looked_for(self, key: str, limits: Limits, patience: float) -> Told:
        until, looks = time.monotonic() + patience, iter(LOOKS)
        apart = next(looks)
        while True:
            told = self._known(key)
            if told is not None:
                return told
            begun = self._questions.begun(key)
            if begun is not None and not begun[1]:
                return self._known(key) or self._given_up(key, limits)
            if time.monotonic() >= until:
                break
            time.sleep(apart)
            apart = next(looks, apart)
        if begun is not None:
            raise StillWorking(begun[0], limits.seconds, 0, key)
        raise StillWorking(0.0, limits.seconds, self._questions.ahead_of(key) + 1, key)

    def _given_up(self, key: str, limits: Limits) -> Told:
        told: Told = ("failed", TooLong(TOO_LONG.format(limits.seconds)))
        self._questions.lay(key, told)
        return told


def calculate(bell: socket.socket, folder: Path) -> None:
    """A calculator's life: one question after another. Its limits end it by the kernel's hand, or as a ``MemoryError``;
    whoever keeps it alive starts another."""
    questions = Questions(folder)
    hard = _data_bytes() + HARD_BYTES
    resource.setrlimit(resource.RLIMIT_DATA, (hard, hard))
    signal.signal(signal.SIGALRM, signal.SIG_DFL)
    os.nice(LESS_URGENT)
    while True:
        while (taken := questions.take()) is not None:
            key, begun = taken
            with contextlib.suppress(OSError):
                questions.lay(key, _worked_out(begun.read_bytes(), hard))
        bell.recv(1)


def _worked_out(asked: bytes, hard: int) -> Told:
    question: Question = pickle.loads(asked)
    most = question.limits
    signal.setitimer(signal.ITIMER_REAL, most.seconds)
    resource.setrlimit(resource.RLIMIT_DATA, (min(_data_bytes() + most.most_bytes, hard), hard))
    try:
        return ("done", question.function(*question.given, **dict(question.named)))
    except MemoryError:
        return ("failed", TooLong(TOO_LONG.format(most.seconds)))
    except Exception as error:
        return ("failed", error)
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        resource.setrlimit(resource.RLIMIT_DATA, (hard, hard))


def _data_bytes() -> int:
    """How much memory of its own this process has now."""
    pages = int(Path("/proc/self/statm").read_text().split()[5])
    return pages * resource.getpagesize()
