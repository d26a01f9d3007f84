"""Files that are there whole or not at all, whenever the writing is cut short."""

import contextlib
import os
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import IO


@contextlib.contextmanager
def written_whole(path: Path) -> Iterator[IO[bytes]]:
    """Give a file (mode 600) to write; it takes its name, on the disk for good, when the writing went well."""
    descriptor, name = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent)
    unfinished = Path(name)
    try:
        with os.fdopen(descriptor, "wb") as file:
            yield file
            file.flush()
            os.fsync(file.fileno())
        unfinished.replace(path)
    finally:
        unfinished.unlink(missing_ok=True)
    folder = os.open(path.parent, os.O_RDONLY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)
