"""Every table row by row, whatever layout the database has: for backups."""

from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from typing import Any

from sqlalchemy import Connection, Engine, MetaData, Table, inspect, select, text

from zesty_lark.store import migrate

NOT_KEPT = frozenset({"alembic_version", migrate.UNDER_WAY, "signed_in"})
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


def put_in(
    engine: Engine, revision: str, tables: Iterable[tuple[str, Iterable[dict[str, Any]]]], *, whole: bool = False
) -> int:
    """Fill an empty database of a certain layout with rows, in one transaction; return how many. A ``whole`` shop has
    every table and column of its layout, and no row that names one which is not there.

    Raises
    ------
    ValueError
        If the layout is one that this version does not know, or lacks a table or column of the rows; or if a whole
        shop is not whole.
    """
    if not migrate.knows(engine, revision):
        raise ValueError(f"its table layout {revision} is not one that this version knows")
    migrate.upgrade(engine, revision)
    count = 0
    with engine.connect() as connection:
        here, given = set(table_names(connection)), set[str]()
        connection.execute(text("set foreign_key_checks = 0"))
        for name, rows in tables:
            if name not in here:
                raise ValueError(f"the layout {revision} has no table {name}")
            given.add(name)
            count += _insert(connection, name, rows, whole=whole)
        if whole:
            _refuse_part(connection, here - given)
        connection.execute(text("set foreign_key_checks = 1"))
        connection.commit()
    return count


def _refuse_part(connection: Connection, missing: set[str]) -> None:
    """Refuse a shop that lacks a table, or whose rows name others that are not there."""
    if missing:
        raise ValueError(f"the table {sorted(missing)[0]} is missing from it")
    told = inspect(connection)
    for name in table_names(connection):
        for key in told.get_foreign_keys(name):
            pairs = list(zip(key["constrained_columns"], key["referred_columns"], strict=True))
            same = " and ".join(f"c.`{own}` = p.`{theirs}`" for own, theirs in pairs)
            there = " and ".join(f"c.`{own}` is not null" for own, _ in pairs)
            lost = connection.scalar(
                text(
                    f"select count(*) from `{name}` c where {there} and not exists "
                    f"(select 1 from `{key['referred_table']}` p where {same})"
                )
            )
            if lost:
                raise ValueError(f"{lost} rows of {name} name a {key['referred_table']} that is missing from it")


def _insert(connection: Connection, name: str, rows: Iterable[dict[str, Any]], *, whole: bool = False) -> int:
    """Insert rows as they are; text for exact figures and moments is read by the database itself."""
    known = {column["name"] for column in inspect(connection).get_columns(name)}
    count = 0
    batch: list[dict[str, Any]] = []
    for row in rows:
        if not set(row) <= known:
            raise ValueError(f"the table {name} has no column {sorted(set(row) - known)[0]}")
        if whole and set(row) != known:
            raise ValueError(f"a row of {name} has no {sorted(known - set(row))[0]}")
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
