"""Processes of their own for what may take long: with a time and a memory limit, and nobody's thread waiting.

The web server's parent forks them beside its workers, and puts back one that its limits have ended. A worker hands over
a socket with the question; the answer comes back on it, and lies in the home directory for whoever asks next, in
whichever worker. All of these are the application's own processes, in directories of mode 700.
"""

import contextlib
import hashlib
import os
import pickle
import resource
import select
import signal
import socket
import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path
from typing import Any

from zesty_lark.shopfloor.long_work import StillWorking, TooLong

__all__ = ["MOST_SECONDS", "Calculators", "calculate"]

MOST_SECONDS = 120
MOST_BYTES = 900 * 1024 * 1024
"""What a question may take of a calculator's time, and of memory beside what it starts with."""
PATIENCE_SECONDS = 1.2
"""How long a worker's thread waits."""
DYING_SECONDS, WAITING_SECONDS = 5.0, 300.0
"""A question that was begun so long after its time is up was lost with its calculator; one that nobody has taken for so
long with all of them."""
GIVEN_UP_SECONDS = 120.0
"""After so long what was given up may be asked again."""
KEY_BYTES = 64
ANSWERS_KEPT, ANSWERS_AT_HAND = 400, 64
TOO_LONG = "This takes longer than is allowed here ({0} s), or more memory. Ask for less: coarser steps, fewer of them."

Told = tuple[str, Any]
"""("done", the answer) or ("failed", the exception)."""


class Calculators:
    """The workers' side.

    A question lies in the folder as ``KEY.asked`` until a calculator takes it, as ``KEY.begun`` while it is worked
    out; its answer as ``KEY``.

    Parameters
    ----------
    questions : socket
        The end of a datagram socket pair whose other end the calculators share.
    folder : Path
        Where questions and answers lie; shared by all workers.
    """

    def __init__(self, questions: socket.socket, folder: Path) -> None:
        questions.setblocking(False)
        self._questions, self._folder = questions, folder
        self._at_hand: OrderedDict[str, Told] = OrderedDict()
        self._lock = threading.Lock()
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)

    def run(self, function: Callable[..., Any], given: tuple[Any, ...], named: dict[str, Any]) -> Any:
        """Return the answer, waiting for it a moment.

        Raises
        ------
        StillWorking, TooLong
            If it is not there then, or was given up; or whatever the function raises.
        """
        question = pickle.dumps((function, given, named))
        key = hashlib.sha256(question).hexdigest()
        told = self._known(key)
        if told is None:
            told = self._ask(key) if self._is_first(key, question) else self._wait(key)
        self._keep(key, told)
        what, answer = told
        if what == "done":
            return answer
        raise answer.with_traceback(None)

    def at_hand(self, function: Callable[..., Any], given: tuple[Any, ...]) -> bool:
        """Whether the answer is there without any work."""
        return self._known(hashlib.sha256(pickle.dumps((function, given, {}))).hexdigest()) is not None

    def _known(self, key: str) -> Told | None:
        with self._lock:
            if key in self._at_hand:
                self._at_hand.move_to_end(key)
                return self._at_hand[key]
        answer = self._folder / key
        with contextlib.suppress(OSError, EOFError, pickle.UnpicklingError):
            told: Told = pickle.loads(answer.read_bytes())
            if not isinstance(told[1], TooLong) or _age(answer) < GIVEN_UP_SECONDS:
                return told
        return None

    def _keep(self, key: str, told: Told) -> None:
        if isinstance(told[1], TooLong):
            return  # asked again later it may do
        with self._lock:
            self._at_hand[key] = told
            while len(self._at_hand) > ANSWERS_AT_HAND:
                self._at_hand.popitem(last=False)

    def _is_first(self, key: str, question: bytes) -> bool:
        """Whether nobody has asked this yet, or nobody will answer; whoever asks lays the question down."""
        asked, begun = self._folder / f"{key}.asked", self._folder / f"{key}.begun"
        if _age(begun) > MOST_SECONDS + DYING_SECONDS:
            begun.unlink(missing_ok=True)
        if _age(asked) > WAITING_SECONDS:
            asked.unlink(missing_ok=True)
        if begun.exists():
            return False
        try:
            with open(os.open(asked, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600), "wb") as file:
                file.write(question)
            return True
        except FileExistsError:
            return False

    def _ask(self, key: str) -> Told:
        here, there = socket.socketpair()
        with here:
            with there:
                try:
                    socket.send_fds(self._questions, [key.encode()], [there.fileno()])
                except BlockingIOError:  # all are busy, and enough wait already
                    (self._folder / f"{key}.asked").unlink(missing_ok=True)
                    raise StillWorking(0.0, MOST_SECONDS) from None
            if not select.select([here], [], [], PATIENCE_SECONDS)[0]:
                raise StillWorking(PATIENCE_SECONDS, MOST_SECONDS)
            if here.recv(1) == b"":
                return self._given_up(key)
        return self._known(key) or self._given_up(key)

    def _given_up(self, key: str) -> Told:
        told: Told = ("failed", TooLong(TOO_LONG.format(MOST_SECONDS)))
        _lay(self._folder, key, told)
        return told

    def _wait(self, key: str) -> Told:
        until = time.monotonic() + PATIENCE_SECONDS
        while time.monotonic() < until:
            told = self._known(key)
            if told is not None:
                return told
            time.sleep(0.05)
        begun = _age(self._folder / f"{key}.begun")
        if begun > MOST_SECONDS + DYING_SECONDS:
            return self._given_up(key)
        raise StillWorking(max(begun, 0.0), MOST_SECONDS)


def _age(file: Path) -> float:
    """Seconds since a file was written; negative when there is none."""
    try:
        return max(0.0, time.time() - file.stat().st_mtime)
    except OSError:
        return -1.0


def calculate(questions: socket.socket, folder: Path) -> None:
    """A calculator's life: one question after another. Its limits end it by the kernel's hand, or as a ``MemoryError``;
    whoever keeps it alive starts another."""
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    resource.setrlimit(resource.RLIMIT_DATA, (_data_bytes() + MOST_BYTES,) * 2)
    signal.signal(signal.SIGALRM, signal.SIG_DFL)
    while True:
        key, sockets, _, _ = socket.recv_fds(questions, KEY_BYTES, 1)
        for number in sockets:
            with socket.socket(fileno=number) as asker:
                _answer(asker, folder, key.decode())


def _answer(asker: socket.socket, folder: Path, key: str) -> None:
    begun = folder / f"{key}.begun"
    with contextlib.suppress(OSError):
        (folder / f"{key}.asked").replace(begun)
        os.utime(begun)
        question = begun.read_bytes()
        _lay(folder, key, _worked_out(question))
        begun.unlink(missing_ok=True)
        asker.sendall(b"!")


def _worked_out(question: bytes) -> Told:
    signal.setitimer(signal.ITIMER_REAL, MOST_SECONDS)
    try:
        function, given, named = pickle.loads(question)
        return ("done", function(*given, **named))
    except MemoryError:
        return ("failed", TooLong(TOO_LONG.format(MOST_SECONDS)))
    except Exception as error:
        return ("failed", error)
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)


def _lay(folder: Path, key: str, told: Told) -> None:
    """Lay an answer where every worker finds it, whole; old ones go."""
    unfinished = folder / f"{key}.{os.getpid()}"
    unfinished.write_bytes(pickle.dumps(told))
    unfinished.replace(folder / key)
    laid = sorted(folder.iterdir(), key=lambda each: each.stat().st_mtime if each.exists() else 0.0)
    for old in laid[: max(0, len(laid) - ANSWERS_KEPT)]:
        old.unlink(missing_ok=True)


def _data_bytes() -> int:
    """How much memory of its own this process has now."""
    pages = int(Path("/proc/self/statm").read_text().split()[5])
    return pages * resource.getpagesize()
