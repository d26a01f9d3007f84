"""Functions compiled to machine code, kept on disk for the next start."""

from collections.abc import Callable
from types import FunctionType
from typing import Any, TypeVar, cast

import numba

Function = TypeVar("Function", bound=Callable[..., Any])

_KEPT = bool(vars(numba.config).get("CACHE_DIR"))
"""Whether somebody has said where compiled code is kept; the core itself knows no files."""


def compiled(function: Function) -> Function:
    """Compile a function of numbers, arrays and named tuples of them when it is first called; it lets other threads
    run.

    Division by zero gives infinity, as on arrays; not-a-number must not go in.
    """
    return cast(Function, numba.njit(nogil=True, cache=_KEPT, error_model="numpy", fastmath={"nnan"})(function))


def inlined(function: Function) -> Function:
    """Compile a short function into each place that calls it, so that loops over it can work on several numbers at
    once.

    Its ``max`` and ``min`` of two become plain choices, which such loops need. What it calls must stand above it.
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
