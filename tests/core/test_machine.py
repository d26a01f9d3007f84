"""A machine's log: one wheel, one load, one zero; whatever nobody can follow loses the zero, and says by what."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zesty_lark.core.things.kinds import ENTRIES, loaded_entry
from zesty_lark.core.things.log import Said, ThingEntry, ThingError, ThingNote, ThingUndone, said_of
from zesty_lark.core.things.machine import (
    MACHINE_ENTRIES,
    Crashed,
    LoadOff,
    LoadUp,
    MachineFolding,
    MachineState,
    WheelLess,
    WheelOff,
    WheelOn,
    ZeroLost,
    ZeroSet,
    check_taken_back,
    machine_words,
)
from zesty_lark.core.work.on_machine import OnMachine

D = Decimal
NOW = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)


def up(job: str = "TR-1") -> LoadUp:
    return LoadUp(job=job, setup="2", load=1, surface=2, pieces=(1,))


def zero(job: str = "TR-1", reading: str = "0.5") -> ZeroSet:
    return ZeroSet(job=job, surface=2, reading_mm=D(reading))


class Log:
    """A machine's log as it grows, folded anew beside it."""

    def __init__(self, *said: Said) -> None:
        self.fold = MachineFolding(None)
        self.add(*said)

    def add(self, *said: Said, note: str = "", by: str = "Bryn") -> MachineState:
        for each in said:
            number = len(self.fold.entries) + 1
            at = NOW + timedelta(minutes=number)
            entry = ThingEntry(entry_id=f"machine-{number:03d}", at=at, what=each, note=note, by=by, seq=number)
            if isinstance(each, ThingUndone):
                check_taken_back(each.supersedes, self.now, "No. 1")
            self.fold.add(entry)
        return self.now

    @property
    def now(self) -> MachineState:
        assert self.fold.state() == MachineFolding(None, self.fold.entries).state()
        return self.fold.state()


def test_a_chuck_carries_one_load_and_another_takes_it_off_with_its_zero() -> None:
    log = Log(WheelOn(wheel="W3"), up(), zero())
    now = log.now
    assert now.wheel == "W3" and now.load is not None and now.load.job == "TR-1" and now.zero is not None
    assert log.add(up()).zero == now.zero, "the same job's next side keeps the collar"
    now = log.add(up("TR-2"))
    assert now.load is not None and now.load.job == "TR-2" and now.zero is None and "TR-2 was put up" in now.lost
    now = log.add(LoadOff(job="TR-2"))
    assert now.load is None and "TR-2 was put up" in now.lost, "it was lost before"


def test_a_dress_moves_the_zero_by_what_came_off_and_an_unknown_one_loses_it() -> None:
    log = Log(WheelOn(wheel="W3"), up(), zero(reading="0.5"))
    now = log.add(WheelLess(wheel="W3", amount_mm=D("0.02")), WheelLess(wheel="W3", amount_mm=D("0.003")))
    assert now.zero is not None and now.zero.reading_mm == D("0.523")
    now = log.add(WheelLess(wheel="W3"))
    assert now.zero is None and now.lost == "nobody knows what came off W3"


@pytest.mark.parametrize(
    ("said", "words", "load_stays"),
    [
        (WheelOff(wheel="W3"), "W3 was taken off", True),
        (WheelOn(wheel="W9"), "W9 was mounted", True),
        (LoadOff(job="TR-1"), "TR-1 was taken off", False),
        (Crashed(job="TR-1", wheel="W3"), "a crash", True),
    ],
)
def test_what_nobody_can_follow_loses_the_zero_and_says_by_what(said: Said, words: str, load_stays: bool) -> None:
    now = Log(WheelOn(wheel="W3"), up(), zero()).add(said)
    assert now.zero is None and now.lost == words and (now.load is not None) is load_stays
    assert Log(WheelOn(wheel="W3"), up()).add(said).lost == "", "what was not there is not lost"
    log = Log(up(), zero())
    assert log.add(ZeroLost(), note="the readout jumped").lost == "the readout jumped"
    assert log.add(zero()).lost == ""


def test_what_a_machine_has_gone_on_from_is_not_taken_back() -> None:
    log = Log(WheelOn(wheel="W3"), up(), zero())
    before = log.now
    log.add(WheelLess(wheel="W3", amount_mm=D("0.02")), by="Isa")
    with pytest.raises(ThingError, match="No. 1 has gone on since: W3 dressed by Isa"):
        log.add(ThingUndone(supersedes="machine-003"))
    log.add(ThingNote())
    assert log.add(ThingUndone(supersedes="machine-004")).zero == before.zero, "a note is nothing to go on from"
    assert log.add(ThingUndone(supersedes="never-told")).zero == before.zero


SAID = st.one_of(
    st.sampled_from(
        [up("TR-1"), up("TR-2"), LoadOff(job="TR-1"), WheelOff(wheel="W3"), WheelOn(wheel="W3"), Crashed()]
    ),
    st.builds(ZeroSet, job=st.just("TR-1"), surface=st.just(2), reading_mm=st.decimals(0, 9, places=3)),
    st.builds(WheelLess, wheel=st.just("W3"), amount_mm=st.none() | st.decimals(0, 2, places=3)),
)


@given(st.lists(SAID, max_size=30))
def test_the_zero_is_the_last_touch_off_and_what_was_dressed_since_or_it_is_lost(said: list[Said]) -> None:
    reading, load = None, None
    for each in said:
        match each:
            case ZeroSet(reading_mm=mm):
                reading = mm
            case WheelLess(amount_mm=amount):
                reading = None if reading is None or amount is None else reading + amount
            case LoadUp(job=job):
                reading, load = (reading if job == "TR-1" else None), job
            case LoadOff():
                reading, load = (None, None) if load in (None, "TR-1") else (reading, load)
            case _:
                reading = None
    now = Log(*said).now
    assert (None if now.zero is None else now.zero.reading_mm) == reading
    assert (None if now.load is None else now.load.job) == load


def test_every_entry_is_written_read_and_told() -> None:
    made = [up(), LoadOff(job="TR-1"), zero(), WheelLess(wheel="W3"), WheelOn(wheel="W3"), WheelOff(wheel="W3"),
            ZeroLost(), Crashed(), ThingNote(), ThingUndone(supersedes="x")]  # fmt: skip
    assert {type(each) for each in made} == set(MACHINE_ENTRIES) and len(ENTRIES["machine"]) == len(made)
    for each in made:
        assert loaded_entry("machine", each.kind, said_of(each)) == each
        assert machine_words(ThingEntry(entry_id="machine-001", at=NOW, what=each))


def test_a_wheel_that_is_not_on_is_said_with_what_puts_it_right() -> None:
    on = OnMachine("TR-1", "No. 1", "W3", "W3", "", "TR-1")
    assert on.wheel_stop == "" and on.is_up and on.other_up == ""
    other = replace(on, up="TR-2")
    assert not other.is_up and other.other_up == "TR-2" and not replace(on, up=None).is_up
    assert OnMachine("TR-1", "No. 1", "W3", None, "", None).wheel_stop.startswith("W3 is not on No. 1: mount it")
    assert "On No. 1 is W9" in OnMachine("TR-1", "No. 1", "W3", "W9", "", None).wheel_stop
    assert "not ready: run-up comes first" in OnMachine("TR-1", "No. 1", "W3", "W3", "run-up", None).wheel_stop
