"""A press is known by its id and by what it says; it is whose it is, and was made when it was pressed."""

import re
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session, sessionmaker

from tests.web.conftest import SEEN, Browser
from zesty_lark.store import jobs, log_rows, people
from zesty_lark.store.models import LogEntry
from zesty_lark.web.shared import clock

NOTE = {"act": "note", "entry_id": "the-same-id-1", "note": "one"}
GRIND = "/jobs/TR-101/grind"


def entries(maker: sessionmaker[Session], *ids: str) -> list[LogEntry]:
    with maker() as opened:
        return list(opened.scalars(select(LogEntry).where(LogEntry.entry_id.in_(ids)).order_by(LogEntry.seq)))


@pytest.mark.parametrize("again", [{"note": "two"}, {"note": "one", "power_w": "12"}, {"note": "one", "surface": "2"}])
def test_other_words_under_an_id_that_is_known_are_refused(
    bryn: Browser, demo_maker: sessionmaker[Session], again: dict[str, str]
) -> None:
    assert bryn.post(GRIND, NOTE).status_code == 303
    assert bryn.post(GRIND, NOTE).status_code == 303, "sent again, it is there"
    assert bryn.post(GRIND, NOTE | {"seen": "4", "after": "something-else"}).status_code == 303
    answer = bryn.post(GRIND, NOTE | again)
    assert answer.status_code == 422 and "says something else" in bryn.page
    assert [entry.note for entry in entries(demo_maker, "the-same-id-1")] == ["one"]


def test_a_refused_press_says_what_was_not_done_in_words_of_the_work(bryn: Browser) -> None:
    bryn.get(GRIND)
    seen = SEEN.search(bryn.page)
    assert seen
    bryn.post(GRIND, {"act": "place", "entry_id": "never-stopped", "seen": seen.group(1), "surface": "2"})
    told = re.search(r'data-refused="([^"]*)"', bryn.page)
    assert told and told.group(1).startswith("Face 2 not put up: Tick that the wheel has stopped")
    bryn.post(GRIND, {"act": "pass", "entry_id": "from-behind-1", "seen": "1", "surface": "2", "reading": "6.2 thou"})
    told = re.search(r'data-refused="([^"]*)"', bryn.page)
    assert told and told.group(1).startswith("Pass not logged: Something was logged on this job")


def test_what_somebody_else_pressed_waits_for_them(bryn: Browser, demo_maker: sessionmaker[Session]) -> None:
    with demo_maker() as opened:
        numbers = {name: people.by_sign_in_name(opened, name).id for name in ("bryn", "odo")}  # type: ignore[union-attr]
    answer = bryn.post(GRIND, NOTE, headers={"X-Lark-Outbox": "1", "X-Lark-Owner": str(numbers["odo"])})
    assert (
        answer.status_code == 409 and answer.headers["X-Lark-Keep"] == "1" and not entries(demo_maker, NOTE["entry_id"])
    )
    answer = bryn.post(GRIND, NOTE, headers={"X-Lark-Outbox": "1", "X-Lark-Owner": str(numbers["bryn"])})
    assert answer.status_code == 200 and "X-Lark-Keep" not in answer.headers
    assert f'data-person="{numbers["bryn"]}"' in bryn.page


@pytest.mark.parametrize("waited", ["1" + "0" * 30, "-5", "12.5", "", "²", "1e9", "9" * 12])
def test_whatever_a_press_says_it_waited_is_answered(
    bryn: Browser, demo_maker: sessionmaker[Session], waited: str
) -> None:
    answer = bryn.post(GRIND, NOTE, headers={"X-Lark-Waited": waited.encode("utf-8").decode("latin-1")})
    assert answer.status_code == 303
    (kept,) = entries(demo_maker, NOTE["entry_id"])
    assert datetime.now(UTC) - kept.at <= timedelta(days=7, minutes=1)


def test_a_press_has_the_time_at_which_it_was_pressed(bryn: Browser, demo_maker: sessionmaker[Session]) -> None:
    """Also when others have logged meanwhile; the order is that in which the log has them."""
    bryn.post(GRIND, NOTE | {"entry_id": "pressed-later"})
    bryn.post(GRIND, NOTE | {"entry_id": "pressed-first"}, headers={"X-Lark-Waited": "600000"})
    later, first = entries(demo_maker, "pressed-later", "pressed-first")
    assert timedelta(minutes=9) < later.at - first.at < timedelta(minutes=11)
    assert not later.clock_doubt and not first.clock_doubt, "it waited: no clock is in doubt for that"


def test_an_entry_before_the_last_or_under_a_clock_that_jumped_is_marked(
    bryn: Browser, demo_maker: sessionmaker[Session], monkeypatch: pytest.MonkeyPatch
) -> None:
    with demo_maker() as opened:
        job = jobs.by_number(opened, "TR-101")
        assert job is not None
        last = log_rows.entries_of(opened, job)[-1]
    ahead = last.at + timedelta(hours=1)
    monkeypatch.setattr("zesty_lark.web.shared.presses.now", lambda: ahead)
    bryn.post(GRIND, NOTE | {"entry_id": "an-hour-ahead"})
    monkeypatch.setattr("zesty_lark.web.shared.presses.now", lambda: ahead - timedelta(minutes=30))
    bryn.post(GRIND, NOTE | {"entry_id": "set-back-again"})
    monkeypatch.setattr("zesty_lark.web.shared.presses.now", lambda: ahead + timedelta(minutes=1))
    for moved in (0, 59, 61, -61):
        monkeypatch.setattr(clock, "_apart", lambda moved=moved: clock._AT_START + moved)
        bryn.post(GRIND, NOTE | {"entry_id": f"moved-{moved + 100}-s"})
    found = entries(
        demo_maker, "an-hour-ahead", "set-back-again", *(f"moved-{100 + each}-s" for each in (0, 59, 61, -61))
    )
    assert [each.clock_doubt for each in found] == [False, True, False, False, True, True]
    bryn.get("/jobs/TR-101/record")
    assert bryn.page.count("clock in doubt") == 3
