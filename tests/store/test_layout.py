"""What migrations make of the tables, read from the database: the models' tables, and the same on the way back."""

import re
from collections.abc import Iterator
from typing import Any

import pytest
from alembic import command
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, inspect

from tests.store.layout import layout_of
from tests.store.test_cut_short import DUMP
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
    assert len(migrated["checks"]) > 90 and len(migrated["columns"]) >= 400


def test_migrations_go_up_and_down_and_match_the_models(empty: Engine) -> None:
    assert migrate.current_revision(empty) is None
    migrate.upgrade(empty)
    assert migrate.current_revision(empty) == migrate.newest_revision(empty)
    command.check(migrate._config(empty))
    migrate.downgrade(empty)
    assert inspect(empty).get_table_names() == ["alembic_version"]
    migrate.upgrade(empty)


def test_every_step_back_ends_at_the_tables_that_were_there_before_it(empty: Engine) -> None:
    revisions = [each.revision for each in ScriptDirectory.from_config(migrate._config(empty)).walk_revisions()]
    seen: dict[str, Layout] = {}
    for revision in reversed(revisions):
        migrate.upgrade(empty, revision)
        seen[revision] = layout_of(empty)
    assert seen["0002"]["checks"].count(("log_reading", "ck_log_reading_value", "`value_mm` > 0")) == 1
    for revision in revisions[1:]:
        migrate.downgrade(empty, revision)
        before = seen[revision]
        if revision in ("0001", "0002"):  # a reading of nought may be there and is not lost
            before["checks"] = [
                (*each[:2], "`value_mm` >= 0") if each[1] == "ck_log_reading_value" else each
                for each in before["checks"]
            ]
        assert layout_of(empty) == before, revision


def test_rows_put_into_an_empty_database_are_counted(empty: Engine) -> None:
    told = {name: list(each) for name, each in DUMP["tables"].items()}
    assert rows.put_in(empty, DUMP["revision"], told.items()) == sum(map(len, told.values())) > 100
    with pytest.raises(ValueError, match="has no table attic"):
        rows.put_in(empty, DUMP["revision"], [("attic", [])])
    with pytest.raises(ValueError, match="has no column colour"):
        rows.put_in(empty, DUMP["revision"], [("wheel", [{"colour": "white"}])])
    with pytest.raises(ValueError, match="9999 is not one that this version knows"):
        rows.put_in(empty, "9999", [])
