"""Where compiled calculations are kept between starts.

A compiled function keeps what it calls inside it, so what is kept is good for one state of the sources and one kind of
processor only: it lies in a folder named after the digest of both. Folders of other versions stay for a while: two
versions under one account do not compile for each other.
"""

import hashlib
import os
import shutil
import time
from collections.abc import Callable
from functools import cache
from importlib.metadata import version
from pathlib import Path

CORE = Path(__file__).parents[1] / "core"
HELD = ("quantities/*.py", "process/*.py", "planning/*.py", "landing/*.py", "wheel/*.py", "measure/**/*.py")
"""The sources that compiled functions are written in or take their figures from."""
PREFIX, MARK = "lark-compiled-", "all"
FOLDER_SETTING = "NUMBA_CACHE_DIR"
PLACES_SETTING, PLACES = "NUMBA_CACHE_LOCATOR_CLASSES", "zesty_lark.running.compiled_places.ByPlace"
UNUSED_DAYS = 60
SECONDS_A_DAY = 86_400
CANNOT_KEEP = (
    "compiled calculations cannot be kept here: neither {0} nor {1} can be written. They are compiled anew at each "
    "start (about 15 seconds)"
)


def _processor() -> bytes:
    """What compiled code depends on of this machine's processor."""
    try:
        lines = Path("/proc/cpuinfo").read_text().split("\n\n", 1)[0].splitlines()
    except OSError:
        lines = []
    told = [line for line in lines if line.split(":")[0].strip() in ("model name", "flags", "Features", "CPU part")]
    return "\n".join([os.uname().machine, *sorted(told)]).encode()


def _digest() -> str:
    """Name the present sources of everything a compiled function can hold, and the processor."""
    seen = hashlib.sha256(version("numba").encode() + _processor())
    for source in sorted(path for part in HELD for path in CORE.glob(part)):
        seen.update(source.read_bytes())
    return seen.hexdigest()[:16]


def _parents() -> tuple[Path, Path]:
    """Beside the sources, else the account's cache."""
    account = Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache")
    return CORE / "__pycache__", account / "zesty-lark"


@cache
def folder() -> Path | None:
    """The folder for compiled code, made if need be; ``None`` if none can be written."""
    for parent in _parents():
        here = parent / f"{PREFIX}{_digest()}"
        try:
            here.mkdir(parents=True, exist_ok=True)
            os.utime(here)
        except OSError:
            continue
        if os.access(here, os.W_OK):
            _drop_unused(parent)
            return here
    return None


def _drop_unused(parent: Path) -> None:
    """Remove what no version has used for two months."""
    for old in parent.glob(f"{PREFIX}*"):
        try:
            unused = time.time() - old.stat().st_mtime > UNUSED_DAYS * SECONDS_A_DAY
        except OSError:
            continue
        if unused:
            shutil.rmtree(old, ignore_errors=True)


def use_kept(say: Callable[[str], None] | None = None) -> None:
    """Let what is compiled from now on be kept, and what is kept be used; to be called before the core's compiled rooms
    load.

    Where nothing can be written that is said once, and each process compiles for itself.
    """
    here = folder()
    if here is not None:
        os.environ |= {FOLDER_SETTING: str(here), PLACES_SETTING: PLACES}
    elif say is not None:
        say(CANNOT_KEEP.format(*_parents()))


def all_kept() -> bool:
    """Whether everything is kept that ``mark_all_kept`` was called for, by these sources on this processor."""
    here = folder()
    return here is not None and (here / MARK).exists()


def mark_all_kept() -> None:
    """Note that every compiled function is kept."""
    here = folder()
    if here is not None:
        (here / MARK).touch()


if __name__ == "__main__":
    use_kept()
    from zesty_lark.core.warm_up import warm_up

    warm_up()
    mark_all_kept()
