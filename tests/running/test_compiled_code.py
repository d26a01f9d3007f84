"""Where compiled calculations are kept: by sources and processor, not for ever, and said when it cannot be."""

import os
import time
from pathlib import Path

import pytest

from zesty_lark.core.planning.passes import follow
from zesty_lark.running import compiled_code, compiled_places
from zesty_lark.running.compiled_places import ByPlace


@pytest.fixture
def core(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A core of one source, and an account with a cache of its own."""
    (tmp_path / "core" / "process").mkdir(parents=True)
    (tmp_path / "core" / "process" / "holding.py").write_text("PULL = 1\n")
    monkeypatch.setattr(compiled_code, "CORE", tmp_path / "core")
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    monkeypatch.setenv(compiled_code.FOLDER_SETTING, "")
    compiled_code.folder.cache_clear()
    yield tmp_path  # type: ignore[misc]
    compiled_code.folder.cache_clear()


def folder() -> Path:
    compiled_code.folder.cache_clear()
    compiled_code.use_kept()
    return Path(os.environ[compiled_code.FOLDER_SETTING])


def test_other_sources_or_another_processor_have_a_folder_of_their_own(
    core: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    first = folder()
    assert first.is_dir() and first.parent == core / "core" / "__pycache__" and folder() == first
    (core / "core" / "process" / "holding.py").write_text("PULL = 2\n")
    second = folder()
    assert second != first and first.is_dir(), "two versions do not compile for each other"
    monkeypatch.setattr(compiled_code, "_processor", lambda: b"another")
    assert folder() not in (first, second)


def test_what_no_version_used_for_two_months_goes(core: Path) -> None:
    first = folder()
    long_ago = time.time() - 61 * compiled_code.SECONDS_A_DAY
    (core / "core" / "process" / "holding.py").write_text("PULL = 2\n")
    os.utime(first, (long_ago, long_ago))
    second = folder()
    assert not first.exists() and second.is_dir()


def test_where_nothing_can_be_written_it_is_said_once(core: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    blocked = core / "blocked"
    blocked.write_text("a file, not a folder")
    monkeypatch.setattr(compiled_code, "_parents", lambda: (blocked / "one", blocked / "two"))
    compiled_code.folder.cache_clear()
    said: list[str] = []
    compiled_code.use_kept(said.append)
    assert len(said) == 1 and "cannot be kept" in said[0] and os.environ[compiled_code.FOLDER_SETTING] == ""
    assert not compiled_code.all_kept()
    compiled_code.mark_all_kept()


def test_all_is_kept_only_once_it_was_marked(core: Path) -> None:
    folder()
    assert not compiled_code.all_kept()
    compiled_code.mark_all_kept()
    assert compiled_code.all_kept()


def test_what_one_copy_of_the_application_compiled_another_finds(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert Path(follow.stats.cache_path).name == "core.planning", "numba asks it for the place"  # type: ignore[attr-defined]
    for copy in (tmp_path / "one", tmp_path / "two"):
        monkeypatch.setattr(compiled_places, "APPLICATION", copy)
        assert ByPlace.get_suitable_cache_subpath(str(copy / "core" / "wheel" / "profile.py")) == "core.wheel"
        other = ByPlace.get_suitable_cache_subpath(str(tmp_path / "other" / "wheel" / "profile.py"))
        assert other.startswith("wheel_"), "what is not ours keeps numba's own name"


def test_every_room_that_compiles_is_among_the_sources_that_its_name_is_made_of() -> None:
    core = Path(compiled_code.__file__).parents[1] / "core"
    held = {part: set(core.glob(part)) for part in compiled_code.HELD}
    assert all(held.values()), "a room that is not there is a room that moved"
    uses = {path for path in core.rglob("*.py") if "quantities.compiled import" in path.read_text()}
    assert len(uses) > 4 and uses <= set().union(*held.values())
