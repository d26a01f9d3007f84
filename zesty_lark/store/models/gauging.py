"""What gauges were found to do: repeated readings, zero, direction."""

from sqlalchemy import ForeignKey, Index, String, Text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from zesty_lark.store.models.base import TABLE_OPTIONS, Base, Moment, OnceRow, one_of
from zesty_lark.store.models.people import Person

CHECK_KINDS = ("repeat", "zero", "direction")


class GaugeCheckRow(OnceRow, Base):
    """A check of a gauge: the same point lifted and replaced, its zero, which way it reads; what was read [µm], whether
    it was good, and in words. None is ever changed."""

    __tablename__ = "gauge_check"
    __table_args__ = (
        one_of("kind", CHECK_KINDS),
        Index("ix_gauge_check_instrument", "instrument_id", "id"),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    instrument_id: Mapped[int] = mapped_column(ForeignKey("instrument.id"))
    kind: Mapped[str] = mapped_column(String(10))
    readings: Mapped[str] = mapped_column(Text)
    good: Mapped[bool]
    words: Mapped[str] = mapped_column(String(300))
    at: Mapped[Moment]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))

    by: Mapped[Person] = relationship(lazy="joined", innerjoin=True)
