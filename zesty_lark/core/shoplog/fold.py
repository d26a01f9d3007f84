"""The fold: walks a job's log, entry by entry, and ends at where the work stands.

The collar's reading and the depth under the plan's start differ by an offset: a touch-off sets it, a dress moves it
by what came off the wheel's radius. The reading at which the wheel would touch the chuck is followed too, so that the high spot
of the next face can be told without a new zero.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from decimal import ROUND_DOWN, Decimal

from zesty_lark.core.faces import FINISHED, OPPOSITE, FaceState, pair_order
from zesty_lark.core.measure.thickness import Verdict, parallel_decision, verdict
from zesty_lark.core.process.springs import still_left, wipes_of
from zesty_lark.core.shoplog.entries import FEEDS, THICKNESS, Entry, Kind, PlanStep, PlanSteps, in_force
from zesty_lark.core.shoplog.standing import NOTHING, Brief, FaceStanding, Gap, Measured, Standing
from zesty_lark.core.units import SMALLEST_MM

__all__ = ["stand"]

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
