"""What lists and searches work from: a row a job, and its words. Written with each entry, rebuilt from the logs at
will."""

from sqlalchemy import ForeignKey, Index, String, Text
from sqlalchemy.orm import Mapped, mapped_column

from zesty_lark.store.models.base import TABLE_OPTIONS, Base, Moment


class JobSummary(Base):
    """Where a job stands in a line; ``states`` is JSON."""

    __tablename__ = "job_summary"
    __table_args__ = (
        Index("ix_job_summary_finished", "finished_at", "job_id"),
        Index("ix_job_summary_waits", "waits_for", "job_id"),
        TABLE_OPTIONS,
    )

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), primary_key=True, autoincrement=False)
    act: Mapped[str] = mapped_column(String(20))
    surface: Mapped[int | None]
    piece: Mapped[int | None]
    characteristic: Mapped[str] = mapped_column(String(20), default="")
    words: Mapped[str] = mapped_column(String(200))
    waits_for: Mapped[str] = mapped_column(String(12))
    running: Mapped[bool]
    up: Mapped[int | None]
    states: Mapped[str] = mapped_column(Text)
    finished_at: Mapped[Moment | None]
    last_at: Mapped[Moment | None]


class JobWord(Base):
    """A word a job is found by: of its number, title or material."""

    __tablename__ = "job_word"
    __table_args__ = (TABLE_OPTIONS,)

    word: Mapped[str] = mapped_column(String(40), primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), primary_key=True, autoincrement=False)
