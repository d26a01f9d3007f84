"""The shop log: append-only, each entry once. Triggers refuse UPDATE and DELETE."""

from decimal import Decimal

from sqlalchemy import BigInteger, CheckConstraint, ForeignKey, Index, Numeric, String, Text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from zesty_lark.core.measure.thickness import Reading
from zesty_lark.core.shoplog.entries import CHARACTERISTICS, THICKNESS, Entry, Kind
from zesty_lark.store.models.base import TABLE_OPTIONS, Base, Length, Moment, ShortText, one_of
from zesty_lark.store.models.people import Person
from zesty_lark.store.models.plans import PlanRow
from zesty_lark.store.models.shop import Instrument, MachineRow

__all__ = ["LearnedRun", "LogEntry", "LogReading"]


class LogEntry(Base):
    """One line of the log. ``entry_id`` is made by the sender: sending it again logs nothing."""

    __tablename__ = "log_entry"
    __table_args__ = (
        Index("ix_log_entry_job_seq", "job_id", "seq"),
        one_of("kind", Kind),
        CheckConstraint("face is null or face between 1 and 6", name="face"),
        CheckConstraint("verdict is null or verdict in ('in', 'not yet', 'unsure', 'out')", name="verdict"),
        CheckConstraint("kind <> 'pass' or (face is not null and reading_mm is not null)", name="pass_has_reading"),
        CheckConstraint("kind <> 'planned' or plan_id is not null", name="planned_has_plan"),
        CheckConstraint("kind <> 'undone' or supersedes is not null", name="undone_supersedes"),
        CheckConstraint("kind <> 'measured' or (instrument_id is not null and uncertainty_mm is not null)",
                        name="measured_with_what"),
        CheckConstraint("kind not in ('done', 'skipped') or step is not null", name="step"),
        one_of("characteristic", CHARACTERISTICS),
        CheckConstraint("pass_count is null or pass_count between 1 and 50", name="pass_count"),
        TABLE_OPTIONS,
    )

    seq: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    entry_id: Mapped[str] = mapped_column(String(36), unique=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"))
    kind: Mapped[str] = mapped_column(String(20))
    at: Mapped[Moment]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    machine_id: Mapped[int | None] = mapped_column(ForeignKey("machine.id"))
    face: Mapped[int | None]
    plan_id: Mapped[int | None] = mapped_column(ForeignKey("plan.id"))
    reading_mm: Mapped[Length | None]
    amount_mm: Mapped[Length | None]
    pass_count: Mapped[int | None]
    step: Mapped[int | None]
    characteristic: Mapped[str] = mapped_column(String(20), default=THICKNESS, server_default=THICKNESS)
    note: Mapped[str] = mapped_column(Text, default="")
    supersedes: Mapped[str | None] = mapped_column(ForeignKey("log_entry.entry_id"), unique=True)
    instrument_id: Mapped[int | None] = mapped_column(ForeignKey("instrument.id"))
    part_c: Mapped[Decimal | None] = mapped_column(Numeric(5, 2))
    gauge_c: Mapped[Decimal | None] = mapped_column(Numeric(5, 2))
    room_c: Mapped[Decimal | None] = mapped_column(Numeric(5, 2))
    uncertainty_mm: Mapped[Length | None]
    verdict: Mapped[str | None] = mapped_column(String(10))
    asked_mm: Mapped[Length | None]
    got_mm: Mapped[Length | None]

    by: Mapped[Person] = relationship(lazy="joined", innerjoin=True)
    machine: Mapped[MachineRow | None] = relationship(lazy="joined")
    instrument: Mapped[Instrument | None] = relationship(lazy="joined")
    plan: Mapped[PlanRow | None] = relationship(lazy="selectin")
    readings: Mapped[list["LogReading"]] = relationship(lazy="selectin", order_by="LogReading.position")

    def to_core(self) -> Entry:
        """Return the entry as the core reads it."""
        return Entry(
            seq=self.seq, entry_id=self.entry_id, kind=Kind(self.kind), at=self.at, by=self.by.sign_in_name,
            face=self.face, machine=self.machine.name if self.machine else None,
            plan=self.plan.to_core() if self.plan else None, reading_mm=self.reading_mm, amount_mm=self.amount_mm,
            count=self.pass_count, note=self.note, supersedes=self.supersedes,
            instrument=self.instrument.name if self.instrument else None,
            step=self.step, characteristic=self.characteristic, part_c=self.part_c, gauge_c=self.gauge_c, room_c=self.room_c,
            readings=tuple(Reading(reading.place, reading.value_mm) for reading in self.readings),
            uncertainty_mm=self.uncertainty_mm, verdict=self.verdict,  # type: ignore[arg-type]
            asked_mm=self.asked_mm, got_mm=self.got_mm,
        )


class LogReading(Base):
    """One reading of a measurement, at a named place."""

    __tablename__ = "log_reading"
    __table_args__ = (CheckConstraint("value_mm >= 0", name="value"), TABLE_OPTIONS)

    seq: Mapped[int] = mapped_column(ForeignKey("log_entry.seq"), primary_key=True, autoincrement=False)
    position: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    place: Mapped[ShortText]
    value_mm: Mapped[Length]


class LearnedRun(Base):
    """η of one wipe as a run told it, by the entry that measured it: what is learned stays with the machine and the wheel
    that was on."""

    __tablename__ = "learned_run"
    __table_args__ = (Index("ix_learned_run_of", "machine_id", "wheel_id", "seq"),
                      CheckConstraint("eta > 0 and eta < 1", name="eta"), TABLE_OPTIONS)

    seq: Mapped[int] = mapped_column(ForeignKey("log_entry.seq"), primary_key=True, autoincrement=False)
    machine_id: Mapped[int] = mapped_column(ForeignKey("machine.id"))
    wheel_id: Mapped[int] = mapped_column(ForeignKey("wheel.id"))
    eta: Mapped[Decimal] = mapped_column(Numeric(6, 5))
