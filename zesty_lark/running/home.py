"""The home directory: who may look into it, and that only one start command holds it."""

import contextlib
import fcntl
import os
from collections.abc import Iterator
from pathlib import Path
from typing import IO

LOCK = "running.lock"


class StartError(RuntimeError):
    """The application cannot start; the message says why and what to do."""


class AlreadyRunning(StartError):
    """Another start command holds this home directory."""


@contextlib.contextmanager
def held(home: Path) -> Iterator[IO[str]]:
    """Hold the home directory, closed to other accounts; the kernel lets go of it however this process ends.

    Raises
    ------
    AlreadyRunning
        If another start command holds it.
    StartError
        If it cannot be made or written.
    """
    os.umask(0o077)
    try:
        home.mkdir(mode=0o700, parents=True, exist_ok=True)
        home.chmod(0o700)
        lock = open(home / LOCK, "a+", encoding="utf-8")
    except OSError as error:
        raise StartError(f"The home directory {home} cannot be written: {error}. LARK_HOME names another.") from error
    with lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as error:
            raise AlreadyRunning(
                f"It is running already, at {_address(lock) or 'an address not known yet'}. "
                "Stop that one first (Ctrl-C where it runs)."
            ) from error
        lock.seek(0)
        lock.truncate()
        yield lock


def runs_at(home: Path) -> str | None:
    """Return the address at which a start command serves this home, empty while it starts; ``None`` if none does."""
    try:
        lock = open(home / LOCK, "r+", encoding="utf-8")
    except OSError:
        return None
    with lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_SH | fcntl.LOCK_NB)
        except BlockingIOError:
            return _address(lock)
        return None


def _address(lock: IO[str]) -> str:
    lock.seek(0)
    return lock.read().strip()
