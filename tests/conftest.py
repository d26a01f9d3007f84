"""A throwaway MariaDB for the whole run; every test's writes are rolled back."""

import fcntl
import gc
import os
import pickle
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest
from argon2 import PasswordHasher
from sqlalchemy import Connection, Engine, event
from sqlalchemy.orm import Session, sessionmaker

from zesty_lark.demo import scenario
from zesty_lark.exchange.instruments import addresses
from zesty_lark.running.mariadb import PrivateMariaDB, free_port
from zesty_lark.store import migrate, people, rows
from zesty_lark.store.database import connect, sessions
from zesty_lark.store.known_logs import KNOWN, KnownLogs

SHARED_MEMORY = Path("/dev/shm")
DEMO_DATABASE = "zesty_lark_demo"
Rows = tuple[str, list[tuple[str, list[dict[str, Any]]]]]
"""A layout and the rows of each of its tables."""
TOGETHER = {
    ("browser", "running"): "journeys",
    ("browser", "own"): "own",
    ("bench", "engine"): "benchmarks",
    ("bench", "running"): "benchmarks",
}
"""What shares a shop, by its folder and the fixture it has it from; it takes longest, in this order."""
MOST_SAID = 3000
"""So much of a failure is said at once."""
BEFORE_ALL = ("clean_clone", "killed_runs")
gc.disable()  # until all tests are collected


@pytest.hookimpl(tryfirst=True)
def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Tests that share a shop stay together where tests are shared out, and come first; before them what needs no
    demonstration, while another makes it, and what forks often, while a process is still small."""
    order = list(TOGETHER.values())

    def place(item: pytest.Item) -> int:
        for (folder, fixture), group in TOGETHER.items():
            if item.path.parent.name == folder and fixture in item.fixturenames:  # type: ignore[attr-defined]
                item.add_marker(pytest.mark.xdist_group(group))
                return order.index(group)
        return -1 if any(each in item.nodeid for each in BEFORE_ALL) else len(order)

    items.sort(key=place)


def pytest_collection_finish() -> None:
    """What is loaded by now stays loaded: it is not looked through for garbage again and again."""
    gc.collect()
    gc.freeze()
    gc.enable()
    gc.set_threshold(10_000, 20, 20)


def pytest_runtest_logreport(report: pytest.TestReport) -> None:
    """What failed is said at once, where tests are shared out: whoever waits for the end may not see it."""
    if report.failed and os.environ.get("PYTEST_XDIST_WORKER") is None:
        print(f"\n{report.when} of {report.nodeid} failed:\n{report.longreprtext[-MOST_SAID:]}", flush=True)


@pytest.fixture(autouse=True)
def gauges_of_tests() -> None:
    """Simulated gauges of tests listen wherever there is room."""
    addresses.allow("127.0.0.1:1-65535")


@pytest.fixture(scope="session", autouse=True)
def quick_passwords() -> Iterator[PasswordHasher]:
    """Passwords are hashed cheaply here; what the shop uses is tested once, by its parameters."""
    usual, people._hasher = people._hasher, PasswordHasher(time_cost=1, memory_cost=8, parallelism=1)
    yield usual
    people._hasher = usual


@pytest.fixture(scope="session")
def server() -> Iterator[PrivateMariaDB]:
    where = SHARED_MEMORY if SHARED_MEMORY.is_dir() else None
    with tempfile.TemporaryDirectory(prefix="lark-test-", dir=where) as folder:
        database = PrivateMariaDB(Path(folder) / "db", free_port(), durable=False)
        database.create()
        database.start()
        try:
            yield database
        finally:
            database.stop()


@pytest.fixture(scope="session")
def engine(server: PrivateMariaDB) -> Iterator[Engine]:
    made = connect(server.url())
    migrate.upgrade(made)
    yield made
    made.dispose()


@pytest.fixture
def connection(engine: Engine) -> Iterator[Connection]:
    with engine.connect() as opened:
        transaction = opened.begin()
        yield opened
        transaction.rollback()


@pytest.fixture
def maker(connection: Connection) -> sessionmaker[Session]:
    return sessionmaker(connection, expire_on_commit=False, join_transaction_mode="create_savepoint")


@pytest.fixture
def session(maker: sessionmaker[Session]) -> Iterator[Session]:
    with maker() as opened:
        yield opened


@pytest.fixture(scope="session")
def common_folder(tmp_path_factory: pytest.TempPathFactory, worker_id: str) -> Path:
    """A folder for what is made once for all who test beside each other."""
    base = tmp_path_factory.getbasetemp()
    return base if worker_id == "master" else base.parent


@pytest.fixture(scope="session")
def demo_rows(server: PrivateMariaDB, common_folder: Path) -> Rows:
    """The demonstration, every row of it: loaded by the first to come, by running the application's own log."""
    kept = common_folder / "demonstration.rows"
    with open(kept.with_suffix(".lock"), "w", encoding="utf-8") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not kept.exists():
            server.make_database(DEMO_DATABASE)
            made = connect(server.url().set(database=DEMO_DATABASE))
            migrate.upgrade(made)
            with sessions(made)() as loading:
                scenario.load(loading, datetime.now(UTC))
                loading.commit()
            with rows.as_one_moment(made) as tables:
                told = (migrate.newest_revision(made), [(name, list(each)) for name, each in tables])
            made.dispose()
            kept.write_bytes(pickle.dumps(told))
    loaded: Rows = pickle.loads(kept.read_bytes())
    return loaded


@pytest.fixture(scope="session")
def demo_engine(server: PrivateMariaDB, demo_rows: Rows) -> Iterator[Engine]:
    """A database of its own with the demonstration in it."""
    server.make_database(DEMO_DATABASE)
    made = connect(server.url().set(database=DEMO_DATABASE))
    if migrate.current_revision(made) is None:
        rows.put_in(made, *demo_rows)
    yield made
    made.dispose()


@pytest.fixture
def demo_connection(demo_engine: Engine) -> Iterator[Connection]:
    with demo_engine.connect() as opened:
        transaction = opened.begin()
        yield opened
        transaction.rollback()


@pytest.fixture
def demo_maker(demo_connection: Connection) -> sessionmaker[Session]:
    """Sessions as the shop's, with the logs that they share: what one test has read is its own."""
    return sessionmaker(
        demo_connection, expire_on_commit=False, join_transaction_mode="create_savepoint", info={KNOWN: KnownLogs()}
    )


@pytest.fixture
def demo(demo_maker: sessionmaker[Session]) -> Iterator[Session]:
    with demo_maker() as opened:
        yield opened


@pytest.fixture
def statements(demo_engine: Engine) -> Callable[[], object]:
    """Count SQL statements, savepoints apart: ``with statements() as sent: ...; len(sent)``."""

    @contextmanager
    def counting() -> Iterator[list[str]]:
        sent: list[str] = []

        def note(_connection: object, _cursor: object, statement: str, *_: object) -> None:
            if "SAVEPOINT" not in statement:
                sent.append(statement)

        event.listen(demo_engine, "before_cursor_execute", note)
        try:
            yield sent
        finally:
            event.remove(demo_engine, "before_cursor_execute", note)

    return counting
