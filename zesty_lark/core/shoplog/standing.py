"""Where the work stands: everything the screens show of a job, derived from its log.

``fold`` works it out.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal

from zesty_lark.core.faces import FaceState
from zesty_lark.core.measure.thickness import Size, Verdict
from zesty_lark.core.shoplog.entries import FEEDS, THICKNESS, Entry, PlanStep, PlanSteps

__all__ = ["Brief", "FaceStanding", "Gap", "Measured", "NOTHING", "Standing"]

NOTHING = Decimal(0)


@dataclass(frozen=True)
class Brief:
    """What the fold and the rules need to know of the part, its print, the wheel and the machine.

    Attributes
    ----------
    reference : int
        The pair's reference face.
    start_states : mapping of face to FaceState
        How the faces came in.
    measured_max_mm : Decimal
        Its greatest thickness at take-in [mm].
    size : Size
        The thickness on the print.
    parallel_mm : Decimal or None
        How far out of parallel the print allows it to be [mm].
    cut_ratio, wheel_width_mm : float
        η of one wipe on this machine, and the wheel's width [mm]: what a pass leaves to the springs.
    characteristics : tuple of str
        Everything the print asks for; each needs a verdict before the part is signed off.
    stops : tuple of str
        Why nothing may be planned, touched off or ground as things are: the wheel's speed, the wheel for this material.
    pulled : bool
        Whether a magnet holds this material at all.
    """

    reference: int
    start_states: Mapping[int, FaceState]
    measured_max_mm: Decimal
    size: Size
    parallel_mm: Decimal | None = None
    cut_ratio: float = 0.6
    wheel_width_mm: float = 12.7
    characteristics: tuple[str, ...] = (THICKNESS,)
    stops: tuple[str, ...] = ()
    pulled: bool = True


@dataclass(frozen=True)
class Measured:
    """A thickness as it was measured and judged [mm]; ``tries`` counts the measurements since the last cut."""

    at: datetime
    by: str
    greatest_mm: Decimal
    least_mm: Decimal
    uncertainty_mm: Decimal
    verdict: Verdict | None
    under: bool
    entry_id: str
    tries: int = 1


@dataclass(frozen=True)
class Gap:
    """Asked against got since the measurement before [mm], and the passes that were asked for: step and crossfeed each [mm]."""

    at: datetime
    face: int
    asked_mm: Decimal
    got_mm: Decimal
    passes: tuple[tuple[Decimal, Decimal | None], ...] = ()

    @property
    def short_mm(self) -> Decimal:
        """What was asked and not got [mm]."""
        return self.asked_mm - self.got_mm


@dataclass(frozen=True)
class FaceStanding:
    """Where one face stands; lengths [mm].

    Attributes
    ----------
    state : FaceState
    plan : PlanSteps or None
        The plan in force.
    touched_off : bool
        Whether the collar's reading can be trusted for this face now.
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
    measured : Measured or None
        The last measurement since the last feed on this face; ``None`` when it has been cut since.
    ended : bool
        The face was declared done.
    skipped : tuple of int
        Steps of the plan that were skipped with a reason.
    dressed_at : tuple of Decimal
        Depths at which the wheel was dressed, for the ladder.
    measured_at : tuple of Decimal
        Depths at which the part was measured.
    """

    face: int
    state: FaceState
    plan: PlanSteps | None = None
    touched_off: bool = False
    offset_mm: Decimal = NOTHING
    depth_mm: Decimal = NOTHING
    done: int = 0
    held_back_mm: Decimal = NOTHING
    fed: bool = False
    measured: Measured | None = None
    ended: bool = False
    skipped: tuple[int, ...] = ()
    dressed_at: tuple[Decimal, ...] = ()
    measured_at: tuple[Decimal, ...] = ()

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
        """The deepest collar reading there is leave for now: the last feed before anything else the plan asks for [mm]."""
        last = None
        for step in self.plan.steps[self.done:] if self.plan else ():
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
        """Whether every pass and every blank of the plan is done."""
        return self.plan is not None and not any(step.kind in (*FEEDS, "blank", "no feed")
                                                 for step in self.plan.steps[self.done:])


@dataclass(frozen=True)
class Standing:
    """Where the job stands.

    Attributes
    ----------
    brief : Brief
    faces : mapping of face to FaceStanding
    up : int or None
        The face that is up on the machine.
    face : int or None
        The face of the pair that is being worked or comes next; ``None`` when the pair is done.
    thickness_mm : Decimal
        The greatest thickness last measured [mm].
    thickness_measured : bool
        Whether it was measured since the part was taken in.
    asked_since_mm : Decimal
        What has been fed down since that measurement [mm].
    touches_chuck_mm : Decimal or None
        The collar's reading at which the wheel would touch the chuck; ``None`` when the wheel was changed, dressed by an unknown
        amount, or never measured under [mm].
    dressed : str
        Which dress the wheel has had as its plan asked, while no roughing pass has been run since; else empty.
    verdicts : mapping of str to Verdict
        The verdict in force of each characteristic that has one.
    waived : mapping of str to Entry
        The characteristics that a lead has waived, and the entry that did.
    gaps : tuple of Gap
        Asked against got, oldest first.
    history : tuple of Entry
        The entries in force.
    undoable : Entry or None
        The entry that undo would take back.
    last_seq : int
        The newest entry, in force or not; 0 for an empty log.
    signed_off : Entry or None
    """

    brief: Brief
    faces: Mapping[int, FaceStanding]
    up: int | None
    face: int | None
    thickness_mm: Decimal
    thickness_measured: bool
    asked_since_mm: Decimal
    touches_chuck_mm: Decimal | None
    dressed: str
    verdicts: Mapping[str, Verdict]
    waived: Mapping[str, Entry]
    gaps: tuple[Gap, ...]
    history: tuple[Entry, ...]
    undoable: Entry | None
    last_seq: int
    signed_off: Entry | None

    @property
    def thickness_by_collar_mm(self) -> Decimal:
        """The greatest thickness as the collar has it: the last measured less what was fed down since [mm]."""
        return self.thickness_mm - self.asked_since_mm

    @property
    def states(self) -> dict[int, FaceState]:
        """The state of each face."""
        return {face: standing.state for face, standing in self.faces.items()}

    @property
    def touch_reading_mm(self) -> Decimal | None:
        """The collar's reading at which the wheel meets the part's high spot, as it lies now; ``None`` when that is not known."""
        if self.touches_chuck_mm is None or not self.thickness_measured or self.asked_since_mm:
            return None
        return self.touches_chuck_mm - self.thickness_mm

    @property
    def unproved(self) -> list[str]:
        """The characteristics that neither have an "in" nor were waived, in the print's order."""
        return [name for name in self.brief.characteristics if self.verdicts.get(name) != "in" and name not in self.waived]
