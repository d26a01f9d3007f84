"""Bringing a database to the newest table layout, and back."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine

__all__ = ["current_revision", "downgrade", "newest_revision", "upgrade"]

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
