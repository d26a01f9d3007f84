"""What the log teaches is kept with the entry that taught it, by machine, wheel and work, and forgotten with it."""

from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from decimal import Decimal

from sqlalchemy import select
from sqlalchemy.orm import Session

from zesty_lark.core.part.sizes import Reading
from zesty_lark.core.squaring.handling import HANDLING, USUAL, learned_handling
from zesty_lark.core.work.entries import Measured, Undone
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.machine_acts import PassFed, SparkedOut
from zesty_lark.shopfloor.basis import basis_of
from zesty_lark.shopfloor.measuring import Taken, measurement
from zesty_lark.shopfloor.taught import taught_of
from zesty_lark.store import job_states, jobs, learning, log_rows, people, shop, shoplog
from zesty_lark.store.models import InstrumentRow, Job, LearnedRun, LearnedTime, MachineRow, SizeRun, WheelRow
from zesty_lark.store.shoplog import Draft

D = Decimal
NOW = datetime.now(UTC)


class LaidOut:
    """TR-101 in the middle of its second face, and someone who logs on it."""

    def __init__(self, session: Session) -> None:
        self.session = session
        job, who = jobs.by_number(session, "TR-101"), people.by_sign_in_name(session, "bryn")
        gauge = shop.by_name(session, InstrumentRow, "Bench comparator B1")
        assert job is not None and who is not None and gauge is not None
        self.job: Job = job
        self.who, self.gauge, self.count = who, gauge, 0

    @property
    def at(self) -> datetime:
        return NOW + timedelta(minutes=self.count)

    def log(self, kind: type[Entry], **more: object) -> Entry:
        self.count += 1
        made = kind(entry_id=f"learning-{self.count:04d}", at=self.at, by="bryn", **more)  # type: ignore[arg-type]
        shoplog.append(self.session, self.job, self.who, Draft(made))
        return made

    def measure(self, value: str, *, warm: bool = False) -> Measured:
        self.count += 1
        job_state = job_states.state_of(self.session, self.job)
        taken = Taken("thickness", 1, (Reading("middle", D(value)),), warm=warm)
        made = measurement(self.job, job_state, self.gauge, taken, entry_id=f"learning-{self.count:04d}", at=self.at)
        shoplog.append(self.session, self.job, self.who, Draft(made, None, self.gauge))
        return made

    def rows(self, table: type[LearnedRun | LearnedTime | SizeRun]) -> int:
        return len(list(self.session.scalars(select(table))))


def test_a_measurement_after_a_cut_teaches_and_its_undo_forgets(demo: Session) -> None:
    laid_out = LaidOut(demo)
    runs, times = laid_out.rows(SizeRun), laid_out.rows(LearnedTime)
    run = job_states.state_of(demo, laid_out.job).runs[2]
    assert run.next_reading_mm is not None
    ground = laid_out.job.wheel.ground_mm3
    laid_out.log(PassFed, surface=2, reading_mm=run.next_reading_mm)
    laid_out.log(SparkedOut, surface=2)
    measured = laid_out.measure("22.16")
    assert laid_out.rows(SizeRun) == runs + 1 and laid_out.rows(LearnedTime) == times + 1
    newest = demo.scalar(select(SizeRun).order_by(SizeRun.seq.desc()))
    assert newest is not None and newest.work == "magnet" and newest.asked_mm > 0 and newest.volume_mm3 > 0
    told = learning.size_runs(demo, laid_out.job.machine, laid_out.job.wheel)
    assert told[0].asked_mm == float(newest.asked_mm) and told[0].volume_mm3 == float(newest.volume_mm3)
    other_wheel = next(row for row in shop.listed(demo, WheelRow) if row.id != laid_out.job.wheel.id)
    other_machine = next(each for each in shop.listed(demo, MachineRow) if each.id != laid_out.job.machine.id)
    for machine, wheel in ((laid_out.job.machine, other_wheel), (other_machine, laid_out.job.wheel)):
        assert all(each != told[0] for each in learning.size_runs(demo, machine, wheel)), "of that machine and wheel"
    assert newest.volume_mm3 == round(newest.volume_mm3, 2)
    demo.refresh(laid_out.job.wheel)
    assert laid_out.job.wheel.ground_mm3 == ground + newest.volume_mm3
    laid_out.log(Undone, supersedes=measured.entry_id)
    demo.refresh(laid_out.job.wheel)
    assert laid_out.job.wheel.ground_mm3 == ground
    assert laid_out.rows(SizeRun) == runs and laid_out.rows(LearnedTime) == times


def test_times_are_of_the_machine_and_plans_use_them(demo: Session) -> None:
    laid_out = LaidOut(demo)
    before = learning.times(demo, laid_out.job.machine, USUAL)["measure"]
    for minutes in (9, 9, 9, 9, 9, 9, 9, 9, 9, 9, 9):
        row = LearnedTime(machine_id=laid_out.job.machine_id, act="measure", minutes=D(minutes))
        row.seq = _free_seq(laid_out)
        demo.add(row)
        demo.flush()
    now = learning.times(demo, laid_out.job.machine, USUAL)["measure"]
    assert now.minutes == 9 and now.runs == 10 and now != before
    assert learned_handling(learning.times(demo, laid_out.job.machine, USUAL)).measure == 9
    job_state = job_states.state_of(demo, laid_out.job)
    assert basis_of(demo, laid_out.job, job_state, NOW.date()).handling.measure == 9, "the next plan uses it"
    other = jobs.by_number(demo, "TR-114")
    assert other is not None and other.machine_id != laid_out.job.machine_id
    assert learning.times(demo, other.machine, USUAL)["measure"].minutes != 9, "another machine has hands of its own"
    assert learned_handling({}) == HANDLING


def _free_seq(laid_out: LaidOut) -> int:
    """An entry that has taught nothing yet."""
    entry = laid_out.log(SparkedOut, surface=2)
    return next(
        each.seq for each in log_rows.entries_of(laid_out.session, laid_out.job) if each.entry_id == entry.entry_id
    )


def test_the_cut_ratio_is_kept_apart_by_kind_of_work(demo: Session) -> None:
    laid_out = LaidOut(demo)
    for work, eta in (("magnet", "0.7"), ("fixture", "0.3"), ("fixture", "0.34")):
        row = LearnedRun(machine_id=laid_out.job.machine_id, wheel_id=laid_out.job.wheel_id, work=work, eta=D(eta))
        row.seq = _free_seq(laid_out)
        demo.add(row)
        demo.flush()
    told = learning.cut_ratios(demo, laid_out.job.machine, laid_out.job.wheel)
    assert told["fixture"].runs == 2 and told["fixture"].eta == 0.32 and told["magnet"].eta >= 0.6
    assert "few runs" in told["fixture"].sure
    job_state = job_states.state_of(demo, laid_out.job)
    assert basis_of(demo, laid_out.job, job_state, NOW.date()).means.fixture_cut_ratio == 0.32


def test_a_size_read_warm_and_then_cold_is_told_as_heat(demo: Session) -> None:
    laid_out = LaidOut(demo)
    assert learning.warm_and_cold(demo, laid_out.job.machine) == []
    laid_out.measure("22.1665", warm=True)
    laid_out.measure("22.1642")
    (pair,) = learning.warm_and_cold(demo, laid_out.job.machine)
    assert round((pair.warm_mm - pair.cold_mm) * 1000, 3) == 2.3
    told = taught_of(demo, laid_out.job.machine)
    assert "once" in told.heat.words and not told.heat.told, "one time is no proof"
    run = job_states.state_of(demo, laid_out.job).runs[2]
    assert run.plan is not None


def test_what_is_asked_takes_a_fixed_number_of_statements(demo: Session, statements: Callable[[], object]) -> None:
    laid_out = LaidOut(demo)
    with statements() as sent:  # type: ignore[attr-defined]
        learning.times(demo, laid_out.job.machine, USUAL)
        learning.cut_ratios(demo, laid_out.job.machine, laid_out.job.wheel)
        learning.warm_and_cold(demo, laid_out.job.machine)
    assert len(sent) == 3


def test_of_two_warm_readings_and_of_a_cut_between_nothing_is_told_of_heat(demo: Session) -> None:
    laid_out = LaidOut(demo)
    laid_out.measure("22.1665", warm=True)
    laid_out.measure("22.1660", warm=True)
    assert learning.warm_and_cold(demo, laid_out.job.machine) == []
    laid_out.measure("22.1642")
    (pair,) = learning.warm_and_cold(demo, laid_out.job.machine)
    assert (pair.warm_mm, pair.cold_mm) == (22.166, 22.1642)
    laid_out.measure("22.1642")
    laid_out.measure("22.1642", warm=True)
    assert len(learning.warm_and_cold(demo, laid_out.job.machine)) == 1


def test_what_a_run_teaches_is_kept_to_so_many_places(demo: Session) -> None:
    laid_out = LaidOut(demo)
    after = job_states.state_of(demo, laid_out.job)
    step = (D("0.01"), D("12.7"))
    shortfall = replace(
        after.shortfalls[-1], asked_mm=D("0.03"), got_mm=D("0.0240001"), passes=(step,) * 3, volume_mm3=D("12.3456"),
        grown_mm=D(0),
    )  # fmt: skip
    run, ratio = learning._of_run(laid_out.job, replace(after, shortfalls=(shortfall,)))
    assert isinstance(run, SizeRun) and run.volume_mm3 == D("12.35")
    assert isinstance(ratio, LearnedRun) and ratio.eta == round(ratio.eta, 5) and len(str(ratio.eta)) == 7
    again = learning._of_run(laid_out.job, replace(after, shortfalls=(replace(shortfall, got_mm=D("0.031")),)))
    assert len(again) == 1, "more than was asked tells nothing of one wipe"


def test_the_wheels_of_a_machine_are_those_its_runs_were_measured_with(demo: Session) -> None:
    for machine in shop.listed(demo, MachineRow):
        used = {row.wheel_id for row in demo.scalars(select(SizeRun).where(SizeRun.machine_id == machine.id))}
        found = learning.wheels_of(demo, machine)
        assert {wheel.id for wheel in found} == used and [each.name for each in found] == sorted(e.name for e in found)
    assert any(learning.wheels_of(demo, machine) for machine in shop.listed(demo, MachineRow))
