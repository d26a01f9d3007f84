"""One face's planning: every method side by side, the one that is chosen, and the steps it would be released as."""

from dataclasses import dataclass, replace
from decimal import Decimal
from functools import cached_property

from zesty_lark.core.landing.landed import landed
from zesty_lark.core.part.faces import FaceError
from zesty_lark.core.part.surfaces import feeding_of, kind_of
from zesty_lark.core.part.surfaces.part import PairPlan
from zesty_lark.core.planning.best import CurvePoint, curve_from_none, kept_curve
from zesty_lark.core.planning.methods import methods_of
from zesty_lark.core.planning.offer import offered
from zesty_lark.core.planning.plan import Plan
from zesty_lark.core.planning.problem import Problem
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.quantities.units import micrometres
from zesty_lark.core.squaring.face_plan import FacePlan
from zesty_lark.core.squaring.handling import HANDLING, Handling, instead
from zesty_lark.core.squaring.order import RouteStep
from zesty_lark.core.squaring.planned import RoutePlan
from zesty_lark.core.squaring.release import AFTER_FIRST, SLOW, Situation, plan_steps
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.landing_acts import Dial
from zesty_lark.core.work.landing_run import landing_before
from zesty_lark.core.work.plans import METHODS, Method, PlanSteps
from zesty_lark.core.work.time_left import TimeLeft, whole_range
from zesty_lark.shopfloor import long_work
from zesty_lark.shopfloor.basis import Basis
from zesty_lark.shopfloor.stock import goal_of, graduation_of, stock_of
from zesty_lark.store.models import Person
from zesty_lark.store.models.people import Role

SHORT: dict[Method, str] = {
    "quickest": "Quickest",
    "light": "Light",
    "all_at_once": "At once",
    "peel": "Peel",
    "sharp_wide": "Wide",
    "auto": "Auto",
    "custom": "Custom",
}
KEYS: dict[Method, str] = {
    "quickest": "q",
    "light": "l",
    "all_at_once": "a",
    "peel": "e",
    "sharp_wide": "w",
    "auto": "d",
    "custom": "o",
}
TIGHT_UM = 6


@dataclass(frozen=True)
class Column:
    """One method on this face; without a plan, ``refused`` says why."""

    key: Method
    plan: Plan | None
    refused: str

    @property
    def name(self) -> str:
        """Its name."""
        return METHODS[self.key]

    @property
    def short(self) -> str:
        """Its name where there is little room."""
        return SHORT[self.key]

    @property
    def letter(self) -> str:
        """The key that chooses it."""
        return KEYS[self.key]


@dataclass(frozen=True)
class Planning:
    """Everything the plan page shows of a face.

    ``steps`` is what would be released; ``None`` when it cannot be.
    """

    face: int
    step: RouteStep | None
    pair: PairPlan
    face_plan: FacePlan
    carries_on: bool
    steps: PlanSteps | None
    route: RoutePlan
    handling: Handling = HANDLING

    @cached_property
    def columns(self) -> list[Column]:
        """Every method side by side, worked out when it is looked at."""
        return _columns(self.face_plan)

    @property
    def problem(self) -> Problem | None:
        """What the planner was asked."""
        return self.face_plan.problem

    @property
    def asked(self) -> Problem | None:
        """What the chosen plan answers: the planner's question, or of brisk table speeds only."""
        return self.face_plan.asked or self.face_plan.problem

    @cached_property
    def offered_of(self) -> Problem | None:
        """What the first offer answers; the curve is of the same."""
        if self.face_plan.problem is None:
            return None
        try:
            return long_work.run(offered, self.face_plan.problem).problem
        except InputError:
            return self.face_plan.problem

    @property
    def problem_mark(self) -> str:
        """A name for the question, the same as long as the question is."""
        return f"{hash(self.face_plan.problem) & 0xFFFFFFFF:x}"

    @property
    def most_graduations(self) -> int:
        """The deepest downfeed there is stock for, in graduations."""
        return self.face_plan.problem.graduations if self.face_plan.problem else 1

    @property
    def crossfeeds(self) -> tuple[int, int]:
        """The crossfeed range in the machine's graduations."""
        return self.face_plan.problem.crossfeed_range() if self.face_plan.problem else (1, 1)

    @property
    def plan(self) -> Plan | None:
        """The chosen plan."""
        return self.face_plan.plan

    def in_all(self, plan: Plan) -> TimeLeft | None:
        """A plan's time with what hands do beside the table, by the steps of the chosen one; ``None`` without any."""
        if self.steps is None or self.plan is None:
            return None
        return whole_range(self.steps) if plan == self.plan else instead(plan, self.plan, self.steps, self.handling)

    @property
    def asks_reason(self) -> list[str]:
        """Why this is released only with a reason."""
        title = self.route.surfaces[self.face].title
        near = [f"{title} is {words}." for face, words in self.route.near_limits.items() if face == self.face]
        short = [
            f"The {axis} does not clean up: a lead releases it, with a reason." for axis in self.route.short_of_clean_up
        ]
        return near + (short if not self.carries_on else [])

    @property
    def a_lead_only(self) -> bool:
        """Whether only a lead may release it."""
        return bool(self.route.short_of_clean_up) and not self.carries_on


def plan_face(basis: Basis, face: int, route: RoutePlan, who: Person, *, reason: str = "") -> Planning:
    """Work out the planning of a face of a route.

    Raises
    ------
    FaceError
        If the face is done, or no set-up has it up.
    """
    if face not in route.faces:
        named = basis.job_state.spec.wanted.surfaces.get(face)
        title = named.title if named else f"Face {face}"
        raise FaceError(f"{title} is done, or no set-up has it up.")
    face_plan, carries_on = route.faces[face], basis.carries_on(face)
    return Planning(
        face,
        route.step_of(face),
        route.pair_of(face),
        face_plan,
        carries_on,
        _steps(basis, face_plan, carries_on, who, reason=reason),
        route,
        basis.handling,
    )


def _columns(face_plan: FacePlan) -> list[Column]:
    """The quickest plan and every method, and the person's own settings when they are chosen."""
    if face_plan.problem is None:
        return []
    columns = []
    try:
        columns.append(Column("quickest", long_work.run(offered, face_plan.problem).plan, ""))
    except InputError as error:
        columns.append(Column("quickest", None, str(error)))
    columns += [Column(each.school, each, "") for each in long_work.run(methods_of, face_plan.problem)]
    if face_plan.choice.method == "custom":
        columns.append(Column("custom", face_plan.plan, face_plan.refused))
    return columns


def _steps(basis: Basis, face_plan: FacePlan, carries_on: bool, who: Person, *, reason: str) -> PlanSteps | None:
    job, job_state = basis.job, basis.job_state
    surface = job_state.spec.wanted.surfaces[face_plan.face]
    tolerance = kind_of(basis.block, face_plan.face).size_of(basis.block, face_plan.face).tolerance_mm
    tolerance /= abs(surface.per_feed)
    feeding = feeding_of(basis.block, face_plan.face)
    now = Situation(
        graduation_mm=graduation_of(job, face_plan.face),
        tolerance_mm=tolerance,
        carries_on=carries_on,
        is_up=job_state.surface_up == face_plan.face,
        is_flip=job_state.up is not None,
        ends_on_size=not surface.reference,
        stops_once_more=(Role.APPRENTICE in (who.role, job.owner.role) or micrometres(tolerance) <= TIGHT_UM)
        and not _stopped_once(job_state, face_plan.face),
        finish_dressed=face_plan.plan is not None and job_state.dressed == face_plan.plan.finish_dress,
        rough_dressed=_dressed(job_state),
        held_back_mm=stock_of(job, job_state, face_plan.face, pieces=basis.load).held_back_mm
        if carries_on
        else Decimal(0),
        cut_ratio=feeding.cut_ratio or basis.learned.eta,
        handling=basis.handling,
        plunged=feeding.plunged,
        slow=basis.means.machine.nearest(*SLOW),
    )
    try:
        made = plan_steps(face_plan, now, reason=reason)
        finish_only = face_plan.plan is not None and not face_plan.plan.rough_passes
        begins = finish_only and now.ends_on_size and not carries_on
        blind = _blind_mm(basis, face_plan, made) if begins else None
        return made if blind is None else plan_steps(face_plan, replace(now, blind_mm=blind), reason=reason)
    except ValueError:
        return None


def _blind_mm(basis: Basis, face_plan: FacePlan, made: PlanSteps) -> Decimal | None:
    """How deep a plan without roughing may go before it is first measured; ``None`` where it may go all the way."""
    if any(step.kind == "rough" for step in made.passes) or not made.passes or face_plan.choice.until_clean:
        return None
    job, job_state, face = basis.job, basis.job_state, face_plan.face
    rate = abs(job_state.spec.wanted.surfaces[face].per_feed)
    dial = Dial(graduation_of(job, face) * rate, job.machine.coolant)  # type: ignore[arg-type]
    goal = goal_of(job, job_state, job_state.runs[face])
    run = landing_before(job_state, face, made, goal, dial=dial)
    if run is None:
        return None
    blind = Decimal(repr(round(landed(run).to_mm, 7))) / rate
    return blind if blind < made.passes[-1].depth_mm else None


def _dressed(job_state: JobState) -> str:
    """The dress that the wheel has had and hardly been used since, while this job is up: no other has used it then."""
    use, facts = job_state.wheel_use, job_state.spec.wheel
    return use.dress if job_state.up is not None and facts is not None and use.is_as_dressed(facts) else ""


def _stopped_once(job_state: JobState, face: int) -> bool:
    """Whether a face was measured after its first finish pass already: what is left is taken in one go."""
    run = job_state.runs[face]
    return run.plan is not None and any(step.what == AFTER_FIRST for step in run.plan.steps[: run.done])


def without_reserve(problem: Problem) -> Problem:
    """The same question with nothing kept for the estimate's error: where the curve begins."""
    return problem if problem.temperature_margin == 0 else replace(problem, temperature_margin=0.0, power_share=1.0)


def curve_points(problem: Problem) -> list[CurvePoint]:
    """The shortest time for rising temperature margins, from none on; nothing when no plan keeps to the limits."""
    return long_work.run(curve_from_none, without_reserve(problem))


def curve_at_hand(problem: Problem) -> bool:
    """Whether that curve is there without any work."""
    whole = without_reserve(problem)
    return kept_curve(whole) is not None or long_work.at_hand(curve_from_none, whole)
