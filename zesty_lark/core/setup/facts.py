"""What a set-up is laid out with: machine, wheel and chuck, what else the shop owns, the part as it lies, the cut."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

from zesty_lark.core.part.surfaces.part import BowShape
from zesty_lark.core.planning.means import WheelIn
from zesty_lark.core.planning.plan import tangential_n
from zesty_lark.core.process.evaluate import STANDARD
from zesty_lark.core.squaring.corner import Corner
from zesty_lark.core.squaring.face_plan import FacePlan
from zesty_lark.core.things.shop import Accessory, Chuck, Fixture, Machine, Wheel
from zesty_lark.core.wheel.mounting import Mounted
from zesty_lark.core.work.plans import PlanSteps

POLE_MM = 12.0
"""How far apart the poles lie where nobody has said."""
Points = tuple[tuple[float, float, float], ...]


@dataclass(frozen=True)
class Sides:
    """The faces at the part's four sides as it lies at no turn, and the faces that bear its mark's corner."""

    front: int
    back: int
    left: int
    right: int
    marked: tuple[int, ...] = ()


@dataclass(frozen=True)
class PartFacts:
    """The part with a face up: along and across the travel at no turn, its height now and when done [mm]; how it is
    pulled: its material's factor, the lower face's, the gap under it and how it bends there [mm]; its weight [N]; by
    piece what each is higher than the lowest [mm]; ``planned_mm`` is its height as the planner has it."""

    up: int
    down: int
    along_mm: float
    across_mm: float
    height_mm: float
    final_mm: float
    sides: Sides
    material_factor: float = 0.8
    surface_factor: float = 1.0
    gap_mm: float = 0.0
    bow_shape: BowShape = "middle_up"
    weight_n: float = 0.0
    carbon_steel: bool = True
    reference_up: bool = False
    higher_mm: Mapping[int, float] = field(default_factory=dict)
    planned_mm: float | None = None

    @property
    def held_as_mm(self) -> float:
        """How high it is taken to be where its hold is worked out [mm]: as its plan has it."""
        return self.final_mm if self.planned_mm is None else self.planned_mm


@dataclass(frozen=True)
class CutFacts:
    """What the plan's own passes ask: the largest force along the travel [N], downfeed and crossfeed [mm], table
    [mm/s], the turn it counts on [°], and whether it counts on blocks."""

    tangential_n: float
    downfeed_mm: float
    crossfeed_mm: float
    table_mm_s: float
    skew_deg: float = 0.0
    blocks: bool = False

    @property
    def normal_n(self) -> float:
        """What presses the part down [N]."""
        return self.tangential_n / STANDARD.force_ratio


@dataclass(frozen=True)
class SetUpFacts:
    """Everything a layout is judged with.

    ``may_lie``: the route has this set-up on the bare magnet, so that nothing that a fixture makes true is lost on it.
    ``cut`` is ``None`` while the face has no plan; ``holder`` is the route's fixture by name, ``None`` on the bare
    magnet; ``corner`` how it goes to an angle plate's corner where the plan takes two faces in one clamping;
    ``set_low`` whether it has the magnet low under a thin, bowed part; ``allowed_um`` what the print allows of
    parallelism; ``high_side`` is the side, front or back, that was found high, where one was; ``rocks`` and ``burrs``
    what was felt and is not put right.
    """

    machine: Machine
    wheel: Wheel
    mounted: Mounted
    chuck: Chuck
    part: PartFacts
    pieces: tuple[int, ...]
    cut: CutFacts | None = None
    fixtures: tuple[Fixture, ...] = ()
    accessories: tuple[Accessory, ...] = ()
    chuck_map: Points = ()
    holder: str | None = None
    corner: Corner | None = None
    set_low: bool = False
    may_lie: bool = True
    allowed_um: float | None = None
    coolant: str = "water"
    dull: bool = False
    high_side: str = ""
    rocks: bool = False
    burrs: bool = False

    @cached_property
    def length(self) -> float:
        """The chuck along the travel [mm]."""
        return float(self.chuck.length_mm)

    @cached_property
    def width(self) -> float:
        """The chuck across the travel [mm]."""
        return float(self.chuck.width_mm)

    @property
    def pushed_to(self) -> str:
        """The side the wheel pushes the work to: where the wheel's lowest point runs."""
        return "left" if self.machine.wheel_turns == "clockwise" else "right"

    @property
    def radius(self) -> float:
        """The wheel's [mm]."""
        return float(self.wheel.diameter_mm) / 2

    @property
    def wheel_width(self) -> float:
        """The wheel's [mm]."""
        return float(self.wheel.width_mm)

    @property
    def at_end(self) -> bool:
        """Whether the plan has the angle plate on its end for this face."""
        return self.corner is not None and self.corner.on_end(self.part.up)

    @property
    def held_by(self) -> str:
        """What the plan holds it with, in words."""
        if self.holder is None:
            return "the magnet"
        return f"{self.holder} on its end, the part left clamped" if self.at_end else self.holder

    def fixture(self, name: str | None) -> Fixture | None:
        """Return a fixture of the shop by its name."""
        return next((each for each in self.fixtures if each.name == name), None)

    def accessory(self, name: str) -> Accessory | None:
        """Return something small of the shop by its name."""
        return next((each for each in self.accessories if each.name == name), None)


def cut_of(face_plan: FacePlan, wheel: WheelIn) -> CutFacts | None:
    """Return what a face's plan asks of its set-up; ``None`` while it has none."""
    plan = face_plan.plan
    if plan is None:
        return None
    return CutFacts(
        tangential_n(plan, wheel),
        max(plan.downfeed_mm, plan.finish_step_mm),
        plan.crossfeed_mm,
        min(plan.table_mm_s, plan.finish_table_mm_s) if plan.rough_passes else plan.finish_table_mm_s,
        face_plan.choice.skew_deg,
        face_plan.held.blocks,
    )


def cut_in_force(plan: PlanSteps, *, skew_deg: float, blocks: bool) -> CutFacts | None:
    """Return what a released plan asks of the set-up that it runs in, turned so [°] and counting on blocks or not;
    ``None`` where it feeds nowhere, or nobody kept what it pushes with."""
    feeds = [step for step in plan.passes if step.crossfeed_mm is not None and step.table_mm_s is not None]
    if plan.push_n is None or not feeds:
        return None
    return CutFacts(
        float(plan.push_n),
        max(float(step.step_mm) for step in feeds),
        float(feeds[0].crossfeed_mm or 0),
        min(float(step.table_mm_s or 0) for step in feeds),
        skew_deg,
        blocks,
    )
