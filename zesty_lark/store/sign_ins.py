"""Who is signed in, in which browser; a sign-in is over when its row is gone, whatever cookie says otherwise."""

import hashlib
import secrets
from collections.abc import Collection
from datetime import datetime, timedelta

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from zesty_lark.store.models import Person, SignedIn

FORGOTTEN = timedelta(days=30)
"""After so long unused a sign-in is not even listed."""
MOST_LISTED = 200
SEEN_EVERY = timedelta(minutes=5)
"""How often it is noted that someone is still there."""


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def begin(session: Session, person: Person, *, address: str, browser: str, now: datetime) -> str:
    """Sign a person in, and forget what was long unused; return the token that their browser shows from now on."""
    session.execute(delete(SignedIn).where(SignedIn.last_at < now - FORGOTTEN))
    token = secrets.token_urlsafe(32)
    session.add(
        SignedIn(
            token_digest=_digest(token),
            person=person,
            began_at=now,
            last_at=now,
            address=address[:45],
            browser=browser[:200],
        )
    )
    session.flush()
    return token


def of_token(session: Session, token: str, *, now: datetime, idle: timedelta) -> SignedIn | None:
    """Return the sign-in that a token belongs to; ``None`` when it has ended, was idle too long, or its person is shut
    out."""
    found = session.scalar(select(SignedIn).where(SignedIn.token_digest == _digest(token)))
    if found is None or not found.person.active or now - found.last_at > idle:
        return None
    if now - found.last_at > SEEN_EVERY:
        found.last_at = now
    return found


def of_person(session: Session, person: Person) -> list[SignedIn]:
    """Return a person's sign-ins, the newest first."""
    return list(
        session.scalars(select(SignedIn).where(SignedIn.person_id == person.id).order_by(SignedIn.last_at.desc()))
    )


def everybody(session: Session, *, since: datetime) -> list[SignedIn]:
    """Return the sign-ins that were used since a moment, person by person, the newest first."""
    query = select(SignedIn).join(Person).where(SignedIn.last_at > since)
    return list(session.scalars(query.order_by(Person.name, SignedIn.last_at.desc()).limit(MOST_LISTED)))


def still(session: Session, keys: Collection[int]) -> dict[int, str]:
    """Return which sign-ins still hold, with the role of whose they are."""
    query = select(SignedIn.id, Person.role).join(Person).where(SignedIn.id.in_(keys), Person.active)
    return {key: role for key, role in session.execute(query)}


def end(session: Session, person: Person, key: int) -> bool:
    """End one of a person's sign-ins; return whether there was such a one."""
    found = session.get(SignedIn, key)
    if found is None or found.person_id != person.id:
        return False
    session.delete(found)
    session.flush()
    return True


def end_all(session: Session, person: Person, *, but: SignedIn | None = None) -> None:
    """End every sign-in of a person, ``but`` one."""
    kept = -1 if but is None else but.id
    session.execute(delete(SignedIn).where(SignedIn.person_id == person.id, SignedIn.id != kept))
