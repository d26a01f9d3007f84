"""What migrations make of the tables, read from the database: the models' tables."""

import re
from collections.abc import Iterator
from typing import Any

import pytest
from alembic import command
from sqlalchemy import Engine

from tests.conftest import Rows
from tests.store.layout import layout_of
from zesty_lark.running.mariadb import PrivateMariaDB
from zesty_lark.store import migrate, rows
from zesty_lark.store.database import connect
from zesty_lark.store.models.base import Base

Layout = dict[str, list[tuple[Any, ...]]]


@pytest.fixture
def empty(server: PrivateMariaDB) -> Iterator[Engine]:
    server.make_database("lark_layout")
    engine = connect(server.url().set(database="lark_layout"))
    rows.clear(engine)
    yield engine
    rows.clear(engine)
    engine.dispose()


def in_meaning(layout: Layout) -> Layout:
    """A layout without the names that only migrations use, without triggers, and with choices in one order."""

    def choices(clause: str) -> str:
        return re.sub(r"in \(([^)]*)\)", lambda found: str(sorted(found[1].split(","))), clause)

    indexed = {(table, column) for table, _name, place, column, _more in layout["indexes"] if place == 1}
    unique = [(table, name, place, column) for table, name, place, column, more in layout["indexes"] if not more]
    out: Layout = {
        "tables": layout["tables"],
        "columns": layout["columns"],
        "checks": sorted((table, choices(clause)) for table, _name, clause in layout["checks"]),
        "indexed": sorted(indexed),
        "unique": sorted(unique),
        "references": sorted((table, *rest) for table, _name, *rest in layout["references"]),
    }
    return {what: [each for each in known if each[0] != "alembic_version"] for what, known in out.items()}


def test_migrations_make_the_tables_of_the_models_to_the_last_check(empty: Engine) -> None:
    migrate.upgrade(empty)
    migrated = in_meaning(layout_of(empty))
    rows.clear(empty)
    Base.metadata.create_all(empty)
    assert in_meaning(layout_of(empty)) == migrated
    assert len(migrated["checks"]) > 90 and len(migrated["columns"]) >= 390


def test_migrations_leave_nothing_to_change(empty: Engine) -> None:
    assert migrate.current_revision(empty) is None
    migrate.upgrade(empty)
    assert migrate.current_revision(empty) == migrate.newest_revision(empty)
    command.check(migrate._config(empty))


def test_rows_put_into_an_empty_database_are_counted(empty: Engine, demo_rows: Rows) -> None:
    revision, told = demo_rows
    assert rows.put_in(empty, revision, told) == sum(len(each) for _, each in told) > 100
    with pytest.raises(ValueError, match="has no table attic"):
        rows.put_in(empty, revision, [("attic", [])])
    with pytest.raises(ValueError, match="has no column colour"):
        rows.put_in(empty, revision, [("wheel", [{"colour": "white"}])])
    with pytest.raises(ValueError, match="9999 is not one that this version knows"):
        rows.put_in(empty, "9999", [])
