"""Hands at a simulated grinder: they do what the screen asks for, act by act, and log it; nothing is kept anywhere."""

import random
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from decimal import Decimal
from typing import Any

from zesty_lark.core.part.sizes import Reading, Size
from zesty_lark.core.simulated.block import Lump
from zesty_lark.core.simulated.machine import PassSeen, SimulatedGrinder
from zesty_lark.core.simulated.truth import Truth, seeded
from zesty_lark.core.simulated.wheel import SimulatedWheel
from zesty_lark.core.squaring.shop_facts import ShopFacts
from zesty_lark.core.things.shop import Chuck, Fixture
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.folding import Folding
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.learned import CutRatio
from zesty_lark.core.work.machine_acts import (
    Dressed,
    PassFed,
    Placed,
    Planned,
    SparkedOut,
    StepDone,
    SurfaceDone,
    TouchedOff,
)
from zesty_lark.core.work.next_act import Next, next_act
from zesty_lark.core.work.plans import PlanSteps
from zesty_lark.core.work.rules import addressed, check_entry
from zesty_lark.core.work.run import Run
from zesty_lark.shopfloor.basis import Basis, means_of
from zesty_lark.shopfloor.measuring import Taken, measurement
from zesty_lark.shopfloor.planning import plan_face
from zesty_lark.shopfloor.stock import stock_of
from zesty_lark.store.models import InstrumentRow, Job, MachineRow, Part, PartFace, PartSize, Person, WheelRow

D = Decimal
BRYN = Person(sign_in_name="bryn", name="Bryn", role="machinist")
BEGIN = datetime(2026, 3, 2, 8, tzinfo=UTC)
GRADUATION_MM = D("0.00254")
PLACES = ((0.1, 0.1), (0.9, 0.1), (0.5, 0.5), (0.1, 0.9), (0.9, 0.9))
MOST_ACTS = 400
OF_MEASURED = (
    "characteristic", "piece", "readings", "instrument", "part_c", "gauge_c", "room_c", "note", "uncertainty_mm",
    "how", "verdict",
)  # fmt: skip
MACHINE = {
    "name": "No. 1",
    "dial_unit": "in",
    "graduation_mm": GRADUATION_MM,
    "per_rev_mm": D("1.27"),
    "backlash_mm": D("0.0254"),
    "crossfeed_graduation_mm": D("0.05"),
    "crossfeed_min_mm": D("0.1"),
    "crossfeed_max_mm": D("12"),
    "table_min_mm_s": D("80"),
    "table_max_mm_s": D("350"),
    "reversal_s": D("0.3"),
    "travel_long_mm": D("450"),
    "travel_cross_mm": D("150"),
    "height_mm": D("250"),
    "spindle_w": 1100,
    "rpm": 3000,
    "wheel_turns": "clockwise",
    "feed_every": "stroke",
    "coolant": "water",
    "cut_ratio": D("0.6"),
}
WHEEL = {
    "name": "W3",
    "marking": "A 46 H 8 V",
    "grit": 46,
    "grade": "H",
    "diameter_mm": D("180"),
    "width_mm": D("12.7"),
    "bore_mm": D("31.75"),
    "max_rpm": 3600,
}
GAUGE = {
    "name": "Bench comparator",
    "unit": "mm",
    "least_mm": D("0"),
    "most_mm": D("100"),
    "resolution_mm": D("0.0001"),
    "error_limit_mm": D("0.0003"),
    "calibration_u_mm": D("0.0003"),
    "repeatability_mm": D("0.00015"),
    "calibrated_on": date(2026, 1, 1),
    "due_on": date(2027, 1, 1),
    "reads": "sizes",
    "baud": 9600,
    "sends": "mm",
    "asks": "",
    "falls": False,
    "simulated": False,
    "streams": False,
}


def job_of(thickness: Size, *, came: str = "22.26", parallel: str | None = None) -> Job:
    """A block's job that was never kept: its thickness as asked, 60 HRC, on an inch dial under water."""
    part = Part(
        quantity=1,
        material="tool steel, hardened",
        hardness_hrc=D(60),
        parallel_mm=None if parallel is None else D(parallel),
        mark_corner="1-3-4",
        reference_face=1,
        min_skin_mm=D("0.01"),
        first_share=None,
        remarks="",
        bow_shape="middle_up",
        leave_mm=D(0),
        route=None,
    )
    sides = (("length", "88", "88.3"), ("width", "54", "54.25"))
    part.sizes = [_size("thickness", thickness, D(came), D("0.03"))]
    part.sizes += [
        _size(axis, Size(D(nominal), D("0.05"), D("0.05")), D(most), D("0.02")) for axis, nominal, most in sides
    ]
    part.faces = [
        PartFace(face=face, condition="milled", cleanup_mm=D("0.04"), purpose="plain") for face in range(1, 7)
    ]
    part.pieces, part.more = [], []
    job = Job(number="X-1", title="Pad", print_unit="mm", part=part, created_at=BEGIN, owner=BRYN)
    job.machine, job.wheel, job.set_ups = MachineRow(**MACHINE), WheelRow(**WHEEL), []
    return job


def _size(axis: str, asked: Size, most: D, range_mm: D) -> PartSize:
    return PartSize(
        axis=axis,
        target_mm=asked.target_mm,
        tol_minus_mm=asked.tol_minus_mm,
        tol_plus_mm=asked.tol_plus_mm,
        measured_max_mm=most,
        measured_min_mm=most - range_mm,
    )


class Hands:
    """Someone who knows nothing and does what the next act says."""

    def __init__(self, job: Job, seed: int, *, truth: Truth | None = None) -> None:
        self.job, self.gauge = job, InstrumentRow(**GAUGE)
        self.who = BRYN
        self.fold = Folding(job.part.spec())
        self.truth = truth or seeded(seed)
        came = {size.axis: float(size.measured_max_mm) for size in job.part.sizes}
        lump = Lump.of(came, random.Random(seed), self.truth.surface_um, self.truth.bow_um)  # type: ignore[arg-type]
        wheel = SimulatedWheel(180.0, 12.7, self.truth.g_ratio, self.truth.dulls_mm3_mm)
        self.grinder = SimulatedGrinder(self.truth, lump, wheel, graduation_mm=float(GRADUATION_MM), seed=seed)
        self.fixtures: list[Fixture] = []
        self.seen: PassSeen | None = None
        self.acts: list[str] = []
        self.own: list[PlanSteps] = []
        self.first: dict[int, tuple[float, PlanSteps]] = {}
        """By face when its first plan was released [min], and that plan."""
        self.careless = False
        """Zeroes the collar after turning it back: what was found from above is left with the play open."""
        self.after_pass: Callable[[JobState], None] = lambda job_state: None

    @property
    def now(self) -> JobState:
        return self.fold.state()

    def log(self, kind: type[Entry], surface: int | None, **more: Any) -> None:
        """Log something as it is logged from the screen: addressed, checked, folded."""
        number = len(self.fold.entries) + 1
        at = BEGIN + timedelta(minutes=self.grinder.minutes, seconds=number)
        given = {"surface": surface} | more if surface is not None else more
        made = kind(entry_id=f"entry-{number:04d}", at=at, by="bryn", seq=number, **given)
        made = addressed(made, self.now)
        check_entry(made, self.now)
        self.fold.add(made)

    def work(self, surfaces: tuple[int, ...]) -> None:
        """Follow the screen until these surfaces are done."""
        for _ in range(MOST_ACTS):
            job_state = self.now
            what = next_act(job_state)
            if what.surface not in surfaces:
                return
            self.acts.append(what.act)
            self.act(what, job_state)
        raise AssertionError(f"it asks for ever: {self.acts[-40:]}")

    def act(self, what: Next, job_state: JobState) -> None:
        """Do one act at the machine, and log it."""
        face = what.surface
        assert face is not None
        run = job_state.runs[face]
        if what.act == "plan" and self.reads_again(job_state, face):
            self.measure(face, job_state, what)
        elif what.act == "plan":
            self.plan(face, job_state)
        elif what.act == "place":
            self.place(face, job_state)
            self.log(Placed, face)
        elif what.act == "dress":
            assert run.next_step is not None
            amount = job_state.wheel_use.dress_mm(GRADUATION_MM)
            self.grinder.dress(float(amount), run.next_step.what)
            self.log(Dressed, face, amount_mm=amount)
        elif what.act == "touch_off":
            self.grinder.touch_off()
            if self.careless:
                self.grinder.turn_to(self.grinder.collar_mm - self.truth.backlash_mm)
            self.grinder.rename(0.0)
            self.log(TouchedOff, face, reading_mm=D(0))
        elif what.act in ("pass", "spark-out", "no_feed"):
            self._pass(what.act, run, face)
        elif what.act in ("chamfer", "turn", "blocks", "cool"):
            assert run.next_step is not None
            self.grinder.wait(float(run.next_step.amount or 1) if what.act == "cool" else 2.0)
            self.log(StepDone, face, step=run.next_step.number)
        elif what.act == "measure_again" and self.cut_is_certain(job_state, face):
            self.plan(face, job_state)
        elif what.act in ("measure", "measure_again"):
            self.measure(face, job_state, what)
        elif what.act == "close" and self.own:
            self.plan(face, job_state)
        elif what.act == "close":
            self.log(SurfaceDone, face, pieces=what.pieces)
        else:
            raise AssertionError(f"it ends at “{what.act}”: {self.acts[-20:]}")

    def _pass(self, act: str, run: Run, face: int) -> None:
        step = run.next_step
        assert step is not None and step.crossfeed_mm is not None and step.table_mm_s is not None
        if act == "pass":
            assert run.next_reading_mm is not None
            self.grinder.turn_to(float(run.next_reading_mm))
        self.seen = self.grinder.run_pass(float(step.crossfeed_mm), float(step.table_mm_s))
        power = D(repr(self.seen.power_w))
        if act == "pass":
            self.log(PassFed, face, reading_mm=run.next_reading_mm, power_w=power)
        else:
            self.log(SparkedOut, face, power_w=power)
        self.after_pass(self.now)

    def plan(self, face: int, job_state: JobState) -> None:
        """Release what the plan page offers, or what is to be tried next."""
        if self.own:
            plan = self.own.pop(0)
            self.log(Planned, face, plan=replace(plan, plan_id=len(self.fold.entries) + 1), pieces=(1,))
            return
        job, learned = self.job, CutRatio(float(self.job.machine.cut_ratio), 0)
        chuck = Chuck("the chuck", D(450), D(150), D(80))
        done = tuple(
            each for each, state in job_state.states.items() if state.value in ("cleaned", "to size") and each != face
        )
        basis = Basis(
            job,
            job_state,
            job.part.block(),
            means_of(job, learned),
            ShopFacts(chuck, self.fixtures, (), flat_measured_um={}),
            done,
            learned,
        )
        route = basis.worked(job.part.route_choices, only=face)
        made = plan_face(basis, face, route, self.who)
        assert made.steps is not None, made.face_plan.refused
        plan = replace(made.steps, plan_id=len(self.fold.entries) + 1, reason="as offered")
        self.first.setdefault(face, (self.grinder.minutes, plan))
        self.log(Planned, face, plan=plan, pieces=(1,))

    def place(self, face: int, job_state: JobState) -> None:
        """Put the part up."""
        self.grinder.place(face)

    def as_read(self, face: int, readings: tuple[Reading, ...]) -> tuple[Reading, ...]:
        """What a gauge reads of a face."""
        return readings

    def reads_again(self, job_state: JobState, face: int) -> bool:
        """Whether the measuring page asks for the reading once more."""
        cut = stock_of(self.job, job_state, face).cut
        return cut is not None and cut.what == "read again"

    def cut_is_certain(self, job_state: JobState, face: int) -> bool:
        """Whether the measuring page offers a cut after which it is in for sure."""
        cut = stock_of(self.job, job_state, face).cut
        return cut is not None and cut.what == "take" and cut.certain

    def measure(self, face: int, job_state: JobState, what: Next) -> None:
        """Read five places and log what the page makes of them."""
        self.grinder.raise_clear(10.0)
        self.grinder.wait(3.0)
        readings = tuple(
            Reading(f"p{number}", D(repr(round(self.grinder.measure_mm(*at), 4)))) for number, at in enumerate(PLACES)
        )
        size = job_state.spec.wanted.surfaces[face].size
        readings = self.as_read(face, readings)
        taken = Taken(size, 1, readings, part_c=D("20"), gauge_c=D("20"), room_c=D("20"))
        number = len(self.fold.entries) + 1
        at = BEGIN + timedelta(minutes=self.grinder.minutes, seconds=number)
        entry = measurement(self.job, job_state, self.gauge, taken, entry_id=f"entry-{number:04d}", at=at)
        values = {name: getattr(entry, name) for name in OF_MEASURED}
        self.log(Measured, face, **values)

    def true_mm(self, face: int) -> tuple[float, float]:
        """The least and most of the size, as it truly is at the room's temperature [mm]."""
        map_mm = self.grinder.lump.thickness_mm(face)
        return float(map_mm.min()), float(map_mm.max())
