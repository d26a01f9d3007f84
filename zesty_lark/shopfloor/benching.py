"""A set-up's bench: what it is laid out with, how it stands, and what of it goes back into the plan."""

from dataclasses import dataclass, replace
from datetime import date, datetime
from functools import cached_property

from sqlalchemy.orm import Session

from zesty_lark.core.bench.checks import Checked, check
from zesty_lark.core.bench.facts import BenchFacts, PartFacts, Sides, cut_of
from zesty_lark.core.bench.layout import Layout
from zesty_lark.core.bench.solids import build
from zesty_lark.core.bench.suggest import suggest
from zesty_lark.core.bench.thin import Turn, bow_turns, is_thin, turns_wanted
from zesty_lark.core.faces import corner_faces
from zesty_lark.core.holding import SURFACES
from zesty_lark.core.route.changes import Change, differences
from zesty_lark.core.route.choices import PairChoice, RouteChoices
from zesty_lark.core.route.hold import Held
from zesty_lark.core.route.order import StepChoice
from zesty_lark.core.route.planned import FacePlan, RoutePlan
from zesty_lark.core.route.remaining import turn_of
from zesty_lark.core.surfaces import kind_of, lying_of
from zesty_lark.core.surfaces.sides import sides_of
from zesty_lark.core.work.entries import Released
from zesty_lark.core.work.plans import MAGNET
from zesty_lark.core.work.preparing import ITEMS, prepared
from zesty_lark.core.work.prints import THICKNESS
from zesty_lark.core.work.setups import SetUp
from zesty_lark.core.work.standing import Run, Standing
from zesty_lark.shopfloor.basis import Basis, basis_of
from zesty_lark.shopfloor.long_work import StillWorking, TooLong
from zesty_lark.store import benches, part_plans, shop
from zesty_lark.store.models import AccessoryRow, Job, Person, SetUpRow

__all__ = [
    "Bench",
    "Thin",
    "bench_of",
    "in_turns",
    "kept",
    "load_for",
    "moved_by",
    "open_cautions",
    "recheck",
    "taken_into_plan",
    "thin_of",
]

MOST_PIECES = 120
"""So many pieces of a load are laid out; the others stand in rows as these do."""
GRAVITY, MM3_A_M3 = 9.81, 1e9
MICROMETRES_A_MM = 1000.0


@dataclass(frozen=True)
class Bench:
    """A set-up at the bench: which, with which face up, how it is laid out (as kept, or first as suggested), its facts,
    and what was found of it."""

    job: Job
    standing: Standing
    setup: SetUp
    face: int
    basis: Basis
    choices: RouteChoices
    route: RoutePlan
    facts: BenchFacts
    row: SetUpRow | None
    layout: Layout

    @cached_property
    def checked(self) -> Checked:
        """What its rules find."""
        return check(self.layout, self.facts)

    @property
    def version(self) -> int:
        """The version of the layout that is worked from; 0 while none is kept."""
        return 0 if self.row is None else self.row.version

    @property
    def released(self) -> dict[str, Released]:
        """The cautions a lead has released in this set-up, by their check."""
        return _released(self.standing, self.setup.key)


@dataclass(frozen=True)
class Thin:
    """A thin part at the bench: its sides taken in turn, the flatness allowed [µm], how often each has to be taken for
    it, how often the plan takes each, and which time this is."""

    turns: list[Turn]
    allowed_um: float
    wanted: int | None
    planned: int
    now: int


def _released(standing: Standing, setup: str) -> dict[str, Released]:
    return {entry.item: entry for entry in standing.history if isinstance(entry, Released) and entry.setup == setup}


def open_cautions(job: Job, standing: Standing, setup: str) -> list[str]:
    """Return the cautions of a set-up as it was laid out that no lead has released; none where it was not laid out, or
    where something stops it anyway."""
    row = next((each for each in job.set_ups if each.setup == setup), None)
    released = _released(standing, setup)
    return [
        each for each in (row.cautions.split("\n") if row and not row.stop else []) if each and each not in released
    ]


def load_for(standing: Standing, setup: SetUp, face: int, room: int) -> tuple[int, ...]:
    """Return the pieces that stand on the bench: the load at work, else as many of those to come as there is room
    for."""
    run = standing.runs.get(face)
    if run is not None and run.setup == setup.key and run.plan is not None:
        return run.pieces[:MOST_PIECES]
    surface = standing.brief.wanted.surfaces[face]
    wants = tuple(number for number in standing.live if standing.pieces[number].wants(surface))
    return (wants or standing.live)[: min(room, MOST_PIECES)]


def bench_of(
    session: Session,
    job: Job,
    standing: Standing,
    today: date,
    *,
    setup: SetUp,
    face: int,
    room: int,
    in_force: bool = False,
) -> Bench:
    """Gather a set-up's bench, for the newest version of the part's plan, or for the one that is in force.

    Raises
    ------
    StillWorking
        While its plan is being worked out elsewhere.
    """
    load = load_for(standing, setup, face, room)
    basis = basis_of(session, job, standing, today, load=load if face == standing.surface else ())
    choices = job.part.route_choices if in_force else part_plans.choices_of(part_plans.newest(session, job))
    route = basis.worked(choices, only=face)
    facts = _facts(session, basis, setup, route, face=face, pieces=load)
    row = benches.of(session, job, setup.key)
    if row is not None:
        layout = _with_load(benches.layout_of(row), facts)
    else:
        layout = first_layout(facts)
    return Bench(job, standing, setup, face, basis, choices, route, facts, row, layout)


def first_layout(facts: BenchFacts) -> Layout:
    """What a bench opens with: the best suggestion that holds it as it is planned."""
    ways = suggest(facts)
    planned = [each for each in ways if each.planned] or ways
    return planned[0].layout if planned else Layout()


def _with_load(layout: Layout, facts: BenchFacts) -> Layout:
    """A kept layout with the pieces of today's load: one that went takes its place with it, a new one takes the place
    of one that left."""
    here = [each for each in layout.pieces if each.number in facts.pieces]
    gone = [each for each in layout.pieces if each.number not in facts.pieces]
    new = [number for number in facts.pieces if number not in {each.number for each in here}]
    here += [replace(place, number=number) for place, number in zip(gone, new, strict=False)]
    return replace(layout, pieces=tuple(sorted(here, key=lambda each: each.number)))


def _facts(
    session: Session, basis: Basis, setup: SetUp, route: RoutePlan, *, face: int, pieces: tuple[int, ...]
) -> BenchFacts:
    job, standing = basis.job, basis.standing
    machine, wheel = job.machine.to_core(), job.wheel.to_core()
    face_plan = route.faces.get(face)
    run = standing.runs.get(face)
    said = {} if run is None else prepared(standing, run)
    wrong = {item for item, entry in said.items() if (found := ITEMS[item].answer(entry.answer)) and not found.well}
    side = said["high side"].answer if "high side" in said else ""
    parallel, step = job.part.parallel_mm, route.step_of(face)
    return BenchFacts(
        machine,
        wheel,
        job.wheel.mounted(),
        basis.shop.chuck,
        _part(basis, setup, face_plan, face=face, pieces=pieces),
        pieces,
        cut=None if face_plan is None else cut_of(face_plan, basis.means.wheel),
        fixtures=tuple(basis.shop.fixtures),
        accessories=tuple(each.to_core() for each in shop.listed(session, AccessoryRow)),
        chuck_map=basis.shop.chuck_map,
        holder=None if face_plan is None or face_plan.held.fixture is None else face_plan.held.fixture.name,
        may_lie=step is None or step.step.fixture.startswith(MAGNET),
        allowed_um=None if parallel is None else float(parallel) * MICROMETRES_A_MM,
        coolant=machine.coolant,
        high_side=side if side in ("front", "back") else "",
        rocks="rock" in wrong,
    )


def _part(basis: Basis, setup: SetUp, face_plan: FacePlan | None, *, face: int, pieces: tuple[int, ...]) -> PartFacts:
    job, standing, block = basis.job, basis.standing, basis.block
    lying, surface = lying_of(block, face), standing.brief.wanted.surfaces[face]
    held: Held | None = None if face_plan is None else face_plan.held
    size = kind_of(block, face).size_of(block, face)
    heights = {number: float(standing.pieces[number].sizes[surface.size].by_collar_mm) for number in pieces}
    lowest = min(heights.values(), default=float(size.measured_max_mm))
    stock = 0.0 if face_plan is None else float(face_plan.stock_mm)
    final = max(max(heights.values(), default=lowest) - stock, 0.01)
    front, back, left, right = sides_of(face)
    volume = lying.along_mm * lying.across_mm * lying.height_mm
    return PartFacts(
        up=face,
        down=setup.down if len(setup.up) == 1 else surface.opposite,
        along_mm=lying.along_mm,
        across_mm=lying.across_mm,
        height_mm=max(lowest, final),
        final_mm=final,
        sides=Sides(front, back, left, right, tuple(corner_faces(job.part.mark_corner))),
        material=job.part.material,
        material_factor=basis.means.material.pull_factor,
        surface_factor=1.0 if held is None else SURFACES[held.surface],
        gap_mm=0.0 if held is None else held.gap_mm,
        bow_shape="middle_up" if held is None else held.shape,
        bow_known=held is not None and held.bow_known,
        weight_n=volume * basis.means.material.density_kg_m3 / MM3_A_M3 * GRAVITY,
        carbon_steel=basis.means.material.magnetic,
        reference_up=surface.reference and not standing.pieces[pieces[0]].wants(surface) if pieces else False,
        higher_mm={number: height - lowest for number, height in heights.items()},
    )


def kept(
    session: Session,
    bench: Bench,
    layout: Layout,
    person: Person,
    *,
    version: int | None,
    at: datetime,
    back: bool = False,
) -> Bench:
    """Keep a layout of a bench with what its check finds; return the bench as it is then. ``back``: it is the one
    before.

    Raises
    ------
    LaidOutMeanwhile
        If someone else changed it since.
    """
    stop, cautions = _found(check(layout, bench.facts))
    row = benches.keep(
        session,
        bench.job,
        person,
        bench.setup.key,
        layout=layout,
        stop=stop,
        cautions=cautions,
        version=version or None,
        at=at,
        back=back,
    )
    return replace(bench, row=row, layout=layout)


def recheck(session: Session, job: Job, standing: Standing, run: Run, *, now: datetime) -> None:
    """Check a set-up that was laid out again with the plan in force and shop and wheel as they are, before the wheel
    touches.

    While its plan is being worked out elsewhere, what was found last holds.
    """
    row = benches.of(session, job, run.setup)
    setup = standing.setup(run.setup)
    if row is None or setup is None:
        return
    try:
        bench = bench_of(
            session,
            job,
            standing,
            now.date(),
            setup=setup,
            face=run.surface,
            room=max(len(run.pieces), 1),
            in_force=True,
        )
    except (StillWorking, TooLong):
        return
    stop, cautions = _found(bench.checked)
    benches.found(session, job, row, stop=stop, cautions=cautions)


def _found(made: Checked) -> tuple[str, list[str]]:
    """What is kept of a check: the first stop, and the cautions by their names."""
    return made.stops[0].finding.why if made.stops else "", [each.finding.check for each in made.cautions]


def taken_into_plan(bench: Bench) -> RouteChoices:
    """Return the plan's choices as this layout holds the part: its fixture, its blocks, its turn."""
    built = build(bench.layout, bench.facts)
    fixture = next(built.of_role("fixture"), None)
    blocks = any(True for _ in built.of_role("backing", "support"))
    choices, key = bench.choices, bench.setup.key
    now = next((each for each in bench.route.steps if each.key == key), None)
    if now is None:
        return choices
    planned = bench.facts.holder
    fixed = None if fixture is None else fixture.name
    step = StepChoice(key, now.skip, now.fixture if fixed == planned else fixed, blocks if fixture is None else None)
    if (step.fixture, bool(step.blocks)) == (now.fixture, bench.facts.cut is not None and bench.facts.cut.blocks):
        step = replace(step, blocks=now.blocks)
    steps = [
        step if each.key == key else StepChoice(each.key, each.skip, each.fixture, each.blocks)
        for each in bench.route.steps
    ]
    same = all(
        (each.key, each.skip, each.fixture, each.blocks) == (new.key, new.skip, new.fixture, new.blocks)
        for each, new in zip(bench.route.steps, steps, strict=True)
    )
    turn = bench.layout.pieces[0].turn_deg if bench.layout.pieces and fixture is None else 0.0
    turned = turn if abs(turn) <= 90 else turn - 180 if turn > 0 else turn + 180
    made = choices if same else replace(choices, steps=tuple(steps))
    face = made.face(bench.face)
    return made if face.skew_deg == turned else made.with_face(bench.face, replace(face, skew_deg=turned))


def thin_of(bench: Bench) -> Thin | None:
    """Return what is to be known of a thin part, its largest pair of faces up on the magnet; ``None`` of any other."""
    surface = bench.standing.brief.wanted.surfaces[bench.face]
    facts = bench.facts
    if surface.size != THICKNESS or facts.holder is not None or not is_thin(facts) or facts.part.gap_mm <= 0:
        return None
    plan = bench.route.faces[bench.face].plan
    hollow = 0.0 if plan is None else plan.hollow_um
    allowed = bench.basis.means.flatness_um
    made = bow_turns(facts, hollow_um=hollow, low=bench.layout.magnet == "low")
    run = bench.standing.runs.get(bench.face)
    turn = 1 if run is None else turn_of(bench.standing, run)
    pair = bench.choices.pairs.get(THICKNESS, PairChoice())
    return Thin(made, allowed, turns_wanted(made, allowed), pair.turns, turn)


def in_turns(bench: Bench, turns: int) -> RouteChoices:
    """Return the plan's choices with both sides taken in so many turns."""
    pair = bench.choices.pairs.get(THICKNESS, PairChoice())
    return replace(bench.choices, pairs={**bench.choices.pairs, THICKNESS: replace(pair, turns=turns)})


def moved_by(bench: Bench, choices: RouteChoices) -> tuple[RoutePlan, list[Change]]:
    """Return the plan worked out with other choices, and which of this face's figures move by them."""
    after = bench.basis.worked(choices, only=bench.face)
    about = after.about({bench.face})
    changes = differences(bench.basis.figures(bench.route), bench.basis.figures(after))
    return after, [each for each in changes if each.of in about]
