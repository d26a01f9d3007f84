"""The whole shop into one file and back, and the copy that is made before the tables change."""

import shutil
from collections.abc import Callable
from contextlib import suppress
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy import Engine, text
from sqlalchemy.exc import DBAPIError

from zesty_lark import __version__
from zesty_lark.exchange import backup_file
from zesty_lark.exchange.backup_file import BackupError, Contents
from zesty_lark.files import written_whole
from zesty_lark.running.mariadb import TRY_OUT
from zesty_lark.store import migrate, rebuilding, rows
from zesty_lark.store.database import connect, sessions

Say = Callable[[str], None]
CHARACTERS = "character set utf8mb4 collate utf8mb4_unicode_ci"


class Home:
    """The files that backups keep in the home directory."""

    def __init__(self, home: Path) -> None:
        self.to_restore = home / "to-restore.zip"
        """What is to be put in the place of all there is; gone when that is done. A start finds and finishes it."""
        self.before_restore = home / "before-restore.zip"
        self.refused = home / "restore-refused.txt"
        """Why the last backup could not be restored, for whoever asked."""
        self.before_upgrade = home / "before-upgrade.zip"
        self.served_since = home / "before-upgrade.served.zip"

    def has_served(self) -> None:
        """The version of now answers: what was kept before its upgrade goes with the start after the next."""
        self.served_since.unlink(missing_ok=True)
        if self.before_upgrade.exists():
            self.before_upgrade.replace(self.served_since)

    def refusal(self, why: str) -> BackupError:
        """Return why a backup cannot be restored, kept for whoever asked for it."""
        self.refused.write_text(why, "utf-8")
        return BackupError(why)

    def ask_to_restore(self, file: Path) -> Contents:
        """Check a backup from end to end and lay it where the next to look restores it.

        Raises
        ------
        BackupError
            If the file is no whole backup; nothing is changed then.
        """
        contents = backup_file.check(file)
        self.refused.unlink(missing_ok=True)
        if not self.to_restore.exists():
            self.before_restore.unlink(missing_ok=True)
        with file.open("rb") as source, written_whole(self.to_restore) as copy:
            shutil.copyfileobj(source, copy)
        return contents


def back_up(engine: Engine, file: Path, say: Say = lambda line: None, *, key: str | None = None) -> Contents:
    """Write everything in a database into a file, as it is at one moment, sealed with a key; others go on working.

    Raises
    ------
    BackupError
        If there is nothing to back up, or the tables are half-way through a change.
    """
    revision = migrate.current_revision(engine)
    if revision is None:
        raise BackupError("There is nothing to back up yet: the database has no tables.")
    if migrate.cut_short(engine):
        raise BackupError("The tables are half-way through a change. Start the application once; it finishes it.")
    with rows.as_one_moment(engine) as tables:
        return backup_file.write(
            file,
            tables,
            revision=revision,
            made_by=f"Zesty Lark {__version__}",
            at=datetime.now(UTC),
            key=key,
            told=lambda table, count: say(f"  {table}: {count}"),
        )


def restore(engine: Engine, home: Home, say: Say) -> None:
    """Put the backup that waits in the home directory in the place of all there is; once begun, it can be cut short and
    called again.

    Raises
    ------
    BackupError
        If it cannot be restored; what was there before has been put back then.
    """
    contents = backup_file.contents_of(home.to_restore)
    if not migrate.knows(engine, contents.revision):
        refusal = home.refusal(f"The backup has the table layout {contents.revision}, unknown to this version.")
        home.to_restore.unlink()
        raise refusal
    try:
        _try_out(engine, home.to_restore, contents)
    except ValueError as error:
        home.to_restore.unlink()
        raise home.refusal(f"The backup cannot be restored: {error}. Nothing was changed.") from error
    if not home.before_restore.exists() and migrate.current_revision(engine) and not migrate.cut_short(engine):
        say(f"keeping what is there now in {home.before_restore}")
        back_up(engine, home.before_restore)
    say(f"restoring {contents.rows} rows of {contents.made_at:%Y-%m-%d %H:%M} UTC")
    try:
        _replace_all(engine, home.to_restore, contents)
    except (ValueError, DBAPIError) as error:
        if isinstance(error, DBAPIError) and error.connection_invalidated:
            raise  # the database died; once it is back, this is taken up again
        refusal = home.refusal(f"The backup cannot be restored: {error}. What was there before has been put back.")
        _put_back(engine, home)
        raise refusal from error
    home.to_restore.unlink()


def _try_out(engine: Engine, file: Path, contents: Contents) -> None:
    """Put a backup into a database beside the shop's, to see that it is whole before anything is replaced.

    Raises
    ------
    ValueError
        If it is not.
    """
    beside = f"{engine.url.database}{TRY_OUT}"
    try:
        with engine.connect() as connection:
            connection.execute(text(f"create database if not exists `{beside}` {CHARACTERS}"))
    except DBAPIError:
        return  # this account may make none: whatever is wrong is found, and put back, as the rows go in
    trial = connect(engine.url.set(database=beside))
    try:
        rows.clear(trial)
        wanted = ((name, backup_file.rows_in(file, name, contents)) for name in contents.tables)
        rows.put_in(trial, contents.revision, wanted, whole=True)
    except DBAPIError as error:
        if error.connection_invalidated:
            raise
        raise ValueError(f"a row of it cannot be: {str(error.orig)[:200]}") from error
    finally:
        trial.dispose()
        with suppress(DBAPIError), engine.connect() as connection:
            connection.execute(text(f"drop database if exists `{beside}`"))


def _replace_all(engine: Engine, file: Path, contents: Contents) -> None:
    rows.clear(engine)
    wanted = ((name, backup_file.rows_in(file, name, contents)) for name in contents.tables)
    rows.put_in(engine, contents.revision, wanted, whole=True)
    migrate.upgrade(engine)
    with sessions(engine)() as session:
        rebuilding.rebuild(session, every=False)
        session.commit()


def _put_back(engine: Engine, home: Home) -> None:
    """Undo a restore that failed: what was there before is what waits to be restored now."""
    if home.before_restore.exists():
        home.before_restore.replace(home.to_restore)
        _replace_all(engine, home.to_restore, backup_file.contents_of(home.to_restore))
    else:
        rows.clear(engine)
    home.to_restore.unlink()
