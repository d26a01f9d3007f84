"""Each wheel's log on a real database: once, append-only, with what it takes off; and what jobs say of their wheel."""

from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from typing import Any

import pytest
from sqlalchemy import insert, select, text
from sqlalchemy.exc import DBAPIError, OperationalError
from sqlalchemy.orm import Session

from zesty_lark.core.things.log import Said, ThingEntry, ThingError, ThingNote, ThingUndone
from zesty_lark.core.things.rack.entries import Checked, PutOut, RackDress, TakenDown
from zesty_lark.core.things.rack.folding import WheelFolding, WheelSpec
from zesty_lark.core.work.entries import Undone
from zesty_lark.core.work.machine_acts import Dressed, LeftMachine
from zesty_lark.core.work.wheel_use import WheelUse
from zesty_lark.shopfloor import wheels
from zesty_lark.store import job_states, jobs, log_rows, people, racks, shop, shoplog
from zesty_lark.store.models import Job, MachineRow, Person, ThingEntryRow, WheelRow
from zesty_lark.store.shoplog import Draft

D = Decimal
NOW = datetime.now(UTC)


class Rack:
    """Someone at the rack."""

    def __init__(self, session: Session) -> None:
        self.session, self.count = session, 0
        who, machine = people.by_sign_in_name(session, "bryn"), shop.by_name(session, MachineRow, "No. 1, inch dial")
        job = jobs.by_number(session, "TR-101")
        assert who is not None and machine is not None and job is not None
        self.who: Person = who
        self.machine: MachineRow = machine
        self.job: Job = job

    def wheel(self, name: str) -> WheelRow:
        found = shop.by_name(self.session, WheelRow, name)
        assert found is not None
        return found

    def entry(self, what: Said, note: str = "") -> ThingEntry:
        self.count += 1
        at = NOW + timedelta(minutes=self.count)
        return ThingEntry(
            entry_id=f"rack-test-{self.count:03d}", at=at, what=what, machine=self.machine.name, note=note
        )

    def log(self, wheel: WheelRow, what: Said, note: str = "") -> ThingEntry:
        made = self.entry(what, note)
        racks.append(self.session, wheel, self.who, made, machine=self.machine)
        return made


@pytest.fixture
def rack(demo: Session) -> Rack:
    return Rack(demo)


def test_a_wheel_is_logged_once_and_its_log_is_never_changed(rack: Rack) -> None:
    rack.log(rack.wheel("W3 open white"), TakenDown())
    rack.machine.spindle, wheel = None, rack.wheel("W6 slots")
    made = rack.log(wheel, Checked(step="speed"))
    again = racks.append(rack.session, wheel, rack.who, made, machine=rack.machine)
    assert again.done == ("speed",) and len(racks.entries_of(rack.session, wheel)) == 2
    other = ThingEntry(entry_id=made.entry_id, at=NOW, what=ThingNote(), note="Something else.")
    with pytest.raises(ThingError, match="used for another"):
        racks.append(rack.session, wheel, rack.who, other)
    with pytest.raises(ThingError, match="8 to 36"):
        racks.append(rack.session, wheel, rack.who, ThingEntry(entry_id="no", at=NOW, what=ThingNote(), note="x"))
    for change in ("update thing_entry set note = 'other'", "delete from thing_entry where job_seq is null"):
        with pytest.raises(DBAPIError, match="append-only"), rack.session.begin_nested():
            rack.session.execute(text(change))


def test_a_dress_takes_off_the_radius_and_taking_it_back_puts_it_back(rack: Rack) -> None:
    wheel = rack.wheel("W4 open white")
    rack.machine = wheel_machine(rack)
    _off_the_chuck(rack, wheel)
    before, version = wheel.diameter_mm, wheel.version
    made = rack.log(wheel, RackDress(dress="fine", amount_mm=D("0.05")))
    assert wheel.diameter_mm == before - D("0.1") and wheel.version > version
    rack.log(wheel, ThingUndone(supersedes=made.entry_id))
    assert wheel.diameter_mm == before
    measured = D("150")
    shop.keep(rack.session, WheelRow, {"name": wheel.name, "diameter_mm": measured}, wheel)
    assert (wheel.diameter_mm, wheel.off_mm) == (measured, 0), "what somebody measured holds from then on"


def wheel_machine(rack: Rack) -> MachineRow:
    found = shop.by_name(rack.session, MachineRow, "No. 2, metric dial")
    assert found is not None
    return found


def _off_the_chuck(rack: Rack, wheel: WheelRow) -> None:
    """The job that is up with a wheel is taken off."""
    job = racks.at_work(rack.session, wheel)
    if job is None:
        return
    state = job_states.state_of(rack.session, job)
    assert state.up is not None
    rack.count += 1
    leave = LeftMachine(
        entry_id=f"rack-test-{rack.count:03d}", at=NOW + timedelta(minutes=rack.count), surface=state.up[2], note="x"
    )
    shoplog.append(rack.session, job, rack.who, Draft(leave))


def test_a_job_s_dress_is_the_wheel_s_too_and_goes_with_it(rack: Rack) -> None:
    wheel, job = rack.job.wheel, rack.job
    before, logged = wheel.diameter_mm, len(racks.entries_of(rack.session, wheel))
    dress = Dressed(entry_id="job-dress-01", at=NOW, surface=2, amount_mm=D("0.0254"))
    shoplog.append(rack.session, job, rack.who, Draft(dress))
    assert wheel.diameter_mm == before - D("0.0508")
    newest = racks.entries_of(rack.session, wheel)[-1]
    assert newest.of_job and isinstance(newest.what, RackDress) and newest.what.job == "TR-101"
    undone = Undone(entry_id="job-undone-1", at=NOW, supersedes="job-dress-01")
    shoplog.append(rack.session, job, rack.who, Draft(undone))
    told = racks.entries_of(rack.session, wheel)
    assert wheel.diameter_mm == before and len(told) == logged + 2, "nothing is ever taken out of a wheel's log"
    assert isinstance(told[-1].what, ThingUndone) and told[-1].of_job and told[-1].what.supersedes == "job-dress-01"
    assert [entry.entry_id for entry in racks.state_of(rack.session, wheel).history] == [
        each.entry_id for each in told[:logged]
    ]
    with pytest.raises(OperationalError, match="append-only"):
        rack.session.execute(text("delete from thing_entry where entry_id = 'job-dress-01'"))


def test_a_dress_and_taking_it_back_hold_the_wheel_against_all_others(
    rack: Rack, statements: Callable[[], object]
) -> None:
    dress = Dressed(entry_id="job-dress-02", at=NOW, surface=2, amount_mm=D("0.0254"))
    for entry in (dress, Undone(entry_id="job-undone-2", at=NOW, supersedes=dress.entry_id)):
        with statements() as sent:  # type: ignore[attr-defined]
            shoplog.append(rack.session, rack.job, rack.who, Draft(entry))
        held = [each for each in sent if each.endswith("FOR UPDATE")]
        assert any("FROM wheel" in each for each in held), held


def test_every_wheel_of_the_demonstration_has_a_history_that_its_figures_come_from(rack: Rack) -> None:
    found = {each.row.name: each for each in wheels.rack(rack.session)}
    for each in found.values():
        assert each.stands.history, f"{each.row.name} has no history"
        assert each.life is not None and each.row.off_mm == each.stands.taken_off_mm
    assert found["W3 open white"].stands.ready and found["W3 open white"].stands.machine == "No. 1, inch dial"
    assert found["W3 open white"].row.ground_mm3 > 0
    assert found["W4 open white"].stands.trials[-1].hangs == "nowhere"
    assert found["W5 finishing"].stands.machine is None and found["W2 old white"].life is not None
    assert found["W2 old white"].life.state == "nearly worn"
    on = job_states.state_of(rack.session, rack.job).on
    assert on is not None and not on.wheel_stop


def test_a_wheel_put_on_a_job_of_another_machine_stops_it(rack: Rack) -> None:
    rack.job.wheel = rack.wheel("W4 open white")
    rack.session.flush()
    assert "is W3 open white, and this job is planned with W4" in job_states.on_machine(rack.job).wheel_stop
    rack.log(rack.wheel("W3 open white"), TakenDown())
    rack.machine.spindle = None
    rack.log(rack.wheel("W6 slots"), Checked(step="speed"))
    rack.job.wheel, rack.machine.spindle = rack.wheel("W6 slots"), "W6 slots"
    assert "not ready: look comes first" in job_states.on_machine(rack.job).wheel_stop


def test_the_rack_takes_a_fixed_number_of_statements_and_bounded_rows(
    rack: Rack, statements: Callable[[], Any]
) -> None:
    with statements() as few:
        wheels.rack(rack.session)
    for number in range(40):
        rack.log(rack.wheel("W6 slots"), ThingNote(), f"Note {number}.")
    rack.session.expire_all()
    with statements() as many:
        wheels.rack(rack.session)
    assert len(many) <= len(few) + 2
    assert len(racks.states_of(rack.session, [rack.wheel("W6 slots")])[rack.wheel("W6 slots").id].history) == 41


def test_a_wheel_s_log_of_thousands_is_folded_whole_and_read_no_second_time(
    rack: Rack, statements: Callable[[], Any]
) -> None:
    """Four notes more made a wheel grow once, for the oldest dresses fell out of what was folded."""
    wheel = rack.wheel("W3 open white")
    across, off = wheel.diameter_mm, racks.state_of(rack.session, wheel).taken_off_mm
    machine = rack.session.scalar(select(MachineRow.id).where(MachineRow.name == "No. 1, inch dial"))
    said = {
        "thing": "wheel",
        "thing_id": wheel.id,
        "kind": "note",
        "said": "{}",
        "note": "",
        "at": NOW,
        "by_id": rack.who.id,
    }
    rack.session.execute(
        insert(ThingEntryRow),
        [said | {"entry_id": f"note-{number:06d}", "machine_id": machine} for number in range(2_500)],
    )
    for number in range(4):
        rack.log(wheel, ThingNote(), f"Note {number}.")
    stands = racks.state_of(rack.session, wheel)
    assert len(stands.history) > 2_500 and stands.taken_off_mm == off and wheel.diameter_mm == across
    with statements() as sent:
        assert racks.state_of(rack.session, wheel) == stands
        assert racks.states_of(rack.session, [wheel])[wheel.id] == stands
    asked = [each for each in sent if "FROM thing_entry" in each]
    assert len(asked) == 2 and all("thing_entry.seq >" in each for each in asked)


def test_what_is_left_of_a_wheel_is_down_to_its_least_or_to_its_bore(rack: Rack) -> None:
    wheel = rack.wheel("W4 open white")
    across = wheel.diameter_mm
    with rack.session.no_autoflush:
        for least, left in ((None, (across - wheel.bore_mm) / 2), (across - 7, D("3.5")), (across + 2, D(0))):
            wheel.least_diameter_mm = least
            assert racks._radius_left(wheel) == left
        rack.session.expire(wheel)


def test_the_unbalance_that_may_be_left_needs_a_mass_and_a_speed(rack: Rack) -> None:
    wheel = rack.wheel("W4 open white")
    speeds = {"No. 1": 3000.0}
    with rack.session.no_autoflush:
        wheel.mass_g = 2000
        allowed = racks._spec(wheel, speeds).most_gmm("No. 1")
        assert allowed is not None and allowed > 0
        assert racks._spec(wheel, speeds).most_gmm("No. 2") is None and racks._spec(wheel, {}).most_gmm(None) is None
        wheel.mass_g = None
        assert racks._spec(wheel, speeds).most_gmm("No. 1") is None
        rack.session.expire(wheel)


def test_a_wheel_is_balanced_by_the_speed_of_the_machine_it_was_logged_on_last(rack: Rack) -> None:
    wheel = rack.wheel("W4 open white")
    here = racks.entries_of(rack.session, wheel)
    slow = WheelSpec(mass_g=2000.0, rpm={name: 10.0 for name in {each.machine for each in here} if name})
    quick = replace(slow, rpm={name: 6000.0 for name in slow.rpm} | {"other": 10.0})
    fold = WheelFolding(quick, here)
    for entry in (ThingNote(), TakenDown(), ThingNote()):
        fold.add(ThingEntry(entry_id=f"more-{len(fold.entries)}", at=NOW, what=entry, machine="other", seq=10**6))
        assert fold.state() == WheelFolding(quick, fold.entries).state(), "as it grows, and at once"
    assert fold._most == quick.most_gmm("other") != slow.most_gmm("other")


def test_a_note_is_kept_as_far_as_there_is_room(rack: Rack) -> None:
    wheel = rack.wheel("W6 slots")
    rack.log(wheel, ThingNote(), "It sings. " * 90)
    assert racks.entries_of(rack.session, wheel)[-1].note == ("It sings. " * 90)[:500]


def test_what_was_ground_with_a_wheel_is_taken_back_to_nought_and_no_further(rack: Rack) -> None:
    wheel = rack.wheel("W6 slots")
    had = wheel.ground_mm3
    for volume, left in ((D("12.5"), had + D("12.5")), (-had - D("12.5"), D(0)), (D(-1), D(0)), (D(3), D(3))):
        racks.ground(rack.session, wheel.id, volume)
        rack.session.refresh(wheel)
        assert wheel.ground_mm3 == left


def test_more_than_a_wheel_has_came_off_another_wheel(rack: Rack) -> None:
    wheel = rack.wheel("W6 slots")
    all_of_it, version = wheel.measured_mm / 2, wheel.version
    for off, now in ((D(0), wheel.off_mm), (all_of_it - wheel.off_mm, wheel.off_mm)):
        racks._take_off(rack.session, wheel, off)
        assert (wheel.off_mm, wheel.version) == (now, version)
    racks._take_off(rack.session, wheel, all_of_it - wheel.off_mm - D("0.1"))
    assert (wheel.off_mm, wheel.version) == (all_of_it - D("0.1"), version + 1)
    racks._take_off(rack.session, wheel, -2 * all_of_it)
    assert (wheel.off_mm, wheel.version) == (0, version + 2)


def test_what_is_logged_of_a_wheel_holds_it_and_its_state_is_kept_with_it(
    rack: Rack, statements: Callable[[], Any]
) -> None:
    wheel, version = rack.wheel("W6 slots"), rack.wheel("W6 slots").version
    with statements() as sent:
        rack.log(wheel, ThingNote(), "Hangs on the wall.")
    assert any("FROM wheel" in each and each.endswith("FOR UPDATE") for each in sent)
    assert (wheel.version, wheel.scrapped) == (version, False)
    rack.log(wheel, PutOut(), "Chipped.")
    assert (wheel.version, wheel.scrapped) == (version + 1, True)


def test_a_dress_of_no_told_depth_takes_nothing_off_and_goes_again(rack: Rack) -> None:
    wheel, before = rack.job.wheel, rack.job.wheel.off_mm
    dress = Dressed(entry_id="job-dress-03", at=NOW, surface=2)
    for entry in (dress, Undone(entry_id="job-undone-3", at=NOW, supersedes=dress.entry_id)):
        shoplog.append(rack.session, rack.job, rack.who, Draft(entry))
        assert wheel.off_mm == before


def test_a_new_wheel_is_whole_and_measuring_what_it_is_changes_nothing(rack: Rack) -> None:
    fresh = WheelRow(name="W9")
    assert (fresh.off_mm, fresh.ground_mm3, fresh.side_work, fresh.scrapped) == (0, 0, False, False)
    fresh.diameter_mm = D(180)
    fresh.off_mm = D(2)
    fresh.diameter_mm = D(176)
    assert (fresh.measured_mm, fresh.off_mm) == (180, 2)
    fresh.diameter_mm = D("175.9")
    assert (fresh.measured_mm, fresh.off_mm, fresh.diameter_mm) == (D("175.9"), 0, D("175.9"))


def test_a_job_s_dress_is_told_as_it_was_and_does_the_step_that_waits_for_it(rack: Rack) -> None:
    wheel, session = rack.job.wheel, rack.session
    for number, waits in enumerate(("dress", "")):
        session.execute(text("update wheel set next_step = :step where id = :id"), {"step": waits, "id": wheel.id})
        session.refresh(wheel)
        dress = Dressed(entry_id=f"job-told-{number:03d}", at=NOW, surface=2, amount_mm=D("0.01"), note="Rings.")
        shoplog.append(session, rack.job, rack.who, Draft(dress))
        session.refresh(wheel)
        assert wheel.next_step == ""
    newest = racks.entries_of(session, wheel)[-1]
    assert (newest.of_job, newest.note, newest.machine) == (True, "Rings.", rack.job.machine.name)
    row = session.scalar(select(ThingEntryRow).order_by(ThingEntryRow.seq.desc()))
    assert row is not None and row.by is rack.who and row.job_seq is not None
    dress_now = job_states.state_of(session, rack.job).wheel_use.dress or "general"
    assert isinstance(newest.what, RackDress) and newest.what.dress == dress_now


def test_the_newest_jobs_of_a_wheel_are_its_own(rack: Rack, monkeypatch: pytest.MonkeyPatch) -> None:
    wheel = rack.job.wheel
    own = [
        scalar for scalar in rack.session.scalars(select(Job).order_by(Job.id.desc())) if scalar.wheel_id == wheel.id
    ]
    assert own and racks.recent_jobs(rack.session, wheel) == own[: racks.MOST_JOBS]
    assert racks.recent_jobs(rack.session, rack.wheel("W6 slots")) == []


def test_a_wheel_is_judged_by_the_speed_of_the_machine_it_is_put_on(rack: Rack) -> None:
    wheel = rack.wheel("W6 slots")
    wheel.max_rpm = 10
    rack.session.flush()
    with pytest.raises(ThingError, match="rpm"):
        rack.log(wheel, Checked(step="speed"))


@pytest.mark.parametrize(
    ("asked", "kept"), [("rough", "rough"), ("fine", "fine"), ("general", "general"), ("", "general")]
)
def test_a_job_s_dress_is_the_kind_that_its_plan_asked_for(rack: Rack, asked: str, kept: str) -> None:
    dress = Dressed(entry_id="job-kind-001", at=NOW, by="bryn", surface=2, amount_mm=D("0.01"))
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(racks, "follow", lambda *_: None)
        shoplog.append(rack.session, rack.job, rack.who, Draft(dress))
    logged = log_rows.entries_of(rack.session, rack.job)[-1]
    assert isinstance(logged, Dressed)
    state = replace(job_states.state_of(rack.session, rack.job), wheel_use=WheelUse(dress=asked))
    racks.follow(rack.session, rack.job, logged, state)
    newest = racks.entries_of(rack.session, rack.job.wheel)[-1]
    assert isinstance(newest.what, RackDress) and newest.what.dress == kept


def test_who_answers_for_a_wheel_is_named_with_it(rack: Rack) -> None:
    wheel = rack.wheel("W6 slots")
    with rack.session.no_autoflush:
        for said, named in ((None, ""), ("Isa", "Isa")):
            wheel.answered_by = said
            assert wheel.mounted().answered_by == named
        rack.session.expire(wheel)
