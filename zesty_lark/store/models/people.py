"""People, their roles, and how often someone has tried to sign in."""

from enum import StrEnum

from sqlalchemy import ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from zesty_lark.store.models.base import TABLE_OPTIONS, Base, Moment, ShortText, one_of


class Role(StrEnum):
    """What someone is in the shop."""

    MACHINIST = "machinist"
    LEAD = "lead"
    INSPECTOR = "inspector"
    APPRENTICE = "apprentice"


class Person(Base):
    """Someone in the shop. ``password_hash`` is empty for a person who cannot sign in."""

    __tablename__ = "person"
    __table_args__ = (one_of("role", Role), TABLE_OPTIONS)

    id: Mapped[int] = mapped_column(primary_key=True)
    sign_in_name: Mapped[str] = mapped_column(String(40), unique=True)
    name: Mapped[ShortText]
    role: Mapped[str] = mapped_column(String(20))
    password_hash: Mapped[str] = mapped_column(String(200), default="")
    active: Mapped[bool] = mapped_column(default=True)
    created_at: Mapped[Moment]
    version: Mapped[int] = mapped_column(default=1, server_default="1")

    __mapper_args__ = {"version_id_col": version}


class PersonChange(Base):
    """A name or a role that a lead gave somebody; never changed."""

    __tablename__ = "person_change"
    __table_args__ = (TABLE_OPTIONS,)

    id: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    at: Mapped[Moment]
    was_name: Mapped[ShortText]
    was_role: Mapped[str] = mapped_column(String(20))
    now_name: Mapped[ShortText]
    now_role: Mapped[str] = mapped_column(String(20))

    by: Mapped[Person] = relationship(lazy="joined", innerjoin=True, foreign_keys=[by_id])


class SignedIn(Base):
    """A browser that someone is signed in with. The cookie has the token, this its digest; without the row the cookie
    is worth nothing."""

    __tablename__ = "signed_in"
    __table_args__ = (TABLE_OPTIONS,)

    id: Mapped[int] = mapped_column(primary_key=True)
    token_digest: Mapped[str] = mapped_column(String(64), unique=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    began_at: Mapped[Moment]
    last_at: Mapped[Moment]
    address: Mapped[str] = mapped_column(String(45))
    browser: Mapped[str] = mapped_column(String(200))

    person: Mapped[Person] = relationship(lazy="joined", innerjoin=True)


class SignInAttempt(Base):
    """One try at signing in, kept to slow guessing down."""

    __tablename__ = "sign_in_attempt"
    __table_args__ = (
        Index("ix_sign_in_attempt_name_at", "sign_in_name", "at"),
        Index("ix_sign_in_attempt_address_at", "address", "at"),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    sign_in_name: Mapped[str] = mapped_column(String(40))
    address: Mapped[str] = mapped_column(String(45))
    succeeded: Mapped[bool]
    at: Mapped[Moment]
