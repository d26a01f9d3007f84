"""A set-up: what it is laid out with, how it stands, and what of it goes back into the plan."""

from dataclasses import dataclass, replace
from datetime import date, datetime
from functools import cached_property

from sqlalchemy.orm import Session

from zesty_lark.core.part.prints import THICKNESS
from zesty_lark.core.quantities.units import micrometres
from zesty_lark.core.setup.checks import Checked, check
from zesty_lark.core.setup.facts import CutFacts, SetUpFacts, cut_in_force, cut_of
from zesty_lark.core.setup.into_plan import into_plan
from zesty_lark.core.setup.layout import Layout
from zesty_lark.core.setup.part import part_of
from zesty_lark.core.setup.suggest import suggest
from zesty_lark.core.setup.thin import Turn, bow_turns, is_thin, turns_wanted
from zesty_lark.core.squaring.changes import Change, differences
from zesty_lark.core.squaring.choices import PairChoice, RouteChoices
from zesty_lark.core.squaring.corner import corner_of
from zesty_lark.core.squaring.face_plan import FacePlan
from zesty_lark.core.squaring.planned import RoutePlan
from zesty_lark.core.squaring.remaining import turn_of
from zesty_lark.core.work.entries import CautionWaived
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.looking import is_well, prepared
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.plans import MAGNET
from zesty_lark.core.work.run import Run
from zesty_lark.core.work.setups import SetUp
from zesty_lark.shopfloor.basis import Basis, basis_of
from zesty_lark.shopfloor.long_work import StillWorking, TooLong
from zesty_lark.store import part_plans, set_ups, shop
from zesty_lark.store.models import AccessoryRow, Job, Person, SetUpRow

MOST_PIECES = 120
"""So many pieces of a load are laid out; the others stand in rows as these do."""


@dataclass(frozen=True)
class LaidOut:
    """A set-up laid out: which, with which face up, how it is laid out (as kept, or first as suggested), its facts,
    and what was found of it."""

    job: Job
    job_state: JobState
    setup: SetUp
    face: int
    basis: Basis
    choices: RouteChoices
    route: RoutePlan
    facts: SetUpFacts
    row: SetUpRow | None
    layout: Layout

    @cached_property
    def checked(self) -> Checked:
        """What its rules find."""
        return check(self.layout, self.facts)

    @property
    def runs(self) -> bool:
        """Whether its figures are of a plan that runs."""
        run = self.job_state.runs.get(self.face)
        return run is not None and run.goes_by_plan and run.setup == self.setup.key

    @property
    def version(self) -> int:
        """The version of the layout that is worked from; 0 while none is kept."""
        return 0 if self.row is None else self.row.version

    @property
    def waived(self) -> dict[str, CautionWaived]:
        """The cautions a lead has waived in this set-up, by their check."""
        return _waived(self.job_state, self.setup.key)


@dataclass(frozen=True)
class Thin:
    """A thin part set up: its sides taken in turn, the flatness allowed [µm], how often each has to be taken for
    it, how often the plan takes each, and which time this is."""

    turns: list[Turn]
    allowed_um: float
    wanted: int | None
    planned: int
    now: int


def _waived(job_state: JobState, setup: str) -> dict[str, CautionWaived]:
    return {
        entry.item: entry for entry in job_state.history if isinstance(entry, CautionWaived) and entry.setup == setup
    }


def open_cautions(job: Job, job_state: JobState, setup: str) -> list[str]:
    """Return the cautions of a set-up as it was laid out that no lead has waived; none where it was not laid out, or
    where something stops it anyway."""
    row = next((set_up for set_up in job.set_ups if set_up.setup == setup), None)
    waived = _waived(job_state, setup)
    return [each for each in (row.cautions.split("\n") if row and not row.stop else []) if each and each not in waived]


def _load(job_state: JobState, setup: SetUp, face: int, room: int) -> tuple[int, ...]:
    """The pieces that stand in the set-up: the load at work, else as many of those to come as there is room
    for."""
    run = job_state.runs.get(face)
    if run is not None and run.setup == setup.key and run.plan is not None:
        return run.pieces[:MOST_PIECES]
    surface = job_state.spec.wanted.surfaces[face]
    wants = tuple(number for number in job_state.live if job_state.pieces[number].wants(surface))
    return (wants or job_state.live)[: min(room, MOST_PIECES)]


def known_set_ups(job_state: JobState) -> list[tuple[SetUp, int]]:
    """The set-ups of the route that are run, each with the face that is up first and still wanted."""
    found = []
    for setup in job_state.setups:
        if setup.left_out:
            continue
        asked = job_state.spec.wanted.surfaces
        wanted = [
            face for face in setup.up if any(job_state.pieces[number].wants(asked[face]) for number in job_state.live)
        ]
        found.append((setup, (wanted or list(setup.up))[0]))
    return found


def set_up_of(job_state: JobState, face: int | None) -> tuple[SetUp, int]:
    """Return the set-up that has a face up, and that face; without one, of what is at work or comes next.

    Raises
    ------
    LogError
        If the route has none.
    """
    known = known_set_ups(job_state)
    if not known:
        raise LogError("This job has no set-up: its route leaves every face as it is.")
    wanted = face or job_state.surface or known[0][1]
    setup = next((each for each, _ in known if wanted in each.up), None)
    if setup is None:
        raise LogError(f"No set-up of this route has {job_state.named(wanted)} up.")
    return setup, wanted


def laid_out_of(
    session: Session,
    job: Job,
    job_state: JobState,
    today: date,
    *,
    setup: SetUp,
    face: int,
    room: int,
    in_force: bool = False,
) -> LaidOut:
    """Gather a set-up, for the newest version of the part's plan, or for the one that is in force.

    Raises
    ------
    StillWorking
        While its plan is being worked out elsewhere.
    """
    load = _load(job_state, setup, face, room)
    basis = basis_of(session, job, job_state, today, load=load if face == job_state.surface else ())
    choices = job.part.route_choices if in_force else part_plans.choices_of(part_plans.newest(session, job))
    route = basis.worked(choices, only=face)
    if face in route.faces and route.faces[face].held.fixture is not None:
        load = load[:1]
    facts = _facts(session, basis, setup, route, face=face, pieces=load)
    row = set_ups.of(session, job, setup.key)
    kept = None if row is None else set_ups.layout_of(row)
    layout = _first(facts) if kept is None or not kept.is_for(facts.at_end) else _with_load(kept, facts)
    return LaidOut(job, job_state, setup, face, basis, choices, route, facts, row, layout)


def _first(facts: SetUpFacts) -> Layout:
    """What a set-up opens with: the best suggestion that holds it as it is planned."""
    ways = suggest(facts)
    planned = [way for way in ways if way.planned] or ways
    return planned[0].layout if planned else Layout()


def _with_load(layout: Layout, facts: SetUpFacts) -> Layout:
    """A kept layout with the pieces of today's load: one that went takes its place with it, a new one takes the place
    of one that left."""
    here = [piece for piece in layout.pieces if piece.number in facts.pieces]
    gone = [each for each in layout.pieces if each.number not in facts.pieces]
    new = [number for number in facts.pieces if number not in {each.number for each in here}]
    here += [replace(place, number=number) for place, number in zip(gone, new, strict=False)]
    return replace(layout, pieces=tuple(sorted(here, key=lambda each: each.number)))


def _facts(
    session: Session, basis: Basis, setup: SetUp, route: RoutePlan, *, face: int, pieces: tuple[int, ...]
) -> SetUpFacts:
    job, job_state = basis.job, basis.job_state
    machine, wheel = job.machine.to_core(), job.wheel.to_core()
    face_plan = route.faces.get(face)
    run = job_state.runs.get(face)
    said = {} if run is None else prepared(job_state, run)
    wrong = {item for item, entries in said.items() if not all(is_well(entry) for entry in entries.values())}
    sides = sorted(said.get("high side", {}).values(), key=lambda entry: entry.seq)
    side = sides[-1].answer if sides else ""
    parallel, step = job.part.parallel_mm, route.step_of(face)
    small = tuple(row.to_core() for row in shop.listed(session, AccessoryRow))
    fixture = None if face_plan is None else face_plan.held.fixture
    up = setup.up if step is None else step.step.up
    corner = corner_of(basis.block, up, fixture, [each for each in small if each.kind == "clamp"])
    return SetUpFacts(
        machine,
        wheel,
        job.wheel.mounted(),
        basis.shop.chuck,
        part_of(
            basis.block,
            basis.means.material,
            job.part.mark_corner,
            job_state=job_state,
            setup=setup,
            face_plan=face_plan,
            face=face,
            pieces=pieces,
        ),
        pieces,
        cut=_cut(basis, run, setup, face_plan),
        fixtures=tuple(basis.shop.for_faces),
        accessories=small,
        chuck_map=basis.shop.chuck_map,
        holder=None if fixture is None else fixture.name,
        corner=None if corner is None or corner.lacks else corner,
        set_low=face_plan is not None and face_plan.held.set_to < 1,
        may_lie=step is None or step.step.fixture.startswith(MAGNET),
        allowed_um=None if parallel is None else micrometres(parallel),
        coolant=machine.coolant,
        high_side=side if side in ("front", "back") else "",
        rocks="rock" in wrong,
    )


def _cut(basis: Basis, run: Run | None, setup: SetUp, face_plan: FacePlan | None) -> CutFacts | None:
    """What pushes the part: by the plan that runs, else by what is planned now."""
    planned = None if face_plan is None else cut_of(face_plan, basis.means.wheel)
    if run is None or run.plan is None or not run.goes_by_plan or run.setup != setup.key:
        return planned
    skew, blocks = (0.0, False) if face_plan is None else (face_plan.choice.skew_deg, face_plan.held.blocks)
    return cut_in_force(run.plan, skew_deg=skew, blocks=blocks) or planned


def kept(
    session: Session,
    laid_out: LaidOut,
    layout: Layout,
    person: Person,
    *,
    version: int | None,
    at: datetime,
    back: bool = False,
) -> LaidOut:
    """Keep a layout with what its check finds; return the set-up as it is then. ``back``: it is the one
    before.

    Raises
    ------
    LaidOutMeanwhile
        If someone else changed it since.
    """
    stop, cautions = _found(check(layout, laid_out.facts))
    row = set_ups.keep(
        session,
        laid_out.job,
        person,
        laid_out.setup.key,
        layout=layout,
        stop=stop,
        cautions=cautions,
        version=version or None,
        at=at,
        back=back,
    )
    return replace(laid_out, row=row, layout=layout)


def in_force(session: Session, job: Job, job_state: JobState, run: Run, *, now: datetime) -> LaidOut | None:
    """Return a run's set-up with the plan in force, and shop and wheel as they are; ``None`` while that is still worked
    out elsewhere, or the route has no such set-up."""
    setup = job_state.setup(run.setup)
    if setup is None:
        return None
    room = max(len(run.pieces), 1)
    try:
        return laid_out_of(session, job, job_state, now.date(), setup=setup, face=run.surface, room=room, in_force=True)
    except (StillWorking, TooLong):
        return None


def recheck(session: Session, laid_out: LaidOut) -> None:
    """Keep what the check of a set-up that was laid out finds now, before the wheel touches."""
    if laid_out.row is not None:
        stop, cautions = _found(laid_out.checked)
        set_ups.found(session, laid_out.job, laid_out.row, stop=stop, cautions=cautions)


def _found(made: Checked) -> tuple[str, list[str]]:
    """What is kept of a check: the first stop, and the cautions by their names."""
    return made.stops[0].finding.why if made.stops else "", [caution.finding.check for caution in made.cautions]


def taken_into_plan(laid_out: LaidOut) -> RouteChoices:
    """Return the plan's choices as this layout holds the part."""
    return into_plan(laid_out.checked.built, laid_out.choices, laid_out.route, laid_out.face)


def thin_of(laid_out: LaidOut) -> Thin | None:
    """Return what is to be known of a thin part, its largest pair of faces up on the magnet; ``None`` of any other."""
    surface = laid_out.job_state.spec.wanted.surfaces[laid_out.face]
    facts = laid_out.facts
    if surface.size != THICKNESS or facts.holder is not None or not is_thin(facts) or facts.part.gap_mm <= 0:
        return None
    plan = laid_out.route.faces[laid_out.face].plan
    hollow = 0.0 if plan is None else plan.hollow_um
    allowed = laid_out.basis.means.flatness_um
    made = bow_turns(facts, hollow_um=hollow, low=laid_out.layout.magnet == "low")
    run = laid_out.job_state.runs.get(laid_out.face)
    turn = 1 if run is None else turn_of(laid_out.job_state, run)
    pair = laid_out.choices.pairs.get(THICKNESS, PairChoice())
    return Thin(made, allowed, turns_wanted(made, allowed), pair.turns, turn)


def in_turns(laid_out: LaidOut, turns: int) -> RouteChoices:
    """Return the plan's choices with both sides taken in so many turns."""
    pair = laid_out.choices.pairs.get(THICKNESS, PairChoice())
    return replace(laid_out.choices, pairs={**laid_out.choices.pairs, THICKNESS: replace(pair, turns=turns)})


def moved_by(laid_out: LaidOut, choices: RouteChoices) -> tuple[RoutePlan, list[Change]]:
    """Return the plan worked out with other choices, and which of this face's figures move by them."""
    after = laid_out.basis.worked(choices, only=laid_out.face)
    about = after.about({laid_out.face})
    changes = differences(laid_out.basis.figures(laid_out.route), laid_out.basis.figures(after))
    return after, [each for each in changes if each.of in about]
