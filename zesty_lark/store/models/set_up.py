"""Set-ups as they are laid out on the chuck."""

from sqlalchemy import ForeignKey, String, Text, UniqueConstraint
from sqlalchemy.dialects.mysql import MEDIUMTEXT
from sqlalchemy.orm import Mapped, mapped_column, relationship

from zesty_lark.store.models.base import TABLE_OPTIONS, Base, Moment
from zesty_lark.store.models.people import Person


class SetUpRow(Base):
    """A set-up of a job as it is laid out, as JSON; the layouts before it, the newest last, for undo; and what its last
    check found: why it is not to be run, and the cautions by their names, a line each."""

    __tablename__ = "set_up"
    __table_args__ = (UniqueConstraint("job_id", "setup", name="uq_set_up_of"), TABLE_OPTIONS)

    id: Mapped[int] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(default=1, server_default="1")
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"))
    setup: Mapped[str] = mapped_column(String(20))
    layout: Mapped[str] = mapped_column(Text)
    before: Mapped[str] = mapped_column(MEDIUMTEXT)
    stop: Mapped[str] = mapped_column(String(500), default="", server_default="")
    cautions: Mapped[str] = mapped_column(Text, default="")
    changed_by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    changed_at: Mapped[Moment]

    changed_by: Mapped[Person] = relationship(lazy="joined", innerjoin=True)

    __mapper_args__ = {"version_id_col": version}
