"""People and their passwords."""

from datetime import datetime

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerifyMismatchError
from sqlalchemy import select
from sqlalchemy.orm import Session

from zesty_lark.store import sign_ins
from zesty_lark.store.database import first
from zesty_lark.store.models import Person, PersonChange, SignedIn
from zesty_lark.store.models.people import Role

PASSWORD_LEAST_LENGTH = 10
CHANGES_SHOWN = 20
_hasher = PasswordHasher()
NOBODY = "$argon2id$v=19$m=65536,t=3,p=4$5hin2N/ROZ/fUcdmTXpt7g$CTdSEmGcbGJjHJK+tsRqktR0V81T6Y9kHImKoL0QBb8"
"""The hash of something random that nobody kept. Checked when the name is unknown, so that an unknown name takes as
long as a wrong password."""


class NameTaken(ValueError):
    """Someone signs in by this name already."""


class NoLead(ValueError):
    """The shop would be left without a lead."""


class NoPassword(ValueError):
    """Someone without a password cannot be let in."""


def anyone(session: Session) -> bool:
    """Tell whether there is any person yet."""
    return first(session, select(Person.id)) is not None


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
        active=password is not None,
        password_hash=_hasher.hash(password) if password else "",
    )
    session.add(person)
    session.flush()
    return person


def change(session: Session, person: Person, *, name: str, role: Role, by: Person, at: datetime) -> bool:
    """Give a person another name or role, and keep who did so; in another role they sign in anew. Returns whether
    anything changed.

    Raises
    ------
    NoLead
        If the shop would have no lead left who can sign in.
    """
    was, now = (person.name, person.role), (name.strip(), role.value)
    if was == now:
        return False
    others = select(Person.id).where(Person.role == Role.LEAD, Person.active, Person.id != person.id)
    if person.role == Role.LEAD and role != Role.LEAD and first(session, others) is None:
        raise NoLead(f"{person.name} is the only lead here. Make somebody else a lead first.")
    session.add(
        PersonChange(
            person_id=person.id, by_id=by.id, at=at, was_name=was[0], was_role=was[1], now_name=now[0], now_role=now[1]
        )
    )
    person.name, person.role = now
    session.flush()
    if was[1] != now[1]:
        sign_ins.end_all(session, person)
    return True


def changes(session: Session) -> list[PersonChange]:
    """Return the newest changes of names and roles, the newest first."""
    return list(session.scalars(select(PersonChange).order_by(PersonChange.id.desc()).limit(CHANGES_SHOWN)))


def set_password(session: Session, person: Person, password: str, *, but: SignedIn | None = None) -> None:
    """Give a person a new password; every sign-in of theirs ends, ``but`` one. Whoever is shut out stays so."""
    person.password_hash = _hasher.hash(password)
    sign_ins.end_all(session, person, but=but)


def is_right(person: Person, password: str) -> bool:
    """Tell whether this is the person's password."""
    return bool(person.password_hash) and _matches(person.password_hash, password)


def let_in(person: Person) -> None:
    """Let a person sign in again; no sign-in of before comes back.

    Raises
    ------
    NoPassword
        If they have no password yet.
    """
    if not person.password_hash:
        raise NoPassword(f"{person.name} has no password yet: set one, then let them in.")
    person.active = True


def shut_out(session: Session, person: Person) -> None:
    """Keep a person from signing in, and end every sign-in of theirs; the record stays."""
    person.active = False
    sign_ins.end_all(session, person)


def matching(session: Session, sign_in_name: str, password: str) -> Person | None:
    """Return the person if name and password go together and they may sign in; it takes as long when they do not."""
    person = by_sign_in_name(session, sign_in_name)
    known = person is not None and person.active and bool(person.password_hash)
    right = _matches(person.password_hash if person is not None and known else NOBODY, password) and known
    if not right or person is None:
        return None
    if _hasher.check_needs_rehash(person.password_hash):
        person.password_hash = _hasher.hash(password)
    return person


def _matches(password_hash: str, password: str) -> bool:
    try:
        return _hasher.verify(password_hash, password)
    except (VerifyMismatchError, InvalidHashError):
        return False
