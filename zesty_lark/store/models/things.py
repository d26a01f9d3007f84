"""One table for the logs of all things of the shop: wheels, chucks, gauges. Triggers refuse UPDATE and DELETE."""

import json

from sqlalchemy import BigInteger, ForeignKey, Index, String, Text, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from zesty_lark.core.things.kinds import THING_KINDS, loaded_entry
from zesty_lark.core.things.log import ThingEntry
from zesty_lark.store.models.base import TABLE_OPTIONS, Base, Moment, OnceRow, one_of
from zesty_lark.store.models.people import Person
from zesty_lark.store.models.shop import MachineRow


class ThingEntryRow(OnceRow, Base):
    """One entry of a thing's log, never changed: of which thing, what it says as JSON; ``job_seq`` names the entry of
    a job's log that it repeats, with which it comes and goes. A press is told to a kind of thing once."""

    __tablename__ = "thing_entry"
    __table_args__ = (
        one_of("thing", THING_KINDS),
        Index("ix_thing_entry_thing", "thing", "thing_id", "seq"),
        UniqueConstraint("entry_id", "thing", name="uq_thing_entry_entry_id"),
        UniqueConstraint("job_seq", "thing", name="uq_thing_entry_job_seq"),
        TABLE_OPTIONS,
    )

    seq: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=True)
    entry_id: Mapped[str] = mapped_column(String(36))
    thing: Mapped[str] = mapped_column(String(10))
    thing_id: Mapped[int]
    kind: Mapped[str] = mapped_column(String(10))
    said: Mapped[str] = mapped_column(Text)
    note: Mapped[str] = mapped_column(String(500), default="")
    at: Mapped[Moment]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    machine_id: Mapped[int | None] = mapped_column(ForeignKey("machine.id"))
    job_seq: Mapped[int | None] = mapped_column(ForeignKey("log_entry.seq"))

    by: Mapped[Person] = relationship(lazy="joined", innerjoin=True)
    machine: Mapped[MachineRow | None] = relationship(lazy="joined")

    def to_core(self) -> ThingEntry:
        """Return the entry as the core reads it."""
        return ThingEntry(
            entry_id=self.entry_id,
            at=self.at,
            what=loaded_entry(self.thing, self.kind, json.loads(self.said)),  # type: ignore[arg-type]
            by=self.by.name,
            machine=None if self.machine is None else self.machine.name,
            note=self.note,
            of_job=self.job_seq is not None,
            seq=self.seq,
        )
