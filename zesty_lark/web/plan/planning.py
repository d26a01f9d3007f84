"""One face's planning as the page shows it: every way of grinding it side by side, and the one that is chosen."""

from dataclasses import dataclass
from decimal import Decimal

from zesty_lark.core.faces import AXIS, FaceError
from zesty_lark.core.process.optimise import CurvePoint, best_of, curve_of, schools_of
from zesty_lark.core.process.plan_input import Asked
from zesty_lark.core.process.planner import Plan
from zesty_lark.core.quantities import InputError
from zesty_lark.core.route.block import PairPlan
from zesty_lark.core.route.choices import HABITS, Habit
from zesty_lark.core.route.order import RouteStep
from zesty_lark.core.route.planned import FacePlan, RoutePlan
from zesty_lark.core.route.release import plan_steps
from zesty_lark.core.shoplog.entries import PlanSteps
from zesty_lark.core.shoplog.remaining import keeps_wheel_height
from zesty_lark.core.shoplog.standing import Standing
from zesty_lark.store.models import Job
from zesty_lark.web.shared.work import stock_of

__all__ = ["Column", "Planning", "curve_points", "plan_face"]

SHORT: dict[Habit, str] = {"quickest": "Quickest", "light": "Light", "all_at_once": "At once", "peel": "Peel",
                           "sharp_wide": "Wide", "auto": "Auto", "own": "Own"}


@dataclass(frozen=True)
class Column:
    """One way of grinding the face; without a plan, ``problem`` says why."""

    key: Habit
    plan: Plan | None
    problem: str

    @property
    def name(self) -> str:
        """Its name."""
        return HABITS[self.key]

    @property
    def short(self) -> str:
        """Its name where there is little room."""
        return SHORT[self.key]


@dataclass(frozen=True)
class Planning:
    """Everything the plan page shows of a face.

    ``steps`` is what would be released; ``None`` when it cannot be.
    """

    face: int
    step: RouteStep | None
    pair: PairPlan
    made: FacePlan
    columns: list[Column]
    carries_on: bool
    steps: PlanSteps | None
    route: RoutePlan

    @property
    def question(self) -> Asked | None:
        """What the planner was asked."""
        return self.made.question

    @property
    def question_mark(self) -> str:
        """A name for the question, the same as long as the question is."""
        return f"{hash(self.made.question) & 0xFFFFFFFF:x}"

    @property
    def most_graduations(self) -> int:
        """The deepest downfeed there is stock for, in graduations."""
        return self.made.question.graduations if self.made.question else 1

    @property
    def crossfeeds(self) -> tuple[int, int]:
        """The machine's crossfeed range in its graduations."""
        return self.made.question.crossfeed_range() if self.made.question else (1, 1)

    @property
    def plan(self) -> Plan | None:
        """The chosen plan."""
        return self.made.plan


def plan_face(job: Job, standing: Standing, face: int, route: RoutePlan) -> Planning:
    """Work out the planning of a face of a route.

    Raises
    ------
    FaceError
        If the face is done, or no set-up has it up.
    """
    if face not in route.faces:
        raise FaceError(f"Face {face} is done, or no set-up has it up.")
    made = route.faces[face]
    step = next((each for each in route.steps if face in each.step.up), None)
    carries_on = face == standing.face and keeps_wheel_height(standing.faces[face], standing)
    pair = route.pairs[AXIS[face]]
    return Planning(face, step, pair, made, _columns(made), carries_on, _steps(job, standing, made, carries_on), route)


def _columns(made: FacePlan) -> list[Column]:
    """The quickest plan and every school, and the person's own settings when they are chosen."""
    if made.question is None:
        return []
    columns = []
    try:
        columns.append(Column("quickest", best_of(made.question), ""))
    except InputError as error:
        columns.append(Column("quickest", None, str(error)))
    columns += [Column(each.school, each, "") for each in schools_of(made.question)]
    if made.choice.habit == "own":
        columns.append(Column("own", made.plan, made.problem))
    return columns


def _steps(job: Job, standing: Standing, made: FacePlan, carries_on: bool) -> PlanSteps | None:
    held_back = stock_of(job, standing, made.face).held_back_mm if carries_on else Decimal(0)
    try:
        return plan_steps(made, graduation_mm=job.machine.graduation_mm, per_rev_mm=job.machine.per_rev_mm,
                          carries_on=carries_on, held_back_mm=held_back, cut_ratio=float(job.machine.cut_ratio),
                          tolerance_mm=job.part.size(AXIS[made.face]).to_core().width_mm)
    except ValueError:
        return None


def curve_points(question: Asked) -> list[CurvePoint]:
    """The shortest minutes for rising temperature margins; none when no plan keeps to the limits."""
    try:
        best = best_of(question)
    except InputError:
        return []
    return [CurvePoint(question.margin, best.minutes), *curve_of(question)]
