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
import time
from collections import OrderedDict
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from zesty_lark.shopfloor.long_work import StillWorking, TooLong

__all__ = ["MOST_SECONDS", "Calculators", "calculate"]

MOST_SECONDS = 60
MOST_BYTES = 900 * 1024 * 1024
"""What a question may take of a calculator's time, and of memory beside what it starts with."""
PATIENCE_SECONDS = 1.2
"""How long a worker's thread waits."""
WAITING_SECONDS = 300.0
"""After so long a question that nobody has answered was lost with its calculator."""
ANSWERS_KEPT, ANSWERS_AT_HAND = 400, 64
TOO_LONG = "This takes longer than is allowed here ({0} s), or more memory. Ask for less: coarser steps, fewer of them."

Told = tuple[str, Any]
"""("done", the answer) or ("failed", the exception)."""


class Calculators:
    """The workers' side.

    Parameters
    ----------
    questions : socket
        The end of a datagram socket pair whose other end the calculators share.
    folder : Path
        Where answers lie; shared by all workers.
    """

    def __init__(self, questions: socket.socket, folder: Path) -> None:
        self._questions, self._folder = questions, folder
        self._at_hand: OrderedDict[str, Told] = OrderedDict()
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
            told = self._ask(key, question) if self._is_first(key) else self._wait(key)
        self._keep(key, told)
        what, answer = told
        if what == "done":
            return answer
        raise answer

    def at_hand(self, function: Callable[..., Any], given: tuple[Any, ...]) -> bool:
        """Whether the answer is there without any work."""
        return self._known(hashlib.sha256(pickle.dumps((function, given, {}))).hexdigest()) is not None

    def _known(self, key: str) -> Told | None:
        if key in self._at_hand:
            with contextlib.suppress(KeyError):
                self._at_hand.move_to_end(key)
                return self._at_hand[key]
        with contextlib.suppress(OSError, EOFError, pickle.UnpicklingError):
            told: Told = pickle.loads((self._folder / key).read_bytes())
            return told
        return None

    def _keep(self, key: str, told: Told) -> None:
        self._at_hand[key] = told
        while len(self._at_hand) > ANSWERS_AT_HAND:
            with contextlib.suppress(KeyError):
                self._at_hand.popitem(last=False)

    def _asked(self, key: str) -> Path:
        return self._folder / f"{key}.asked"

    def _is_first(self, key: str) -> bool:
        """Whether nobody has asked this yet; whoever asks notes when."""
        note = self._asked(key)
        with contextlib.suppress(OSError):
            if time.time() - note.stat().st_mtime > WAITING_SECONDS:
                note.unlink()
        try:
            os.close(os.open(note, os.O_CREAT | os.O_EXCL, 0o600))
            return True
        except FileExistsError:
            return False

    def _ask(self, key: str, question: bytes) -> Told:
        here, there = socket.socketpair()
        with here:
            with there:
                socket.send_fds(self._questions, [b"?"], [there.fileno()])
            here.sendall(key.encode() + question)
            here.shutdown(socket.SHUT_WR)
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
        while True:
            told = self._known(key)
            if told is not None:
                return told
            if time.monotonic() > until:
                break
            time.sleep(0.05)
        with contextlib.suppress(OSError):
            so_far = time.time() - self._asked(key).stat().st_mtime
            if so_far > MOST_SECONDS + WAITING_SECONDS / 2:
                return self._given_up(key)
            raise StillWorking(so_far, MOST_SECONDS)
        return self._known(key) or self._given_up(key)


def calculate(questions: socket.socket, folder: Path) -> None:
    """A calculator's life: one question after another. Its limits end it by the kernel's hand, or as a ``MemoryError``;
    whoever keeps it alive starts another."""
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    resource.setrlimit(resource.RLIMIT_DATA, (_data_bytes() + MOST_BYTES,) * 2)
    signal.signal(signal.SIGALRM, signal.SIG_DFL)
    while True:
        _, sockets, _, _ = socket.recv_fds(questions, 1, 1)
        for number in sockets:
            with socket.socket(fileno=number) as asker:
                _answer(asker, folder)


def _answer(asker: socket.socket, folder: Path) -> None:
    text = b"".join(_received(asker))
    key, question = text[:64].decode(), text[64:]
    (folder / f"{key}.asked").touch(mode=0o600)
    signal.setitimer(signal.ITIMER_REAL, MOST_SECONDS)
    try:
        function, given, named = pickle.loads(question)
        told: Told = ("done", function(*given, **named))
    except MemoryError:
        told = ("failed", TooLong(TOO_LONG.format(MOST_SECONDS)))
    except Exception as error:
        told = ("failed", error)
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
    _lay(folder, key, told)
    with contextlib.suppress(OSError):
        asker.sendall(b"!")


def _received(asker: socket.socket) -> Iterator[bytes]:
    while part := asker.recv(1 << 16):
        yield part


def _lay(folder: Path, key: str, told: Told) -> None:
    """Lay an answer where every worker finds it, whole; old ones go."""
    unfinished = folder / f"{key}.{os.getpid()}"
    unfinished.write_bytes(pickle.dumps(told))
    unfinished.replace(folder / key)
    (folder / f"{key}.asked").unlink(missing_ok=True)
    laid = sorted(folder.iterdir(), key=lambda each: each.stat().st_mtime if each.exists() else 0.0)
    for old in laid[: max(0, len(laid) - ANSWERS_KEPT)]:
        old.unlink(missing_ok=True)


def _data_bytes() -> int:
    """How much memory of its own this process has now."""
    pages = int(Path("/proc/self/statm").read_text().split()[5])
    return pages * resource.getpagesize()
