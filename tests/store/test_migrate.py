"""A change of the tables killed at any statement is done again, and ends as one that was not killed."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import Engine, event

from tests.conftest import Rows
from tests.store.changed_tables import with_a_later_version
from tests.store.layout import layout_of
from zesty_lark.running.mariadb import PrivateMariaDB
from zesty_lark.store import migrate, rows
from zesty_lark.store.database import connect


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
    """The whole layout and every row."""
    with rows.as_one_moment(engine) as tables:
        return layout_of(engine), {name: list(each) for name, each in tables}


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
def test_an_upgrade_killed_at_every_statement_ends_as_one_that_was_not(
    whole: Engine, cut: Engine, demo_rows: Rows, tmp_path: Path, when: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    for engine in (whole, cut):
        rows.put_in(engine, *demo_rows)
    monkeypatch.setattr(migrate, "SCRIPTS", with_a_later_version(tmp_path))
    migrate.upgrade(whole)
    assert upgrade_killed_everywhere(cut, when) >= 8
    assert migrate.current_revision(cut) == "later" and not migrate.cut_short(cut)
    assert state(cut) == state(whole)


def test_a_first_start_killed_at_every_statement_has_the_tables_of_one_that_was_not(whole: Engine, cut: Engine) -> None:
    migrate.upgrade(whole)
    assert upgrade_killed_everywhere(cut, "after", every=2) > 20
    assert state(cut) == state(whole)
