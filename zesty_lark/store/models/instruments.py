"""Gauges, and how they are connected."""

from datetime import date
from typing import ClassVar

from sqlalchemy import CheckConstraint, String
from sqlalchemy.orm import Mapped, mapped_column

from zesty_lark.core.measure.instruments import READS, SENDS, Instrument
from zesty_lark.store.models.base import TABLE_OPTIONS, Base, Length, ShortText, described, one_of


class InstrumentRow(Base):
    """A gauge, what it brings to the uncertainty, and how it is connected."""

    describes: ClassVar[type[Instrument]] = Instrument
    __tablename__ = "instrument"
    __table_args__ = (
        CheckConstraint(
            "resolution_mm > 0 and error_limit_mm >= 0 and calibration_u_mm >= 0 and repeatability_mm >= 0",
            name="figures",
        ),
        CheckConstraint("least_mm >= 0 and most_mm > least_mm", name="measuring_range"),
        one_of("reads", READS),
        one_of("sends", SENDS),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(default=1, server_default="1")
    name: Mapped[ShortText] = mapped_column(String(80), unique=True)
    unit: Mapped[str] = mapped_column(String(2))
    least_mm: Mapped[Length]
    most_mm: Mapped[Length]
    resolution_mm: Mapped[Length]
    error_limit_mm: Mapped[Length]
    calibration_u_mm: Mapped[Length]
    repeatability_mm: Mapped[Length]
    calibrated_on: Mapped[date]
    due_on: Mapped[date]
    reads: Mapped[str] = mapped_column(String(10), default="sizes", server_default="sizes")
    port: Mapped[str | None] = mapped_column(String(200))
    baud: Mapped[int] = mapped_column(default=9600, server_default="9600")
    sends: Mapped[str] = mapped_column(String(2), default="mm", server_default="mm")
    asks: Mapped[str] = mapped_column(String(20), default="", server_default="")
    falls: Mapped[bool] = mapped_column(default=False, server_default="0")
    simulated: Mapped[bool] = mapped_column(default=False, server_default="0")
    streams: Mapped[bool] = mapped_column(default=False, server_default="0")

    __mapper_args__ = {"version_id_col": version}

    def to_core(self) -> Instrument:
        """Return the instrument as everything else knows it."""
        return described(self, Instrument)
