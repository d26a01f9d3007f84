"""A part's plan: kept in versions, released to the machine, left in its order with a reason."""

from collections.abc import Sequence
from dataclasses import dataclass

from zesty_lark.core.part.surfaces import kind_of
from zesty_lark.core.squaring.choices import RouteChoices
from zesty_lark.core.squaring.planned import RoutePlan
from zesty_lark.core.work.entries import Amended, Rerouted, RouteChange
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import PassFed
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.next_act import next_act
from zesty_lark.shopfloor.acts.acting import Acting, act, log, log_any_time
from zesty_lark.shopfloor.part_planning import PartPlanning, part_planning
from zesty_lark.shopfloor.planning import Planning, plan_face
from zesty_lark.shopfloor.rights import NotYours, may_release
from zesty_lark.store import part_plans, shoplog
from zesty_lark.store.models import PartPlanRow, Person
from zesty_lark.store.models.people import Role
from zesty_lark.store.shoplog import Appended

APPRENTICE = "An apprentice’s plan is released by a lead: keep it, and ask."
LONGEST_REASON = 500
LONGEST_SETUP = 20


class NotReleased(LogError):
    """Why a plan is not released: a sentence each."""

    def __init__(self, why: Sequence[str]) -> None:
        super().__init__("Not released. " + " ".join(why))
        self.why = list(why)


@dataclass(frozen=True)
class Release:
    """A version that is in force now, and the plan of the face at work as it was logged, or why it was not."""

    row: PartPlanRow
    logged: Appended | None
    words: str = ""


@act()
def keep_plan(
    acting: Acting,
    *,
    choices: RouteChoices | None = None,
    version: int | None = None,
    over: bool = False,
    pieces: tuple[int, ...] = (),
) -> PartPlanRow:
    """Keep what is chosen as a new version, made from a ``version``, else from the newest; without choices, that
    version's with today's figures. ``over``: as the newest, even when somebody kept another since.

    Raises
    ------
    NewerVersion
        If someone kept another since.
    """
    where = _planning(acting, version, pieces, choices)
    chosen = choices or where.choices
    return _kept(acting, where, chosen, where.basis.worked(chosen), over=over)


@act()
def release_face(
    acting: Acting,
    *,
    face: int,
    choices: RouteChoices | None = None,
    version: int | None = None,
    over: bool = False,
    pieces: tuple[int, ...] = (),
    reason: str = "",
) -> Release:
    """Keep a plan, release it, and log it for the face at work; with a reason where it needs one.

    Raises
    ------
    NotReleased
        If it cannot be, by this person, or without a reason.
    NewerVersion, BehindError, LogError
        As keeping it and logging it.
    """
    where, chosen, route, said = _to_release(acting, choices, version, pieces=pieces, reason=reason)
    planning = plan_face(where.basis, face, route, acting.person, reason=said)
    job_state = where.basis.job_state
    stops = _stops(where, route, planning, chosen.gap_mm) + reason_wanted(
        acting.person, planning.asks_reason, a_lead_only=planning.a_lead_only, reason=said
    )
    if face != job_state.surface:
        stops.append(f"{planning.route.surfaces[face].title} is not the one that is ground now.")
    if planning.steps is None:
        stops.append(planning.face_plan.refused or "It has no plan.")
    if stops:
        raise NotReleased(stops)
    row = _kept(acting, where, chosen, route, over=over)
    logged = _logged(acting, where, planning, seen=acting.seen)
    part_plans.release(acting.session, acting.job, row, acting.person, at=acting.at, reason=said)
    return Release(row, logged)


@act()
def release_route(
    acting: Acting,
    *,
    choices: RouteChoices | None = None,
    version: int | None = None,
    over: bool = False,
    pieces: tuple[int, ...] = (),
    reason: str = "",
) -> Release:
    """Keep a route and release the whole plan; the face at work is logged as planned if that is what comes next.

    Raises
    ------
    As ``release_face``.
    """
    where, chosen, route, said = _to_release(acting, choices, version, pieces=pieces, reason=reason)
    planning = _next_to_plan(where, route, acting.person, said)
    stops = _stops(where, route, planning, chosen.gap_mm) + reason_wanted(
        acting.person, asks_reason(route), a_lead_only=bool(route.short_of_clean_up), reason=said
    )
    if stops:
        raise NotReleased(stops)
    row = _kept(acting, where, chosen, route, over=over)
    logged, words = None, ""
    if planning is not None and planning.steps is None:
        words = f"{where.basis.job_state.titled(planning.face)} has no plan: {planning.face_plan.refused}"
    elif planning is not None:
        logged = _logged(acting, where, planning, seen=None)
        words = f"{where.basis.job_state.titled(planning.face)} is next: put it up."
    part_plans.release(acting.session, acting.job, row, acting.person, at=acting.at, reason=said)
    return Release(row, logged, words)


@act()
def choose_reference(acting: Acting, *, face: int) -> bool:
    """Choose which face of the thickness is ground first; whether that changed anything."""
    if any(isinstance(entry, PassFed) for entry in acting.job_state.history):
        raise LogError("The pair has been ground since; its reference stays what it is.")
    part = acting.job.part
    if face == part.reference_face:
        return False
    if face not in (1, 2):
        raise LogError("The reference is face 1 or face 2.")
    part.reference_face = face
    acting.session.flush()
    log_any_time(acting, Amended, note=f"face {face} is the reference now.")
    return True


@act()
def change_route(
    acting: Acting,
    *,
    change: RouteChange,
    setup: str = "",
    surface: int | None = None,
    pieces: tuple[int, ...] = (),
    reason: str = "",
) -> Appended:
    """Leave the route, with a reason: skip a set-up, take one next, or grind a face again."""
    said = reason.strip()[:LONGEST_REASON]
    named = "" if change == "grind" else setup[:LONGEST_SETUP]
    of = surface if change == "grind" else None
    return log(acting, Rerouted, change=change, setup=named, note=said, surface=of, pieces=pieces)


def asks_reason(route: RoutePlan) -> list[str]:
    """Why a route is released only with a reason."""
    return [f"{route.surfaces[face].title} is {words}." for face, words in route.near_limits.items()] + [
        f"The {axis} does not clean up: a lead releases it, with a reason." for axis in route.short_of_clean_up
    ]


def reason_wanted(who: Person, asks: list[str], *, a_lead_only: bool, reason: str) -> list[str]:
    """Return why something may not be released yet by someone: it needs a reason, or a lead's."""
    if not asks:
        return []
    if a_lead_only and who.role != Role.LEAD:
        return [*asks, "Ask a lead to release it."]
    return [] if reason else [*asks, "Why is it released all the same? Write the reason."]


def _planning(acting: Acting, version: int | None, pieces: Sequence[int], choices: RouteChoices | None) -> PartPlanning:
    today, gap = acting.at.date(), None if choices is None else choices.gap_mm
    return part_planning(
        acting.session, acting.job, acting.job_state, today, version=version, pieces=pieces, gap_mm=gap
    )


def _to_release(
    acting: Acting, choices: RouteChoices | None, version: int | None, *, pieces: Sequence[int], reason: str
) -> tuple[PartPlanning, RouteChoices, RoutePlan, str]:
    if not may_release(acting.person, acting.job):
        raise NotYours(APPRENTICE)
    where = _planning(acting, version, pieces, choices)
    chosen = choices or where.choices
    return where, chosen, where.basis.worked(chosen), reason.strip()[:LONGEST_REASON]


def _next_to_plan(where: PartPlanning, route: RoutePlan, who: Person, reason: str) -> Planning | None:
    """The planning of the face that is to be planned next, if there is one."""
    what = next_act(where.basis.job_state)
    if what.act != "plan" or what.surface is None or what.surface not in route.faces:
        return None
    return plan_face(where.basis, what.surface, route, who, reason=reason)


def _stops(where: PartPlanning, route: RoutePlan, planning: Planning | None, gap_mm: float) -> list[str]:
    """Why a plan cannot be released, by anybody: of the route, the wheel, and of the face that is told to the
    machine."""
    job_state = where.basis.job_state
    stops = [*route.stops, *job_state.spec.stops]
    if planning is not None:
        stops += _formed_stops(job_state, planning)
        beyond = where.too_many(planning.face, gap_mm)
        stops += [beyond] if beyond else []
    return stops


def _formed_stops(job_state: JobState, planning: Planning) -> list[str]:
    """Why a slot, an angle or an edge is not ground as it was taken in, with the wheel that is mounted."""
    if planning.step is None or job_state.spec.wanted.surfaces[planning.face].is_height:
        return []
    stop = job_state.spec.set_up_stops.get(planning.step.key)
    return [] if stop is None else [stop]


def _logged(acting: Acting, where: PartPlanning, planning: Planning, *, seen: int | None) -> Appended:
    assert planning.steps is not None
    return shoplog.release_plan(
        acting.session,
        acting.job,
        acting.person,
        planning.steps,
        entry_id=acting.entry_id,
        at=acting.at,
        seen=seen,
        pieces=where.basis.load,
    )


def _kept(acting: Acting, where: PartPlanning, choices: RouteChoices, route: RoutePlan, *, over: bool) -> PartPlanRow:
    """Keep what is chosen as a new version, unless it is what the version worked from has already."""
    _keep_sharing(where, choices)
    if where.base is not None and where.base is where.newest and choices == where.choices and not where.moved(route):
        return where.base
    return part_plans.save(
        acting.session,
        acting.job,
        acting.person,
        choices,
        figures=where.basis.figures(route),
        based_on=where.based_on,
        at=acting.at,
        over=over,
    )


def _keep_sharing(where: PartPlanning, choices: RouteChoices) -> None:
    """The thickness's sharing goes with the part, where grinding and measuring find it, until its reference is
    finished."""
    part = where.job.part
    if "thickness" in choices.pairs and where.basis.job_state.surface == part.reference_face:
        every, block, face = where.basis.sharing(choices), where.basis.block, part.reference_face
        sharing = every["thickness"]
        part.min_skin_mm, part.first_share = sharing.skin_mm, sharing.first_share
        if sharing.first_mm is not None:
            part.first_share = kind_of(block, face).stock(block, face, every).first_share
