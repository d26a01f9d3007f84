"""Every table row by row, whatever layout the database has: for backups."""

from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from typing import Any

from sqlalchemy import Connection, Engine, MetaData, Table, inspect, select, text

from zesty_lark.store import migrate
from zesty_lark.store.migrations.resume import PROGRESS

__all__ = ["NOT_KEPT", "as_one_moment", "clear", "put_in", "table_names"]

NOT_KEPT = frozenset({"alembic_version", PROGRESS, "signed_in"})
"""Tables that are no part of the shop's record: the layout's own, and who is signed in at the moment."""
ROWS_AT_ONCE = 500

Rows = Iterator[dict[str, Any]]


def table_names(connection: Connection) -> list[str]:
    """Return the names of the tables that a backup holds."""
    return sorted(name for name in inspect(connection).get_table_names() if name not in NOT_KEPT)


@contextmanager
def as_one_moment(engine: Engine) -> Iterator[Iterable[tuple[str, Rows]]]:
    """Give every table with its rows, all as they were at one moment, while others go on writing."""
    with engine.connect().execution_options(isolation_level="REPEATABLE READ") as connection:
        names = table_names(connection)
        tables = MetaData()
        tables.reflect(connection, only=names)
        connection.rollback()
        connection.execute(text("start transaction with consistent snapshot, read only"))
        yield ((name, _rows(connection, tables.tables[name])) for name in names)
        connection.rollback()


def _rows(connection: Connection, table: Table) -> Rows:
    ordered = select(*(column for column in table.columns)).order_by(*table.primary_key.columns)
    with connection.execution_options(yield_per=ROWS_AT_ONCE).execute(ordered) as found:
        for row in found.mappings():
            yield dict(row)


def clear(engine: Engine) -> None:
    """Take every table away, the layout's own too; what is half done is done by calling it again."""
    with engine.connect() as connection:
        connection.execute(text("set foreign_key_checks = 0"))
        for name in inspect(connection).get_table_names():
            connection.execute(text(f"drop table if exists `{name}`"))
        connection.execute(text("set foreign_key_checks = 1"))
        connection.commit()


def put_in(engine: Engine, revision: str, tables: Iterable[tuple[str, Iterable[dict[str, Any]]]]) -> int:
    """Fill an empty database of a certain layout with rows, in one transaction; return how many.

    Raises
    ------
    ValueError
        If the layout is one that this version does not know, or lacks a table or column of the rows.
    """
    if not migrate.knows(engine, revision):
        raise ValueError(f"its table layout {revision} is not one that this version knows")
    migrate.upgrade(engine, revision)
    count = 0
    with engine.connect() as connection:
        here = set(table_names(connection))
        connection.execute(text("set foreign_key_checks = 0"))
        for name, rows in tables:
            if name not in here:
                raise ValueError(f"the layout {revision} has no table {name}")
            count += _insert(connection, name, rows)
        connection.execute(text("set foreign_key_checks = 1"))
        connection.commit()
    return count


def _insert(connection: Connection, name: str, rows: Iterable[dict[str, Any]]) -> int:
    """Insert rows as they are; text for exact figures and moments is read by the database itself."""
    known = {column["name"] for column in inspect(connection).get_columns(name)}
    count = 0
    batch: list[dict[str, Any]] = []
    for row in rows:
        if not set(row) <= known:
            raise ValueError(f"the table {name} has no column {sorted(set(row) - known)[0]}")
        batch.append(row)
        if len(batch) == ROWS_AT_ONCE:
            count += _insert_all(connection, name, batch)
            batch = []
    return count + (_insert_all(connection, name, batch) if batch else 0)


def _insert_all(connection: Connection, name: str, batch: list[dict[str, Any]]) -> int:
    names = list(batch[0])
    columns = ", ".join(f"`{each}`" for each in names)
    places = ", ".join(f":{each}" for each in names)
    connection.execute(text(f"insert into `{name}` ({columns}) values ({places})"), batch)
    return len(batch)
