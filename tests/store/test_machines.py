"""Two jobs, two wheels, one machine: what one does at it, the others are told, in the same transaction."""

import os
import random
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from uuid import uuid4

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from zesty_lark.core.things.chuck import ChuckStepDone
from zesty_lark.core.things.log import ThingEntry, ThingError, ThingUndone
from zesty_lark.core.things.machine import MachineFolding
from zesty_lark.core.things.rack.entries import Checked, PutOut, RackDress, Struck, TakenDown
from zesty_lark.core.work.entries import Undone, ZeroLost
from zesty_lark.core.work.entry import Entry, Kind
from zesty_lark.core.work.going_up import AnotherUp
from zesty_lark.core.work.halting import sounds_like_a_crash
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import (
    Dressed,
    Halted,
    LeftMachine,
    PassFed,
    Placed,
    SparkedOut,
    TouchedOff,
    WentOn,
)
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.next_act import next_act
from zesty_lark.shopfloor.machine_card import card_of
from zesty_lark.store import (
    chucks,
    job_states,
    jobs,
    machines,
    people,
    rack_log,
    racks,
    rebuilding,
    shop,
    shoplog,
    thing_logs,
)
from zesty_lark.store.models import Job, MachineRow, Person, WheelRow
from zesty_lark.store.shoplog import BehindError, Draft

D = Decimal
HISTORIES = int(os.environ.get("LARK_HISTORIES", "6"))
ACTS = 24


class Floor:
    """Bryn and Isa at No. 1: TR-101 is up in the middle of a pass, TR-133 waits."""

    def __init__(self, session: Session) -> None:
        self.session, self.clock = session, datetime.now(UTC)
        self._jobs: dict[str, Job] = {}
        machine = shop.by_name(session, MachineRow, "No. 1, inch dial")
        assert machine is not None
        self.machine: MachineRow = machine
        self.wheel = self.wheel_of("W3 open white")

    def wheel_of(self, name: str) -> WheelRow:
        found = shop.by_name(self.session, WheelRow, name)
        assert found is not None
        return found

    def who(self, name: str = "bryn") -> Person:
        found = people.by_sign_in_name(self.session, name)
        assert found is not None
        return found

    def job(self, number: str) -> Job:
        if number not in self._jobs:
            found = jobs.by_number(self.session, number)
            assert found is not None
            self._jobs[number] = found
        return self._jobs[number]

    def state(self, number: str) -> JobState:
        return job_states.state_of(self.session, self.job(number))

    def log(self, number: str, kind: type[Entry], takes_off: str = "", by: str = "bryn", **more: object) -> str:
        self.clock += timedelta(minutes=1)
        state, entry_id = self.state(number), str(uuid4())
        if kind not in (Undone,):
            more = {"surface": state.surface} | more
        made = kind(entry_id=entry_id, at=self.clock, **more)  # type: ignore[arg-type]
        draft = Draft(made, state.last_seq, takes_off=takes_off)
        shoplog.append(self.session, self.job(number), self.who(by), draft)
        return entry_id

    def on_wheel(
        self, what: object, wheel: WheelRow | None = None, by: str = "bryn", machine: MachineRow | None = None
    ) -> str:
        self.clock += timedelta(minutes=2)
        machine = machine or self.machine
        entry = ThingEntry(
            entry_id=str(uuid4()),
            at=self.clock,
            what=what,
            machine=machine.name,
            note="x",  # type: ignore[arg-type]
        )
        rack_log.append(self.session, wheel or self.wheel, self.who(by), entry, machine=machine)
        return entry.entry_id


@pytest.fixture
def floor(demo: Session) -> Floor:
    return Floor(demo)


def test_putting_another_up_asks_first_and_then_the_first_is_told_and_begins_again(floor: Floor) -> None:
    before = floor.state("TR-101").last_seq
    with pytest.raises(AnotherUp, match="TR-101 is up on No. 1, inch dial"):
        floor.log("TR-133", Placed)
    with pytest.raises(AnotherUp):
        floor.log("TR-133", Placed, takes_off="TR-140")
    assert floor.state("TR-101").last_seq == before
    floor.log("TR-133", Placed, takes_off="TR-101", by="isa")
    first = floor.state("TR-101")
    told = first.history[-1]
    assert isinstance(told, LeftMachine) and told.by == "isa" and "taken off for TR-133 on No. 1" in told.note
    assert first.up is None and first.touches_chuck_mm is None and next_act(first).act == "place"
    stale = PassFed(entry_id=str(uuid4()), at=floor.clock, surface=2, reading_mm=D(9))
    with pytest.raises(BehindError):
        shoplog.append(floor.session, floor.job("TR-101"), floor.who(), Draft(stale, before))
    now = machines.state_of(floor.session, floor.machine)
    assert now.load is not None and (now.load.job, now.load.by) == ("TR-133", floor.who("isa").name)
    assert floor.machine.on_chuck == "TR-133" and now.zero is None


def test_a_load_on_another_machine_is_taken_off_by_nobody_here(floor: Floor) -> None:
    floor.log("TR-101", LeftMachine, note="Enough for today.")
    before = floor.state("TR-140").last_seq
    floor.log("TR-133", Placed, takes_off="TR-140")
    assert floor.state("TR-140").last_seq == before and floor.job("TR-140").machine.on_chuck == "TR-140"


def test_taking_it_back_puts_the_first_up_again_unless_it_has_gone_on(floor: Floor) -> None:
    before, zero = floor.state("TR-101"), machines.state_of(floor.session, floor.machine).zero
    placed = floor.log("TR-133", Placed, takes_off="TR-101")
    floor.log("TR-133", Undone, supersedes=placed)
    after = floor.state("TR-101")
    assert (after.up, after.at, after.touches_chuck_mm) == (before.up, before.at, before.touches_chuck_mm)
    now = machines.state_of(floor.session, floor.machine)
    assert floor.machine.on_chuck == "TR-101" and now.zero == zero and zero is not None
    placed = floor.log("TR-133", Placed, takes_off="TR-101")
    floor.log("TR-101", Placed, takes_off="TR-133")
    with pytest.raises(LogError, match="no longer the last one"):
        floor.log("TR-133", Undone, supersedes=placed)
    assert floor.machine.on_chuck == "TR-101"


def test_a_load_that_was_taken_off_does_not_come_back_under_another(floor: Floor) -> None:
    floor.log("TR-133", Placed, takes_off="TR-101")
    told = floor.state("TR-101").undoable
    assert told is not None and told.kind is Kind.LEFT
    with pytest.raises(LogError, match="TR-133 is up on No. 1, inch dial now"):
        floor.log("TR-101", Undone, supersedes=told.entry_id)
    floor.log("TR-133", LeftMachine, note="Enough for today.")
    floor.log("TR-101", Undone, supersedes=told.entry_id)
    assert floor.state("TR-101").up is not None and floor.machine.on_chuck == "TR-101"


def test_a_dress_from_the_rack_moves_the_zero_of_who_is_up_and_taking_it_back_moves_it_back(floor: Floor) -> None:
    before = floor.state("TR-101").runs[2]
    zero = machines.state_of(floor.session, floor.machine).zero
    assert zero is not None
    dress = floor.on_wheel(RackDress(dress="fine", amount_mm=D("0.02")))
    after = floor.state("TR-101")
    assert after.runs[2].reading_mm == before.reading_mm + D("0.02") and after.runs[2].touched_off
    assert isinstance(after.history[-1], Dressed) and "logged with the wheel" in after.history[-1].note
    moved = machines.state_of(floor.session, floor.machine).zero
    assert moved is not None and moved.reading_mm == zero.reading_mm + D("0.02")
    with pytest.raises(LogError, match="logged elsewhere"):
        floor.log("TR-101", Undone, supersedes=after.history[-1].entry_id)
    off = floor.wheel.off_mm
    floor.on_wheel(ThingUndone(supersedes=dress))
    assert floor.state("TR-101").runs[2] == before and floor.wheel.off_mm == off - D("0.02")
    assert machines.state_of(floor.session, floor.machine).zero == zero
    dress = floor.on_wheel(RackDress(dress="fine", amount_mm=D("0.02")))
    run = floor.state("TR-101").runs[2]
    floor.log("TR-101", PassFed, reading_mm=run.next_reading_mm)
    with pytest.raises(ThingError, match="TR-101 has gone on since"):
        floor.on_wheel(ThingUndone(supersedes=dress))


def test_another_wheel_stops_the_job_and_loses_its_zero(floor: Floor) -> None:
    floor.on_wheel(TakenDown())
    state = floor.state("TR-101")
    assert isinstance(state.history[-1], ZeroLost) and not state.runs[2].touched_off and floor.machine.spindle is None
    assert next_act(state).act == "mount"
    for kind, more in ((PassFed, {"reading_mm": D(9)}), (TouchedOff, {"reading_mm": D(0)}), (Dressed, {})):
        with pytest.raises(LogError, match="W3 open white is not on No. 1, inch dial"):
            floor.log("TR-101", kind, **more)
    other = floor.wheel_of("W5 finishing")
    floor.on_wheel(Checked(step="speed"), other)
    with pytest.raises(LogError, match="On No. 1, inch dial is W5 finishing"):
        floor.log("TR-101", TouchedOff, reading_mm=D(0))
    with pytest.raises(ThingError, match="W5 finishing is on No. 1, inch dial. Take it off"):
        floor.on_wheel(Checked(step="speed"), floor.wheel)
    assert machines.state_of(floor.session, floor.machine).lost == "W3 open white was taken off"


def test_a_minute_at_full_speed_and_a_flange_are_asked_for(floor: Floor) -> None:
    floor.on_wheel(TakenDown())
    other = floor.wheel_of("W5 finishing")
    for step in ("speed", "look", "ring", "bore", "blotters"):
        floor.on_wheel(Checked(step=step), other)
    flange, other.flange_id = other.flange_id, None
    floor.session.flush()
    with pytest.raises(ThingError, match="no flange set down"):
        floor.on_wheel(Checked(step="flanges"), other)
    other.flange_id = flange
    floor.session.flush()
    floor.on_wheel(Checked(step="flanges"), other)
    floor.on_wheel(Checked(step="guard"), other)
    floor.clock -= timedelta(minutes=1, seconds=30)
    with pytest.raises(ThingError, match="not over: 30 s more"):
        floor.on_wheel(Checked(step="run_up"), other)
    floor.on_wheel(Checked(step="run_up"), other)


def test_a_crash_takes_wheel_and_zero_out_of_use_and_taking_it_back_restores_them(floor: Floor) -> None:
    before, zero = floor.state("TR-101").runs[2], machines.state_of(floor.session, floor.machine).zero
    crash = floor.log("TR-101", Halted, seen="crash")
    state, now = floor.state("TR-101"), machines.state_of(floor.session, floor.machine)
    assert not state.runs[2].touched_off and state.touches_chuck_mm is None and now.lost == "a crash"
    assert floor.wheel.next_step == "look" and floor.wheel.mounted_on == floor.machine.name
    assert isinstance(racks.state_of(floor.session, floor.wheel).history[-1].what, Struck)
    floor.log("TR-101", Undone, supersedes=crash)
    assert floor.state("TR-101").runs[2] == before and floor.wheel.next_step == ""
    assert machines.state_of(floor.session, floor.machine).zero == zero
    floor.log("TR-101", Halted, seen="crash")
    floor.log("TR-101", WentOn, note="All looked at.")
    state = floor.state("TR-101")
    assert state.up is None and floor.machine.on_chuck is None
    assert state.on is not None and "not ready: look comes first" in state.on.wheel_stop


def test_a_crash_logged_in_a_job_that_is_not_up_loses_the_zero_of_the_one_that_is(floor: Floor) -> None:
    crash = floor.log("TR-133", Halted, seen="crash")
    state = floor.state("TR-101")
    told = state.history[-1]
    assert isinstance(told, ZeroLost) and "a crash, logged in TR-133" in told.note and not state.runs[2].touched_off
    assert floor.wheel.next_step == "look" and next_act(state).act == "mount"
    floor.log("TR-133", Undone, supersedes=crash)
    assert floor.state("TR-101").runs[2].touched_off and floor.wheel.next_step == ""


def test_it_is_the_wheel_on_the_spindle_that_a_crash_strikes(floor: Floor) -> None:
    other = floor.wheel_of("W5 finishing")
    floor.job("TR-101").wheel = other
    floor.session.flush()
    floor.log("TR-101", Halted, seen="crash")
    floor.session.refresh(other)
    assert floor.wheel.next_step == "look" and other.next_step is None


def test_a_card_says_of_what_is_out_of_use_that_it_stops(floor: Floor) -> None:
    assert card_of(floor.session, floor.machine).sign == "well"
    floor.on_wheel(PutOut())
    card = card_of(floor.session, floor.machine)
    assert (card.sign, card.words) == ("stop", "W3 open white is out of use, and still on.")


def test_nothing_goes_up_on_a_chuck_that_is_ground_and_it_is_not_ground_under_a_load(floor: Floor) -> None:
    chuck = floor.machine.chuck
    assert chuck is not None
    fence_off = ThingEntry(entry_id=str(uuid4()), at=floor.clock, what=ChuckStepDone(step="fence off", passes=1))
    with pytest.raises(ThingError, match="TR-101 is up on Chuck A"):
        chucks.append(floor.session, chuck, floor.who(), fence_off)
    floor.log("TR-101", LeftMachine, note="The chuck is ground.")
    chucks.append(floor.session, chuck, floor.who(), fence_off)
    with pytest.raises(LogError, match="Chuck A is being ground itself: Clean the chuck"):
        floor.log("TR-101", Placed)


def test_a_fixture_holds_one_load(floor: Floor) -> None:
    run = floor.state("TR-133").at
    assert run is not None and run.plan is not None
    floor.session.refresh(floor.machine)
    other, holder = floor.job("TR-140"), run.plan.holder
    assert shoplog._held_in(floor.session, other, holder) is None
    floor.log("TR-133", Placed, takes_off="TR-101")
    assert shoplog._held_in(floor.session, other, holder) == ("TR-133", floor.machine.name)
    assert shoplog._held_in(floor.session, floor.job("TR-101"), holder) is None, "on its own machine it comes off"


def test_what_stands_beside_the_machines_is_worked_out_anew_from_their_logs(floor: Floor) -> None:
    floor.machine.spindle = floor.machine.on_chuck = None
    floor.session.flush()
    rebuilding.rebuild(floor.session, every=False)
    assert (floor.machine.spindle, floor.machine.on_chuck) == ("W3 open white", "TR-101")


def test_what_a_log_says_is_up_and_the_machine_does_not_know_is_put_up_again(floor: Floor) -> None:
    """A job that was read in, or an upgrade that several jobs of one machine came through."""
    assert floor.state("TR-101").at is not None and next_act(floor.state("TR-101")).act == "pass"
    for up in (None, "TR-133"):
        floor.machine.on_chuck = up
        floor.session.flush()
        assert next_act(floor.state("TR-101")).act == "place"
        for kind, more in ((PassFed, {"reading_mm": D(9)}), (TouchedOff, {"reading_mm": D(0)}), (SparkedOut, {})):
            with pytest.raises(LogError, match="is not up: put it on the chuck"):
                floor.log("TR-101", kind, **more)


def test_what_sounds_like_a_crash_is_asked_and_may_be_made_one() -> None:
    assert all(sounds_like_a_crash(each) for each in ("wheel ran into the block, a piece broke off", "It HIT the vise"))
    assert not sounds_like_a_crash("Coolant ran dry.")


@pytest.mark.parametrize("seed", range(HISTORIES))
def test_never_two_loads_up_never_a_pass_without_a_zero_and_one_collar(floor: Floor, seed: int) -> None:
    """Whatever two people do with four jobs and three wheels at two machines, in any order, the machines beside them
    that had all the same acts stand where the screens say."""
    draw = random.Random(seed)
    hands = (Hand(floor, "TR-101", "TR-133"), Hand(floor, "TR-140", "TR-114"))
    for _ in range(ACTS):
        hand = draw.choice(hands)
        hand.act(draw)
        hand.agrees()
        on = [each.wheel for each in hands if each.wheel]
        assert len(on) == len(set(on)), "never a wheel on two spindles"
    for hand in hands:
        hand.agrees()
        hand.folds_the_same()
    assert sum(hand.done for hand in hands) >= 3


class Hand:
    """A machine as it is: where its wheel stands over the chuck as the collar has it, what is up, what is on. The first
    of its jobs is up at first."""

    def __init__(self, floor: Floor, *jobs_there: str) -> None:
        self.floor, self.jobs, self.done = floor, jobs_there, 0
        self.up, self.machine = jobs_there[0], floor.job(jobs_there[0]).machine
        at = floor.state(self.up).at
        self.collar: Decimal | None = at.reading_mm if at is not None and at.touched_off else None
        self.wheel: str | None = self.machine.spindle
        assert all(floor.job(number).machine.id == self.machine.id for number in jobs_there)

    def act(self, draw: random.Random) -> None:
        number = draw.choice(self.jobs)
        what = draw.choice(
            ("up", "up", "touch", "touch", "pass", "pass", "dress", "rack dress", "wheel off", "mount", "off", "undo")
        )
        by = draw.choice(("bryn", "isa"))
        with self.floor.session.begin_nested() as tried:
            try:
                getattr(self, f"_{what.replace(' ', '_')}")(number, by, draw)
                self.done += 1
            except (LogError, ThingError):
                tried.rollback()

    def _up(self, number: str, by: str, _: random.Random) -> None:
        self.floor.log(number, Placed, takes_off="" if self.up in ("", number) else self.up, by=by)
        self.up, self.collar = number, None

    def _touch(self, number: str, by: str, draw: random.Random) -> None:
        reading = D(draw.randrange(0, 100)) / 100
        self.floor.log(number, TouchedOff, reading_mm=reading, by=by)
        assert self.up == number and self.wheel == self.floor.job(number).wheel.name, "the wheel meets what is up"
        self.collar = reading

    def _pass(self, number: str, by: str, _: random.Random) -> None:
        run = self.floor.state(number).at
        down = D(9) if run is None or run.plan is None else run.next_reading_mm
        if down is None:
            raise LogError("no pass comes next")
        self.floor.log(number, PassFed, reading_mm=down, by=by)
        assert self.collar is not None and self.up == number, "no pass without a zero, none on what is not up"
        self.collar = down

    def _dress(self, number: str, by: str, draw: random.Random) -> None:
        amount = draw.choice((None, D("0.01"), D("0.02")))
        self.floor.log(number, Dressed, amount_mm=amount, by=by)
        self._less(amount)

    def _rack_dress(self, _: str, by: str, draw: random.Random) -> None:
        amount = draw.choice((None, D("0.01")))
        if self.wheel is not None:
            self._on_wheel(RackDress(dress="fine", amount_mm=amount), self.wheel, by)
            self._less(amount)

    def _less(self, amount: Decimal | None) -> None:
        self.collar = None if self.collar is None or amount is None else self.collar + amount

    def _on_wheel(self, what: object, wheel: str, by: str) -> None:
        self.floor.on_wheel(what, self.floor.wheel_of(wheel), by, machine=self.machine)

    def _wheel_off(self, _: str, by: str, draw: random.Random) -> None:
        if self.wheel is not None:
            self._on_wheel(TakenDown(), self.wheel, by)
            self.wheel = self.collar = None

    def _mount(self, number: str, by: str, draw: random.Random) -> None:
        wheel = draw.choice((self.floor.job(number).wheel.name, "W3 open white", "W5 finishing"))
        for step in ("speed", "look", "ring", "bore", "blotters", "flanges", "guard", "run_up", "true", "balance"):
            self._on_wheel(Checked(step=step), wheel, by)
        self.wheel, self.collar = wheel, None

    def _off(self, number: str, by: str, _: random.Random) -> None:
        self.floor.log(number, LeftMachine, note="Something else is wanted.", by=by)
        self.up, self.collar = "", None

    def _undo(self, number: str, by: str, _: random.Random) -> None:
        """The job's last act is taken back, where nothing has gone on from it; the hand goes by what it comes to."""
        last = self.floor.state(number).undoable
        if last is None:
            raise LogError("nothing to undo")
        self.floor.log(number, Undone, supersedes=last.entry_id, by=by)
        self.up, self.wheel = self.machine.on_chuck or "", self.machine.spindle
        at = self.floor.state(self.up).at if self.up else None
        self.collar = at.reading_mm if at is not None and at.touched_off else None

    def agrees(self) -> None:
        """What every screen says is what the machine is; its row is what its log comes to."""
        floor = self.floor
        up = [number for number in self.jobs if floor.state(number).up is not None]
        assert up == ([self.up] if self.up else []), "never two loads up"
        on = floor.session.scalars(select(WheelRow.name).where(WheelRow.mounted_on == self.machine.name)).all()
        assert list(on) == ([self.wheel] if self.wheel else []), "never two wheels on"
        assert (self.machine.on_chuck or "", self.machine.spindle) == (self.up, self.wheel)
        now = machines.state_of(floor.session, self.machine)
        assert (now.load.job if now.load else "", now.wheel) == (self.up, self.wheel)
        assert (
            MachineFolding(
                None, thing_logs.entries_of(floor.session, "machine", {self.machine.id: 0})[self.machine.id]
            ).state()
            == now
        ), "folded whole it is the same"
        for number in self.jobs:
            at = floor.state(number).at
            if at is not None and at.touched_off:
                assert number == self.up and at.reading_mm == self.collar

    def folds_the_same(self) -> None:
        """The machine's log folded anew, whole, is what it stood at as it grew."""
        entries = thing_logs.entries_of(self.floor.session, "machine", {self.machine.id: 0})[self.machine.id]
        assert MachineFolding(None, entries).state() == machines.state_of(self.floor.session, self.machine)
