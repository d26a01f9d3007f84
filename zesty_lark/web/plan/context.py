"""What the plan station works on: its blueprint, the version that is worked from, and keeping a new one."""

from dataclasses import dataclass

from flask import Blueprint, request

from zesty_lark.core.part.surfaces import kind_of
from zesty_lark.core.squaring.changes import Change, differences
from zesty_lark.core.squaring.choices import RouteChoices
from zesty_lark.core.squaring.planned import RoutePlan
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.next_act import next_act
from zesty_lark.shopfloor.basis import Basis, basis_of
from zesty_lark.shopfloor.loads import room_in
from zesty_lark.shopfloor.rights import may_work_on
from zesty_lark.store import part_plans
from zesty_lark.store.models import Job, PartPlanRow, Person
from zesty_lark.store.models.people import Role
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.wording import now

blueprint = Blueprint("plan", __name__, static_folder="static", static_url_path="/static/plan")

APPRENTICE = "An apprentice’s plan is released by a lead: keep it, and ask."


@dataclass(frozen=True)
class PlanContext:
    """What the station works on: the basis of its plan, the version worked from, all versions newest first, what is
    chosen."""

    job: Job
    basis: Basis
    base: PartPlanRow | None
    versions: list[PartPlanRow]
    choices: RouteChoices

    @property
    def newest(self) -> PartPlanRow | None:
        """The newest version; ``None`` before the first."""
        return self.versions[0] if self.versions else None

    @property
    def released(self) -> PartPlanRow | None:
        """The version that is in force."""
        return part_plans.in_force(self.versions)

    @property
    def based_on(self) -> int:
        """The number of the version worked from, 0 before the first."""
        return self.base.number if self.base else 0

    def moved(self, route: RoutePlan) -> list[Change]:
        """What has moved since the version worked from was kept, with the same choices; but not what is being
        ground."""
        if self.base is None:
            return []
        job_state = self.basis.job_state
        at_work = route.about({*self.basis.done, *([job_state.surface] if job_state.surface else [])})
        return [
            change
            for change in differences(part_plans.figures_of(self.base), self.basis.figures(route))
            if change.of not in at_work
        ]


def plan_context() -> PlanContext:
    """Lay out what this request works on: the version it names, else the newest."""
    session, job = database.session(), guard.job()
    versions = part_plans.versions(session, job)
    number = request.values.get("based_on", type=int)
    if number is None:
        number = request.values.get("version", type=int)
    base = next((each for each in versions if number is None or each.number == number), None)
    basis = basis_of(session, job, guard.job_state(), now().date(), load=load_of(job, guard.job_state()))
    return PlanContext(job, basis, base, versions, part_plans.choices_of(base))


def load_of(job: Job, job_state: JobState) -> tuple[int, ...]:
    """The pieces that this request wants put up together, of those that come next; as many as lie on the chuck when it
    names none."""
    what = next_act(job_state)
    next_ones = what.pieces if what.act == "plan" else job_state.at.pieces if job_state.at is not None else ()
    named = request.values.getlist("pieces", type=int)
    fits = 1 if job_state.at is None else room_in(job, job_state, job_state.at.surface)
    return tuple(number for number in next_ones if number in named) or next_ones[:fits]


def may_release(who: Person, job: Job) -> bool:
    """A plan goes to the machine by its job's owner or a lead; an apprentice's by a lead."""
    return may_work_on(who, job) and who.role != Role.APPRENTICE


def keep(where: PlanContext, choices: RouteChoices, route: RoutePlan) -> PartPlanRow:
    """Keep what is chosen as a new version, unless it is what the version worked from has already.

    Raises
    ------
    NewerVersion
        If someone kept another since.
    """
    _keep_sharing(where, choices)
    if where.base is not None and where.base is where.newest and choices == where.choices and not where.moved(route):
        return where.base
    return part_plans.save(
        database.session(),
        where.job,
        guard.person(),
        choices,
        figures=where.basis.figures(route),
        based_on=where.based_on,
        at=now(),
        over=request.form.get("over") == "yes",
    )


def reason_wanted(asks_reason: list[str], *, a_lead_only: bool, reason: str) -> list[str]:
    """Return why something may not be released yet by who is here: it needs a reason, or a lead's."""
    if not asks_reason:
        return []
    if a_lead_only and guard.person().role != Role.LEAD:
        return [*asks_reason, "Ask a lead to release it."]
    return [] if reason else [*asks_reason, "Why is it released all the same? Write the reason."]


def conflict_of(where: PlanContext, route: RoutePlan, other: PartPlanRow) -> list[Change]:
    """How what is on the screen differs from a version someone else kept meanwhile."""
    return differences(part_plans.figures_of(other), where.basis.figures(route))


def _keep_sharing(where: PlanContext, choices: RouteChoices) -> None:
    """The thickness's sharing goes with the part, where grinding and measuring find it, until its reference is
    finished."""
    part = where.job.part
    if "thickness" in choices.pairs and where.basis.job_state.surface == part.reference_face:
        every, block, face = where.basis.sharing(choices), where.basis.block, part.reference_face
        sharing = every["thickness"]
        part.min_skin_mm, part.first_share = sharing.skin_mm, sharing.first_share
        if sharing.first_mm is not None:
            part.first_share = kind_of(block, face).stock(block, face, every).first_share
