"""The rack: wheels, the flanges they are on, and each wheel's log."""

from datetime import date
from decimal import Decimal
from typing import Any, ClassVar

from sqlalchemy import CheckConstraint, ForeignKey, Numeric, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from zesty_lark.core.things.shop import Wheel
from zesty_lark.core.wheel.flanges import FLANGE_KINDS, Flange
from zesty_lark.core.wheel.mounting import Mounted
from zesty_lark.store.models.base import TABLE_OPTIONS, Base, Length, ShortText, described, one_of


class FlangeRow(Base):
    """A flange, and what a wheel on it is balanced with."""

    describes: ClassVar[type[Flange]] = Flange
    __tablename__ = "flange"
    __table_args__ = (
        one_of("kind", FLANGE_KINDS),
        CheckConstraint("diameter_mm > 0 and spigot_mm > 0 and radius_mm > 0", name="figures"),
        CheckConstraint("holes is null or holes between 1 and 48", name="holes"),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(default=1, server_default="1")
    name: Mapped[ShortText] = mapped_column(String(80), unique=True)
    kind: Mapped[str] = mapped_column(String(10))
    diameter_mm: Mapped[Length]
    spigot_mm: Mapped[Length]
    radius_mm: Mapped[Length]
    holes: Mapped[int | None]
    masses: Mapped[str] = mapped_column(String(200), default="")

    __mapper_args__ = {"version_id_col": version}

    def to_core(self) -> Flange:
        """Return the flange as everything else knows it."""
        return described(self, Flange)


class WheelRow(Base):
    """A grinding wheel, what it is marked with [rpm] [m/s], and the lead who answers for it when it bears no mark.

    ``measured_mm`` is its diameter as somebody set it down, ``off_mm`` what dresses and shapes have taken off its
    radius since, ``ground_mm3`` what it has ground, ``scrapped`` whether it is out of use, ``mounted_on`` the machine
    that its log has it on, and ``next_step`` what its mounting takes next there: kept with the entries that say so, in
    one transaction.
    """

    describes: ClassVar[type[Wheel]] = Wheel
    __tablename__ = "wheel"
    __table_args__ = (
        CheckConstraint("diameter_mm > 0 and width_mm > 0 and bore_mm > 0 and bore_mm < diameter_mm", name="sizes"),
        CheckConstraint("(max_rpm is null or max_rpm > 0) and (max_m_s is null or max_m_s > 0)", name="max_rpm"),
        CheckConstraint("grit between 4 and 1200", name="grit"),
        CheckConstraint("grade regexp '^[A-Z]$'", name="grade"),
        CheckConstraint("off_mm >= 0 and 2 * off_mm < diameter_mm and ground_mm3 >= 0", name="use"),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(default=1, server_default="1")
    name: Mapped[ShortText] = mapped_column(String(80), unique=True)
    marking: Mapped[str] = mapped_column(String(40))
    grit: Mapped[int]
    grade: Mapped[str] = mapped_column(String(1))
    measured_mm: Mapped[Length] = mapped_column("diameter_mm")
    off_mm: Mapped[Length] = mapped_column(default=Decimal(0), server_default="0")
    width_mm: Mapped[Length]
    bore_mm: Mapped[Length]
    max_rpm: Mapped[int | None]
    max_m_s: Mapped[Decimal | None] = mapped_column(Numeric(6, 2))
    answered_by: Mapped[str | None] = mapped_column(String(80))
    new_diameter_mm: Mapped[Length | None]
    least_diameter_mm: Mapped[Length | None]
    price: Mapped[Decimal | None] = mapped_column(Numeric(10, 2))
    mass_g: Mapped[Decimal | None] = mapped_column(Numeric(9, 1))
    side_work: Mapped[bool] = mapped_column(default=False, server_default="0")
    use_by: Mapped[date | None]
    flange_id: Mapped[int | None] = mapped_column(ForeignKey("flange.id"))
    ground_mm3: Mapped[Decimal] = mapped_column(Numeric(18, 2), default=Decimal(0), server_default="0")
    scrapped: Mapped[bool] = mapped_column(default=False, server_default="0")

    mounted_on: Mapped[str | None] = mapped_column(String(80))
    next_step: Mapped[str | None] = mapped_column(String(20))

    flange: Mapped[FlangeRow | None] = relationship(lazy="joined")

    __mapper_args__ = {"version_id_col": version}

    def __init__(self, **given: Any) -> None:
        unused = {"off_mm": Decimal(0), "side_work": False, "scrapped": False, "ground_mm3": Decimal(0)}
        super().__init__(**unused | given)

    @property
    def diameter_mm(self) -> Decimal:
        """Its diameter now [mm]."""
        return self.measured_mm - 2 * self.off_mm

    @diameter_mm.setter
    def diameter_mm(self, mm: Decimal) -> None:
        """Set down what it measures; the same as it is now changes nothing."""
        if self.measured_mm is None or mm != self.diameter_mm:
            self.measured_mm, self.off_mm = mm, Decimal(0)

    def to_core(self) -> Wheel:
        """Return the wheel as everything else knows it."""
        return described(self, Wheel)

    def mounted(self) -> Mounted:
        """Return the wheel as its safety is checked."""
        return Mounted(
            self.name,
            self.marking,
            float(self.diameter_mm),
            self.max_rpm,
            None if self.max_m_s is None else float(self.max_m_s),
            self.answered_by or "",
            bool(self.scrapped),
            bool(self.side_work),
            self.use_by,
        )
