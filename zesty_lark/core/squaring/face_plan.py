"""One face's plan: what the planner is asked of it as it lies and is held, the plan that is chosen, and how it is
best held on the magnet."""

from dataclasses import dataclass, replace
from decimal import Decimal

from zesty_lark.core.part.stock import mill_first
from zesty_lark.core.part.surfaces import feeding_of, kind_of, lying_of
from zesty_lark.core.part.surfaces.part import Block, volume_mm3
from zesty_lark.core.planning.best import best_of, finish_only
from zesty_lark.core.planning.custom import CustomSettings, custom_plan_of
from zesty_lark.core.planning.means import LoadIn, MachineIn, PartIn, PlanQuestion, WheelIn
from zesty_lark.core.planning.methods import methods_of
from zesty_lark.core.planning.offer import Offer, offered
from zesty_lark.core.planning.plan import BINDING_FROM, Plan
from zesty_lark.core.planning.problem import RESERVE, RESERVE_POWER, Problem, problem_of
from zesty_lark.core.process.evaluate import Coolant
from zesty_lark.core.process.materials import Material
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.quantities.units import micrometres
from zesty_lark.core.squaring.choices import FaceChoice
from zesty_lark.core.squaring.feed import feed_as, graduation_of
from zesty_lark.core.squaring.handling import HANDLING
from zesty_lark.core.squaring.hold import Held
from zesty_lark.core.squaring.order import RouteStep
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
    said; ``held`` how the part is held; ``advice`` what the lead or the mill should know of it; ``asked`` the question
    that the plan answers, where it is of fewer settings."""

    face: int
    stock_mm: Decimal
    choice: FaceChoice
    held: Held
    problem: Problem | None
    plan: Plan | None
    refused: str
    advice: str = ""
    asked: Problem | None = None

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
class Asks:
    """A face to be planned: its stock [mm], what is chosen for it, and with what it is ground; the load on the magnet,
    and whether it carries on after a measurement."""

    face: int
    stock: Decimal
    choice: FaceChoice
    means: Means
    load: LoadIn
    carries_on: bool


def planned_face(block: Block, asks: Asks, held: Held) -> FacePlan:
    """Plan a face that is held so."""
    face, stock, choice, means = asks.face, asks.stock, asks.choice, asks.means
    if held.stop:
        return FacePlan(face, stock, choice, held, None, None, held.stop)
    try:
        problem = _question(block, asks, held)
    except InputError as error:
        words = (
            "Nothing to grind: less is left than a graduation of the dial."
            if error.field == "stock_mm" and stock < graduation_of(block, face, means.machine)
            else f"Not planned: {error}."
        )
        return FacePlan(face, stock, choice, held, None, None, words)
    try:
        plan, asked = _chosen(problem, choice, asks.carries_on and stock <= FINISH_ONLY_MM)
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
    return FacePlan(face, stock, choice, held, problem, plan, "", said, asked)


def _question(block: Block, asks: Asks, held: Held) -> Problem:
    """The planner's question of a face that is held so."""
    load = asks.load if held.fixture is None else ONE
    return face_question(block, asks.face, asks.stock, asks.choice, means=asks.means, held=held, load=load)


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


def _chosen(problem: Problem, choice: FaceChoice, finish: bool) -> Offer:
    """The plan that is chosen, with the question it answers."""
    if choice.method == "custom" and choice.downfeed_mm and choice.crossfeed_mm and choice.table_mm_s:
        settings = CustomSettings(
            choice.downfeed_mm, choice.crossfeed_mm, choice.table_mm_s, choice.leading_chamfer_mm, choice.rough_dress
        )
        return Offer(custom_plan_of(problem, settings), problem)
    if finish:
        return Offer(finish_only(problem), problem)
    if choice.method == "quickest":
        return offered(problem)
    method = next((method for method in methods_of(problem) if method.school == choice.method), None)
    return Offer(method or best_of(problem), problem)


def blocked_where_worth(block: Block, step: RouteStep, asks: Asks, held: Held) -> Held:
    """A part that the bare magnet holds so weakly that its plan is bound by that is first offered with blocks, where
    they save more than it takes to put them up; unless somebody said with or without."""
    bare = step.blocks is None and held.fixture is None and held.foot_mm is None
    if not bare or held.blocks or held.stop:
        return held
    alone = _first_offer(block, asks, held)
    if alone is not None and alone.used["hold"] < BINDING_FROM:
        return held
    blocked = replace(held, blocks=True)
    between = _first_offer(block, asks, blocked)
    if between is None:
        return held
    return blocked if alone is None or between.minutes + HANDLING.place < alone.minutes else held


def _first_offer(block: Block, asks: Asks, held: Held) -> Plan | None:
    """What is offered first of a face that is held so; ``None`` where nothing keeps to the limits."""
    try:
        return offered(_question(block, asks, held)).plan
    except InputError:
        return None
