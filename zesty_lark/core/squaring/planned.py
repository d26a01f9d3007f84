"""A part's whole plan worked out: set-ups, each face's question and plan, stock of the pairs, relations."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from decimal import ROUND_DOWN, Decimal

from zesty_lark.core.part.faces import Axis
from zesty_lark.core.part.prints import THICKNESS
from zesty_lark.core.part.stock import mill_first
from zesty_lark.core.part.surfaces import feeding_of, kind_of, lying_of, surfaces_of
from zesty_lark.core.part.surfaces.part import Block, PairPlan, Sharing, volume_mm3
from zesty_lark.core.part.surfaces.surface import Surface
from zesty_lark.core.planning.best import best_of, finish_only
from zesty_lark.core.planning.custom import CustomSettings, custom_plan_of
from zesty_lark.core.planning.means import LoadIn, MachineIn, PartIn, PlanQuestion, WheelIn
from zesty_lark.core.planning.methods import methods_of
from zesty_lark.core.planning.plan import Plan
from zesty_lark.core.planning.problem import RESERVE, RESERVE_POWER, Problem, problem_of
from zesty_lark.core.process.evaluate import Coolant
from zesty_lark.core.process.materials import Material
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.quantities.units import SMALLEST_MM, micrometres
from zesty_lark.core.squaring.choices import FaceChoice, RouteChoices
from zesty_lark.core.squaring.feed import feed_as, graduation_of
from zesty_lark.core.squaring.hold import Held, holds, in_its_holder, springs_back
from zesty_lark.core.squaring.order import RouteStep, route_steps
from zesty_lark.core.squaring.relations import Relation, relations
from zesty_lark.core.squaring.shop_facts import ShopFacts
from zesty_lark.core.work.plans import METHODS

USUAL_FLAT_UM, USUAL_RA_UM = 5.0, 0.8
"""What is asked of flatness and finish where the print says nothing: a usual ground face [µm]."""
PLUNGED_RA_UM = 12.5
"""A plunged cut has no crossfeed whose marks could stand: its finish is the dress's [µm]."""
ONE = LoadIn()
FINISH_ONLY_MM = Decimal("0.05")
"""With no more than this left after a measurement it is finished, not roughed again [mm]."""


@dataclass(frozen=True)
class Means:
    """What the part is ground with: machine, wheel, the magnet's pull [N/cm²], coolant, material and its hardness
    [HRC], hollow and Ra wanted [µm], minutes to dress; η of one wipe in a fixture, where that is known."""

    machine: MachineIn
    wheel: WheelIn
    pull_n_cm2: float
    coolant: Coolant
    material: Material
    hardness_hrc: float | None
    flatness_um: float
    ra_um: float
    dress_minutes: float = 1.5
    fixture_cut_ratio: float | None = None

    @property
    def temper_c(self) -> float:
        """The temper the steel has had [°C]."""
        return self.material.temper(self.hardness_hrc)


@dataclass(frozen=True)
class FacePlan:
    """A face's plan. ``problem`` as JSON is what ``pass.optimise`` is asked; ``plan`` is ``None`` with ``refused``
    said; ``held`` how the part is held; ``advice`` what the lead or the mill should know of it."""

    face: int
    stock_mm: Decimal
    choice: FaceChoice
    held: Held
    problem: Problem | None
    plan: Plan | None
    refused: str
    advice: str = ""

    @property
    def near_limit(self) -> str:
        """How near to a limit the plan is, where it is nearer than the estimate is sure; empty when it is not."""
        if self.plan is None or self.problem is None:
            return ""
        if not self.plan.within_limits:
            return "over the limit on " + " and ".join(name for name, share in self.plan.used.items() if share > 1)
        near = self.plan.near_limit(RESERVE, RESERVE_POWER, self.problem.machine.spindle_w)
        return "on the limit: heat or power is nearer than the estimate is sure" if near else ""


@dataclass(frozen=True)
class RoutePlan:
    """The whole plan of a part."""

    steps: list[RouteStep]
    pairs: dict[str, PairPlan]
    faces: dict[int, FacePlan]
    relations: list[Relation]
    surfaces: Mapping[int, Surface] = field(default_factory=dict)

    def about(self, faces: Collection[int]) -> set[str]:
        """The names that ``figures`` gives to these faces, their set-ups and their relations."""
        return (
            {f"face {face}" for face in faces}
            | {set_up_name(step) for step in self.steps if set(step.step.up) <= set(faces)}
            | {relation.name for relation in self.relations if relation.face in faces}
        )

    def pair_of(self, face: int) -> PairPlan:
        """How the stock of the size that a face bounds is shared."""
        return self.pairs[self.surfaces[face].size]

    def is_finished(self, axis: str) -> bool:
        """Whether no face that bounds a size is still to be ground."""
        return not any(self.surfaces[face].size == axis for face in self.faces)

    def in_one_clamping(self, step: RouteStep) -> bool:
        """Whether a set-up's surfaces are taken without unclamping the part: of faces, its plate is put on its end for
        the second."""
        up = step.step.up
        formed = not any(self.surfaces[face].is_height for face in up)
        return len(up) > 1 and (formed or any(face in self.faces and self.faces[face].held.on_end for face in up))

    def step_of(self, face: int) -> RouteStep | None:
        """The set-up that has a face up."""
        return next((step for step in self.steps if face in step.step.up), None)

    @property
    def stops(self) -> list[str]:
        """Why it cannot be released, by anybody."""
        said = [stop for step in self.steps for stop in step.stops]
        return said + [
            f"{self.surfaces[face.face].title}: {face.held.stop}"
            for face in self.faces.values()
            if face.held.stop and not self.is_skipped(face.face)
        ]

    def is_skipped(self, face: int) -> bool:
        """Whether the set-up that has a face up is left out."""
        step = self.step_of(face)
        return step is not None and step.skip

    @property
    def short_of_clean_up(self) -> list[str]:
        """The pairs that do not clean up: released only with a lead's reason. Sides with nothing on them are left as
        they are."""
        return [
            axis
            for axis, pair in self.pairs.items()
            if pair.split.answer == "does not"
            and (axis == THICKNESS or pair.split.total_stock_mm > 0)
            and any(self.surfaces[face].size == axis and not self.is_skipped(face) for face in self.faces)
        ]

    @property
    def near_limits(self) -> dict[int, str]:
        """The faces whose plan is on or over a limit, and how: released only with a reason."""
        return {
            face: each.near_limit for face, each in self.faces.items() if each.near_limit and not self.is_skipped(face)
        }


def plan_route(
    block: Block,
    choices: RouteChoices,
    means: Means,
    shop: ShopFacts,
    *,
    sharing: Mapping[Axis, Sharing],
    done: Sequence[int] = (),
    left_mm: Mapping[int, Decimal] | None = None,
    carries_on: Collection[int] = (),
    loads: Mapping[int, LoadIn] | None = None,
    only: int | None = None,
) -> RoutePlan:
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
    carries_on : collection of int
        Faces that go on after a measurement with the wheel's height kept: what little is left is only finished.
    loads : mapping of face to LoadIn, optional
        How many pieces are ground together on the magnet; one where nothing is said, and in a fixture.
    only : int, optional
        The one face whose passes are wanted; how the others are held is worked out, their passes are not, but those of
        the face that it stands on, for the hollow that they leave.
    """
    steps = [
        in_its_holder(block, step, shop, choices.squareness)
        for step in route_steps(block, choices.squareness, choices.steps, done)
    ]
    surfaces = surfaces_of(block)
    pairs: dict[str, PairPlan] = {}
    for number, surface in surfaces.items():
        if surface.size not in pairs:
            pairs[surface.size] = kind_of(block, number).stock(block, number, sharing)
    held: dict[int, Held] = {}
    faces: dict[int, FacePlan] = {}
    ground, springs, hollows = set(done), dict[int, float](), dict[int, float]()
    wanted = None if only is None else {only, *(step.step.down for step in steps if only in step.step.up)}
    for step in steps:
        for face in step.step.up:
            held[face] = holds(
                block,
                face,
                step,
                means.material,
                shop=shop,
                method=choices.squareness,
                ground=ground,
                springs=springs,
                hollows=hollows,
            )
            stock = (left_mm or {}).get(face, _share(surfaces[face], pairs))
            made = FacePlan(face, stock, choices.face(face), held[face], None, None, held[face].stop)
            whole = (
                _face_plan(
                    block,
                    face,
                    stock,
                    choices.face(face),
                    means=means,
                    held=held[face],
                    load=(loads or {}).get(face, ONE) if held[face].fixture is None else ONE,
                    carries_on=face in carries_on,
                )
                if wanted is None or face in wanted
                else made
            )
            faces[face] = whole if only in (None, face) else made
            if whole.plan is not None:
                hollows[face] = whole.plan.hollow_um
            springs[face] = 0.0 if step.skip else springs_back(block, face, held[face], means.pull_n_cm2)
        if not step.skip:
            ground |= set(step.step.up)
    told = replace(shop, hollow_um=hollows, springs_back_um=springs)
    return RoutePlan(
        steps,
        pairs,
        dict(sorted(faces.items())),
        relations(block, choices.squareness, steps, told, done=done),
        surfaces,
    )


def _share(surface: Surface, pairs: Mapping[str, PairPlan]) -> Decimal:
    """What a surface takes, in its first turn where there are several."""
    pair = pairs[surface.size]
    whole = pair.split.first_face_mm if surface.reference else pair.split.second_face_mm
    return whole if pair.turns == 1 else (whole / pair.turns).quantize(SMALLEST_MM, ROUND_DOWN)


def _face_plan(
    block: Block,
    face: int,
    stock: Decimal,
    choice: FaceChoice,
    *,
    means: Means,
    held: Held,
    load: LoadIn,
    carries_on: bool,
) -> FacePlan:
    if held.stop:
        return FacePlan(face, stock, choice, held, None, None, held.stop)
    try:
        problem = face_question(block, face, stock, choice, means=means, held=held, load=load)
    except InputError as error:
        words = (
            "Nothing to grind: less is left than a graduation of the dial."
            if error.field == "stock_mm" and stock < graduation_of(block, face, means.machine)
            else f"Not planned: {error}."
        )
        return FacePlan(face, stock, choice, held, None, None, words)
    try:
        plan = _chosen(problem, choice, carries_on and stock <= FINISH_ONLY_MM)
    except InputError as error:
        return FacePlan(face, stock, choice, held, problem, None, f"Not planned: {error}.")
    size = kind_of(block, face).size_of(block, face)
    advice = mill_first(
        size.measured_max_mm - size.measured_min_mm, plan.minutes, soft=means.material.is_soft(means.hardness_hrc)
    )
    if advice and not means.material.is_soft(means.hardness_hrc):
        soonest = min(
            (method for method in methods_of(problem) if method.within_limits),
            key=lambda each: each.minutes,
            default=None,
        )
        advice += f" {METHODS[soonest.school]} takes it soonest: {soonest.minutes:.0f} min." if soonest else ""
    said = " ".join(each for each in (advice, _unclean(held, stock)) if each)
    return FacePlan(face, stock, choice, held, problem, plan, "", said)


def _unclean(held: Held, stock: Decimal) -> str:
    """Say where a part that is shimmed under its hollow has less stock than its bow: its upper side is crowned by
    that."""
    bow = held.gap_mm + held.shimmed_mm
    if not held.shimmed_mm or float(stock) >= bow:
        return ""
    return (
        f"Shimmed under its hollow the upper side is crowned by the bow of {bow:.3f} mm, and there is {stock:.3f} mm "
        "to take: it stays unclean beside the crown."
    )


def face_question(
    block: Block, face: int, stock_mm: Decimal, choice: FaceChoice, *, means: Means, held: Held, load: LoadIn
) -> Problem:
    """Return the planner's question of a face as it lies and as it is held, with the reserve that is chosen, for the
    pieces that are ground together.

    Raises
    ------
    InputError
        As ``pass.optimise``.
    """
    lying = lying_of(block, face)
    machine, stock_mm, tolerance_mm = feed_as(
        block, face, stock_mm, machine=_machine(means, held), wheel_mm=means.wheel.width_mm
    )
    formed = kind_of(block, face).holding(block, face) is not None
    sides = (lying.along_mm, lying.across_mm, lying.height_mm)
    body_mm2 = volume_mm3(block) / lying.height_mm if formed else None
    question = PlanQuestion(
        part=PartIn(*sides, means.temper_c, means.material.density_kg_m3, body_mm2),
        stock_mm=stock_mm,
        tolerance_mm=tolerance_mm,
        flatness_um=max(means.flatness_um, micrometres(tolerance_mm)) if formed else means.flatness_um,
        ra_um=PLUNGED_RA_UM if feeding_of(block, face).plunged else means.ra_um,
        machine=machine,
        wheel=means.wheel,
        chuck=held.chuck(means.pull_n_cm2),
        coolant=means.coolant,
        skew_deg=choice.skew_deg,
        dress_minutes=means.dress_minutes,
        blocked=held.blocks,
        temperature_margin=choice.margin,
        power_share=choice.power_share,
        load=load,
    )
    return problem_of(question)


def _machine(means: Means, held: Held) -> MachineIn:
    """The machine as it springs with the part held so."""
    if held.fixture is None or means.fixture_cut_ratio is None:
        return means.machine
    return replace(means.machine, cut_ratio=means.fixture_cut_ratio)


def _chosen(problem: Problem, choice: FaceChoice, finish: bool) -> Plan:
    if choice.method == "custom" and choice.downfeed_mm and choice.crossfeed_mm and choice.table_mm_s:
        return custom_plan_of(
            problem,
            CustomSettings(
                choice.downfeed_mm,
                choice.crossfeed_mm,
                choice.table_mm_s,
                choice.leading_chamfer_mm,
                choice.rough_dress,
            ),
        )
    if finish:
        return finish_only(problem)
    if choice.method == "quickest":
        return best_of(problem)
    return next((method for method in methods_of(problem) if method.school == choice.method), None) or best_of(problem)


def bow_if(block: Block, route: RoutePlan, means: Means) -> dict[int, tuple[float, float]]:
    """Return what a bow that nobody looked for would do, were it as large as the clean-up: by face on the magnet, that
    bow and what would spring back of it [µm]."""
    said = {}
    for face, each in route.faces.items():
        if (
            route.surfaces[face].size == THICKNESS
            and each.held.fixture is None
            and not each.held.bow_known
            and face in block.references
        ):
            bow = float(block.cleanup_mm[face])
            said[face] = (1000 * bow, springs_back(block, face, replace(each.held, gap_mm=bow), means.pull_n_cm2))
    return said


def set_up_name(step: RouteStep) -> str:
    """Return what a set-up is called where figures are compared."""
    return f"set-up of face {step.key.replace('+', ' and ')}"
