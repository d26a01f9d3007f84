"""Many calculations at once: here, or spread over a Dask cluster by the same code."""

from collections.abc import Iterable, Iterator
from itertools import islice
from typing import Any

from zesty_lark.core import headless

CHUNK, CHUNKS_AHEAD = 50, 64


def answer_chunk(lines: list[bytes]) -> list[str]:
    """Answer some lines of a batch, in their order."""
    return list(headless.batch(lines))


def answered(lines: Iterable[bytes], dask: str | None) -> Iterator[str]:
    """Answer the lines of a batch in their order; with an address of a Dask scheduler its workers do it.

    Raises
    ------
    OSError
        If the cluster cannot be reached.
    """
    if dask is None:
        yield from headless.batch(lines)
        return
    from distributed import Client

    chunks = _chunks(iter(lines))
    with Client(dask, set_as_default=False) as cluster:  # type: ignore[no-untyped-call]
        waiting: list[Any] = []
        while True:
            room = CHUNKS_AHEAD - len(waiting)
            waiting += [cluster.submit(answer_chunk, chunk, pure=False) for chunk in islice(chunks, room)]
            if not waiting:
                return
            yield from waiting.pop(0).result()


def _chunks(lines: Iterator[bytes]) -> Iterator[list[bytes]]:
    while chunk := list(islice(lines, CHUNK)):
        yield chunk
