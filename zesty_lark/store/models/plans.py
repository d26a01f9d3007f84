"""Released plans; a plan is never changed, a new one follows it."""

from decimal import Decimal

from sqlalchemy import CheckConstraint, ForeignKey, Numeric, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from zesty_lark.core.shoplog.entries import PlanStep, PlanSteps
from zesty_lark.store.models.base import TABLE_OPTIONS, Base, Length, Moment, one_of

__all__ = ["PlanRow", "PlanStepRow"]


class PlanRow(Base):
    """The plan of one face."""

    __tablename__ = "plan"
    __table_args__ = (
        one_of("school", ("light", "all_at_once")),
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
