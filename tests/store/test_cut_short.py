"""A change of the tables cut short at any statement is taken up again, and ends as one that was not."""

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from alembic.runtime.migration import MigrationContext
from pymysql.err import OperationalError
from sqlalchemy import Column, Engine, Integer, MetaData, Table, event, insert, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.schema import CreateTable

from tests.store.layout import layout_of
from zesty_lark.running.mariadb import PrivateMariaDB
from zesty_lark.store import migrate, rows
from zesty_lark.store.database import connect
from zesty_lark.store.migrations import resume
from zesty_lark.store.migrations.resume import PROGRESS

DUMP = json.loads((Path(__file__).parent / "earlier" / "demo-0003.json").read_text())


class Killed(BaseException):
    """What ends a process at once, as far as its work can tell."""


def made(server: PrivateMariaDB, name: str) -> Engine:
    server.make_database(name)
    engine = connect(server.url().set(database=name))
    rows.clear(engine)
    return engine


@pytest.fixture
def whole(server: PrivateMariaDB) -> Iterator[Engine]:
    engine = made(server, "lark_whole")
    yield engine
    engine.dispose()


@pytest.fixture
def cut(server: PrivateMariaDB) -> Iterator[Engine]:
    engine = made(server, "lark_cut")
    yield engine
    engine.dispose()


def state(engine: Engine) -> tuple[dict[str, list[Any]], dict[str, list[Any]]]:
    """The whole layout and every row; what is timed by the clock of the moment is none of it."""
    with rows.as_one_moment(engine) as tables:
        return layout_of(engine), {name: list(each) for name, each in tables}


def fill(engine: Engine) -> None:
    rows.put_in(engine, DUMP["revision"], DUMP["tables"].items())


def upgrade_killed_everywhere(engine: Engine, when: str, every: int = 1) -> int:
    """Upgrade, killed before or after every statement that changes anything, or every n-th of them, once each; return
    how often."""
    seen: set[str] = set()
    killed = 0

    def kill(_connection: object, _cursor: object, statement: str, parameters: object, *_: object) -> None:
        nonlocal killed
        said = f"{statement} {parameters}"
        if not statement.lstrip().lower().startswith(("select", "show", "describe")) and said not in seen:
            seen.add(said)
            if len(seen) % every == 0:
                killed += 1
                raise Killed

    event.listen(engine, f"{when}_cursor_execute", kill)
    try:
        while True:
            try:
                migrate.upgrade(engine)
                return killed
            except Killed:
                continue
    finally:
        event.remove(engine, f"{when}_cursor_execute", kill)


@pytest.mark.parametrize("when", ["before", "after"])
def test_an_upgrade_killed_at_every_statement_ends_as_one_that_was_not(whole: Engine, cut: Engine, when: str) -> None:
    fill(whole)
    fill(cut)
    migrate.upgrade(whole)
    assert upgrade_killed_everywhere(cut, when, every=2) > 60
    assert migrate.current_revision(cut) == migrate.newest_revision(cut) and not migrate.cut_short(cut)
    assert state(cut) == state(whole)


def test_a_first_start_killed_at_every_statement_has_the_tables_of_one_that_was_not(whole: Engine, cut: Engine) -> None:
    migrate.upgrade(whole)
    assert upgrade_killed_everywhere(cut, "after", every=7) > 20
    assert state(cut) == state(whole)


def test_a_change_that_another_version_began_is_not_gone_on_with(cut: Engine) -> None:
    migrate.upgrade(cut, DUMP["revision"])
    with cut.begin() as connection:
        connection.execute(text(f"create table {PROGRESS} (done int not null, digest char(64) not null)"))
        connection.execute(text(f"insert into {PROGRESS} values (3, 'of something else')"))
    assert migrate.cut_short(cut)
    with pytest.raises(migrate.CutShort, match="version that began it"):
        migrate.upgrade(cut)


@pytest.mark.parametrize(
    ("said", "so_already"),
    [
        ((1050, "Table exists"), True), ((1091, "Can't drop"), True), ((1005, "Can't create (errno: 121 dup)"), True),
        ((1005, "Can't create (errno: 150 wrong)"), False), ((1064, "syntax, errno: 121"), False), ((), False),
    ],
)  # fmt: skip
def test_what_is_so_already_is_told_by_its_number(said: tuple[object, ...], so_already: bool) -> None:
    assert resume._is_so_already(DBAPIError("alter", {}, OperationalError(*said))) is so_already
    assert not resume._is_so_already(DBAPIError("alter", {}, None))  # type: ignore[arg-type]


def test_what_may_have_been_done_before_is_no_error_and_anything_else_is(cut: Engine) -> None:
    table = Table("attic", MetaData(), Column("id", Integer, primary_key=True))
    with cut.connect() as connection:
        impl = MigrationContext.configure(connection).impl
        assert isinstance(impl, resume.ResumableImpl)
        for uncertain in (False, True):
            if not uncertain:
                impl._change(CreateTable(table), uncertain=False)
                with pytest.raises(DBAPIError, match="already exists"):
                    impl._change(CreateTable(table), uncertain=False)
            impl._change(CreateTable(table), uncertain=True)
        with pytest.raises(DBAPIError, match="syntax"):
            impl._change(text("create nonsense"), uncertain=True)


def test_what_changes_the_layout_is_told_from_what_writes_rows() -> None:
    table = Table("attic", MetaData(), Column("id", Integer, primary_key=True))
    for layout in (CreateTable(table), text("  ALTER table x"), "drop table x", text("rename table x to y")):
        assert resume._changes_layout(layout)
    for writes in (insert(table), text("update x set y = 1"), "insert into altered values (1)"):
        assert not resume._changes_layout(writes)
    version = Table("alembic_version", MetaData(), Column("version_num", Integer))
    assert resume._writes_version(insert(version)) and not resume._writes_version(insert(table))
    assert not resume._writes_version(text("update alembic_version set version_num = 1"))
    assert resume._in_words("drop table x", None) == "drop table x"
