"""What the log has taught of machines and wheels: kept with the entry that told it, in the same transaction."""

from decimal import Decimal

from sqlalchemy import CheckConstraint, ForeignKey, Index, Numeric, String
from sqlalchemy.orm import Mapped, mapped_column

from zesty_lark.core.work.learned import TIMED, WORK_KINDS
from zesty_lark.store.models.base import TABLE_OPTIONS, Base, Length, one_of


class LearnedRun(Base):
    """η of one wipe as a run told it, by the entry that measured it: what is learned stays with the machine, the wheel
    that was on, and the kind of work."""

    __tablename__ = "learned_run"
    __table_args__ = (
        Index("ix_learned_run_of", "machine_id", "wheel_id", "seq"),
        CheckConstraint("eta > 0 and eta < 1", name="eta"),
        one_of("work", WORK_KINDS),
        TABLE_OPTIONS,
    )

    seq: Mapped[int] = mapped_column(ForeignKey("log_entry.seq"), primary_key=True, autoincrement=False)
    machine_id: Mapped[int] = mapped_column(ForeignKey("machine.id"))
    wheel_id: Mapped[int] = mapped_column(ForeignKey("wheel.id"))
    work: Mapped[str] = mapped_column(String(10), default="magnet", server_default="magnet")
    eta: Mapped[Decimal] = mapped_column(Numeric(6, 5))


class SizeRun(Base):
    """What was asked and got between two measurements of a size: what the springs had back by the model, what was
    ground off, and whether it began with a touch-off."""

    __tablename__ = "size_run"
    __table_args__ = (
        Index("ix_size_run_of", "machine_id", "wheel_id", "seq"),
        one_of("work", WORK_KINDS),
        TABLE_OPTIONS,
    )

    seq: Mapped[int] = mapped_column(ForeignKey("log_entry.seq"), primary_key=True, autoincrement=False)
    machine_id: Mapped[int] = mapped_column(ForeignKey("machine.id"))
    wheel_id: Mapped[int] = mapped_column(ForeignKey("wheel.id"))
    work: Mapped[str] = mapped_column(String(10))
    asked_mm: Mapped[Length]
    got_mm: Mapped[Length]
    held_back_mm: Mapped[Length]
    volume_mm3: Mapped[Decimal] = mapped_column(Numeric(16, 2))
    fresh: Mapped[bool]


class LearnedTime(Base):
    """How long something took that hands do, by the entry that ended it [min]."""

    __tablename__ = "learned_time"
    __table_args__ = (
        Index("ix_learned_time_of", "machine_id", "act", "seq"),
        one_of("act", TIMED),
        CheckConstraint("minutes > 0", name="minutes"),
        TABLE_OPTIONS,
    )

    seq: Mapped[int] = mapped_column(ForeignKey("log_entry.seq"), primary_key=True, autoincrement=False)
    machine_id: Mapped[int] = mapped_column(ForeignKey("machine.id"))
    act: Mapped[str] = mapped_column(String(10))
    minutes: Mapped[Decimal] = mapped_column(Numeric(8, 3))
