"""Where the work stands: everything the screens show of a job, derived from its log.

The collar's reading and the depth under the plan's start differ by an offset: a touch-off sets it, a dress moves it
by what came off the wheel's radius. The reading at which the wheel would touch the chuck is followed too, so that the high spot
of the next face can be told without a new zero.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from decimal import ROUND_DOWN, Decimal

from zesty_lark.core.faces import FINISHED, OPPOSITE, FaceState, pair_order
from zesty_lark.core.measure.thickness import Size, Verdict, parallel_decision, verdict
from zesty_lark.core.process.springs import still_left, wipes_of
from zesty_lark.core.shoplog.entries import FEEDS, THICKNESS, Entry, Kind, PlanStep, PlanSteps, in_force
from zesty_lark.core.units import SMALLEST_MM

__all__ = ["Brief", "FaceStanding", "Gap", "Measured", "Standing", "stand"]

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


_FIXED = frozenset({Kind.TAKEN_IN, Kind.AMENDED, Kind.HANDED_OVER, Kind.SIGNED_OFF})


@dataclass
class _Face:
    face: int
    state: FaceState
    plan: PlanSteps | None = None
    touched_off: bool = False
    offset: Decimal = NOTHING
    depth: Decimal = NOTHING
    done: int = 0
    left: float = 0.0
    fed: bool = False
    measured: Measured | None = None
    ended: bool = False
    skipped: list[int] = field(default_factory=list)
    dressed_at: list[Decimal] = field(default_factory=list)
    measured_at: list[Decimal] = field(default_factory=list)

    def frozen(self) -> FaceStanding:
        held_back = Decimal(repr(round(self.left, 9))).quantize(SMALLEST_MM, ROUND_DOWN)
        return FaceStanding(
            self.face, self.state, self.plan, self.touched_off, self.offset, self.depth, self.done, held_back, self.fed,
            self.measured, self.ended, tuple(self.skipped), tuple(self.dressed_at), tuple(self.measured_at),
        )

    def advance(self, *kinds: str) -> PlanStep | None:
        """Go past the next step if it is of one of these kinds; return it."""
        if self.plan is not None and self.done < len(self.plan.steps) and self.plan.steps[self.done].kind in kinds:
            self.done += 1
            return self.plan.steps[self.done - 1]
        return None

    def crossfeed(self) -> Decimal | None:
        """The crossfeed of the pass that comes next, else of the one before."""
        steps = self.plan.steps if self.plan else ()
        return next((step.crossfeed_mm for step in (*steps[self.done:], *reversed(steps[: self.done]))
                     if step.crossfeed_mm is not None), None)


class _Fold:
    """Walks the entries in force and keeps where things stand."""

    def __init__(self, brief: Brief) -> None:
        self.brief, self.reference = brief, brief.reference
        self.faces = {face: _Face(face, state) for face, state in brief.start_states.items()}
        self.up: int | None = None
        self.thickness = brief.measured_max_mm
        self.thickness_measured = False
        self.asked_since = NOTHING
        self.passes_since: list[tuple[Decimal, Decimal | None]] = []
        self.touches_chuck: Decimal | None = None
        self.dressed = ""
        self.verdicts: dict[str, Verdict] = {}
        self.waived: dict[str, Entry] = {}
        self.gaps: list[Gap] = []
        self.signed_off: Entry | None = None
        self._acts: dict[Kind, Callable[[Entry, _Face], None]] = {
            Kind.PLANNED: self._planned, Kind.PLACED: self._placed, Kind.TOUCHED_OFF: self._touched_off,
            Kind.PASS: self._pass, Kind.SPARK_OUT: self._spark_out, Kind.DRESSED: self._dressed, Kind.DONE: self._done,
            Kind.SKIPPED: self._skipped, Kind.MEASURED: self._measured, Kind.FACE_DONE: self._face_done,
        }

    def add(self, entry: Entry) -> None:
        if entry.kind is Kind.SIGNED_OFF:
            self._signed_off(entry)
        elif entry.kind is Kind.WAIVED:
            self.waived[entry.characteristic] = entry
        elif entry.kind is Kind.MEASURED and entry.characteristic != THICKNESS:
            self._verdict(entry)
        elif entry.face is not None and entry.kind in self._acts:
            self._acts[entry.kind](entry, self.faces[entry.face])

    def _planned(self, entry: Entry, face: _Face) -> None:
        assert entry.plan is not None
        if entry.plan.keeps_wheel_height:
            face.offset += face.depth
        else:
            face.touched_off, face.left = False, 0.0
        face.plan, face.depth, face.done, face.fed, face.measured = entry.plan, NOTHING, 0, False, None
        face.skipped, face.dressed_at, face.measured_at = [], [], []

    def _placed(self, entry: Entry, face: _Face) -> None:
        self.up = face.face
        for each in self.faces.values():
            each.touched_off, each.left = False, 0.0
        face.advance("place")

    def _touched_off(self, entry: Entry, face: _Face) -> None:
        face.touched_off, face.left = True, 0.0
        face.offset = (entry.reading_mm or NOTHING) - face.depth
        if self.thickness_measured and not self.asked_since:
            self.touches_chuck = (entry.reading_mm or NOTHING) + self.thickness
        face.advance("touch off")

    def _pass(self, entry: Entry, face: _Face) -> None:
        assert entry.reading_mm is not None
        depth = entry.reading_mm - face.offset
        step, crossfeed = depth - face.depth, face.crossfeed()
        self.asked_since += step
        self.passes_since.append((step, crossfeed))
        self._springs(face, float(step), crossfeed)
        face.depth, face.measured, face.fed = depth, None, True
        steps = face.plan.steps if face.plan else ()
        while face.done < len(steps) and steps[face.done].kind in FEEDS and steps[face.done].depth_mm <= depth:
            self.dressed = "" if steps[face.done].kind == "rough" else self.dressed
            face.done += 1
        self._cut()

    def _springs(self, face: _Face, step: float, crossfeed: Decimal | None) -> None:
        wipes = 1 if crossfeed is None else wipes_of(self.brief.wheel_width_mm, float(crossfeed))
        face.left = still_left(face.left, step, self.brief.cut_ratio, wipes)

    def _cut(self) -> None:
        """What was told of the pair's faces holds no longer once they are cut again."""
        for name in (THICKNESS, "parallel", "flat", "finish"):
            self.verdicts.pop(name, None)

    def _spark_out(self, entry: Entry, face: _Face) -> None:
        for _ in range(entry.count or 1):
            crossfeed = face.crossfeed()
            self._springs(face, 0.0, crossfeed)
            self.passes_since.append((NOTHING, crossfeed))
            face.advance("no feed", "blank")
        face.measured = None

    def _dressed(self, entry: Entry, face: _Face) -> None:
        face.dressed_at.append(face.depth)
        step = face.advance("dress")
        self.dressed = step.what if step else ""
        if entry.amount_mm is None:
            face.touched_off, self.touches_chuck = False, None
        else:
            face.offset += entry.amount_mm
            self.touches_chuck = None if self.touches_chuck is None else self.touches_chuck + entry.amount_mm

    def _done(self, entry: Entry, face: _Face) -> None:
        face.advance("chamfer", "turn", "blocks", "cool")

    def _skipped(self, entry: Entry, face: _Face) -> None:
        if face.plan is not None and entry.step == face.done + 1:
            face.skipped.append(face.done + 1)
            face.done += 1

    def _measured(self, entry: Entry, face: _Face) -> None:
        uncertainty = entry.uncertainty_mm or NOTHING
        tries = 1 + (face.measured.tries if face.measured else 0)
        face.measured = Measured(
            entry.at, entry.by, entry.greatest_mm, entry.least_mm, uncertainty, entry.verdict,
            entry.least_mm < self.brief.size.lower_mm - uncertainty, entry.entry_id, tries)
        face.measured_at.append(face.depth)
        face.advance("measure")
        if self.asked_since > 0:
            self.gaps.append(Gap(entry.at, face.face, self.asked_since, self.thickness - entry.greatest_mm,
                                 tuple(self.passes_since)))
        if face.touched_off and self.up == face.face:
            held_back = Decimal(repr(round(face.left, 9))).quantize(SMALLEST_MM, ROUND_DOWN)
            self.touches_chuck = face.offset + face.depth + entry.greatest_mm - held_back
        self.thickness, self.thickness_measured, self.asked_since = entry.greatest_mm, True, NOTHING
        self.passes_since = []
        self._verdict(entry)

    def _verdict(self, entry: Entry) -> None:
        if entry.verdict is None:
            return
        self.verdicts[entry.characteristic] = entry.verdict
        if entry.characteristic == THICKNESS and self.brief.parallel_mm is not None and len(entry.readings) > 1:
            self._parallel(entry, self.brief.parallel_mm)

    def _parallel(self, entry: Entry, allowed: Decimal) -> None:
        """Readings of a thickness tell of parallel too; a size that is in stays in when only that is not."""
        uncertainty, size = entry.uncertainty_mm or NOTHING, self.brief.size
        parallel = parallel_decision(entry.spread_mm, allowed, uncertainty)
        self.verdicts["parallel"] = parallel
        sizes = {verdict(each, size.lower_mm, size.upper_mm, uncertainty) for each in (entry.greatest_mm, entry.least_mm)}
        if parallel != "in" and sizes == {"in"} and not entry.note:
            self.verdicts[THICKNESS] = "in"

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
    if history and history[-1].kind is Kind.SIGNED_OFF:
        undoable = None
    return Standing(
        brief=brief, faces={face: each.frozen() for face, each in fold.faces.items()}, up=fold.up, face=_face_at_work(fold),
        thickness_mm=fold.thickness, thickness_measured=fold.thickness_measured, asked_since_mm=fold.asked_since,
        touches_chuck_mm=fold.touches_chuck, dressed=fold.dressed, verdicts=dict(fold.verdicts), waived=dict(fold.waived),
        gaps=tuple(fold.gaps),
        history=tuple(history), undoable=undoable, last_seq=entries[-1].seq if entries else 0, signed_off=fold.signed_off,
    )


def _face_at_work(fold: _Fold) -> int | None:
    for step in pair_order(fold.reference):
        face = fold.faces[step.up]
        if not (face.ended or face.state in FINISHED):
            return step.up
        if step.up != fold.reference and face.state is FaceState.CLEANED and not face.ended:
            return step.up
    return None
