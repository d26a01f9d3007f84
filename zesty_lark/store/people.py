"""People: signing in, and how guessing is slowed down."""

import secrets
from datetime import datetime, timedelta

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerifyMismatchError
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from zesty_lark.store.models import Person, SignInAttempt
from zesty_lark.store.models.people import Role

__all__ = [
    "PASSWORD_LEAST_LENGTH",
    "NameTaken",
    "add_person",
    "anyone",
    "by_id",
    "by_sign_in_name",
    "everyone",
    "set_password",
    "sign_in",
    "throttled",
]

PASSWORD_LEAST_LENGTH = 10
FAILURES_ALLOWED = 5
FAILURES_ALLOWED_FROM_ADDRESS = 30
THROTTLE = timedelta(minutes=10)

_hasher = PasswordHasher()
_NOBODY = _hasher.hash(secrets.token_urlsafe(16))
"""Checked when the name is unknown, so that an unknown name takes as long as a wrong password."""


class NameTaken(ValueError):
    """Someone signs in by this name already."""


def anyone(session: Session) -> bool:
    """Tell whether there is any person yet."""
    return session.scalar(select(Person.id).limit(1)) is not None


def everyone(session: Session) -> list[Person]:
    """Return all people by name."""
    return list(session.scalars(select(Person).order_by(Person.name)))


def by_id(session: Session, person_id: int) -> Person | None:
    """Return a person by key."""
    return session.get(Person, person_id)


def by_sign_in_name(session: Session, sign_in_name: str) -> Person | None:
    """Return the person who signs in by a name."""
    return session.scalar(select(Person).where(Person.sign_in_name == sign_in_name.strip().lower()))


def add_person(
    session: Session, *, sign_in_name: str, name: str, role: Role, password: str | None, at: datetime
) -> Person:
    """Add a person; without a password they cannot sign in.

    Raises
    ------
    NameTaken
        If the sign-in name is in use.
    """
    if by_sign_in_name(session, sign_in_name) is not None:
        raise NameTaken(f"Someone signs in as “{sign_in_name}” already.")
    person = Person(
        sign_in_name=sign_in_name.strip().lower(),
        name=name.strip(),
        role=role.value,
        created_at=at,
        session_stamp=secrets.token_hex(16),
        active=password is not None,
        password_hash=_hasher.hash(password) if password else "",
    )
    session.add(person)
    session.flush()
    return person


def set_password(person: Person, password: str) -> None:
    """Give a person a new password; every sign-in of theirs ends."""
    person.password_hash = _hasher.hash(password)
    person.session_stamp = secrets.token_hex(16)
    person.active = True


def throttled(session: Session, sign_in_name: str, address: str, now: datetime) -> bool:
    """Tell whether there were too many failures lately, for this name from this address or from the address at all."""
    since = now - THROTTLE
    name = sign_in_name.strip().lower()[:40]
    last_success = select(func.coalesce(func.max(SignInAttempt.at), since)).where(
        SignInAttempt.sign_in_name == name, SignInAttempt.address == address, SignInAttempt.succeeded
    )
    by_name = select(func.count()).where(
        SignInAttempt.sign_in_name == name,
        SignInAttempt.address == address,
        SignInAttempt.succeeded.is_(False),
        SignInAttempt.at > since,
        SignInAttempt.at >= last_success.scalar_subquery(),
    )
    by_address = select(func.count()).where(
        SignInAttempt.address == address, SignInAttempt.succeeded.is_(False), SignInAttempt.at > since
    )
    return (
        session.scalars(by_name).one() >= FAILURES_ALLOWED
        or session.scalars(by_address).one() >= FAILURES_ALLOWED_FROM_ADDRESS
    )


def sign_in(session: Session, sign_in_name: str, password: str, address: str, *, now: datetime) -> Person | None:
    """Return the person if name and password are right; the attempt is kept either way."""
    person = by_sign_in_name(session, sign_in_name)
    known = person is not None and person.active and bool(person.password_hash)
    right = _matches(person.password_hash if person is not None and known else _NOBODY, password) and known
    session.add(SignInAttempt(sign_in_name=sign_in_name.strip().lower()[:40], address=address, succeeded=right, at=now))
    session.flush()
    if right and person is not None and _hasher.check_needs_rehash(person.password_hash):
        person.password_hash = _hasher.hash(password)
    return person if right else None


def _matches(password_hash: str, password: str) -> bool:
    try:
        return _hasher.verify(password_hash, password)
    except (VerifyMismatchError, InvalidHashError):
        return False
