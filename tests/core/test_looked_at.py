"""What is well of a set-up: what its layout shows, and what somebody has looked at; never what is only assumed."""

from dataclasses import replace

import pytest

from tests.core.set_up_shop import facts, part
from tests.core.worklog import BEGIN, Log, plan, spec
from zesty_lark.core.setup.before import MISSED, Listed, before, comes_now, needed
from zesty_lark.core.setup.checks import Checked, check
from zesty_lark.core.setup.looked_at import BY_LOOKING, not_looked_at, well
from zesty_lark.core.setup.suggest import suggest
from zesty_lark.core.work.entries import ZeroLost
from zesty_lark.core.work.entry import Kind
from zesty_lark.core.work.looking import open_items
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.preparing import ITEMS, says_no_piece


@pytest.fixture
def laid_out() -> Checked:
    of = facts()
    return check(suggest(of)[0].layout, of)


def up(*said: str, touched: bool = False) -> Log:
    """Face 1 up; of each of these items it was said that it is well."""
    log = Log()
    log.add(Kind.PLANNED, plan=plan(1, "dress", "0.02", "0.005"))
    log.add(Kind.DRESSED, amount_mm=None)
    log.add(Kind.PLACED)
    for key in said:
        answers = ITEMS[key].answers
        log.add(Kind.PREPARED, item=key, answer=next(each.key for each in answers if each.well) if answers else "")
    if touched:
        log.add(Kind.TOUCHED_OFF, reading_mm=0)
    return log


def listed(log: Log, laid_out: Checked) -> list[Listed]:
    return before(log.now, log.run(), list(needed(laid_out)), warm_at=None)


def test_what_nobody_looked_at_is_not_called_well(laid_out: Checked) -> None:
    log = up()
    rows = listed(log, laid_out)
    told = [each.finding.check for each in well(laid_out, rows, log.run())]
    assert told and set(told) & set(BY_LOOKING) == {"hand near the wheel"}, "it was seen to stop before it went up"
    missing = [item.key for item in not_looked_at(laid_out, rows)]
    assert {"guard", "pushed", "burrs", "stroke"} <= set(missing)
    assert missing == [key for key in ITEMS if key in missing], "in the order of the list"


@pytest.mark.parametrize("key", ["guard", "stopped", "burrs", "rock", "wiped", "stroke"])
def test_what_was_looked_at_is_well_since_then_and_by_whom(laid_out: Checked, key: str) -> None:
    log = up(key)
    rows = listed(log, laid_out)
    found = [each for each in well(laid_out, rows, log.run()) if each.listed is not None]
    by_key = {BY_LOOKING[each.finding.check]: each.listed for each in found}
    assert set(by_key) == {key, "stopped"}
    told = by_key[key]
    assert told is not None and (told.by, told.at) == ("bryn", log.entries[-1].at)
    assert key not in [item.key for item in not_looked_at(laid_out, rows)]


def test_a_wheel_is_sharp_only_once_its_dress_is_done(laid_out: Checked) -> None:
    log = up()
    sharp = [each.finding.check for each in well(laid_out, [], log.run())]
    assert "dull wheel" in sharp
    due = Log()
    due.add(Kind.PLANNED, plan=plan(1, "dress", "0.02"))
    for run in (due.run(), None):
        assert "dull wheel" not in [each.finding.check for each in well(laid_out, [], run)]


def test_a_touch_off_is_no_answer_to_what_was_not_looked_at(laid_out: Checked) -> None:
    rows = listed(up("guard", touched=True), laid_out)
    by_key = {row.item.key: row for row in rows}
    assert by_key["guard"].is_done and not by_key["rock"].is_done
    assert by_key["rock"].known == MISSED and by_key["rock"].at is None
    now = comes_now(rows)
    assert now is not None and now.known == MISSED


SET_UPS = {
    "a pad": facts(),
    "dry": facts(coolant="dry"),
    "bowed": facts(part(240.0, 38.0, 4.0, gap_mm=0.1)),
    "tall": facts(part(30.0, 20.0, 40.0)),
    "in a fixture": facts(part(54.0, 40.0, 22.0), holder="Vise V1"),
    "twelve": facts(part(28.0, 16.0, 12.0), pieces=12),
}
CASES = [
    (name, way.name, key)
    for name, of in SET_UPS.items()
    for way in suggest(of)
    for key in needed(check(way.layout, of))
    if key not in ("stopped", "warm up")
]


def test_the_cases_are_many_and_of_every_kind() -> None:
    assert len(CASES) >= 40, "set-ups in which something was not looked at"
    assert {"shimmed", "below", "proud", "guard", "pushed", "stroke"} <= {key for _, _, key in CASES}


@pytest.mark.parametrize(("name", "way", "missed"), CASES)
def test_what_was_missed_holds_the_touch_off_or_counts_in_the_open(name: str, way: str, missed: str) -> None:
    of = SET_UPS[name]
    checked = check(next(each.layout for each in suggest(of) if each.name == way), of)
    asks = tuple(needed(checked))
    log = Log()
    log.add(Kind.PLANNED, plan=plan(1, "0.02", "0.005"))
    log.add(Kind.PLACED, asks=asks)
    for key in asks:
        if key not in (missed, "stopped"):
            log.add(Kind.PREPARED, item=key, answer=ITEMS[key].well_answer)
    rows = before(log.now, log.run(), asks, warm_at=None)
    assert [item.key for item in not_looked_at(checked, rows)] == [missed]
    assert missed not in [BY_LOOKING.get(each.finding.check) for each in well(checked, rows, log.run())]
    assert [each.item.key for each in open_items(log.now, log.run())] == [missed], "it counts in the open"
    assert log.next == ("look" if ITEMS[missed].holds else "touch_off")
    if ITEMS[missed].holds:
        with pytest.raises(LogError, match=f"Not looked at yet: {ITEMS[missed].words}"):
            log.add(Kind.TOUCHED_OFF, reading_mm=0)
        log.add(Kind.PREPARED, item=missed, answer=ITEMS[missed].well_answer)
    log.add(Kind.TOUCHED_OFF, reading_mm=0)


def test_each_piece_that_can_differ_is_looked_at_by_itself() -> None:
    log = Log(spec(pieces=3))
    log.add(Kind.PLANNED, plan=plan(1, "0.02", "0.005"), pieces=(1, 2, 3))
    log.add(Kind.PLACED, asks=("burrs", "pushed", "guard"))
    log.add(Kind.PREPARED, item="guard")
    log.add(Kind.PREPARED, item="pushed", answer="holds", pieces=(1,))
    log.add(Kind.PREPARED, item="pushed", answer="moves", pieces=(2,))
    waits = {each.item.key: each.pieces for each in open_items(log.now, log.run())}
    assert waits == {"burrs": (1, 2, 3), "pushed": (2, 3)}
    with pytest.raises(LogError, match="It is not held"):
        log.add(Kind.TOUCHED_OFF, reading_mm=0)
    log.add(Kind.PREPARED, item="pushed", answer="holds", pieces=(2,))
    with pytest.raises(LogError, match=r"Magnet on, push it \(piece 3\)"):
        log.add(Kind.TOUCHED_OFF, reading_mm=0)
    with pytest.raises(LogError, match="Of which piece"):
        log.add(Kind.PREPARED, item="pushed", answer="holds", pieces=(4,))
    log.add(Kind.PREPARED, item="pushed", answer="holds", pieces=(3,))
    log.add(Kind.TOUCHED_OFF, reading_mm=0)


def test_what_was_said_before_it_was_taken_off_is_asked_again() -> None:
    log = Log()
    log.add(Kind.PLANNED, plan=plan(1, "0.02", "0.005"))
    with pytest.raises(LogError, match="Put it up first"):
        log.add(Kind.PREPARED, item="guard")
    log.add(Kind.PLACED, asks=("guard",))
    log.add(Kind.PREPARED, item="guard")
    assert log.next == "touch_off"
    log.add(Kind.LEFT, note="for another")
    log.add(Kind.PLACED, asks=("guard",))
    assert log.next == "look"


def test_after_a_wheel_was_off_the_guard_is_looked_at_again_and_after_a_crash_everything() -> None:
    log = Log()
    log.add(Kind.PLANNED, plan=plan(1, "0.02", "0.005"))
    log.add(Kind.PLACED, asks=("pushed", "guard", "stroke"))
    for key in ("pushed", "guard", "stroke"):
        log.add(Kind.PREPARED, item=key, answer=ITEMS[key].well_answer)
    log.add(Kind.TOUCHED_OFF, reading_mm=0)
    told = replace(log.now, history=(*log.now.history, ZeroLost(entry_id="told-00001", at=BEGIN, note="the wheel off")))
    assert [each.item.key for each in open_items(told, log.run())] == ["guard", "stroke"]
    log.add(Kind.HALTED, seen="crash")
    assert [each.item.key for each in open_items(log.now, log.run())] == ["pushed", "guard", "stroke"]


def test_what_one_piece_may_differ_in_is_never_said_of_a_whole_load_unasked() -> None:
    alone, load = Log(spec(pieces=1)).run(), Log(spec(pieces=3)).run()
    assert "of which pieces" in says_no_piece("pushed", (), load)
    for item, pieces, run in (("pushed", (1,), load), ("guard", (), load), ("pushed", (), alone), ("none", (), load)):
        assert not says_no_piece(item, pieces, run)
