"""Functions compiled to machine code, kept on disk for the next start.

A compiled function keeps what it calls inside it, so what is kept is good for one state of the sources only: it lies in a
folder named after their digest.
"""

import hashlib
import os
import shutil
from collections.abc import Callable
from pathlib import Path
from types import FunctionType
from typing import Any, TypeVar, cast

import numba

__all__ = ["compiled", "inlined"]

Function = TypeVar("Function", bound=Callable[..., Any])

CORE = Path(__file__).parent
PREFIX = "lark-compiled-"


def _digest() -> str:
    """Name the present sources of the core."""
    seen = hashlib.sha256(numba.__version__.encode())
    for source in sorted(CORE.rglob("*.py")):
        seen.update(source.read_bytes())
    return seen.hexdigest()[:16]


def _kept_in() -> Path | None:
    """The folder for compiled code: beside the sources, else the account's cache; ``None`` if neither can be written."""
    account = Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache")
    for parent in (CORE / "__pycache__", account / "zesty-lark"):
        here = parent / f"{PREFIX}{_digest()}"
        try:
            here.mkdir(parents=True, exist_ok=True)
        except OSError:
            continue
        if os.access(here, os.W_OK):
            for old in parent.glob(f"{PREFIX}*"):
                if old != here:
                    shutil.rmtree(old, ignore_errors=True)
            return here
    return None


_KEPT = _kept_in()
if _KEPT is not None:
    setattr(numba.config, "CACHE_DIR", str(_KEPT))  # noqa: B010 - numba reads its settings by name


def compiled(function: Function) -> Function:
    """Compile a function of numbers, arrays and named tuples of them when it is first called; it lets other threads run.

    Division by zero gives infinity, as on arrays; not-a-number must not go in.
    """
    return cast(Function, numba.njit(nogil=True, cache=_KEPT is not None, error_model="numpy", fastmath={"nnan"})(function))


def inlined(function: Function) -> Function:
    """Compile a short function into each place that calls it, so that loops over it can work on several numbers at once.

    Its ``max`` and ``min`` of two become plain choices, which such loops need.
    """
    seen = function.__globals__ | {"max": _larger, "min": _smaller}
    own = FunctionType(function.__code__, seen, function.__name__, function.__defaults__)
    return cast(Function, numba.njit(inline="always", error_model="numpy", fastmath={"nnan"})(own))


@numba.njit(inline="always")
def _larger(one: float, other: float) -> float:
    return one if one > other else other


@numba.njit(inline="always")
def _smaller(one: float, other: float) -> float:
    return one if one < other else other
