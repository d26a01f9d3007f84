"""Where the work stands: everything the screens show of a job, derived from its log.

The collar's reading and the depth under the plan's start differ by an offset: a touch-off sets it, a dress moves it
by what came off the wheel's radius.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from decimal import Decimal

from zesty_lark.core.faces import FINISHED, OPPOSITE, FaceState, pair_order
from zesty_lark.core.measure.thickness import Verdict
from zesty_lark.core.shoplog.entries import Entry, Kind, PlanStep, PlanSteps, in_force

__all__ = ["Brief", "FaceStanding", "Gap", "Measured", "Standing", "stand"]


@dataclass(frozen=True)
class Brief:
    """What the fold needs to know of the part.

    Attributes
    ----------
    reference : int
        The pair's reference face.
    start_states : mapping of face to FaceState
        How the faces came in.
    measured_max_mm : Decimal
        Its greatest thickness at take-in [mm].
    lower_mm : Decimal
        The least thickness the print allows [mm].
    """

    reference: int
    start_states: Mapping[int, FaceState]
    measured_max_mm: Decimal
    lower_mm: Decimal


@dataclass(frozen=True)
class Measured:
    """A thickness as it was measured and judged [mm]."""

    at: datetime
    by: str
    greatest_mm: Decimal
    least_mm: Decimal
    uncertainty_mm: Decimal
    verdict: Verdict | None
    under: bool
    entry_id: str


@dataclass(frozen=True)
class Gap:
    """Asked against got since the measurement before [mm]."""

    at: datetime
    face: int
    asked_mm: Decimal
    got_mm: Decimal

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
        Steps of the plan that are done.
    spark_done : int
        Blank passes since the last feed.
    measured : Measured or None
        The last measurement since the last feed on this face; ``None`` when it has been cut since.
    ended : bool
        The face was declared done.
    dressed_at : tuple of Decimal
        Depths at which the wheel was dressed, for the ladder.
    measured_at : tuple of Decimal
        Depths at which the part was measured.
    """

    face: int
    state: FaceState
    plan: PlanSteps | None = None
    touched_off: bool = False
    offset_mm: Decimal = Decimal(0)
    depth_mm: Decimal = Decimal(0)
    done: int = 0
    spark_done: int = 0
    measured: Measured | None = None
    ended: bool = False
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
        """The collar reading of the next step [mm]."""
        step = self.next_step
        return None if step is None else self.offset_mm + step.depth_mm

    @property
    def last_reading_mm(self) -> Decimal | None:
        """The collar reading of the plan's last step [mm]."""
        if self.plan is None or not self.plan.steps:
            return None
        return self.offset_mm + self.plan.steps[-1].depth_mm

    @property
    def left_mm(self) -> Decimal | None:
        """What is left of the plan's stock by the collar [mm]."""
        return None if self.plan is None else self.plan.stock_mm - self.depth_mm

    @property
    def cutting_over(self) -> bool:
        """Whether every step and every planned blank pass is done."""
        return self.plan is not None and self.next_step is None and self.spark_done >= self.plan.spark_passes


@dataclass(frozen=True)
class Standing:
    """Where the job stands.

    Attributes
    ----------
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

    faces: Mapping[int, FaceStanding]
    up: int | None
    face: int | None
    thickness_mm: Decimal
    thickness_measured: bool
    asked_since_mm: Decimal
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


_FIXED = frozenset({Kind.TAKEN_IN, Kind.AMENDED, Kind.HANDED_OVER, Kind.SIGNED_OFF})


@dataclass
class _Face:
    face: int
    state: FaceState
    plan: PlanSteps | None = None
    touched_off: bool = False
    offset: Decimal = Decimal(0)
    depth: Decimal = Decimal(0)
    done: int = 0
    spark_done: int = 0
    measured: Measured | None = None
    ended: bool = False
    dressed_at: list[Decimal] = field(default_factory=list)
    measured_at: list[Decimal] = field(default_factory=list)

    def frozen(self) -> FaceStanding:
        return FaceStanding(
            self.face, self.state, self.plan, self.touched_off, self.offset, self.depth, self.done, self.spark_done,
            self.measured, self.ended, tuple(self.dressed_at), tuple(self.measured_at),
        )


class _Fold:
    """Walks the entries in force and keeps where things stand."""

    def __init__(self, brief: Brief) -> None:
        self.reference, self.lower = brief.reference, brief.lower_mm
        self.faces = {face: _Face(face, state) for face, state in brief.start_states.items()}
        self.up: int | None = None
        self.thickness = brief.measured_max_mm
        self.thickness_measured = False
        self.asked_since = Decimal(0)
        self.gaps: list[Gap] = []
        self.signed_off: Entry | None = None
        self._acts: dict[Kind, Callable[[Entry, _Face], None]] = {
            Kind.PLANNED: self._planned, Kind.PLACED: self._placed, Kind.TOUCHED_OFF: self._touched_off,
            Kind.PASS: self._pass, Kind.SPARK_OUT: self._spark_out, Kind.DRESSED: self._dressed,
            Kind.MEASURED: self._measured, Kind.FACE_DONE: self._face_done,
        }

    def add(self, entry: Entry) -> None:
        if entry.kind is Kind.SIGNED_OFF:
            self._signed_off(entry)
        elif entry.face is not None and entry.kind in self._acts:
            self._acts[entry.kind](entry, self.faces[entry.face])

    def _planned(self, entry: Entry, face: _Face) -> None:
        assert entry.plan is not None
        if entry.plan.keeps_wheel_height:
            face.offset += face.depth
        else:
            face.touched_off = False
        face.plan, face.depth, face.done, face.spark_done, face.measured = entry.plan, Decimal(0), 0, 0, None
        face.dressed_at, face.measured_at = [], []

    def _placed(self, entry: Entry, face: _Face) -> None:
        self.up = face.face
        for each in self.faces.values():
            each.touched_off = False

    def _touched_off(self, entry: Entry, face: _Face) -> None:
        face.touched_off = True
        face.offset = (entry.reading_mm or Decimal(0)) - face.depth

    def _pass(self, entry: Entry, face: _Face) -> None:
        assert entry.reading_mm is not None
        depth = entry.reading_mm - face.offset
        self.asked_since += depth - face.depth
        face.depth, face.spark_done, face.measured = depth, 0, None
        steps = face.plan.steps if face.plan else ()
        face.done = sum(1 for step in steps if step.depth_mm <= depth)

    def _spark_out(self, entry: Entry, face: _Face) -> None:
        face.spark_done += entry.count or 1
        face.measured = None

    def _dressed(self, entry: Entry, face: _Face) -> None:
        face.dressed_at.append(face.depth)
        if entry.amount_mm is None:
            face.touched_off = False
        else:
            face.offset += entry.amount_mm

    def _measured(self, entry: Entry, face: _Face) -> None:
        face.measured = Measured(
            entry.at, entry.by, entry.greatest_mm, entry.least_mm, entry.uncertainty_mm or Decimal(0), entry.verdict,
            entry.least_mm < self.lower - (entry.uncertainty_mm or Decimal(0)), entry.entry_id,
        )
        face.measured_at.append(face.depth)
        if self.asked_since > 0:
            self.gaps.append(Gap(entry.at, face.face, self.asked_since, self.thickness - entry.greatest_mm))
        self.thickness, self.thickness_measured, self.asked_since = entry.greatest_mm, True, Decimal(0)

    def _face_done(self, entry: Entry, face: _Face) -> None:
        face.ended = True
        face.state = FaceState.CLEANED if face.face == self.reference else FaceState.TO_SIZE

    def _signed_off(self, entry: Entry) -> None:
        self.signed_off, self.up = entry, None
        for each in (self.reference, OPPOSITE[self.reference]):
            self.faces[each].state = FaceState.PROVEN


def stand(brief: Brief, entries: Sequence[Entry]) -> Standing:
    """Derive where a job stands from its whole log.

    Parameters
    ----------
    brief : Brief
        The part as it was taken in.
    entries : sequence of Entry
        All entries, oldest first, superseded ones included.

    Returns
    -------
    Standing
    """
    history = in_force(entries)
    fold = _Fold(brief)
    for entry in history:
        fold.add(entry)
    undoable = next((entry for entry in reversed(history) if entry.kind not in _FIXED), None)
    if history and history[-1].kind in _FIXED and history[-1].kind is Kind.SIGNED_OFF:
        undoable = None
    return Standing(
        faces={face: each.frozen() for face, each in fold.faces.items()},
        up=fold.up,
        face=_face_at_work(fold),
        thickness_mm=fold.thickness,
        thickness_measured=fold.thickness_measured,
        asked_since_mm=fold.asked_since,
        gaps=tuple(fold.gaps),
        history=tuple(history),
        undoable=undoable,
        last_seq=entries[-1].seq if entries else 0,
        signed_off=fold.signed_off,
    )


def _face_at_work(fold: _Fold) -> int | None:
    for step in pair_order(fold.reference):
        face = fold.faces[step.up]
        if not (face.ended or face.state in FINISHED):
            return step.up
        if step.up != fold.reference and face.state is FaceState.CLEANED and not face.ended:
            return step.up
    return None
