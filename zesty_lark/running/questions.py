"""The questions that wait, and the answers: files in a directory of mode 700 that all of this shop's processes share.

A question lies there as ``KEY.PERSON.asked`` until it is taken, as ``KEY.PERSON.PID.begun`` while that process works it
out, and its answer as ``KEY``. Turns are fair: of each person one question at a time is worked out, and whoever has
asked for less comes before whoever has asked for more.
"""

import contextlib
import fcntl
import os
import pickle
import re
import time
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

ANSWERS_KEPT = 400
MOST_WAITING = 40
"""So many questions of one person may wait."""
_ASKED = re.compile(r"([0-9a-f]{64})\.([0-9]+)\.asked")
_BEGUN = re.compile(r"([0-9a-f]{64})\.([0-9]+)\.([0-9]+)\.begun")
_ANSWER = re.compile(r"[0-9a-f]{64}")

Told = tuple[str, Any]
"""("done", the answer) or ("failed", the exception)."""


@dataclass(frozen=True)
class Waiting:
    """A question that waits: whose it is, and since when."""

    key: str
    person: str
    since: float


def in_turn(waiting: Sequence[Waiting], at_work: Sequence[str]) -> list[Waiting]:
    """Return what waits in the order in which it is answered, by the people whose questions are at work.

    A person's second question comes after everybody's first, and so on; among equals the one asked first.
    """
    had = Counter(at_work)
    rank: dict[Waiting, int] = {}
    for each in sorted(waiting, key=lambda one: (one.since, one.key)):
        rank[each] = had[each.person]
        had[each.person] += 1
    return sorted(rank, key=lambda one: (rank[one], one.since, one.key))


class Questions:
    """The directory of questions and answers."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)

    def answer(self, key: str) -> tuple[Told, float] | None:
        """Return an answer and how old it is [s]; ``None`` when there is none."""
        file = self._folder / key
        with contextlib.suppress(OSError, EOFError, pickle.UnpicklingError):
            told: Told = pickle.loads(file.read_bytes())
            return told, _age(file)
        return None

    def begun(self, key: str) -> tuple[float, bool] | None:
        """Return for how long a question has been at work [s], and whether whoever has it lives; ``None`` when nobody
        has taken it."""
        for file, pid in self._at_work_on(key):
            return _age(file), _lives(pid)
        return None

    def _at_work_on(self, key: str) -> Iterator[tuple[Path, int]]:
        for file in self._folder.glob(f"{key}.*.begun"):
            match = _BEGUN.fullmatch(file.name)
            if match:
                yield file, int(match[3])

    def lay_down(self, key: str, person: str, question: bytes) -> None:
        """Let a question wait; one that this person has asked already waits where it is."""
        whole = self._folder / f"{key}.{person}.{os.getpid()}.{time.monotonic_ns()}"
        with open(os.open(whole, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600), "wb") as file:
            file.write(question)
        now = time.time_ns()  # the system's own times of files are too coarse to tell who was first
        os.utime(whole, ns=(now, now))
        with contextlib.suppress(FileExistsError):
            os.link(whole, self._folder / f"{key}.{person}.asked")
        whole.unlink()

    def waits(self, key: str) -> bool:
        """Whether a question waits to be taken."""
        return any(self._folder.glob(f"{key}.*.asked"))

    def of_person(self, person: str) -> int:
        """Return how many questions of a person wait."""
        return sum(each.person == person for each in self._waiting())

    def ahead_of(self, key: str) -> int:
        """Return how many questions that wait come before one."""
        turns = in_turn(self._waiting(), self._at_work())
        return next((place for place, each in enumerate(turns) if each.key == key), 0)

    def _waiting(self) -> list[Waiting]:
        found = []
        for file in self._folder.iterdir():
            named = _ASKED.fullmatch(file.name)
            if named:
                with contextlib.suppress(OSError):
                    found.append(Waiting(named[1], named[2], file.stat().st_mtime_ns / 1e9))
        return found

    def _at_work(self) -> list[str]:
        """The people whose questions somebody alive works out; what the dead left goes."""
        found = []
        for file in self._folder.iterdir():
            named = _BEGUN.fullmatch(file.name)
            if named and _lives(int(named[3])):
                found.append(named[2])
        return found

    def take(self) -> tuple[str, Path] | None:
        """Take the question whose turn it is; ``None`` when there is none, or those who wait have one at work."""
        with open(self._folder / "turn", "w", encoding="ascii") as turn:
            fcntl.flock(turn, fcntl.LOCK_EX)
            at_work = self._at_work()
            for each in in_turn(self._waiting(), at_work):
                asked = self._folder / f"{each.key}.{each.person}.asked"
                if (self._folder / each.key).exists():
                    asked.unlink(missing_ok=True)
                elif each.person not in at_work and not any(_lives(pid) for _, pid in self._at_work_on(each.key)):
                    begun = self._folder / f"{each.key}.{each.person}.{os.getpid()}.begun"
                    with contextlib.suppress(FileNotFoundError):
                        asked.replace(begun)
                        os.utime(begun)
                        return each.key, begun
        return None

    def lay(self, key: str, told: Told) -> None:
        """Lay an answer where every worker finds it, whole, in place of the question; old ones made room."""
        unfinished = self._folder / f"{key}.{os.getpid()}"
        unfinished.write_bytes(pickle.dumps(told))
        others = [path for path in self._folder.iterdir() if _ANSWER.fullmatch(path.name) and path.name != key]
        others.sort(key=lambda each: each.stat().st_mtime if each.exists() else 0.0)
        for old in others[: max(0, len(others) + 1 - ANSWERS_KEPT)]:
            old.unlink(missing_ok=True)
        unfinished.replace(self._folder / key)
        for file, _ in self._at_work_on(key):
            file.unlink(missing_ok=True)

    def forget(self, key: str) -> None:
        """Drop an answer that may be asked for anew."""
        (self._folder / key).unlink(missing_ok=True)


def _age(file: Path) -> float:
    """Seconds since a file was written; 0 when it has just gone."""
    try:
        return max(0.0, time.time() - file.stat().st_mtime)
    except OSError:
        return 0.0


def _lives(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return not _is_dead(pid)


def _is_dead(pid: int) -> bool:
    """Whether a process is only waiting to be buried."""
    try:
        return Path(f"/proc/{pid}/stat").read_text(encoding="ascii").rpartition(")")[2].split()[0] == "Z"
    except OSError:
        return True
