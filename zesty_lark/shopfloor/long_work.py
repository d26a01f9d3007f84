"""What may take long is asked for here, by its function and what that is given: it is there, or still being worked out.

Where it is worked out is up to whoever runs the application; alone, it is simply called.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol, TypeVar

__all__ = ["Runner", "StillWorking", "TooLong", "at_hand", "run", "use"]

Answer = TypeVar("Answer")


@dataclass
class StillWorking(Exception):
    """The answer is still being worked out: for how long [s], and when it is given up [s]. Asked for again it is there,
    or nearer."""

    seconds: float
    most_seconds: float


class TooLong(RuntimeError):
    """It took longer, or more memory, than is allowed, and was given up; the message says so."""


class Runner(Protocol):
    """Works things out somewhere."""

    def run(self, function: Callable[..., Any], given: tuple[Any, ...], named: dict[str, Any]) -> Any:
        """Return the answer, or raise ``StillWorking``, ``TooLong`` or what the function raises."""

    def at_hand(self, function: Callable[..., Any], given: tuple[Any, ...]) -> bool:
        """Whether the answer is there without any work."""


class _Here:
    """Works everything out where it is asked."""

    def run(self, function: Callable[..., Any], given: tuple[Any, ...], named: dict[str, Any]) -> Any:
        return function(*given, **named)

    def at_hand(self, function: Callable[..., Any], given: tuple[Any, ...]) -> bool:
        return False


_runner: Runner = _Here()


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
    """
    answer: Answer = _runner.run(function, given, named)
    return answer


def at_hand(function: Callable[..., Any], *given: Any) -> bool:
    """Whether an answer is there without any work."""
    return _runner.at_hand(function, given)
