"""The whole shop into a file and back: row for row, of any version, whenever it is cut short."""

import json
import zipfile
from collections.abc import Iterator
from pathlib import Path

import pytest
from sqlalchemy import Engine, text

from tests.conftest import Rows
from tests.store.changed_tables import with_a_later_version
from tests.store.test_migrate import made, state
from zesty_lark.exchange import backup_file
from zesty_lark.exchange.backup_file import BackupError
from zesty_lark.running import backups
from zesty_lark.running.backups import Home, back_up, restore
from zesty_lark.running.mariadb import PrivateMariaDB
from zesty_lark.running.prepare import NewerDatabase, bring_up_to_date
from zesty_lark.store import migrate, rows


@pytest.fixture
def other(server: PrivateMariaDB) -> Iterator[Engine]:
    engine = made(server, "lark_other")
    yield engine
    engine.dispose()


@pytest.fixture
def home(tmp_path: Path) -> Home:
    return Home(tmp_path)


def ask(home: Home, engine: Engine, folder: Path) -> None:
    """Lay a backup of a database where the next start restores it."""
    back_up(engine, folder / "shop.zip")
    home.ask_to_restore(folder / "shop.zip")


def test_a_backup_restored_is_the_same_shop_row_for_row(
    demo_engine: Engine, other: Engine, home: Home, tmp_path: Path
) -> None:
    said: list[str] = []
    contents = back_up(demo_engine, tmp_path / "shop.zip", said.append)
    with demo_engine.connect() as connection:
        entries = connection.scalar(text("select count(*) from log_entry"))
    assert contents.rows > 500 and entries and f"  log_entry: {entries}" in said
    assert (tmp_path / "shop.zip").stat().st_mode & 0o777 == 0o600
    home.ask_to_restore(tmp_path / "shop.zip")
    restore(other, home, said.append)
    assert state(other) == state(demo_engine) and not home.to_restore.exists()
    with pytest.raises(Exception, match="append-only"), other.begin() as connection:
        connection.execute(text("delete from log_entry"))


def test_a_backup_of_the_version_before_is_restored_and_upgraded(
    server: PrivateMariaDB, other: Engine, home: Home, tmp_path: Path, demo_rows: Rows, monkeypatch: pytest.MonkeyPatch
) -> None:
    earlier = made(server, "lark_earlier")
    rows.put_in(earlier, *demo_rows)
    ask(home, earlier, tmp_path)
    monkeypatch.setattr(migrate, "SCRIPTS", with_a_later_version(tmp_path))
    restore(other, home, print)
    migrate.upgrade(earlier)
    assert migrate.current_revision(other) == migrate.newest_revision(other)
    here, there = state(other)[1], state(earlier)[1]
    assert {name: here[name] for name in ("log_entry", "plan", "person")} == {
        name: there[name] for name in ("log_entry", "plan", "person")
    }
    assert len(here["job_summary"]) == len(here["job"])
    earlier.dispose()


class Killed(BaseException):
    pass


@pytest.mark.parametrize("step", ["clear", "put_in", "upgrade"])
def test_a_restore_cut_short_is_finished_by_the_next_start(
    demo_engine: Engine, other: Engine, home: Home, *, monkeypatch: pytest.MonkeyPatch, tmp_path: Path, step: str
) -> None:
    migrate.upgrade(other)
    ask(home, demo_engine, tmp_path)
    room = rows if step != "upgrade" else migrate
    was = getattr(room, step)

    def dies(engine: Engine, *given: object, **named: object) -> None:
        was(engine, *given, **named)
        if not str(engine.url.database).endswith("tryout"):
            raise Killed

    monkeypatch.setattr(room, step, dies)
    with pytest.raises(Killed):
        restore(other, home, print)
    monkeypatch.undo()
    assert home.before_restore.exists()
    before = home.before_restore.read_bytes()
    bring_up_to_date(other.url, home, print).dispose()
    assert state(other) == state(demo_engine)
    assert home.before_restore.read_bytes() == before, "what was there before is kept as it was"


def test_what_cannot_be_put_in_puts_back_what_was_there(
    demo_engine: Engine, other: Engine, home: Home, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    ask(home, demo_engine, tmp_path)
    restore(other, home, print)
    was = state(other)
    with rows.as_one_moment(demo_engine) as tables:
        twice = [
            (name, [*each, *each] if name == "wheel" else each) for name, each in ((n, list(r)) for n, r in tables)
        ]
    backup_file.write(
        tmp_path / "bad.zip",
        twice,
        revision=migrate.newest_revision(other) or "",
        made_by="a test",
        at=backup_file.contents_of(tmp_path / "shop.zip").made_at,
    )
    home.ask_to_restore(tmp_path / "bad.zip")
    monkeypatch.setattr(backups, "_try_out", lambda *_: None)  # an account that may make no database beside
    with pytest.raises(BackupError, match="put back"):
        restore(other, home, print)
    assert state(other) == was and not home.to_restore.exists() and "put back" in home.refused.read_text()


def test_a_damaged_backup_is_refused_before_anything_changes(demo_engine: Engine, home: Home, tmp_path: Path) -> None:
    good = tmp_path / "shop.zip"
    back_up(demo_engine, good)
    with zipfile.ZipFile(good) as archive:
        files = {name: archive.read(name) for name in archive.namelist()}
    broken = {
        "less": files | {"tables/log_entry.jsonl": b"".join(files["tables/log_entry.jsonl"].splitlines(True)[:-1])},
        "other": files | {"tables/log_entry.jsonl": files["tables/log_entry.jsonl"].replace(b"1", b"2", 1)},
        "gone": {name: each for name, each in files.items() if name != "tables/log_entry.jsonl"},
        "no list": {name: each for name, each in files.items() if name != "backup.json"},
        "deep": files | {"backup.json": b"[" * 100_000},
        "newer": files | {"backup.json": json.dumps(json.loads(files["backup.json"]) | {"format_version": 2}).encode()},
    }
    for name, contents in broken.items():
        with zipfile.ZipFile(tmp_path / "bad.zip", "w") as archive:
            for file, each in contents.items():
                archive.writestr(file, each)
        with pytest.raises(BackupError):
            home.ask_to_restore(tmp_path / "bad.zip")
        assert not home.to_restore.exists(), name
    (tmp_path / "cut.zip").write_bytes(good.read_bytes()[:-100])
    with pytest.raises(BackupError, match="cannot be read"):
        home.ask_to_restore(tmp_path / "cut.zip")
    with pytest.raises(BackupError, match="no file"):
        home.ask_to_restore(tmp_path / "none.zip")


def test_what_is_there_is_kept_before_an_upgrade_until_the_new_version_has_served(
    other: Engine, home: Home, tmp_path: Path, demo_rows: Rows, monkeypatch: pytest.MonkeyPatch
) -> None:
    rows.put_in(other, *demo_rows)
    monkeypatch.setattr(migrate, "SCRIPTS", with_a_later_version(tmp_path))
    was = state(other)[1]
    bring_up_to_date(other.url, home, print).dispose()
    kept = backup_file.check(home.before_upgrade)
    assert kept.revision == demo_rows[0]
    assert {name: table.rows for name, table in kept.tables.items()} == {name: len(each) for name, each in was.items()}
    bring_up_to_date(other.url, home, print).dispose()
    assert home.before_upgrade.exists(), "a start that served nobody leaves it"
    home.has_served()
    assert home.served_since.exists()
    home.has_served()
    assert not home.served_since.exists()


def test_a_database_of_a_newer_version_is_left_alone(other: Engine, home: Home) -> None:
    migrate.upgrade(other)
    with other.begin() as connection:
        connection.execute(text("update alembic_version set version_num = '9999'"))
    with pytest.raises(NewerDatabase, match="newer version"):
        bring_up_to_date(other.url, home, print)


def test_nothing_to_back_up_is_said(other: Engine, tmp_path: Path) -> None:
    with pytest.raises(BackupError, match="nothing to back up"):
        backups.back_up(other, tmp_path / "shop.zip")
    assert not list(tmp_path.iterdir())
