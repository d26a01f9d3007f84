"""Runs migrations on the engine handed over by ``store.migrate``.

MariaDB commits at every change of the tables, so a migration is no transaction, and may be killed between any two of
its statements. The way out is to run it again from its beginning: each of its statements is one that may be done twice.
"""

from alembic import context

from zesty_lark.store.models import Base

engine = context.config.attributes["engine"]
with engine.connect() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata, compare_type=True)
    with context.begin_transaction():
        context.run_migrations()
    connection.commit()
