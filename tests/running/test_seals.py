"""A backup is whole, and as the shop sealed it, before anything is replaced."""

import json
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import Engine, text

from tests.store.test_migrate import made, state
from zesty_lark.exchange import backup_file
from zesty_lark.exchange.backup_file import BackupError
from zesty_lark.running.backups import Home, back_up, restore
from zesty_lark.running.mariadb import PrivateMariaDB
from zesty_lark.running.seals import KEY, KEY_FILE, shop_key, vouch_for

Tables = dict[str, list[dict[str, Any]]]


@pytest.fixture
def other(server: PrivateMariaDB) -> Iterator[Engine]:
    engine = made(server, "lark_sealed")
    yield engine
    engine.dispose()


def rewritten(
    file: Path, change: Callable[[dict[str, list[dict[str, Any]]]], None], *, seal: str | None = None
) -> Path:
    """A backup with other rows, its counts and sums made right again, as somebody would who knows how."""
    contents = backup_file.contents_of(file)
    tables = {name: list(backup_file.rows_in(file, name, contents)) for name in contents.tables}
    change(tables)
    changed = file.with_name("changed.zip")
    backup_file.write(changed, tables.items(), revision=contents.revision, made_by="x", at=contents.made_at)
    if seal is not None:
        with zipfile.ZipFile(changed) as told:
            parts = {name: told.read(name) for name in told.namelist()}
        parts["backup.json"] = json.dumps(json.loads(parts["backup.json"]) | {"seal": seal}).encode()
        with zipfile.ZipFile(changed, "w") as again:
            for name, part in parts.items():
                again.writestr(name, part)
    return changed


def test_the_key_is_made_once_and_kept_from_others(tmp_path: Path) -> None:
    key, fresh = shop_key(tmp_path / "home")
    assert fresh and KEY.fullmatch(key) and shop_key(tmp_path / "home") == (key, False)
    assert (tmp_path / "home" / KEY_FILE).stat().st_mode & 0o777 == 0o600
    assert shop_key(tmp_path / "another")[0] != key
    (tmp_path / "home" / KEY_FILE).write_text("nonsense")
    with pytest.raises(BackupError, match="damaged"):
        shop_key(tmp_path / "home")


def test_a_backup_is_vouched_for_by_the_shop_s_key_or_the_one_that_was_written_down(
    demo_engine: Engine, tmp_path: Path
) -> None:
    here, there, file = tmp_path / "here", tmp_path / "there", tmp_path / "shop.zip"
    key, _ = shop_key(here)
    back_up(demo_engine, file, key=key)
    vouch_for(here, file, None)
    with pytest.raises(BackupError, match="--key.*--unsealed"):
        vouch_for(there, file, None)
    with pytest.raises(BackupError, match="not sealed with that key"):
        vouch_for(there, file, "ABCDE-" * 5 + "ABCDE")
    vouch_for(there, file, f" {key.lower()} ")
    vouch_for(there, file, None)  # it is this shop's key by now


def test_a_backup_from_before_there_were_seals_is_not_vouched_for(demo_engine: Engine, tmp_path: Path) -> None:
    back_up(demo_engine, tmp_path / "shop.zip")
    for given in (None, shop_key(tmp_path)[0]):
        with pytest.raises(BackupError):
            vouch_for(tmp_path, tmp_path / "shop.zip", given)


def test_a_row_that_was_changed_breaks_the_seal_however_well_the_sums_are_made(
    demo_engine: Engine, tmp_path: Path
) -> None:
    key, _ = shop_key(tmp_path)
    whole = back_up(demo_engine, tmp_path / "shop.zip", key=key)

    def forge(tables: Tables) -> None:
        tables["log_entry"][-1]["note"] = "It was in."

    for seal in (None, whole.seal, "0" * 64):
        changed = rewritten(tmp_path / "shop.zip", forge, seal=seal)
        backup_file.check(changed)
        with pytest.raises(BackupError, match="Nobody can vouch"):
            vouch_for(tmp_path, changed, None)


def without_a_table(tables: Tables) -> None:
    del tables["chuck"]


def without_a_person(tables: Tables) -> None:
    tables["person"] = [table for table in tables["person"] if table["sign_in_name"] != "bryn"]


def without_a_column(tables: Tables) -> None:
    for table in tables["machine"]:
        del table["rpm"]


def twice(tables: Tables) -> None:
    tables["person"].append(tables["person"][0])


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (without_a_table, "the table chuck is missing"),
        (without_a_person, "name a person that is missing"),
        (without_a_column, "a row of machine has no rpm"),
        (twice, "a row of it cannot be"),
    ],
)
def test_a_backup_that_is_not_whole_is_refused_before_anything_is_replaced(
    demo_engine: Engine, other: Engine, tmp_path: Path, change: Callable[[Any], None], says: str
) -> None:
    home, said = Home(tmp_path), list[str]()
    back_up(demo_engine, tmp_path / "shop.zip")
    home.ask_to_restore(tmp_path / "shop.zip")
    restore(other, home, said.append)
    before = state(other)
    home.before_restore.unlink(missing_ok=True)
    home.ask_to_restore(rewritten(tmp_path / "shop.zip", change))
    with pytest.raises(BackupError, match=says):
        restore(other, home, said.append)
    assert state(other) == before and not home.before_restore.exists() and not home.to_restore.exists()
    with other.connect() as connection:
        assert not connection.scalars(text("show databases like '%tryout'")).all()
