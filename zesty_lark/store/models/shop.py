"""What stands in the shop: machines with their chucks, wheels, fixtures, instruments."""

import json
from datetime import date
from decimal import Decimal

from sqlalchemy import CheckConstraint, ForeignKey, Numeric, String, Text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from zesty_lark.core.machine import Machine, Wheel
from zesty_lark.core.measure.thickness import Gauge
from zesty_lark.core.route.relations import FixtureFacts
from zesty_lark.core.sequence import SCHOOLS_OF_SQUARENESS
from zesty_lark.store.models.base import TABLE_OPTIONS, Base, Length, Moment, ShortText, one_of

__all__ = ["Chuck", "ChuckMap", "Fixture", "Instrument", "MachineRow", "WheelRow"]


class MachineRow(Base):
    """A surface grinder; the fields of ``core.machine.Machine`` and what the safety of it needs."""

    __tablename__ = "machine"
    __table_args__ = (
        one_of("dial_unit", ("mm", "in")),
        one_of("wheel_turns", ("clockwise", "counter-clockwise")),
        one_of("feed_every", ("stroke", "pair")),
        one_of("coolant", ("dry", "mist", "water", "oil")),
        CheckConstraint("graduation_mm > 0 and per_rev_mm >= graduation_mm", name="collar"),
        CheckConstraint("crossfeed_graduation_mm > 0 and crossfeed_min_mm > 0 and crossfeed_max_mm >= crossfeed_min_mm",
                        name="crossfeed"),
        CheckConstraint("table_min_mm_s > 0 and table_max_mm_s >= table_min_mm_s", name="table_speed"),
        CheckConstraint("cut_ratio > 0 and cut_ratio <= 1", name="cut_ratio"),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[ShortText] = mapped_column(String(80), unique=True)
    dial_unit: Mapped[str] = mapped_column(String(2))
    graduation_mm: Mapped[Length]
    per_rev_mm: Mapped[Length]
    backlash_mm: Mapped[Length]
    crossfeed_graduation_mm: Mapped[Length]
    crossfeed_min_mm: Mapped[Length]
    crossfeed_max_mm: Mapped[Length]
    table_min_mm_s: Mapped[Length]
    table_max_mm_s: Mapped[Length]
    reversal_s: Mapped[Decimal] = mapped_column(Numeric(6, 3))
    travel_long_mm: Mapped[Length]
    travel_cross_mm: Mapped[Length]
    height_mm: Mapped[Length]
    spindle_w: Mapped[int]
    rpm: Mapped[int]
    wheel_turns: Mapped[str] = mapped_column(String(20))
    feed_every: Mapped[str] = mapped_column(String(10))
    coolant: Mapped[str] = mapped_column(String(10))
    cut_ratio: Mapped[Decimal] = mapped_column(Numeric(5, 4))

    chuck: Mapped["Chuck | None"] = relationship(back_populates="machine")

    def to_core(self) -> Machine:
        """Return the machine as planning sees it."""
        return Machine(
            dial_unit="in" if self.dial_unit == "in" else "mm",
            graduation_mm=self.graduation_mm, per_rev_mm=self.per_rev_mm, backlash_mm=self.backlash_mm,
            crossfeed_graduation_mm=self.crossfeed_graduation_mm, crossfeed_min_mm=self.crossfeed_min_mm,
            crossfeed_max_mm=self.crossfeed_max_mm, table_min_mm_s=self.table_min_mm_s,
            table_max_mm_s=self.table_max_mm_s, reversal_s=float(self.reversal_s),
            travel_long_mm=self.travel_long_mm, travel_cross_mm=self.travel_cross_mm, height_mm=self.height_mm,
            cut_ratio=float(self.cut_ratio), feed_every="pair" if self.feed_every == "pair" else "stroke",
            coolant=self.coolant,  # type: ignore[arg-type]
        )


class WheelRow(Base):
    """A grinding wheel."""

    __tablename__ = "wheel"
    __table_args__ = (
        CheckConstraint("diameter_mm > 0 and width_mm > 0 and bore_mm > 0 and bore_mm < diameter_mm", name="sizes"),
        CheckConstraint("max_rpm > 0", name="max_rpm"),
        CheckConstraint("grit between 4 and 1200", name="grit"),
        CheckConstraint("grade regexp '^[A-Z]$'", name="grade"),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[ShortText] = mapped_column(String(80), unique=True)
    marking: Mapped[str] = mapped_column(String(40))
    grit: Mapped[int]
    grade: Mapped[str] = mapped_column(String(1))
    diameter_mm: Mapped[Length]
    width_mm: Mapped[Length]
    bore_mm: Mapped[Length]
    max_rpm: Mapped[int]

    def to_core(self) -> Wheel:
        """Return the wheel as planning sees it."""
        return Wheel(diameter_mm=self.diameter_mm, width_mm=self.width_mm, grit=self.grit, grade=self.grade)


class Instrument(Base):
    """A gauge and what it brings to the uncertainty."""

    __tablename__ = "instrument"
    __table_args__ = (
        CheckConstraint("resolution_mm > 0 and error_limit_mm >= 0 and calibration_u_mm >= 0 and repeatability_mm >= 0",
                        name="figures"),
        CheckConstraint("least_mm >= 0 and most_mm > least_mm", name="measuring_range"),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
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

    def to_core(self, today: date) -> Gauge:
        """Return the gauge as measuring sees it on a day."""
        return Gauge(
            resolution_mm=self.resolution_mm, error_limit_mm=self.error_limit_mm,
            calibration_u_mm=self.calibration_u_mm, repeatability_mm=self.repeatability_mm,
            overdue=today > self.due_on,
        )


class Chuck(Base):
    """The magnetic chuck on a machine: its size, its pull, and whether a pull test of the shop's own has shown that."""

    __tablename__ = "chuck"
    __table_args__ = (CheckConstraint("length_mm > 0 and width_mm > 0 and pull_n_cm2 >= 0", name="figures"), TABLE_OPTIONS)

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[ShortText] = mapped_column(String(80), unique=True)
    machine_id: Mapped[int] = mapped_column(ForeignKey("machine.id"), unique=True)
    length_mm: Mapped[Length]
    width_mm: Mapped[Length]
    pull_n_cm2: Mapped[Decimal] = mapped_column(Numeric(7, 2))
    pull_tested: Mapped[bool] = mapped_column(default=False)

    machine: Mapped[MachineRow] = relationship(back_populates="chuck", lazy="joined", innerjoin=True)
    maps: Mapped[list["ChuckMap"]] = relationship(lazy="selectin", order_by="ChuckMap.taken_at", cascade="all, delete-orphan")

    @property
    def newest_map(self) -> "ChuckMap | None":
        """The last map taken of it."""
        return self.maps[-1] if self.maps else None


class ChuckMap(Base):
    """A map of a chuck: points [[x mm, y mm, z µm], …] in the machine's frame."""

    __tablename__ = "chuck_map"
    __table_args__ = (TABLE_OPTIONS,)

    id: Mapped[int] = mapped_column(primary_key=True)
    chuck_id: Mapped[int] = mapped_column(ForeignKey("chuck.id"))
    taken_at: Mapped[Moment]
    points: Mapped[str] = mapped_column(Text)

    def to_core(self) -> list[list[float]]:
        """Return the points."""
        points: list[list[float]] = json.loads(self.points)
        return points


class Fixture(Base):
    """A fixture: what it is, how far out of square over which length, how it seats, and its base on the magnet."""

    __tablename__ = "fixture"
    __table_args__ = (
        one_of("kind", SCHOOLS_OF_SQUARENESS),
        CheckConstraint("square_mm >= 0 and over_mm > 0 and seating_mm >= 0 and base_length_mm > 0 and base_width_mm > 0",
                        name="figures"),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[ShortText] = mapped_column(String(80), unique=True)
    kind: Mapped[str] = mapped_column(String(20))
    square_mm: Mapped[Length]
    over_mm: Mapped[Length]
    seating_mm: Mapped[Length]
    base_length_mm: Mapped[Length]
    base_width_mm: Mapped[Length]
    checked_on: Mapped[date | None]

    def to_core(self) -> FixtureFacts:
        """Return the fixture as the error chain sees it."""
        return FixtureFacts(self.name, self.kind, float(self.square_mm * 1000), float(self.over_mm),
                            float(self.seating_mm * 1000), float(self.base_length_mm), float(self.base_width_mm))
