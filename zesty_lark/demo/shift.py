"""Someone at the machine, for the demonstration: every act goes through the application's own log."""

from collections.abc import Mapping
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any
from uuid import NAMESPACE_URL, uuid5

from sqlalchemy.orm import Session

from zesty_lark.core.part.sizes import Reading
from zesty_lark.core.squaring.choices import FaceChoice, RouteChoices
from zesty_lark.core.work.entries import Noted, TakenIn
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import (
    Dressed,
    LeftMachine,
    PassFed,
    Placed,
    SparkedOut,
    StepDone,
    SurfaceDone,
    TouchedOff,
)
from zesty_lark.core.work.next_act import Next, next_act
from zesty_lark.core.work.run import Run
from zesty_lark.core.work.telling import step_words
from zesty_lark.shopfloor.basis import basis_of
from zesty_lark.shopfloor.measuring import Taken, measurement
from zesty_lark.shopfloor.planning import plan_face
from zesty_lark.shopfloor.units import shown_units
from zesty_lark.store import part_plans, shoplog
from zesty_lark.store.models import InstrumentRow, Job, Person
from zesty_lark.store.shoplog import Draft

EVEN = {
    "front left": "-0.0004",
    "front right": "0",
    "middle": "-0.0006",
    "back left": "-0.0003",
    "back right": "-0.0002",
}
HALF_A_THOU = FaceChoice("custom", downfeed_mm=0.0127, crossfeed_mm=0.8, table_mm_s=300.0)
SHORTS = ("0.0042", "0.0012", "0.0006", "0.0003", "0.0002", *["0.0001"] * 8)
"""What comes out short of what was asked, measurement after measurement [mm]."""
DRESSED_OFF_MM = Decimal("0.02032")
_ACTS: dict[str, type[Entry]] = {
    "dress": Dressed,
    "chamfer": StepDone,
    "place": Placed,
    "turn": StepDone,
    "blocks": StepDone,
    "touch_off": TouchedOff,
    "no_feed": SparkedOut,
    "pass": PassFed,
    "spark-out": SparkedOut,
    "cool": StepDone,
}


class Shift:
    """A stretch of work on one job; each act takes a while on the clock."""

    def __init__(self, session: Session, job: Job, person: Person, begins: datetime) -> None:
        self.session, self.job, self.person, self.clock = session, job, person, begins
        self.count = 0
        self._now: JobState | None = None

    def _log(self, kind: type[Entry], *, minutes: float = 2, by: Person | None = None, **fields: object) -> None:
        self.clock += timedelta(minutes=minutes)
        entry = kind(entry_id=self._entry_id(), at=self.clock, **fields)  # type: ignore[arg-type]
        self._now = shoplog.append(self.session, self.job, by or self.person, Draft(entry)).job_state

    def _entry_id(self) -> str:
        self.count += 1
        return str(uuid5(NAMESPACE_URL, f"{self.job.number}/{self.count}"))

    def _state(self) -> JobState:
        if self._now is None:
            self._now = shoplog.state_of(self.session, self.job)
        return self._now

    def _run(self) -> Run:
        at = self._state().at
        assert at is not None
        return at

    def _next(self) -> Next:
        return next_act(self._state())

    def take_in(self, note: str = "") -> None:
        """Take the part in."""
        self._log(TakenIn, note=note)

    def note(self, words: str) -> None:
        """Write a note."""
        self._log(Noted, note=words)

    def keep_part_plan(self, choices: RouteChoices, *, release: bool = False) -> None:
        """Keep a version of the part's plan, and release it."""
        self.clock += timedelta(minutes=4)
        basis = basis_of(self.session, self.job, self._state(), self.clock.date())
        last = part_plans.newest(self.session, self.job)
        row = part_plans.save(
            self.session,
            self.job,
            self.person,
            choices,
            figures=basis.figures(basis.worked(choices)),
            based_on=last.number if last else 0,
            at=self.clock,
        )
        if release:
            part_plans.release(self.session, self.job, row, self.person, at=self.clock)
            self._now = None

    def release(self, minutes: float = 3, choice: FaceChoice = HALF_A_THOU, pieces: tuple[int, ...] = ()) -> None:
        """Plan the surface at work and release that."""
        job_state, surface = self._state(), self._run().surface
        basis = basis_of(self.session, self.job, job_state, self.clock.date(), load=pieces)
        choices = self.job.part.route_choices.with_face(surface, choice)
        planning = plan_face(basis, surface, basis.worked(choices, only=surface), self.person)
        self.clock += timedelta(minutes=minutes)
        assert planning.steps is not None, planning.face_plan.refused
        self._now = shoplog.release_plan(
            self.session,
            self.job,
            self.person,
            planning.steps,
            entry_id=self._entry_id(),
            at=self.clock,
            seen=None,
            pieces=pieces,
        ).job_state

    def follow(self, passes: int | None = None) -> None:
        """Do what the plan asks for, in its order, until it asks for a measurement or the first few passes are done."""
        while (act := self._next().act) in _ACTS:
            if act == "pass" and passes is not None and self._run().passes_done >= passes:
                break
            self._act(act)

    def _act(self, act: str) -> None:
        job_state, run = self._state(), self._run()
        step = run.next_step
        more: dict[str, Any] = {}
        if act == "pass":
            more = {"reading_mm": run.next_reading_mm}
        elif act == "touch_off":
            met = job_state.touch_reading_mm(run)
            more = {"reading_mm": met if met is not None and met >= 0 else Decimal(0)}
        elif act == "dress":
            more = {"amount_mm": DRESSED_OFF_MM}
        elif act in ("chamfer", "turn", "blocks", "cool") and step is not None:
            more = {"step": step.number, "note": step_words(step, shown_units(self.job))}
        minutes = max(1.0, step.minutes) if step is not None else 3.0
        self._log(_ACTS[act], surface=run.surface, minutes=minutes, **more)

    def measure(self, gauge: InstrumentRow, off: Mapping[str, str], *, short: str, piece: int = 1) -> None:
        """Measure the size of what is up, at places off from the largest, which came out ``short`` of what was asked
        [mm]."""
        job_state = self._state()
        size = job_state.spec.wanted.surfaces[self._run().surface].size
        self.prove(
            size,
            gauge,
            str(job_state.pieces[piece].sizes[size].by_collar_mm + Decimal(short)),
            off,
            piece=piece,
            warm=True,
        )

    def prove(
        self,
        characteristic: str,
        gauge: InstrumentRow,
        value: str,
        off: Mapping[str, str],
        *,
        piece: int = 1,
        warm: bool = False,
    ) -> None:
        """Measure a characteristic: the largest reading, and how far the other places are off it [mm]."""
        self.clock += timedelta(minutes=3)
        temperatures = (Decimal("21.5"), Decimal("21.3"), Decimal("21.3")) if warm else (None, None, None)
        taken = Taken(characteristic, piece, _read(Decimal(value), off, gauge), *temperatures)
        entry = measurement(self.job, self._state(), gauge, taken, entry_id=self._entry_id(), at=self.clock)
        self._now = shoplog.append(self.session, self.job, self.person, Draft(entry, instrument=gauge)).job_state

    def close(self) -> None:
        """Declare what is at work done, on the pieces that are proved."""
        what = self._next()
        self._log(SurfaceDone, surface=what.surface, pieces=what.pieces)

    def finish(self, gauge: InstrumentRow, shorts: tuple[str, ...] = SHORTS) -> None:
        """Grind what is next to its size, measuring where the plan stops."""
        self.release()
        for short in shorts:
            self.follow()
            self.measure(gauge, EVEN, short=short)
            if self._next().act == "close":
                break
            self.release(2, FaceChoice())
        self.close()

    def leave(self, why: str) -> None:
        """Take the load off for another job."""
        self._log(LeftMachine, surface=self._run().surface, note=why)

    def grind_reference(self, gauge: InstrumentRow, off: Mapping[str, str]) -> None:
        """Clean the reference up and declare it done."""
        self.release()
        self.follow()
        self.measure(gauge, off, short="0.0011")
        self.close()

    def start(self, pieces: tuple[int, ...] = ()) -> None:
        """Release the plan of what comes next."""
        self.release(pieces=pieces)


def _read(greatest: Decimal, off: Mapping[str, str], gauge: InstrumentRow) -> tuple[Reading, ...]:
    """Readings to the gauge's own step."""
    step = gauge.resolution_mm
    return tuple(
        Reading(place, ((greatest + Decimal(each)) / step).to_integral_value() * step) for place, each in off.items()
    )
