"""A load with one surface up: where it stands in its plan, and how it was measured last; lengths in mm."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from decimal import Decimal

from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.part.sizes import Verdict
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.entry import Place
from zesty_lark.core.work.plans import FEEDS, PlanStep, PlanSteps

NOTHING = Decimal(0)


@dataclass(frozen=True)
class Proof:
    """A size as it was last measured and judged [mm]; ``tries`` counts the measurements since the last cut.

    ``under`` when it is surely below its lower limit, ``over`` when the thickest place is above its upper one.
    """

    at: datetime
    by: str
    greatest_mm: Decimal
    least_mm: Decimal
    uncertainty_mm: Decimal
    verdict: Verdict | None
    under: bool
    over: bool
    entry_id: str
    tries: int = 1


@dataclass(frozen=True)
class Run:
    """Where a load stands with one surface up; lengths [mm].

    Attributes
    ----------
    setup, load, surface : str, int, int
        Its place.
    pieces : tuple of int
        The pieces of the load that are still to be done here.
    plan : PlanSteps or None
        The plan in force.
    touched_off : bool
        Whether the collar's reading can be trusted now.
    offset_mm : Decimal
        The collar's reading at the plan's start.
    depth_mm : Decimal
        What has been fed down since the plan's start, as asked.
    done : int
        Steps of the plan that are done or skipped.
    held_back_mm : Decimal
        What the springs still hold back.
    fed : bool
        Whether it has been fed down since the plan was released.
    proofs : mapping of piece to Proof
        The last measurement of each piece since the last cut; empty when it has been cut since.
    skipped : tuple of int
        Steps of the plan that were skipped with a reason.
    dressed_at, measured_at : tuple of Decimal
        Depths at which the wheel was dressed and a piece measured, for the ladder.
    seen : tuple of (str, str)
        What was seen and heard since the plan began, and on which side, oldest first.
    clean : bool or None
        Whether the face was last seen clean all over, or with a patch; ``None`` when nobody has said.
    asks : tuple of str
        What is to be looked at before the wheel touches, as it was put up, by the items of the list.
    """

    setup: str
    load: int
    surface: int
    pieces: tuple[int, ...]
    plan: PlanSteps | None = None
    touched_off: bool = False
    offset_mm: Decimal = NOTHING
    depth_mm: Decimal = NOTHING
    done: int = 0
    held_back_mm: Decimal = NOTHING
    fed: bool = False
    proofs: Mapping[int, Proof] = field(default_factory=dict)
    skipped: tuple[int, ...] = ()
    dressed_at: tuple[Decimal, ...] = ()
    measured_at: tuple[Decimal, ...] = ()
    seen: tuple[tuple[str, str], ...] = ()
    clean: bool | None = None
    asks: tuple[str, ...] = ()

    @property
    def place(self) -> Place:
        """Set-up, load and surface."""
        return self.setup, self.load, self.surface

    @property
    def goes_by_plan(self) -> bool:
        """Whether its figures are those of the plan in force: one was released, and nothing was measured since."""
        return self.plan is not None and not self.proofs

    @property
    def reading_mm(self) -> Decimal:
        """What the collar stands at, in whole [mm]."""
        return self.offset_mm + self.depth_mm

    @property
    def next_step(self) -> PlanStep | None:
        """The step that comes next, if the plan has one left."""
        if self.plan is None or self.done >= len(self.plan.steps):
            return None
        return self.plan.steps[self.done]

    @property
    def next_reading_mm(self) -> Decimal | None:
        """The collar reading of the next step, where that is a feed [mm]."""
        step = self.next_step
        return None if step is None or step.kind not in FEEDS else self.offset_mm + step.depth_mm

    @property
    def last_reading_mm(self) -> Decimal | None:
        """The deepest collar reading there is leave for now: the last feed before anything else the plan asks for
        [mm]."""
        last = None
        for step in self.plan.steps[self.done :] if self.plan else ():
            if step.kind not in FEEDS:
                break
            last = self.offset_mm + step.depth_mm
        return last

    @property
    def passes_done(self) -> int:
        """How many feeds of the plan are done."""
        return sum(step.kind in FEEDS for step in self.plan.steps[: self.done]) if self.plan else 0

    @property
    def left_mm(self) -> Decimal | None:
        """What is left of the plan's stock by the collar [mm]."""
        return None if self.plan is None else self.plan.stock_mm - self.depth_mm

    @property
    def cutting_over(self) -> bool:
        """Whether every pass and every spark-out of the plan is done."""
        return self.plan is not None and not any(
            step.kind in (*FEEDS, "spark-out", "no feed") for step in self.plan.steps[self.done :]
        )


def proof_of(entry: Measured, asked: Characteristic | None, before: Proof | None, *, grows: bool = False) -> Proof:
    """Return a measurement of a size as it proves it or not, one more after the one before; of one that grows as it is
    ground, too wide is what cannot be put back."""
    limits, u = None if asked is None else asked.limits, entry.uncertainty_mm
    under = over = False
    if limits is not None and grows:
        under, over = entry.greatest_mm > limits.upper_mm + u, entry.least_mm < limits.lower_mm
    elif limits is not None:
        under, over = entry.least_mm < limits.lower_mm - u, entry.greatest_mm > limits.upper_mm
    return Proof(
        entry.at,
        entry.by,
        entry.greatest_mm,
        entry.least_mm,
        entry.uncertainty_mm,
        entry.verdict,
        under,
        over,
        entry.entry_id,
        1 + (before.tries if before else 0),
    )
