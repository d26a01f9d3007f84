"""Child processes that end when their parent does, whatever ends it."""

import ctypes
import os
import signal
from collections.abc import Callable

PR_SET_PDEATHSIG = 1


def die_with_parent(number: int = signal.SIGTERM, *, new_group: bool = True) -> Callable[[], None]:
    """Return a child's first act: ask the kernel to send it ``number`` when its parent dies."""
    libc = ctypes.CDLL(None, use_errno=True)

    def arrange() -> None:
        if new_group:
            os.setsid()
        libc.prctl(PR_SET_PDEATHSIG, number)

    return arrange
