"""The log under any order of events: what it accepts keeps collar, depth and plan together, and what it offers it
accepts."""

from copy import deepcopy
from dataclasses import dataclass, field
from decimal import Decimal

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from tests.core.worklog import BRIEF, entry, plan
from zesty_lark.core.part.sizes import Reading
from zesty_lark.core.work.entry import Entry, Kind
from zesty_lark.core.work.folding import Folding, stand
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.next_act import next_act
from zesty_lark.core.work.plans import FEEDS
from zesty_lark.core.work.rules import addressed, check_entry

D = Decimal
FACES = st.sampled_from((1, 2))
PLANS = (
    ("dress", "place", "touch off", "no feed", "0.02", "dress", "0.02", "spark-out", "measure", "0.005"),
    ("place", "blocks", "touch off", "0.01", "0.01", "turn", "0.005"),
    ("0.02", "0.02"),
)
TENTHS = st.integers(0, 40).map(lambda number: number * D("0.00254"))


@dataclass
class Told:
    """What a machinist with a pencil would have written down of one face."""

    plan: bool = False
    touched: bool = False
    zero: Decimal = D(0)
    depth: Decimal = D(0)


@dataclass
class LaidOut:
    """The whole laid_out: which face is up, and the notes of both."""

    up: int | None = None
    faces: dict[int, Told] = field(default_factory=lambda: {1: Told(), 2: Told()})


class AnyOrder(RuleBasedStateMachine):
    """Entries in any order; a refused one changes nothing."""

    @initialize()
    def begin(self) -> None:
        self.entries: list[Entry] = []
        self.growing = Folding(BRIEF)
        self.setup = LaidOut()
        self.earlier: list[tuple[LaidOut, Entry]] = []

    @property
    def now(self) -> JobState:
        return stand(BRIEF, self.entries)

    def log(self, kind: Kind, face: int | None, **more: object) -> bool:
        number = len(self.entries) + 1
        before = self.now
        made = addressed(entry(kind, number, surface=face, **more), before)
        try:
            check_entry(made, before)
        except LogError as refusal:
            assert str(refusal).endswith((".", "?")), "a refusal is a sentence"
            return False
        if kind is not Kind.UNDONE:
            self.earlier.append((deepcopy(self.setup), made))
        self.entries.append(made)
        self.growing.add(made)
        return True

    @rule(face=FACES, which=st.sampled_from(PLANS), keeps=st.booleans())
    def release(self, face: int, which: tuple[str, ...], keeps: bool) -> None:
        told, was = self.setup.faces[face], self.now.runs[face]
        if not self.log(Kind.PLANNED, face, plan=plan(face, *which, keeps=keeps)):
            return
        told = self.setup.faces[face]
        kept = keeps and told.touched
        told.plan, told.touched = True, kept
        told.zero, told.depth = (was.reading_mm, D(0)) if kept else (D(0), D(0))

    @rule(face=FACES)
    def place(self, face: int) -> None:
        if self.log(Kind.PLACED, face):
            for other in self.setup.faces.values():
                other.touched = False
            self.setup.up = face

    @rule(face=FACES, reading=TENTHS)
    def touch_off(self, face: int, reading: Decimal) -> None:
        if self.log(Kind.TOUCHED_OFF, face, reading_mm=reading):
            told = self.setup.faces[face]
            assert told.plan and self.setup.up == face
            told.touched, told.zero = True, reading - told.depth

    @rule(face=FACES, further=st.integers(-5, 30).map(lambda number: number * D("0.00254")), planned=st.booleans())
    def feed(self, face: int, further: Decimal, planned: bool) -> None:
        told, job_state = self.setup.faces[face], self.now.runs[face]
        reading = told.zero + told.depth + further
        if planned and job_state.next_reading_mm is not None:
            reading = job_state.next_reading_mm
        if self.log(Kind.PASS, face, reading_mm=reading):
            told = self.setup.faces[face]
            assert self.setup.up == face and told.touched and reading > told.zero + told.depth
            assert job_state.next_step is not None and job_state.next_step.kind in FEEDS, (
                "nothing that is asked was passed over"
            )
            told.depth = reading - told.zero
            assert job_state.plan is not None and told.depth <= job_state.plan.stock_mm, "never into the size"

    @rule(face=FACES)
    def spark_out(self, face: int) -> None:
        if self.log(Kind.SPARK_OUT, face, count=1):
            assert self.setup.up == face and self.setup.faces[face].touched

    @rule(face=FACES, amount=st.none() | st.sampled_from([D("0.02"), D("0.03")]))
    def dress(self, face: int, amount: Decimal | None) -> None:
        if self.log(Kind.DRESSED, face, amount_mm=amount):
            for told in self.setup.faces.values():
                told.zero += amount or D(0)
                told.touched = told.touched and amount is not None

    @rule(face=FACES, skip=st.booleans())
    def say_done(self, face: int, skip: bool) -> None:
        step = self.now.runs[face].next_step
        if step is not None:
            self.log(Kind.SKIPPED if skip else Kind.DONE, face, step=step.number, note="not needed here")

    @precondition(lambda self: bool(self.earlier))
    @rule()
    def undo(self) -> None:
        last = self.now.undoable
        if last is not None and last.entry_id == self.earlier[-1][1].entry_id:
            assert self.log(Kind.UNDONE, None, supersedes=last.entry_id)
            self.setup = self.earlier.pop()[0]

    @rule(face=FACES, size=st.sampled_from(["22.10", "22.05"]))
    def measure(self, face: int, size: str) -> None:
        self.log(Kind.MEASURED, face, readings=(Reading("middle", D(size)),), uncertainty_mm=D("0.001"))

    @invariant()
    def the_log_says_what_the_pencil_says(self) -> None:
        job_state = self.now
        assert job_state.surface_up == self.setup.up
        for number, told in self.setup.faces.items():
            face = job_state.runs[number]
            assert face.touched_off == told.touched
            if told.touched:
                assert (face.depth_mm, face.reading_mm) == (told.depth, told.zero + told.depth)
                assert face.last_reading_mm is None or face.last_reading_mm <= told.zero + face.plan.stock_mm  # type: ignore[union-attr]

    @invariant()
    def a_log_folded_as_it_grew_stands_as_one_folded_whole(self) -> None:
        assert self.growing.state() == self.now

    @invariant()
    def what_is_offered_is_accepted(self) -> None:
        job_state = self.now
        offered = next_act(job_state)
        if offered.surface is None or offered.act in ("plan", "measure", "measure_again", "lead", "stopped", "close"):
            return
        face = job_state.runs[offered.surface]
        kinds: dict[str, tuple[Kind, dict[str, object]]] = {
            "place": (Kind.PLACED, {}),
            "touch_off": (Kind.TOUCHED_OFF, {"reading_mm": D(0)}),
            "pass": (Kind.PASS, {"reading_mm": face.next_reading_mm}),
            "spark-out": (Kind.SPARK_OUT, {"count": 1}),
            "no_feed": (Kind.SPARK_OUT, {"count": 1}),
            "dress": (Kind.DRESSED, {"amount_mm": D("0.02")}),
        }
        kind, more = kinds.get(offered.act, (Kind.DONE, {"step": face.next_step.number if face.next_step else None}))
        check_entry(addressed(entry(kind, 999, surface=offered.surface, **more), job_state), job_state)


AnyOrder.TestCase.settings = settings(max_examples=120, stateful_step_count=30, deadline=None)
TestAnyOrder = AnyOrder.TestCase
