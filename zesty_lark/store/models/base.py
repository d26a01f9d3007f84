"""Column types that hold for every table: exact lengths, aware UTC times."""

from collections.abc import Iterable
from datetime import UTC, datetime
from decimal import Decimal
from typing import Annotated, Any, TypeVar

from pydantic import ValidationError
from sqlalchemy import CheckConstraint, Dialect, MetaData, Numeric, String
from sqlalchemy.dialects.mysql import DATETIME
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column
from sqlalchemy.types import TypeDecorator

from zesty_lark.core.quantities.refusals import refusals
from zesty_lark.core.things.shop import Thing, field_names

TABLE_OPTIONS = {"mariadb_engine": "InnoDB", "mariadb_charset": "utf8mb4", "mariadb_collate": "utf8mb4_unicode_ci"}


class ExactLength(TypeDecorator[Decimal]):
    """DECIMAL(14,7) millimetres. What would not fit exactly is refused, since the database rounds in silence."""

    impl = Numeric(14, 7)
    cache_ok = True

    def process_bind_param(self, value: Decimal | None, dialect: Dialect) -> Decimal | None:
        """Pass an exact length on; raise ``ValueError`` for a float or too fine a value."""
        if value is None:
            return None
        if not isinstance(value, Decimal):
            raise ValueError(f"a length must be an exact decimal, not {value!r}")
        if value != round(value, 7) or abs(value) >= Decimal(10_000_000):
            raise ValueError(f"{value} mm cannot be kept exactly")
        return value


class UtcMoment(TypeDecorator[datetime]):
    """DATETIME(6) in UTC, aware in Python."""

    impl = DATETIME(fsp=6)
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        """Store a moment in UTC; raise ``ValueError`` for one without a zone."""
        if value is None:
            return None
        if value.tzinfo is None:
            raise ValueError("a moment needs its time zone")
        return value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value: Any | None, dialect: Dialect) -> datetime | None:
        """Give a moment back with its zone."""
        return None if value is None else value.replace(tzinfo=UTC)


Length = Annotated[Decimal, mapped_column(ExactLength)]
Moment = Annotated[datetime, mapped_column(UtcMoment)]
ShortText = Annotated[str, mapped_column(String(80))]


class Base(DeclarativeBase):
    """All tables; constraints are named so that migrations can find them."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(column_0_label)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "ck": "ck_%(table_name)s_%(constraint_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s",
            "pk": "pk_%(table_name)s",
        }
    )


class OnceRow:
    """A row that a press makes: the sender's id of it, and a digest of what was posted with it. Sent again it is known
    by both."""

    entry_id: Mapped[str] = mapped_column(String(36), unique=True)
    digest: Mapped[str | None] = mapped_column(String(32))


Kind = TypeVar("Kind", bound=Thing)


class KeptInError(ValueError):
    """A thing was kept that cannot be; ``row`` is it, the message says what of it has to be mended."""

    def __init__(self, row: Any, error: ValidationError) -> None:
        said = "; ".join(f"{each.where}: {each.words}" for each in refusals(error))
        super().__init__(f"{row.name} cannot be worked with as it was kept: {said}.")
        self.row = row


def described(row: object, kind: type[Kind]) -> Kind:
    """Return a row as the checked type that everything above knows: its fields by name.

    Raises
    ------
    KeptInError
        If it is none; it can still be opened and mended where it was kept.
    """
    try:
        return kind(**{name: getattr(row, name) for name in field_names(kind)})
    except ValidationError as error:
        raise KeptInError(row, error) from error


def one_of(column: str, choices: Iterable[str]) -> CheckConstraint:
    """Return a check that a column holds one of the choices."""
    listed = ", ".join(f"'{choice}'" for choice in choices)
    return CheckConstraint(f"`{column}` in ({listed})", name=column)
