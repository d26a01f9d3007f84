"""Plans: a face's as it was released, and a part's in its versions. Neither is ever changed, a new one follows it."""

from decimal import Decimal

from sqlalchemy import CheckConstraint, ForeignKey, Numeric, String, Text, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from zesty_lark.core.route.choices import HABITS
from zesty_lark.core.shoplog.entries import PlanStep, PlanSteps
from zesty_lark.store.models.base import TABLE_OPTIONS, Base, Length, Moment, one_of
from zesty_lark.store.models.people import Person

__all__ = ["PartPlanRow", "PlanRow", "PlanStepRow"]


class PlanRow(Base):
    """The plan of one face."""

    __tablename__ = "plan"
    __table_args__ = (
        one_of("school", HABITS),
        CheckConstraint("face between 1 and 6", name="face"),
        CheckConstraint("stock_mm >= 0 and left_on_mm >= 0 and spark_passes >= 0", name="figures"),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"))
    face: Mapped[int]
    school: Mapped[str] = mapped_column(String(20))
    stock_mm: Mapped[Length]
    left_on_mm: Mapped[Length]
    crossfeed_mm: Mapped[Length]
    table_mm_s: Mapped[Length]
    spark_passes: Mapped[int]
    minutes: Mapped[Decimal] = mapped_column(Numeric(8, 2))
    keeps_wheel_height: Mapped[bool]
    finish_crossfeed_mm: Mapped[Length | None]
    finish_table_mm_s: Mapped[Length | None]
    rough_blanks: Mapped[int] = mapped_column(default=0, server_default="0")
    rough_dress: Mapped[str] = mapped_column(String(10), default="", server_default="")
    finish_dress: Mapped[str] = mapped_column(String(10), default="", server_default="")
    skew_deg: Mapped[Decimal] = mapped_column(Numeric(5, 2), default=Decimal(0), server_default="0")
    created_by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    created_at: Mapped[Moment]

    steps: Mapped[list["PlanStepRow"]] = relationship(lazy="selectin", cascade="all, delete-orphan",
                                                      order_by="PlanStepRow.number")

    def to_core(self) -> PlanSteps:
        """Return the plan as the log refers to it."""
        return PlanSteps(
            plan_id=self.id, face=self.face, school=self.school,  # type: ignore[arg-type]
            stock_mm=self.stock_mm, left_on_mm=self.left_on_mm,
            steps=tuple(PlanStep(step.number, step.step_mm, step.depth_mm, step.kind) for step in self.steps),
            spark_passes=self.spark_passes, keeps_wheel_height=self.keeps_wheel_height,
            crossfeed_mm=self.crossfeed_mm, table_mm_s=self.table_mm_s, minutes=float(self.minutes),
            finish_crossfeed_mm=self.finish_crossfeed_mm, finish_table_mm_s=self.finish_table_mm_s,
            rough_blanks=self.rough_blanks, rough_dress=self.rough_dress, finish_dress=self.finish_dress,
            skew_deg=self.skew_deg,
        )


class PlanStepRow(Base):
    """One downfeed of a plan, its depth counted from the plan's start."""

    __tablename__ = "plan_step"
    __table_args__ = (one_of("kind", ("rough", "finish")),
                      CheckConstraint("step_mm > 0 and depth_mm >= step_mm", name="step"), TABLE_OPTIONS)

    plan_id: Mapped[int] = mapped_column(ForeignKey("plan.id"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    step_mm: Mapped[Length]
    depth_mm: Mapped[Length]
    kind: Mapped[str] = mapped_column(String(10))


class PartPlanRow(Base):
    """A version of a part's plan: what was chosen, and its figures as they came out then, both as JSON."""

    __tablename__ = "part_plan"
    __table_args__ = (UniqueConstraint("job_id", "number", name="uq_part_plan_number"),
                      CheckConstraint("number >= 1", name="number"), TABLE_OPTIONS)

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"))
    number: Mapped[int]
    based_on: Mapped[int]
    choices: Mapped[str] = mapped_column(Text)
    figures: Mapped[str] = mapped_column(Text)
    made_by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    made_at: Mapped[Moment]
    released_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    released_at: Mapped[Moment | None]

    made_by: Mapped[Person] = relationship(lazy="joined", innerjoin=True, foreign_keys=[made_by_id])
    released_by: Mapped[Person | None] = relationship(lazy="joined", foreign_keys=[released_by_id])
