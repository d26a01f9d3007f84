"""Guessing passwords is slowed down: every try is counted before it is checked, and waits grow.

Tries count by name and address together, so that nobody's wrong passwords lock out another's right one; and by address
alone, for who tries many names; and by name alone, for who comes from many addresses. From an address where a name has
signed in before only its own tries count, and more of them are free: at a shared terminal others' guesses keep nobody
out.
"""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import ColumnElement, delete, func, select, text
from sqlalchemy.orm import Session

from zesty_lark.store.database import first
from zesty_lark.store.models import SignInAttempt

FREE = {"both": 4, "address": 29, "name": 99, "known": 29}
"""Wrong tries before a wait, lately: by name and address, by address, by name; by name where that name has signed in
before, whatever else was tried there."""
FIRST_WAIT, LONGEST_WAIT = timedelta(seconds=2), timedelta(minutes=10)
LATELY = timedelta(minutes=30)
KEPT = timedelta(days=60)
AHEAD = timedelta(minutes=1)
"""Tries that lie further ahead than this were made before the clock was set back, and no longer count."""
ONE_AT_A_TIME = text("select version_num from alembic_version for update")
"""Held until the try is written for all to see: the one row that every shop has, and nobody changes while it serves.
Of two tries at the same moment the second would not see the first otherwise, and with enough of them all were free."""


@dataclass(frozen=True)
class Try:
    """A try that was counted. While ``wait`` is over nothing, its password is not looked at."""

    row: SignInAttempt | None
    wait: timedelta


def count(session: Session, sign_in_name: str, address: str, now: datetime) -> Try:
    """Count a try, for good, before anybody looks at its password; tries are counted one after the other."""
    name, address = sign_in_name.strip().lower()[:40], address[:45]
    session.execute(ONE_AT_A_TIME)
    wait = _wait(session, name, address, now)
    row = None
    if wait == timedelta(0):
        row = SignInAttempt(sign_in_name=name, address=address, succeeded=False, at=now)
        session.add(row)
    session.commit()
    return Try(row, wait)


def succeeded(session: Session, counted: Try, now: datetime) -> None:
    """The password of a counted try was right; what is old is forgotten."""
    assert counted.row is not None
    counted.row.succeeded = True
    session.execute(delete(SignInAttempt).where(SignInAttempt.at < now - KEPT))


def _wait(session: Session, name: str, address: str, now: datetime) -> timedelta:
    """How long to wait before the next try."""
    by_name, by_address = SignInAttempt.sign_in_name == name, SignInAttempt.address == address
    known = first(session, select(SignInAttempt.id).where(by_name, by_address, SignInAttempt.succeeded))
    here = (by_name, by_address)
    since = _last_success(session, here)
    if known is not None:  # others who guess at this terminal keep nobody out who works at it
        return _for(session, here, FREE["known"], now=now, since=since)
    return max(
        _for(session, here, FREE["both"], now=now, since=since),
        _for(session, (by_address,), FREE["address"], now=now),
        _for(session, (by_name,), FREE["name"], now=now),
    )


def _last_success(session: Session, where: tuple[ColumnElement[bool], ...]) -> datetime | None:
    moment: datetime | None = session.scalar(select(func.max(SignInAttempt.at)).where(*where, SignInAttempt.succeeded))
    return moment


def _for(
    session: Session, where: tuple[ColumnElement[bool], ...], free: int, *, now: datetime, since: datetime | None = None
) -> timedelta:
    begin = max(now - LATELY, since) if since is not None else now - LATELY
    wrong: Any = [SignInAttempt.succeeded.is_(False), SignInAttempt.at > begin, SignInAttempt.at <= now + AHEAD, *where]
    failures: int
    last: datetime | None
    failures, last = session.execute(select(func.count(), func.max(SignInAttempt.at)).where(*wrong)).one()
    if failures <= free or last is None:
        return timedelta(0)
    wait: timedelta = min(FIRST_WAIT * 2 ** min(failures - free - 1, 30), LONGEST_WAIT)
    return min(wait, max(timedelta(0), last + wait - now))
