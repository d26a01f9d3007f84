"""Getting a database ready to be served: migrations, the demonstration, the first user's code."""

from collections.abc import Callable
from datetime import UTC, datetime

from sqlalchemy import URL, Engine

from zesty_lark.running.backups import Home, back_up, restore
from zesty_lark.settings import Settings, kept_secret
from zesty_lark.store import migrate, people, rebuilding
from zesty_lark.store.database import alone, connect, sessions

Say = Callable[[str], None]


MOST_WAIT_SECONDS = 900


class NewerDatabase(RuntimeError):
    """The database was made by a newer version; the message says so."""


def bring_up_to_date(url: URL, home: Home, say: Say) -> Engine:
    """Finish a restore that was begun, migrate the database if it is behind; return an engine on it.

    Before the tables change, what is in them is kept in the home directory.

    Raises
    ------
    NewerDatabase
        If the database has tables that this version does not know.
    BackupError
        If a backup that was to be restored cannot be; the database is as it was before.
    """
    engine = connect(url)
    with alone(engine, MOST_WAIT_SECONDS) as first:
        if not first:
            raise NewerDatabase("Another machine has been changing this database's tables for long; look there first.")
        _bring_up_to_date(engine, home, say)
    return engine


def _bring_up_to_date(engine: Engine, home: Home, say: Say) -> None:
    if home.to_restore.exists():
        restore(engine, home, say)
    now, newest = migrate.current_revision(engine), migrate.newest_revision(engine)
    if now is not None and not migrate.knows(engine, now):
        raise NewerDatabase(
            f"The database has the table layout {now}, of a newer version than this one ({newest}). Start that version."
        )
    if now != newest or migrate.cut_short(engine):
        if now is not None and not migrate.cut_short(engine):
            back_up(engine, home.before_upgrade)
            say(f"what is there now is kept in {home.before_upgrade}")
        say(f"bringing the tables from {now or 'nothing'} to {newest}")
        migrate.upgrade(engine)
    with sessions(engine)() as session:
        made = rebuilding.rebuild(session, every=False)
        session.commit()
    if made:
        say(f"worked out where {made} jobs stand")


def prepare(url: URL, settings: Settings, say: Say, *, demo: bool) -> list[str]:
    """Bring the database up to date, load what is to be loaded; return what to tell once it serves."""
    engine = bring_up_to_date(url, Home(settings.home), say)
    try:
        with sessions(engine)() as session:
            empty = not people.anyone(session)
            if demo:
                from zesty_lark.demo.crew import sign_ins

                if empty:
                    from zesty_lark.demo.scenario import load

                    say("loading the Tern Rock Light demonstration")
                    load(session, datetime.now(UTC))
                    session.commit()
                return sign_ins()
        if empty:
            code = kept_secret(settings.home / "first-user.code")
            return [f"Nobody can sign in yet. Open the address above and give this code: {code}"]
        return []
    finally:
        engine.dispose()
