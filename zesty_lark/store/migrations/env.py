"""Runs migrations on the engine handed over by ``store.migrate``."""

from alembic import context
from sqlalchemy import text

from zesty_lark.store.migrations import resume
from zesty_lark.store.models import Base

assert resume.ResumableImpl.__dialect__ == "mariadb"
engine = context.config.attributes["engine"]
with engine.connect() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata, compare_type=True)
    with context.begin_transaction():
        context.run_migrations()
    connection.execute(text(f"drop table if exists {resume.PROGRESS}"))
    connection.commit()
