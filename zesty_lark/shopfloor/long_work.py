"""What may take long is asked for here, by its function and what that is given: it is there, or still being worked out.

Where it is worked out is up to whoever runs the application; alone, it is simply called. Each person has one thing
worked out at a time, and whoever waits is told how many are before them.
"""

import hashlib
import pickle
from collections import OrderedDict
from collections.abc import Callable
from contextvars import ContextVar
from dataclasses import dataclass
from typing import Any, Final, Protocol, TypeVar

Answer = TypeVar("Answer")
READ_KEPT = 8
LOST: Final = "What was sent is not here any more. Choose the file again."


@dataclass(frozen=True)
class Limits:
    """What a question may take: time [s], and memory beside what its process starts with [bytes]."""

    seconds: float
    most_bytes: int


USUAL: Final = Limits(120.0, 900 * 1024 * 1024)
READING: Final = Limits(20.0, 500 * 1024 * 1024)
"""For what is read from a file that came from outside."""


@dataclass(frozen=True)
class Question:
    """What is asked: a function of a module, what it is given, and what it may take."""

    function: Callable[..., Any]
    given: tuple[Any, ...] = ()
    named: tuple[tuple[str, Any], ...] = ()
    limits: Limits = USUAL


@dataclass
class StillWorking(Exception):
    """The answer is still being worked out.

    Attributes
    ----------
    seconds, most_seconds : float
        For how long, and when it is given up [s].
    ahead : int
        How many questions are answered before this one; 0 when it is at work.
    key : str
        By which it is asked for again without sending it once more.
    """

    seconds: float
    most_seconds: float
    ahead: int = 0
    key: str = ""


class TooLong(RuntimeError):
    """It took longer, or more memory, than is allowed, and was given up; the message says so."""


class Crowded(RuntimeError):
    """Too much of one person's is waiting already; the message says so."""


class Lost(RuntimeError):
    """What is asked for again is not known any more; the message says what to do."""


class Runner(Protocol):
    """Works things out somewhere."""

    def run(self, question: Question, asker: str) -> Any:
        """Return the answer, or raise ``StillWorking``, ``TooLong``, ``Crowded`` or what the function raises."""

    def again(self, key: str) -> Any:
        """Return the answer to a question that was asked before, or raise as ``run``, or ``Lost``."""

    def at_hand(self, question: Question) -> bool:
        """Whether the answer is there without any work."""


def laid(question: Question) -> tuple[bytes, str]:
    """Return a question as it is handed over, and its key."""
    asked = pickle.dumps(question)
    return asked, hashlib.sha256(asked).hexdigest()


class _Here:
    """Works everything out where it is asked; what was read last is kept for whoever asks again."""

    def __init__(self) -> None:
        self._read: OrderedDict[str, Any] = OrderedDict()

    def run(self, question: Question, asker: str) -> Any:
        answer = question.function(*question.given, **dict(question.named))
        if question.limits == READING:
            self._read[laid(question)[1]] = answer
            while len(self._read) > READ_KEPT:
                self._read.popitem(last=False)
        return answer

    def again(self, key: str) -> Any:
        if key not in self._read:
            raise Lost(LOST)
        return self._read[key]

    def at_hand(self, question: Question) -> bool:
        return False


_runner: Runner = _Here()
asker: ContextVar[str] = ContextVar("asker", default="0")
"""Whose questions these are: the number of a person."""


def use(runner: Runner) -> None:
    """Let everything that is asked for from now on be worked out elsewhere."""
    global _runner
    _runner = runner


def run(function: Callable[..., Answer], *given: Any, **named: Any) -> Answer:
    """Return ``function(*given, **named)``, a function of a module, whose answer depends on nothing else.

    Raises
    ------
    StillWorking
        If it is not there yet.
    TooLong
        If it was given up.
    Crowded
        If too many questions of this person wait already.
    """
    answer: Answer = _runner.run(Question(function, given, tuple(sorted(named.items()))), asker.get())
    return answer


def read(function: Callable[..., Answer], *given: Any) -> Answer:
    """Return what a function reads out of something foreign, within tighter limits; raises as ``run``."""
    answer: Answer = _runner.run(Question(function, given, limits=READING), asker.get())
    return answer


def key_of(function: Callable[..., Any], *given: Any) -> str:
    """Return the key of what ``read`` is asked."""
    return laid(Question(function, given, limits=READING))[1]


def again(key: str) -> Any:
    """Return the answer to a question that was asked before, by its key; raises as ``run``, or ``Lost``."""
    return _runner.again(key)


def at_hand(function: Callable[..., Any], *given: Any) -> bool:
    """Whether an answer is there without any work."""
    return _runner.at_hand(Question(function, given))
