"""A part's whole plan worked out: set-ups, each face's question and plan, stock of the pairs, relations, and its figures."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from zesty_lark.core.faces import ALL_FACES, AXIS, Axis
from zesty_lark.core.holding import pull, thin_bow
from zesty_lark.core.process.evaluate import Coolant
from zesty_lark.core.process.optimise import best_of, schools_of
from zesty_lark.core.process.own_plan import own_plan_of
from zesty_lark.core.process.plan_input import Asked, ChuckIn, MachineIn, PartIn, WheelIn, asked
from zesty_lark.core.process.planner import Plan
from zesty_lark.core.quantities import InputError
from zesty_lark.core.route.block import AXES, Block, PairPlan, Sharing, pair_stock
from zesty_lark.core.route.changes import Figure
from zesty_lark.core.route.choices import HABITS, FaceChoice, RouteChoices
from zesty_lark.core.route.order import RouteStep, route_steps
from zesty_lark.core.route.relations import FixtureFacts, Relation, ShopFacts, relations

__all__ = ["FacePlan", "Means", "RoutePlan", "USUAL_FLAT_UM", "USUAL_RA_UM", "face_question", "figures", "plan_route"]

MICROMETRES_A_MM = 1000.0
USUAL_FLAT_UM, USUAL_RA_UM = 5.0, 0.8
"""What is asked of flatness and finish where the print says nothing: a usual ground face [µm]."""


@dataclass(frozen=True)
class Means:
    """What the part is ground with: machine, wheel, the magnet's pull [N/cm²], coolant, the steel's last temper [°C], hollow
    and Ra wanted [µm], minutes to dress."""

    machine: MachineIn
    wheel: WheelIn
    pull_n_cm2: float
    coolant: Coolant
    temper_c: float
    flatness_um: float
    ra_um: float
    dress_minutes: float = 1.5


@dataclass(frozen=True)
class FacePlan:
    """A face's plan. ``question`` as JSON is what ``pass.optimise`` is asked; ``plan`` is ``None`` with a ``problem`` said."""

    face: int
    stock_mm: Decimal
    choice: FaceChoice
    question: Asked | None
    plan: Plan | None
    problem: str


@dataclass(frozen=True)
class RoutePlan:
    """The whole plan of a part."""

    steps: list[RouteStep]
    pairs: dict[Axis, PairPlan]
    faces: dict[int, FacePlan]
    relations: list[Relation]

    @property
    def minutes(self) -> float:
        """Table time and dresses of every face that is planned [min]."""
        return sum(each.plan.minutes for each in self.faces.values() if each.plan)

    def about(self, faces: Collection[int]) -> set[str]:
        """The names that ``figures`` gives to these faces, their set-ups and their relations."""
        return {f"face {face}" for face in faces} | {_set_up(step) for step in self.steps if set(step.step.up) <= set(faces)} | {
            relation.name for relation in self.relations if relation.face in faces}

    @property
    def stops(self) -> list[str]:
        """Why it cannot be released."""
        return [stop for step in self.steps for stop in step.stops]


def plan_route(block: Block, choices: RouteChoices, means: Means, shop: ShopFacts, sharing: Mapping[Axis, Sharing],
               done: Sequence[int] = (), left_mm: Mapping[int, Decimal] | None = None) -> RoutePlan:
    """Work out a part's plan.

    Parameters
    ----------
    block : Block
    choices : RouteChoices
    means : Means
    shop : ShopFacts
        Its hollow and spring-back by face are filled in here.
    sharing : mapping of axis to Sharing
        How each pair's stock is shared.
    done : sequence of int
        Faces finished already.
    left_mm : mapping of face to Decimal, optional
        What is measured to be on a face now, where that is known better than by sharing the pair's stock [mm].
    """
    steps = route_steps(block, choices.squareness, choices.steps, done)
    pairs = {axis: pair_stock(block, axis, sharing[axis]) for axis in AXES}
    faces = {}
    for step in steps:
        fixture = shop.fixture(step, choices.squareness)
        for face in step.step.up:
            stock = (left_mm or {}).get(face, _share(block, pairs, face))
            faces[face] = _face_plan(block, face, stock, choices.face(face), means, fixture)
    told = replace(shop, hollow_um={each.face: each.plan.hollow_um for each in faces.values() if each.plan},
                   springs_back_um=_springs_back(block, steps, faces, means, shop, choices.squareness, done))
    return RoutePlan(steps, pairs, dict(sorted(faces.items())), relations(block, choices.squareness, steps, told, done))


def _share(block: Block, pairs: Mapping[Axis, PairPlan], face: int) -> Decimal:
    made = pairs[AXIS[face]].split
    return made.first_face_mm if face in block.references else made.second_face_mm


def _face_plan(block: Block, face: int, stock: Decimal, choice: FaceChoice, means: Means,
               fixture: FixtureFacts | None) -> FacePlan:
    try:
        question = face_question(block, face, stock, choice.skew_deg, means, fixture)
    except InputError as error:
        words = ("Nothing to grind: less is left than a graduation of the dial." if error.field == "stock_mm"
                 else f"Not planned: {error}.")
        return FacePlan(face, stock, choice, None, None, words)
    try:
        return FacePlan(face, stock, choice, question, _chosen(question, choice), "")
    except InputError as error:
        return FacePlan(face, stock, choice, question, None, f"Not planned: {error}.")


def face_question(block: Block, face: int, stock_mm: Decimal, skew_deg: float, means: Means,
                  fixture: FixtureFacts | None) -> Asked:
    """Return the planner's question of a face as it lies, on the magnet or in a fixture.

    A side stands on its opposite: blocked when it is taller than its footprint, or in a fixture, whose base then stands on the
    magnet in the part's place.

    Raises
    ------
    InputError
        As ``pass.optimise``.
    """
    lying = block.lying(face)
    chuck = ChuckIn(means.pull_n_cm2) if fixture is None else ChuckIn(
        means.pull_n_cm2, fixture.base_length_mm, fixture.base_width_mm)
    blocked = fixture is not None or lying.height_mm > lying.across_mm
    return asked(PartIn(lying.along_mm, lying.across_mm, lying.height_mm, means.temper_c), stock_mm,
                 block.size_of(face).tolerance_mm, means.flatness_um, means.ra_um, means.machine, means.wheel, chuck,
                 means.coolant, skew_deg, means.dress_minutes, blocked, 0.0)


def _chosen(question: Asked, choice: FaceChoice) -> Plan:
    if choice.habit == "quickest":
        return best_of(question)
    if choice.habit == "own" and choice.downfeed_mm and choice.crossfeed_mm and choice.table_mm_s:
        return own_plan_of(question, choice.downfeed_mm, choice.crossfeed_mm, choice.table_mm_s, choice.leading_chamfer_mm,
                           choice.rough_dress, None, None)
    return next((each for each in schools_of(question) if each.school == choice.habit), None) or best_of(question)


def _springs_back(block: Block, steps: Sequence[RouteStep], faces: Mapping[int, FacePlan], means: Means, shop: ShopFacts,
                  school: str, done: Sequence[int]) -> dict[int, float]:
    """What springs back of each face when the magnet lets the part go [µm].

    The face under it is as bowed as it came in, or once it was ground as hollow as its own plan left it. A fixture clamps a
    part as it is.
    """
    bow = {face: block.bow_mm(face) for face in ALL_FACES}
    bow |= {face: _let_go(block, face, bow[face], means) / MICROMETRES_A_MM for face in done}
    back: dict[int, float] = {}
    for step in steps:
        for face in step.step.up:
            held = shop.fixture(step, school) is not None
            back[face] = 0.0 if held or step.skip else _let_go(block, face, bow[step.step.down], means)
            plan = faces[face].plan if face in faces else None
            if not step.skip:
                bow[face] = (back[face] + (plan.hollow_um if plan else 0.0)) / MICROMETRES_A_MM
    return back


def _let_go(block: Block, face: int, bow_mm: float, means: Means) -> float:
    if bow_mm <= 0:
        return 0.0
    lying = block.lying(face)
    area = lying.along_mm * lying.across_mm
    pulls = pull(area, lying.across_mm, lying.height_mm, means.pull_n_cm2, bow_mm)
    return thin_bow(length_mm=lying.along_mm, thickness_mm=lying.height_mm, bow_mm=bow_mm, wide=True,
                    pull_n_mm2=pulls / area).spring_back_mm * MICROMETRES_A_MM


def figures(made: RoutePlan, means: Means, shop: ShopFacts) -> dict[str, dict[str, Figure]]:
    """Return a plan's figures and those of what it stands on, for comparing two of them."""
    wheel, machine = means.wheel, means.machine
    told: dict[str, dict[str, Figure]] = {
        shop.chuck.name: {"map's range, µm": shop.chuck.flat_um, "pull, N/cm²": means.pull_n_cm2},
        "the wheel": {"diameter, mm": wheel.diameter_mm, "width, mm": wheel.width_mm, "grit": float(wheel.grit),
                      "grade": wheel.grade},
        "the machine": {"spindle, W": machine.spindle_w, "cut ratio": machine.cut_ratio, "coolant": means.coolant}}
    for step in made.steps:
        told[_set_up(step)] = {
            "place": float(step.number), "fixture": step.fixture or step.step.fixture, "skipped": "yes" if step.skip else "no"}
    for face, each in made.faces.items():
        told[f"face {face}"] = {"to take, mm": float(each.stock_mm), "habit": HABITS[each.choice.habit],
                                "turned, °": each.choice.skew_deg, **(_plan_figures(each.plan) if each.plan else {})}
    for relation in made.relations:
        told[relation.name] = {"worst, µm": relation.chain.worst_um, "likely, µm": relation.chain.likely_um,
                               "state": relation.state}
    return told


def _set_up(step: RouteStep) -> str:
    return f"set-up of face {step.key.replace('+', ' and ')}"


def _plan_figures(plan: Plan) -> dict[str, Figure]:
    return {"minutes": plan.minutes, "passes": float(plan.passes), "downfeed, mm": plan.downfeed_mm,
            "crossfeed, mm": plan.crossfeed_mm, "table, mm/s": plan.table_mm_s, "hottest, °C": plan.peak_temperature_c,
            "power, W": plan.power_w, "hold": plan.hold_safety, "hollow, µm": plan.hollow_um, "finish Ra, µm": plan.ra_um}
