"""A batch over six faces under any order of events: what is offered is accepted, undo restores exactly, nothing
grows."""

from decimal import Decimal
from typing import Any

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from tests.core.worklog import PAIR, SIDES, D, entry, plan, size, spec, zone
from zesty_lark.core.part.faces import FaceState
from zesty_lark.core.part.sizes import Reading
from zesty_lark.core.work.entry import Entry, Kind
from zesty_lark.core.work.folding import stand
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.next_act import Next, next_act
from zesty_lark.core.work.rules import addressed, check_entry
from zesty_lark.core.work.summary import summary_of

OF = spec(
    size("thickness"),
    size("width"),
    size("length"),
    zone("square", (3, 4, 5, 6, 1), "0.005"),
    pieces=3,
    setups=(*PAIR, *SIDES),
    heights=("22.20", "22.25", "22.10"),
    came={1: FaceState.CLEANED},
)
GOALS = {"thickness": D(22), "width": D(54), "length": D(88)}
SURFACES, PIECES = st.sampled_from((1, 2, 3, 4, 5, 6)), st.sampled_from((1, 2, 3))
KINDS: dict[str, tuple[Kind, dict[str, Any]]] = {
    "place": (Kind.PLACED, {}),
    "touch_off": (Kind.TOUCHED_OFF, {"reading_mm": D(0)}),
    "spark-out": (Kind.SPARK_OUT, {"count": 1}),
    "no_feed": (Kind.SPARK_OUT, {"count": 1}),
    "dress": (Kind.DRESSED, {"amount_mm": D("0.02")}),
    "close": (Kind.SURFACE_DONE, {}),
}


class Batch(RuleBasedStateMachine):
    """Mostly what is offered, now and then anything at all."""

    @initialize()
    def begin(self) -> None:
        self.entries: list[Entry] = []
        self.before: list[tuple[str, JobState]] = []

    @property
    def now(self) -> JobState:
        return stand(OF, self.entries)

    def log(self, kind: Kind, *, must: bool = False, **more: Any) -> bool:
        was = self.now
        made = addressed(entry(kind, len(self.entries) + 1, **more), was)
        try:
            check_entry(made, was)
        except LogError as refusal:
            assert not must, f"offered, and refused: {refusal}"
            assert str(refusal)[-1] in ".?", "a refusal is a sentence"
            return False
        if kind is not Kind.UNDONE:
            self.before.append((made.entry_id, was))
        self.entries.append(made)
        self._nothing_grew(was, kind)
        return True

    def _nothing_grew(self, was: JobState, kind: Kind) -> None:
        if kind in (Kind.MEASURED, Kind.UNDONE):
            return
        for number, piece in self.now.pieces.items():
            for name, mm in piece.sizes.items():
                assert mm.by_collar_mm <= was.pieces[number].sizes[name].by_collar_mm

    @rule(short=st.sampled_from(["0", "0.001", "0.006", "-0.2"]), which=st.sampled_from(["all", "first"]))
    def do_what_is_offered(self, short: str, which: str) -> None:
        what, job_state = next_act(self.now), self.now
        if what.act == "plan":
            assert what.surface is not None
            pieces = what.pieces if which == "all" else what.pieces[:1]
            kept = job_state.at is not None and job_state.is_up(job_state.at) and job_state.at.touched_off
            self.log(
                Kind.PLANNED,
                must=True,
                surface=what.surface,
                pieces=pieces,
                plan=plan(what.surface, *(("0.01",) if kept else ("place", "touch off", "0.02", "0.02")), keeps=kept),
            )
        elif what.act in ("measure", "measure_again", "prove"):
            self._measure(what, D(short))
        elif what.act in ("lead", "stopped"):
            self.log(Kind.ENDED, must=True, piece=what.piece, end="scrapped", note="It is lost.")
        elif what.act == "pass":
            assert job_state.at is not None
            self.log(Kind.PASS, must=True, surface=what.surface, reading_mm=job_state.at.next_reading_mm)
        elif what.act == "sign_off":
            for number, name in job_state.unproved():
                self.log(Kind.WAIVED, must=True, piece=number, characteristic=name, note="It does no harm.")
            self.log(Kind.SIGNED_OFF, must=True)
        elif what.act != "finished":
            kind, more = KINDS[what.act]
            self.log(kind, must=True, surface=what.surface, pieces=what.pieces, **more)

    def _measure(self, what: Next, short: Decimal) -> None:
        goal = GOALS.get(what.characteristic)
        value = D("0.004") if goal is None else goal + short
        verdict = "in" if goal is None or abs(short) <= D("0.001") else "not yet" if short > 0 else "out"
        asked = OF.wanted.named(what.characteristic)
        surface = what.surface or (asked.surfaces[0] if asked else None)
        self.log(
            Kind.MEASURED,
            must=True,
            surface=surface,
            piece=what.piece,
            characteristic=what.characteristic,
            readings=(Reading("middle", value),),
            uncertainty_mm=D("0.0005"),
            verdict=verdict,
        )

    @rule(
        surface=SURFACES,
        kind=st.sampled_from([Kind.PLACED, Kind.SPARK_OUT, Kind.DRESSED, Kind.SURFACE_DONE, Kind.LEFT]),
    )
    def do_anything(self, surface: int, kind: Kind) -> None:
        self.log(kind, surface=surface, note="just so")

    @rule(
        change=st.sampled_from(["skip", "first", "grind"]),
        setup=st.sampled_from(["2", "3+4", "5", "6"]),
        surface=SURFACES,
        pieces=st.sampled_from([(), (2,), (1, 3)]),
    )
    def leave_the_route(self, change: str, setup: str, surface: int, pieces: tuple[int, ...]) -> None:
        self.log(
            Kind.REROUTED,
            change=change,
            setup="" if change == "grind" else setup,
            pieces=pieces,
            surface=surface if change == "grind" else None,
            note="because",
        )

    @rule(piece=PIECES, end=st.sampled_from(["scrapped", "passed"]))
    def end_a_piece(self, piece: int, end: str) -> None:
        if len(self.now.live) > 1:
            self.log(Kind.ENDED, piece=piece, end=end, note="because")

    @precondition(lambda self: bool(self.before))
    @rule()
    def undo(self) -> None:
        last = self.now.undoable
        if last is not None and last.entry_id == self.before[-1][0]:
            _, was = self.before.pop()
            assert self.log(Kind.UNDONE, supersedes=last.entry_id)
            now = self.now
            assert (
                now.pieces,
                now.setups,
                now.runs,
                now.up,
                now.at,
                now.touches_chuck_mm,
                now.dressed,
                now.shortfalls,
            ) == (was.pieces, was.setups, was.runs, was.up, was.at, was.touches_chuck_mm, was.dressed, was.shortfalls)

    @invariant()
    def what_stands_makes_sense(self) -> None:
        job_state = self.now
        told = summary_of(job_state)
        assert told.act == next_act(job_state).act and told.words
        if job_state.at is not None:
            assert job_state.at.pieces and set(job_state.at.pieces) <= set(job_state.live)
            setup = job_state.setup(job_state.at.setup)
            assert setup is not None and not setup.left_out
        done, of = job_state.progress
        assert 0 <= done <= of
        if job_state.signed_off is None and told.act == "sign_off":
            assert job_state.at is None and all(
                job_state.pieces[number].verdicts.get(name) == "out" for number, name in job_state.unproved()
            )


Batch.TestCase.settings = settings(max_examples=80, stateful_step_count=40, deadline=None)
TestBatchAnyOrder = Batch.TestCase
