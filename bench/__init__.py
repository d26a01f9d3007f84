"""Benchmarks; with ``LARK_BENCH_SMALL`` set each is only run through, on little, and nothing it takes is judged."""

import os

__all__ = ["SMALL"]

SMALL = bool(os.environ.get("LARK_BENCH_SMALL"))
