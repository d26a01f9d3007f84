"""Plans: a face's as it was released, and a part's in its versions. Neither is ever changed, a new one follows it."""

from decimal import Decimal
from typing import get_args

from sqlalchemy import CheckConstraint, ForeignKey, Numeric, String, Text, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from zesty_lark.core.work.plans import MAGNET, METHODS, PlanStep, PlanSteps, StepKind
from zesty_lark.store.models.base import TABLE_OPTIONS, Base, Length, Moment, one_of
from zesty_lark.store.models.people import Person


class PlanRow(Base):
    """The plan of one surface: what it was made for, how the part is held, and everything it asks for as steps."""

    __tablename__ = "plan"
    __table_args__ = (
        one_of("method", METHODS),
        CheckConstraint("surface >= 1", name="surface"),
        CheckConstraint("stock_mm >= 0 and left_on_mm >= 0 and rise_c >= 0", name="figures"),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"))
    surface: Mapped[int]
    method: Mapped[str] = mapped_column(String(20))
    stock_mm: Mapped[Length]
    left_on_mm: Mapped[Length]
    keeps_wheel_height: Mapped[bool]
    holder: Mapped[str] = mapped_column(String(80), default=MAGNET, server_default=MAGNET)
    hold_safety: Mapped[Decimal | None] = mapped_column(Numeric(8, 2))
    rise_c: Mapped[Decimal] = mapped_column(Numeric(6, 2), default=Decimal(0), server_default="0")
    reason: Mapped[str] = mapped_column(String(500), default="", server_default="")
    until_clean: Mapped[bool] = mapped_column(default=False, server_default="0")
    push_n: Mapped[Decimal | None] = mapped_column(Numeric(11, 4))
    created_by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    created_at: Mapped[Moment]

    steps: Mapped[list["PlanStepRow"]] = relationship(
        lazy="selectin", cascade="all, delete-orphan", order_by="PlanStepRow.number"
    )

    def to_core(self) -> PlanSteps:
        """Return the plan as the log refers to it."""
        return PlanSteps(
            plan_id=self.id,
            surface=self.surface,
            method=self.method,  # type: ignore[arg-type]
            stock_mm=self.stock_mm,
            left_on_mm=self.left_on_mm,
            steps=tuple(step.to_core() for step in self.steps),
            keeps_wheel_height=self.keeps_wheel_height,
            holder=self.holder,
            hold_safety=self.hold_safety,
            rise_c=self.rise_c,
            reason=self.reason,
            until_clean=self.until_clean,
            push_n=self.push_n,
        )


class PlanStepRow(Base):
    """One thing a plan asks for; its depth counted from the plan's start, unchanged where nothing is fed."""

    __tablename__ = "plan_step"
    __table_args__ = (
        one_of("kind", get_args(StepKind)),
        CheckConstraint(
            "step_mm >= 0 and depth_mm >= step_mm and (kind in ('rough', 'finish')) = (step_mm > 0)", name="step"
        ),
        TABLE_OPTIONS,
    )

    plan_id: Mapped[int] = mapped_column(ForeignKey("plan.id"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    kind: Mapped[str] = mapped_column(String(10))
    step_mm: Mapped[Length]
    depth_mm: Mapped[Length]
    crossfeed_mm: Mapped[Length | None]
    table_mm_s: Mapped[Length | None]
    what: Mapped[str] = mapped_column(String(120), default="", server_default="")
    amount: Mapped[Length | None]
    minutes: Mapped[Decimal] = mapped_column(Numeric(9, 3), default=Decimal(0), server_default="0")

    def to_core(self) -> PlanStep:
        """Return the step as the log refers to it."""
        return PlanStep(
            self.number,
            self.kind,  # type: ignore[arg-type]
            self.step_mm,
            self.depth_mm,
            self.crossfeed_mm,
            self.table_mm_s,
            self.what,
            self.amount,
            float(self.minutes),
        )

    @classmethod
    def of(cls, step: PlanStep) -> "PlanStepRow":
        """Return the row of a step."""
        return cls(
            number=step.number,
            kind=step.kind,
            step_mm=step.step_mm,
            depth_mm=step.depth_mm,
            crossfeed_mm=step.crossfeed_mm,
            table_mm_s=step.table_mm_s,
            what=step.what,
            amount=step.amount,
            minutes=Decimal(repr(round(step.minutes, 3))),
        )


class PartPlanRow(Base):
    """A version of a part's plan: what was chosen, and its figures as they came out then, both as JSON; which release
    of the job it is, and why it was released although it is on a limit or does not clean up."""

    __tablename__ = "part_plan"
    __table_args__ = (
        UniqueConstraint("job_id", "number", name="uq_part_plan_number"),
        CheckConstraint("number >= 1", name="number"),
        TABLE_OPTIONS,
    )

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
    release: Mapped[int | None]
    reason: Mapped[str] = mapped_column(String(500), default="", server_default="")

    made_by: Mapped[Person] = relationship(lazy="joined", innerjoin=True, foreign_keys=[made_by_id])
    released_by: Mapped[Person | None] = relationship(lazy="joined", foreign_keys=[released_by_id])
