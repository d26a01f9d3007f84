"""The shop log: append-only, each entry once. Triggers refuse UPDATE and DELETE."""

from dataclasses import fields
from decimal import Decimal
from typing import Any, get_args

from sqlalchemy import BigInteger, CheckConstraint, ForeignKey, Index, Numeric, String, Text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from zesty_lark.core.part.prints import THICKNESS
from zesty_lark.core.part.sizes import Reading
from zesty_lark.core.work.entries import ENTRY_TYPES, PieceEnd, RouteChange
from zesty_lark.core.work.entry import Entry, Kind
from zesty_lark.store.models.base import TABLE_OPTIONS, Base, Length, Moment, OnceRow, ShortText, one_of
from zesty_lark.store.models.instruments import InstrumentRow
from zesty_lark.store.models.people import Person
from zesty_lark.store.models.plans import PlanRow
from zesty_lark.store.models.shop import MachineRow

_ELSEWHERE = frozenset(
    {"plan", "instrument", "machine", "by", "readings", "pieces", "asks", "read_in_by", "read_in_at"}
)
"""What an entry has that is a row of its own, or is written in another form."""
_COLUMNS = {"count": "pass_count", "end": "piece_end", "change": "route_change"}
"""Names that SQL has a use for."""
_MAY_BE_EMPTY = frozenset({"setup", "load", "uncertainty_mm", "piece", "answer", "how", "side", "screen"})


def columns_of(entry: Entry) -> dict[str, Any]:
    """Return the plain columns of an entry."""
    return {
        _COLUMNS.get(field.name, field.name): getattr(entry, field.name)
        for field in fields(entry)
        if field.name not in _ELSEWHERE and field.name != "seq"
    }


class LogEntry(OnceRow, Base):
    """One line of the log. ``entry_id`` is made by the sender: sending it again logs nothing."""

    __tablename__ = "log_entry"
    __table_args__ = (
        Index("ix_log_entry_job_seq", "job_id", "seq"),
        one_of("kind", Kind),
        CheckConstraint("surface is null or surface >= 1", name="surface"),
        CheckConstraint("verdict is null or verdict in ('in', 'not yet', 'unsure', 'out')", name="verdict"),
        CheckConstraint(
            "kind not in ('pass', 'touched off') or (surface is not null and reading_mm is not null)",
            name="pass_has_reading",
        ),
        CheckConstraint("kind <> 'planned' or plan_id is not null", name="planned_has_plan"),
        CheckConstraint("kind <> 'undone' or supersedes is not null", name="undone_supersedes"),
        CheckConstraint(
            "kind <> 'measured' or (instrument_id is not null and uncertainty_mm is not null and piece is not null)",
            name="measured_with_what",
        ),
        CheckConstraint("kind not in ('done', 'skipped') or step is not null", name="step"),
        CheckConstraint(
            "kind not in ('planned', 'placed', 'touched off', 'pass', 'spark-out', 'dressed', 'done', 'skipped', "
            "'face done', 'left', 'prepared', 'observed', 'stopped', 'went on', 'taken over') or "
            "(surface is not null and setup is not null and `load` is not null)",
            name="at_machine",
        ),
        CheckConstraint("kind <> 'ended' or (piece is not null and piece_end is not null)", name="ended"),
        CheckConstraint("kind not in ('prepared', 'caution_waived') or item is not null", name="item"),
        CheckConstraint("kind not in ('observed', 'stopped') or seen is not null", name="seen"),
        CheckConstraint("power_w is null or power_w >= 0", name="power_w"),
        CheckConstraint("kind <> 'rerouted' or route_change is not null", name="rerouted"),
        one_of("piece_end", get_args(PieceEnd)),
        one_of("route_change", get_args(RouteChange)),
        CheckConstraint("pass_count is null or pass_count between 1 and 50", name="pass_count"),
        TABLE_OPTIONS,
    )

    seq: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"))
    kind: Mapped[str] = mapped_column(String(20))
    at: Mapped[Moment]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    machine_id: Mapped[int | None] = mapped_column(ForeignKey("machine.id"))
    surface: Mapped[int | None]
    setup: Mapped[str | None] = mapped_column(String(20))
    load: Mapped[int | None]
    pieces: Mapped[str | None] = mapped_column(Text)
    asks: Mapped[str | None] = mapped_column(Text)
    piece: Mapped[int | None]
    plan_id: Mapped[int | None] = mapped_column(ForeignKey("plan.id"))
    reading_mm: Mapped[Length | None]
    amount_mm: Mapped[Length | None]
    pass_count: Mapped[int | None]
    step: Mapped[int | None]
    route_change: Mapped[str | None] = mapped_column(String(10))
    piece_end: Mapped[str | None] = mapped_column(String(10))
    item: Mapped[str | None] = mapped_column(String(80))
    answer: Mapped[str | None] = mapped_column(String(20))
    seen: Mapped[str | None] = mapped_column(String(20))
    side: Mapped[str] = mapped_column(String(20), default="", server_default="")
    power_w: Mapped[Decimal | None] = mapped_column(Numeric(9, 1))
    screen: Mapped[str] = mapped_column(String(16), default="", server_default="")
    how: Mapped[str] = mapped_column(String(200), default="", server_default="")
    map_key: Mapped[str | None] = mapped_column(String(36))
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
    read_in_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    read_in_at: Mapped[Moment | None]
    read_in_from: Mapped[str] = mapped_column(String(120), default="", server_default="")
    clock_doubt: Mapped[bool] = mapped_column(default=False, server_default="0")

    by: Mapped[Person] = relationship(lazy="joined", innerjoin=True, foreign_keys=[by_id])
    read_in_by: Mapped[Person | None] = relationship(lazy="joined", foreign_keys=[read_in_by_id])
    machine: Mapped[MachineRow | None] = relationship(lazy="joined")
    instrument: Mapped[InstrumentRow | None] = relationship(lazy="joined")
    plan: Mapped[PlanRow | None] = relationship(lazy="selectin")
    readings: Mapped[list["LogReading"]] = relationship(lazy="selectin", order_by="LogReading.position")

    def to_core(self) -> Entry:
        """Return the entry as the core reads it."""
        kind = ENTRY_TYPES[Kind(self.kind)]
        found: dict[str, Any] = {
            "by": self.by.sign_in_name,
            "machine": self.machine.name if self.machine else None,
            "instrument": self.instrument.name if self.instrument else None,
            "plan": self.plan.to_core() if self.plan else None,
            "readings": tuple(Reading(reading.place, reading.value_mm) for reading in self.readings),
            "read_in_by": "" if self.read_in_by is None else self.read_in_by.name,
            "pieces": tuple(int(part) for part in self.pieces.split(",")) if self.pieces else (),
            "asks": tuple(self.asks.split(",")) if self.asks else (),
        }
        values: dict[str, Any] = {}
        for field in fields(kind):
            value = found[field.name] if field.name in found else getattr(self, _COLUMNS.get(field.name, field.name))
            if value is not None or field.name not in _MAY_BE_EMPTY:
                values[field.name] = value
        return kind(**values)


class LogReading(Base):
    """One reading of a measurement, at a named place."""

    __tablename__ = "log_reading"
    __table_args__ = (CheckConstraint("value_mm >= 0", name="value"), TABLE_OPTIONS)

    seq: Mapped[int] = mapped_column(ForeignKey("log_entry.seq"), primary_key=True, autoincrement=False)
    position: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    place: Mapped[ShortText]
    value_mm: Mapped[Length]
