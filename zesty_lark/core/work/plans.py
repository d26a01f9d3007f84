"""A plan as it is released to the machine: everything it rests on as a step, in order."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

Method = Literal["quickest", "light", "all_at_once", "peel", "sharp_wide", "auto", "custom"]
METHODS: dict[Method, str] = {
    "quickest": "Quickest",
    "light": "Light and even",
    "all_at_once": "All at once",
    "peel": "Peel",
    "sharp_wide": "Sharp and wide",
    "auto": "Auto downfeed",
    "custom": "Custom plan",
}
"""The methods of taking stock off, the quickest plan within every limit, and one's own settings."""
StepKind = Literal[
    "dress",
    "chamfer",
    "place",
    "turn",
    "blocks",
    "touch off",
    "no feed",
    "rough",
    "spark-out",
    "cool",
    "measure",
    "finish",
]
FEEDS: tuple[StepKind, ...] = ("rough", "finish")
"""The steps that feed down."""
PASSES: tuple[StepKind, ...] = ("no feed", *FEEDS, "spark-out")
"""The steps that go over the face."""
DONE_KINDS: tuple[StepKind, ...] = ("chamfer", "turn", "blocks", "cool")
"""The steps that are only said to be done; the others have an entry of their own."""
AT_TABLE: tuple[StepKind, ...] = ("dress", *PASSES)
"""The steps that take the table's time."""
MAGNET = "magnet"
TO_SIZE = "to the size"
"""What the measurement is that ends a plan which ends on a size of the print."""
NO_ROUNDS, ROUNDS, ROUNDS_ON = (0, 0, 0), (1, 2, 3), (0, 1, 2)
"""So often a face that ends on a size is planned anew after its stop, cut and measured once more: as simulated faces
came out, from the start and after the stop."""
ON_END_DEG = 90.0
"""How far a fixture is turned that is put on its end, the part left clamped in it [°]: the amount of its step."""


@dataclass(frozen=True)
class PlanStep:
    """One thing a released plan asks for, in its order.

    Attributes
    ----------
    number : int
        Its place, from 1.
    kind : StepKind
    step_mm, depth_mm : Decimal
        What is fed down in it, 0 where nothing is, and the total so far from the plan's start [mm].
    crossfeed_mm, table_mm_s : Decimal or None
        What the machine is set to for a pass [mm], [mm/s].
    what : str
        Which dress; what is measured and why; what is blocked.
    amount : Decimal or None
        The chamfer [mm], the turn [°], the wait [min]; of a pass without crossfeed how many strokes it is.
    minutes : float
        How long it takes [min].
    """

    number: int
    kind: StepKind
    step_mm: Decimal
    depth_mm: Decimal
    crossfeed_mm: Decimal | None = None
    table_mm_s: Decimal | None = None
    what: str = ""
    amount: Decimal | None = None
    minutes: float = 0.0

    @property
    def plunged(self) -> bool:
        """Whether it is a pass without crossfeed."""
        return self.kind in PASSES and self.amount is not None


@dataclass(frozen=True)
class PlanSteps:
    """A released plan as the log refers to it.

    Attributes
    ----------
    plan_id : int
        Its number in the store.
    surface : int
        The surface it is for.
    method : str
        The method's key.
    stock_mm, left_on_mm : Decimal
        Normal stock it was made for, and what it leaves on [mm].
    steps : tuple of PlanStep
        Everything it asks for, in order.
    keeps_wheel_height : bool
        It carries on from the collar's last reading: no new touch-off.
    holder : str
        What holds the part: the magnet, or a fixture by name.
    hold_safety : Decimal or None
        The estimate of the hold; ``None`` where a plan was made without one.
    rise_c : Decimal
        How much warmer the part gets than its surroundings [K].
    reason : str
        Why it was released although it is on a limit or does not clean up.
    push_n : Decimal or None
        The largest force that its passes push the part with along the travel [N]; ``None`` where it has no passes of
        its own.
    until_clean : bool
        Its roughing has no fixed end: the pass is repeated until the face is clean or the stock is used, then
        spark-outs until the sparks die, then the finish.
    """

    plan_id: int
    surface: int
    method: Method
    stock_mm: Decimal
    left_on_mm: Decimal
    steps: tuple[PlanStep, ...]
    keeps_wheel_height: bool
    holder: str = MAGNET
    hold_safety: Decimal | None = None
    rise_c: Decimal = Decimal(0)
    reason: str = ""
    until_clean: bool = False
    push_n: Decimal | None = None

    @property
    def passes(self) -> tuple[PlanStep, ...]:
        """The steps that feed down."""
        return tuple(step for step in self.steps if step.kind in FEEDS)

    @property
    def table_minutes(self) -> float:
        """Time of passes and dresses [min]."""
        return sum(step.minutes for step in self.steps if step.kind in AT_TABLE)

    @property
    def minutes(self) -> float:
        """Time in all, with the handling [min]."""
        return sum(step.minutes for step in self.steps)

    @property
    def ends_on_size(self) -> bool:
        """Whether it ends on a size of the print."""
        return bool(self.steps) and self.steps[-1].what == TO_SIZE

    @property
    def rounds(self) -> tuple[int, int, int]:
        """How often it is planned anew, cut and measured once more: at the least, likely and at the most."""
        return (ROUNDS_ON if self.keeps_wheel_height else ROUNDS) if self.ends_on_size else NO_ROUNDS

    @property
    def stops(self) -> tuple[int, int, int]:
        """How often it is stopped to be measured in all: at the least, likely and at the most."""
        planned = len(self.of_kind("measure"))
        least, likely, most = self.rounds
        return planned + least, planned + likely, planned + most

    @property
    def round_minutes(self) -> float:
        """What that takes each time [min]: its finish, spark-outs, waits and the measurement."""
        before = [at for at, step in enumerate(self.steps[:-1]) if step.kind in ("dress", "measure")]
        return sum(step.minutes for step in self.steps[before[-1] + 1 if before else 0 :])

    @property
    def likely_minutes(self) -> float:
        """Time in all as it likely comes to [min]: what is cut and measured once more as well."""
        return self.minutes + self.rounds[1] * self.round_minutes

    @property
    def is_turned(self) -> bool:
        """Whether it begins with the fixture put on its end, the part left clamped."""
        return any(step.amount is not None for step in self.of_kind("place"))

    def of_kind(self, *kinds: StepKind) -> tuple[PlanStep, ...]:
        """The steps of some kinds."""
        return tuple(step for step in self.steps if step.kind in kinds)
