"""Where compiled calculations are kept between starts.

A compiled function keeps what it calls inside it, so what is kept is good for one state of the sources only: it lies in a
folder named after the digest of those they can come from.
"""

import hashlib
import os
import shutil
from functools import cache
from importlib.metadata import version
from pathlib import Path

__all__ = ["all_kept", "kept_in", "mark_all_kept"]

CORE = Path(__file__).parent
HELD = ("compiled.py", "holding.py", "layout.py", "sizes.py", "planner/*.py", "process/*.py", "wheel/*.py", "measure/*.py")
"""The sources that compiled functions are written in or take their figures from."""
PREFIX, MARK = "lark-compiled-", "all"


def _digest() -> str:
    """Name the present sources of everything a compiled function can hold."""
    seen = hashlib.sha256(version("numba").encode())
    for source in sorted(each for part in HELD for each in CORE.glob(part)):
        seen.update(source.read_bytes())
    return seen.hexdigest()[:16]


@cache
def kept_in() -> Path | None:
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


def all_kept() -> bool:
    """Whether everything is kept that ``mark_all_kept`` was called for, by these sources."""
    here = kept_in()
    return here is not None and (here / MARK).exists()


def mark_all_kept() -> None:
    """Note that every compiled function is kept."""
    here = kept_in()
    if here is not None:
        (here / MARK).touch()
