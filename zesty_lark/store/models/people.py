"""People, their roles, and how often someone has tried to sign in."""

from enum import StrEnum

from sqlalchemy import Index, String
from sqlalchemy.orm import Mapped, mapped_column

from zesty_lark.store.models.base import TABLE_OPTIONS, Base, Moment, ShortText, one_of

__all__ = ["Person", "Role", "SignInAttempt"]


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
    session_stamp: Mapped[str] = mapped_column(String(32))
    active: Mapped[bool] = mapped_column(default=True)
    created_at: Mapped[Moment]


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
