"""The engine and its sessions."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, TypeVar

from sqlalchemy import URL, Engine, Select, create_engine, event, make_url, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from zesty_lark.settings import is_loopback
from zesty_lark.store.connection import QuickConnection
from zesty_lark.store.known_logs import KNOWN, KnownLogs

Found = TypeVar("Found")


def connect(url: str | URL, *, pool_size: int = 5) -> Engine:
    """Return an engine for a MariaDB; connections are checked before use, so a restarted server is no error. What never
    leaves this machine is not encrypted, unless its address asks for that; what does is, where the server can."""
    where = make_url(url)
    plain = (where.host is None or is_loopback(where.host)) and not any(each.startswith("ssl") for each in where.query)
    engine = create_engine(
        where,
        pool_pre_ping=True,
        pool_size=pool_size,
        max_overflow=5,
        pool_recycle=1800,
        isolation_level="READ COMMITTED",
        hide_parameters=True,  # what people typed has no place in a log of errors
        connect_args={"connect_timeout": 5, "read_timeout": 30, "write_timeout": 30, "ssl_disabled": plain},
    )
    event.listen(engine, "do_connect", _connected)
    return engine


def _connected(_dialect: object, _record: object, _by_place: object, wanted: dict[str, Any]) -> QuickConnection:
    return QuickConnection(**wanted)


def sessions(engine: Engine) -> sessionmaker[Session]:
    """Return the maker of sessions; loaded rows stay readable after the commit, and folded logs are kept for all of
    them."""
    return sessionmaker(engine, expire_on_commit=False, info={KNOWN: KnownLogs()})


def first(session: Session, found: Select[Found]) -> Found | None:
    """Return the first of what is asked for, or ``None``; no more of it is read."""
    return session.scalar(found.limit(1))


STEP_SECONDS = 10


@contextmanager
def alone(engine: Engine, most_seconds: int) -> Iterator[bool]:
    """Keep every other machine from changing the tables meanwhile; gives whether that was granted in time."""
    with engine.connect() as connection:
        name = text("concat('zesty_lark ', database())")
        ask = text(f"select get_lock({name}, {STEP_SECONDS})")
        granted = any(connection.execute(ask).scalar() == 1 for _ in range(0, most_seconds, STEP_SECONDS))
        try:
            yield granted
        finally:
            connection.execute(text(f"select release_lock({name})"))


def answers(session: Session) -> bool:
    """Tell whether the database answers."""
    try:
        return bool(session.scalar(text("select 1")))
    except DBAPIError:
        return False
