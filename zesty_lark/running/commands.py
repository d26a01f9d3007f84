"""What the commands beside “serve” do to a shop, whether it runs or not."""

import contextlib
import time
from collections.abc import Callable, Iterator
from pathlib import Path

from sqlalchemy import Engine

from zesty_lark.exchange.backup_file import BackupError, Contents
from zesty_lark.running.backups import Home, back_up
from zesty_lark.running.home import AlreadyRunning, held, runs_at
from zesty_lark.running.mariadb import PrivateMariaDB
from zesty_lark.running.prepare import bring_up_to_date
from zesty_lark.running.seals import WHY_A_KEY, shop_key, vouch_for
from zesty_lark.running.serve import database
from zesty_lark.settings import Settings
from zesty_lark.store.database import connect

LOOK_SECONDS = 0.1

Say = Callable[[str], None]


@contextlib.contextmanager
def up_to_date(settings: Settings, say: Say) -> Iterator[Engine]:
    """Hold the shop, which must not be running, and give its database with the newest tables.

    Raises
    ------
    AlreadyRunning
        If the shop runs.
    """
    with held(settings.home), database(settings, say) as (url, _server):
        engine = bring_up_to_date(url, Home(settings.home), say)
        try:
            yield engine
        finally:
            engine.dispose()


def back_up_shop(settings: Settings, file: Path, say: Say) -> Contents:
    """Write the whole shop into a file.

    Raises
    ------
    BackupError
        If there is nothing to back up, or it cannot be read.
    """
    key, fresh = shop_key(settings.home)
    with _as_it_is(settings, say) as engine:
        contents = back_up(engine, file, say, key=key)
    if fresh:
        for line in WHY_A_KEY:
            say(line.format(key))
    say(f"{contents.rows} rows of {len(contents.tables)} tables are in {file}")
    return contents


@contextlib.contextmanager
def _as_it_is(settings: Settings, say: Say) -> Iterator[Engine]:
    """Give the shop's database as it is, of the shop that runs or one started for this."""
    with contextlib.ExitStack() as stack:
        try:
            stack.enter_context(held(settings.home))
        except AlreadyRunning:
            if settings.database_url is None:
                server = PrivateMariaDB(settings.home / "database", 0)
                engine = connect(server.socket_url())
                stack.callback(engine.dispose)
                yield engine
                return
        url, _server = stack.enter_context(database(settings, say))
        engine = connect(url)
        stack.callback(engine.dispose)
        yield engine


def restore_shop(settings: Settings, file: Path, say: Say, *, key: str | None = None, unsealed: bool = False) -> None:
    """Put the shop in a file in the place of all there is; a shop that runs does it itself, between two pages.

    Raises
    ------
    BackupError
        If the file is no whole backup, nobody can vouch for it and ``unsealed`` was not said, or it cannot be restored;
        the shop is as it was then.
    """
    home = Home(settings.home)
    settings.home.mkdir(mode=0o700, parents=True, exist_ok=True)
    say(f"reading {file} from end to end")
    if not unsealed:
        vouch_for(settings.home, file, key)
    contents = home.ask_to_restore(file)
    while home.to_restore.exists():
        if runs_at(settings.home) is None:
            with contextlib.suppress(AlreadyRunning), up_to_date(settings, say):
                pass
        time.sleep(LOOK_SECONDS)
    if home.refused.exists():
        why = home.refused.read_text("utf-8")
        home.refused.unlink()
        raise BackupError(why)
    say(f"{contents.rows} rows are restored; what was there before is in {home.before_restore}")
