"""Setting up for a slot, an angle or an edge: what it is set up with, what was found, and its list before the wheel
touches."""

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from zesty_lark.core.angles_slots.answers import Answer
from zesty_lark.core.part.surfaces.formed_face import formed_of
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.setup.before import Listed, before, needed_for
from zesty_lark.core.setup.forming.set_up import AtMachine, set_up_answer
from zesty_lark.core.squaring.planned import RoutePlan
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.setups import SetUp
from zesty_lark.shopfloor.basis import basis_of
from zesty_lark.shopfloor.stock import graduation_of
from zesty_lark.store import part_plans, set_ups, shop
from zesty_lark.store.models import BlockSetRow, Job


@dataclass(frozen=True)
class FormedSetUp:
    """A set-up of a slot, an angle or an edge: which, with what up, what holds it, and what it comes to; ``refused``
    says why it comes to nothing."""

    job: Job
    job_state: JobState
    setup: SetUp
    face: int
    holder: str
    safety: float | None
    answer: Answer | None
    refused: str
    listed: list[Listed]

    @property
    def stop(self) -> str:
        """Why the wheel does not touch, whatever was ticked; empty when it may."""
        stops = [] if self.answer is None else self.answer.stops
        return self.refused or (stops[0] if stops else "")


def is_formed(job_state: JobState, face: int) -> bool:
    """Whether a surface is none of the block's faces."""
    known = job_state.spec.wanted.surfaces.get(face)
    return known is not None and not known.is_height


def formed_set_up(
    session: Session, job: Job, job_state: JobState, now: datetime, *, setup: SetUp, face: int
) -> FormedSetUp:
    """Gather a set-up, for the newest version of the part's plan."""
    basis = basis_of(session, job, job_state, now.date())
    choices = part_plans.choices_of(part_plans.newest(session, job))
    route = basis.worked(choices, only=face)
    held = route.faces[face].held if face in route.faces else None
    sets = shop.listed(session, BlockSetRow)
    own = next((each for each in sets if each.unit == job.print_unit), sets[0] if sets else None)
    at = AtMachine(
        None if held is None else held.fixture,
        None if own is None else own.to_core(),
        job.wheel.to_core(),
        graduation_of(job, face),
    )
    answer, refused = None, "" if held is None else held.stop
    try:
        answer = set_up_answer(basis.block, face, at)
    except InputError as error:
        refused = f"It cannot be set up: {error}."
    holder = "" if held is None else held.holder
    return FormedSetUp(
        job,
        job_state,
        setup,
        face,
        holder,
        _safety(job_state, setup, route, face),
        answer,
        refused,
        _list(session, job, job_state, now, setup=setup, face=face),
    )


def _safety(job_state: JobState, setup: SetUp, route: RoutePlan, face: int) -> float | None:
    """The hold of the plan that runs, else of what is planned now."""
    run = job_state.runs.get(face)
    if run is not None and run.plan is not None and run.goes_by_plan and run.setup == setup.key:
        return None if run.plan.hold_safety is None else float(run.plan.hold_safety)
    plan = route.faces[face].plan if face in route.faces else None
    return None if plan is None else plan.hold_safety


def _list(session: Session, job: Job, job_state: JobState, now: datetime, *, setup: SetUp, face: int) -> list[Listed]:
    """The list before the touch-off; nothing while the surface has no plan."""
    run = job_state.runs.get(face)
    if run is None or run.plan is None or run.setup != setup.key:
        return []
    return before(job_state, run, formed_keys(job, face), warm_at=set_ups.warmed_up_today(session, job, now))


def formed_keys(job: Job, face: int) -> list[str]:
    """Return the items that the set-up of a slot, an angle or an edge wants looked at."""
    return list(needed_for(formed_of(job.part.block())[face].holding.checks, job.machine.coolant))
