"""Bringing a database to the newest table layout."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from alembic.util import CommandError
from sqlalchemy import Engine, inspect, text

UNDER_WAY = "upgrade_under_way"
"""A table that is there while the others are being changed."""
SCRIPTS = Path(__file__).with_name("migrations")


def _config(engine: Engine) -> Config:
    config = Config()
    config.set_main_option("script_location", str(SCRIPTS))
    config.set_main_option("path_separator", "os")
    config.attributes["engine"] = engine
    return config


def upgrade(engine: Engine, revision: str = "head") -> None:
    """Bring the tables up to a revision; killed anywhere, it is called again and ends as it would have."""
    _do(engine, f"create table if not exists {UNDER_WAY} (id int primary key) engine=InnoDB")
    command.upgrade(_config(engine), revision)
    _do(engine, f"drop table {UNDER_WAY}")


def _do(engine: Engine, statement: str) -> None:
    with engine.connect() as connection:
        connection.execute(text(statement))
        connection.commit()


def current_revision(engine: Engine) -> str | None:
    """Return the revision a database is at; ``None`` when it is empty."""
    with engine.connect() as connection:
        return MigrationContext.configure(connection).get_current_revision()


def newest_revision(engine: Engine) -> str | None:
    """Return the newest revision the application knows."""
    return ScriptDirectory.from_config(_config(engine)).get_current_head()


def knows(engine: Engine, revision: str) -> bool:
    """Tell whether the application has the table layout of that name."""
    try:
        return ScriptDirectory.from_config(_config(engine)).get_revision(revision) is not None
    except CommandError:
        return False


def cut_short(engine: Engine) -> bool:
    """Tell whether a change of the tables was begun and not finished; ``upgrade`` does it again."""
    with engine.connect() as connection:
        return inspect(connection).has_table(UNDER_WAY)
