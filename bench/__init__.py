"""Benchmarks; with ``LARK_BENCH_SMALL`` set each is only run through, on little, and nothing it takes is judged."""

import os
import time
from collections.abc import Callable

__all__ = ["SMALL", "quickest"]

SMALL = bool(os.environ.get("LARK_BENCH_SMALL"))


def quickest(act: Callable[[], object], times: int = 15) -> float:
    """The least time an act takes [s]; done once where nothing is judged."""
    taken = []
    for _ in range(1 if SMALL else times):
        began = time.perf_counter()
        act()
        taken.append(time.perf_counter() - began)
    return min(taken)
