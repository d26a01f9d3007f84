"""Bringing a database to the newest table layout, and back."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from alembic.util import CommandError
from sqlalchemy import Engine

from zesty_lark.store.migrations.resume import in_progress

_SCRIPTS = Path(__file__).with_name("migrations")


def _config(engine: Engine) -> Config:
    config = Config()
    config.set_main_option("script_location", str(_SCRIPTS))
    config.set_main_option("path_separator", "os")
    config.attributes["engine"] = engine
    return config


def upgrade(engine: Engine, revision: str = "head") -> None:
    """Bring the tables up to a revision."""
    command.upgrade(_config(engine), revision)


def downgrade(engine: Engine, revision: str = "base") -> None:
    """Take the tables back to a revision."""
    command.downgrade(_config(engine), revision)


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
    """Tell whether a change of the tables was begun and not finished; ``upgrade`` takes it up again."""
    with engine.connect() as connection:
        return in_progress(connection)
