"""What goes wrong is said, undone and shown as it was entered; what two people do at once loses nobody's."""

import errno
import io
import json
import logging
import re
import shutil
from collections.abc import Callable, Iterator
from types import SimpleNamespace
from typing import Any

import pymysql
import pytest
from flask import Flask
from pymysql.err import OperationalError as DriverError
from sqlalchemy import text
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session
from sqlalchemy.orm.exc import StaleDataError

from tests.web.conftest import Browser
from zesty_lark.shopfloor import long_work
from zesty_lark.store import shoplog
from zesty_lark.web.shared import health, logs

NOTE = {"act": "note", "note": "typed words", "entry_id": "note-00000001"}


def fields_of(browser: Browser, path: str) -> dict[str, str]:
    """What the form of a shop's thing is filled with."""
    browser.get(path)
    return form_fields(browser.page.split('<form method="post">')[1].split("</form>")[0])


def form_fields(form: str) -> dict[str, str]:
    """What a form would send as it stands."""
    fields = {}
    for tag in re.findall(r"<(?:input|select|textarea)[^>]*name=\"[^\"]+\"[^>]*>", form):
        name, value = re.search(r'name="([^"]+)"', tag), re.search(r'value="([^"]*)"', tag)
        assert name
        if ('type="checkbox"' in tag or 'type="radio"' in tag) and " checked" not in tag:
            continue
        fields[name.group(1)] = value.group(1) if value else ""
    for name, options in re.findall(r'<select[^>]*name="([^"]+)"[^>]*>(.*?)</select>', form, re.S):
        chosen = re.search(r'<option selected value="([^"]*)"', options)
        fields[name] = chosen.group(1) if chosen else ""
    fields.pop("csrf_token")
    return fields


def test_the_second_to_keep_a_machine_sees_both(app: Flask, bryn: Browser) -> None:
    isa = Browser(app.test_client()).sign_in("isa")
    first, second = fields_of(bryn, "/shop/machine/1"), fields_of(isa, "/shop/machine/1")
    assert bryn.post("/shop/machine/1", first | {"spindle_w": "1200"}).status_code == 303
    answer = isa.post("/shop/machine/1", second | {"spindle_w": "900"})
    assert answer.status_code == 409 and "Spindle power, W 1200" in isa.page and 'value="900"' in isa.page
    again = fields_of(bryn, "/shop/machine/1")
    assert again["spindle_w"] == "1200", "not kept yet"
    version = re.search(r'name="version"[^>]*value="(\d+)"', isa.page)
    assert version
    assert isa.post("/shop/machine/1", second | {"spindle_w": "900", "version": version.group(1)}).status_code == 303
    assert fields_of(bryn, "/shop/machine/1")["spindle_w"] == "900"


def test_what_both_made_the_same_is_nobody_s_quarrel(app: Flask, bryn: Browser) -> None:
    isa = Browser(app.test_client()).sign_in("isa")
    mine, hers = fields_of(bryn, "/shop/wheel/1"), fields_of(isa, "/shop/wheel/1")
    assert bryn.post("/shop/wheel/1", mine | {"grit": "60"}).status_code == 303
    assert isa.post("/shop/wheel/1", hers | {"grit": "60"}).status_code == 303


@pytest.mark.parametrize("bad", ["graduation_mm = 0.0000001", "table_max_mm_s = 900000", "travel_long_mm = 99999"])
def test_what_was_kept_in_error_can_be_opened_and_mended(bryn: Browser, demo: Session, bad: str) -> None:
    good = fields_of(bryn, "/shop/machine/1")
    demo.execute(text(f"update machine set {bad}"))
    demo.commit()
    assert bryn.get("/").status_code == bryn.get("/shop").status_code == 200
    assert bryn.get("/jobs/TR-101/plan?again=1").status_code == 422
    name = bad.split(" ")[0]
    assert "has to be mended" in bryn.page and name in bryn.page and 'href="/shop/machine/1"' in bryn.page
    opened = fields_of(bryn, "/shop/machine/1")
    assert bryn.post("/shop/machine/1", opened).status_code == 422, "it is not kept again as it is"
    mended = good | {"version": opened["version"]}
    assert bryn.post("/shop/machine/1", mended).status_code == 303
    assert bryn.get("/jobs/TR-101/plan?again=1").status_code == 200


def test_a_slip_that_was_confirmed_is_planned_for_in_words(bryn: Browser, demo: Session) -> None:
    demo.execute(text("update part_size set measured_max_mm = 9999 where axis = 'thickness'"))
    demo.commit()
    for page in ("faces", "plan?again=1", "grind", "measure", "record", "take-in"):
        assert bryn.get(f"/jobs/TR-114/{page}").status_code == 200, page
    bryn.get("/jobs/TR-114/plan?face=2&again=1")
    assert "graduations of the dial" in bryn.page and "at most" in bryn.page


def failing(monkeypatch: pytest.MonkeyPatch, does: Callable[[Session], object], times: int = 1000) -> list[int]:
    """Let the next presses fail in a way of the database's own."""
    was, calls = shoplog.append, []

    def append(session: Session, *given: Any) -> Any:
        calls.append(1)
        if len(calls) <= times:
            does(session)
        return was(session, *given)

    monkeypatch.setattr(shoplog, "append", append)
    return calls


def test_a_lost_deadlock_is_worked_through_again_and_logged_once(
    bryn: Browser, monkeypatch: pytest.MonkeyPatch
) -> None:
    def deadlock(_: Session) -> None:
        raise OperationalError("insert", {}, DriverError(1213, "Deadlock found"))

    calls = failing(monkeypatch, deadlock, times=2)
    assert bryn.post("/jobs/TR-101/grind", NOTE).status_code < 400 and len(calls) == 3
    bryn.get("/jobs/TR-101/record")
    assert bryn.page.count("Note: typed words") == 1


@pytest.mark.parametrize(
    ("statement", "code", "words"),
    [
        ("update job set number = repeat('x', 100)", 422, "cannot be kept"),
        ("update part set quantity = -1", 422, "cannot be kept"),
        ("insert into person select * from person", 409, "was quicker"),
    ],
)
def test_a_refused_statement_is_said_and_keeps_what_was_typed(
    bryn: Browser,
    monkeypatch: pytest.MonkeyPatch,
    caplog: pytest.LogCaptureFixture,
    *,
    statement: str,
    code: int,
    words: str,
) -> None:
    failing(monkeypatch, lambda session: session.execute(text(statement)))
    answer = bryn.post("/jobs/TR-101/grind", NOTE)
    assert answer.status_code == code and words in bryn.page and "typed words" in bryn.page
    assert "Bryn Tallow" in bryn.page, "the frame is there"
    assert "typed words" not in caplog.text, "what people type is in no log"
    bryn.get("/jobs/TR-101/record")
    assert "typed words" not in bryn.page


def test_a_row_that_someone_else_changed_is_said(bryn: Browser, monkeypatch: pytest.MonkeyPatch) -> None:
    def stale(_: Session) -> None:
        raise StaleDataError("of the test")

    failing(monkeypatch, stale)
    assert bryn.post("/jobs/TR-101/grind", NOTE).status_code == 409 and "typed words" in bryn.page


def test_a_database_that_is_away_is_said_and_offers_to_send_again(
    bryn: Browser, monkeypatch: pytest.MonkeyPatch
) -> None:
    def away(_: Session) -> None:
        raise OperationalError("insert", {}, DriverError(2003, "Can't connect"))

    failing(monkeypatch, away)
    assert bryn.post("/jobs/TR-101/grind", NOTE).status_code == 503
    assert "typed words" in bryn.page and "Send it again" in bryn.page


def test_every_answer_bears_the_id_that_its_line_in_the_log_has(
    bryn: Browser, capsys: pytest.CaptureFixture[str]
) -> None:
    stream = io.StringIO()
    handler = logging.StreamHandler(stream)
    handler.setFormatter(logs._JsonLines())
    logs.REQUESTS.addHandler(handler)
    logs.REQUESTS.setLevel(logging.INFO)
    try:
        given = bryn.get("/jobs/TR-101/grind", headers={"X-Request-ID": "from-the-proxy-1"})
        made = bryn.get("/nowhere", headers={"X-Request-ID": "no\tid"})
    finally:
        logs.REQUESTS.removeHandler(handler)
    first, second = (json.loads(line) for line in stream.getvalue().splitlines())
    assert given.headers["X-Request-ID"] == first["request"] == "from-the-proxy-1"
    assert made.headers["X-Request-ID"] == second["request"] != "no\tid"
    assert (first["method"], first["path"], first["status"]) == ("GET", "/jobs/TR-101/grind", 200)
    assert second["status"] == 404 and first["person"] is not None


def test_health_tells_strangers_nothing_but_that(stranger: Browser) -> None:
    answer = stranger.get("/health")
    assert answer.status_code == 200 and answer.json == {"status": "ok"}


@pytest.fixture
def working() -> Iterator[None]:
    """Whatever may take long is still being worked out."""

    class Never:
        def run(self, question: object, asker: str) -> None:
            raise long_work.StillWorking(3.2, 60)

        def again(self, key: str) -> None:
            raise long_work.StillWorking(3.2, 60)

        def at_hand(self, question: object) -> bool:
            return False

    was = long_work._runner
    long_work.use(Never())
    yield
    long_work.use(was)


def test_a_page_that_is_being_worked_out_comes_by_itself_and_can_be_left(bryn: Browser, working: None) -> None:
    assert bryn.get("/jobs/TR-101/plan?again=1").status_code == 202
    assert '<meta http-equiv="refresh" content="1">' in bryn.page and "3 s so far" in bryn.page
    assert bryn.get("/jobs/TR-101/grind").status_code == bryn.get("/").status_code == 200


def test_a_part_of_a_page_asks_again_with_what_was_sent(bryn: Browser, working: None) -> None:
    answer = bryn.post("/jobs/TR-101/plan/preview", {"face": "2", "method": "light"}, headers={"HX-Request": "true"})
    assert answer.status_code == 200 and 'hx-post="/jobs/TR-101/plan/preview"' in bryn.page
    assert 'name="method" value="light"' in bryn.page and "load delay" in bryn.page


def test_a_form_that_waits_for_it_is_kept_to_be_sent_again(bryn: Browser, working: None) -> None:
    """By itself; a press that a browser keeps is kept there, and nothing of it is taken for logged."""
    sent = {"face": "2", "method": "light"}
    assert bryn.post("/jobs/TR-101/plan/keep", sent).status_code == 202
    assert 'name="method" value="light"' in bryn.page and "Look again" in bryn.page and "data-again" in bryn.page
    assert bryn.post("/jobs/TR-101/plan/keep", sent, headers={"X-Lark-Outbox": "1"}).status_code == 503


def test_the_calculations_over_http_say_that_it_is_on_its_way(bryn: Browser, working: None) -> None:
    bryn.get("/")
    answer = bryn.client.post("/api/calc/pass.optimise", data=b"{}", headers={"X-CSRFToken": bryn.token})
    assert answer.status_code == 202 and answer.json == {"working_s": 3.2, "most_s": 60, "ahead": 0}
    assert answer.headers["Retry-After"] == "1"


@pytest.mark.parametrize(
    ("field", "typed", "kept", "words"),
    [
        ("ra_um", "0.025", "0.0250", ""),
        ("ra_um", "0.02512", "", "more figures than are kept"),
        ("hardness_hrc", "62.55", "62.55", ""),
        ("hardness_hrc", "62.555", "", "2 decimals are kept"),
    ],
)
def test_a_figure_is_kept_as_typed_or_asked_about(
    bryn: Browser, demo: Session, field: str, typed: str, *, kept: str, words: str
) -> None:
    fields = take_in_fields(bryn, "/jobs/TR-120/take-in")
    answer = bryn.post("/jobs/TR-120/take-in", fields | {field: typed})
    if words:
        assert answer.status_code == 422 and words in bryn.page and f'value="{typed}"' in bryn.page
        return
    assert answer.status_code == 303, bryn.page
    job = text(f"select {field} from part join job on job.id = part.job_id where number = 'TR-120'")
    assert str(demo.execute(job).scalar_one()) == kept


def take_in_fields(browser: Browser, path: str) -> dict[str, str]:
    """What the take-in of a job is filled with."""
    browser.get(path)
    form = max(re.findall(r"<form.*?</form>", browser.page, re.S), key=len)
    return form_fields(form)


@pytest.mark.parametrize(
    "told",
    [
        (1021, "Disk full (/tmp); waiting for someone to free some space"),
        (1114, "The table 'log_entry' is full"),
        (3, "Error writing file './tmp' (Errcode: 28 \"No space left on device\")"),
        (1030, 'Got error 28 "No space left on device" from storage engine InnoDB'),
        OSError(errno.ENOSPC, "No space left on device"),
    ],
)
def test_a_full_disk_is_said_and_presses_wait(
    bryn: Browser, monkeypatch: pytest.MonkeyPatch, told: tuple[int, str] | OSError
) -> None:
    def full(_: Session) -> None:
        if isinstance(told, OSError):
            raise told
        raise OperationalError("insert", {}, pymysql.err.OperationalError(*told))

    failing(monkeypatch, full)
    answer = bryn.post("/jobs/TR-101/grind", NOTE, headers={"X-Lark-Outbox": "1"})
    assert answer.status_code == 503 and "No room on the disk" in bryn.page


def test_another_fault_of_writing_is_no_full_disk(bryn: Browser, monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(_: Session) -> None:
        raise OperationalError("insert", {}, pymysql.err.OperationalError(1030, "Got error 175 from storage engine"))

    failing(monkeypatch, broken)
    assert bryn.post("/jobs/TR-101/grind", NOTE).status_code == 422


def test_whoever_looks_after_it_hears_of_a_full_disk(stranger: Browser, monkeypatch: pytest.MonkeyPatch) -> None:
    assert stranger.get("/health").status_code == 200
    for free, status in ((health.LEAST_FREE_BYTES, 200), (health.LEAST_FREE_BYTES - 1, 503)):
        monkeypatch.setattr(shutil, "disk_usage", lambda _, free=free: SimpleNamespace(free=free))
        answer = stranger.get("/health")
        assert answer.status_code == status and (status == 200 or "no room" in answer.get_data(as_text=True))
