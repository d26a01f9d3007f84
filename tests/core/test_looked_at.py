"""What is well of a set-up: what its layout shows, and what somebody has looked at; never what is only assumed."""

import pytest

from tests.core.set_up_shop import facts
from tests.core.worklog import Log, plan
from zesty_lark.core.setup.before import MISSED, Listed, before, comes_now, needed
from zesty_lark.core.setup.checks import Checked, check
from zesty_lark.core.setup.looked_at import BY_LOOKING, not_looked_at, well
from zesty_lark.core.setup.suggest import suggest
from zesty_lark.core.work.entry import Kind
from zesty_lark.core.work.preparing import ITEMS


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
    assert told and not set(told) & set(BY_LOOKING)
    missing = [item.key for item in not_looked_at(laid_out, rows)]
    assert {"guard", "stopped", "burrs", "stroke"} <= set(missing)
    assert missing == [key for key in ITEMS if key in missing], "in the order of the list"


@pytest.mark.parametrize("key", ["guard", "stopped", "burrs", "rock", "wiped", "stroke"])
def test_what_was_looked_at_is_well_since_then_and_by_whom(laid_out: Checked, key: str) -> None:
    log = up(key)
    rows = listed(log, laid_out)
    found = [each for each in well(laid_out, rows, log.run()) if each.listed is not None]
    assert [BY_LOOKING[each.finding.check] for each in found] == [key]
    assert found[0].listed is not None and (found[0].listed.by, found[0].listed.at) == ("bryn", log.entries[-1].at)
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
