"""Benchmarks run on the demonstration, served by the same application, on a durable MariaDB of their own."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from pydantic import SecretStr
from sqlalchemy import Engine

from tests.browser.conftest import demo_home
from tests.conftest import Rows, common_folder, demo_rows, server
from tests.web.conftest import Browser
from zesty_lark.running.mariadb import PrivateMariaDB, free_port
from zesty_lark.settings import Settings
from zesty_lark.store import rows
from zesty_lark.store.database import connect
from zesty_lark.web.factory import create_app

__all__ = ["common_folder", "demo_home", "demo_rows", "server"]


@pytest.fixture(scope="session")
def engine(tmp_path_factory: pytest.TempPathFactory, demo_rows: Rows) -> Iterator[Engine]:
    database = PrivateMariaDB(tmp_path_factory.mktemp("db"), free_port())
    database.create()
    database.start()
    made = connect(database.url())
    rows.put_in(made, *demo_rows)
    yield made
    made.dispose()
    database.stop()


@pytest.fixture(scope="session")
def bryn(engine: Engine, tmp_path_factory: pytest.TempPathFactory) -> Browser:
    home: Path = tmp_path_factory.mktemp("home")
    app = create_app(Settings(home=home, secret=SecretStr("a secret that is long enough to bench")), engine)
    return Browser(app.test_client()).sign_in("bryn")
