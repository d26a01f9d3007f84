"""The clock of the wall against the steady one: a wall clock that jumps makes the times it gives doubtful."""

import time
from datetime import timedelta

ALLOWED = timedelta(minutes=1)
"""So much may the wall clock move against the steady one while this process lives."""


def _apart() -> float:
    """How far the wall clock is ahead of the one that counts from the machine's start, sleep included [s]."""
    return time.time() - time.clock_gettime(time.CLOCK_BOOTTIME)


_AT_START = _apart()


def clock_in_doubt() -> bool:
    """Tell whether the wall clock has jumped since this process began."""
    return abs(_apart() - _AT_START) > ALLOWED.total_seconds()
