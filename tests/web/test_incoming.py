"""A file from outside is read elsewhere, within limits; its page says so and goes on by itself, and what it states is
seen before it is kept."""

import io
import re
from typing import Any

import pytest
from flask import Flask

from tests.web.conftest import Browser
from zesty_lark.shopfloor import long_work
from zesty_lark.shopfloor.long_work import Crowded, Question, StillWorking, TooLong, laid

READ_IN = "/jobs/read-in"


class Slow:
    """Works things out only once they have been asked for again."""

    def __init__(self) -> None:
        self.asked: dict[str, Question] = {}
        self.looks = 0
        self.askers: list[str] = []

    def run(self, question: Question, asker: str) -> Any:
        key = laid(question)[1]
        self.asked[key] = question
        self.askers.append(asker)
        raise StillWorking(0.0, question.limits.seconds, 2, key)

    def again(self, key: str) -> Any:
        self.looks += 1
        if self.looks == 1:
            raise StillWorking(1.0, 20.0, 0, key)
        question = self.asked[key]
        return question.function(*question.given)

    def at_hand(self, question: Question) -> bool:
        return False


@pytest.fixture
def slow(monkeypatch: pytest.MonkeyPatch) -> Slow:
    made = Slow()
    monkeypatch.setattr(long_work, "_runner", made)
    return made


def fields_of(page: str) -> dict[str, object]:
    form = page[page.index('data-again"' if 'data-again"' in page else "data-again") :]
    return dict(re.findall(r'<input type="hidden" name="(\w+)" value="([^"]*)"', form[: form.index("</form>")]))


def job_file(isa: Browser, number: str, mark: str) -> str:
    """The file of TR-140 as another job's, whose entries have ids of their own."""
    told = isa.get("/jobs/TR-140/record/job.json").data.decode()
    return re.sub(r'("(?:entry_id|supersedes)": ").', rf"\g<1>{mark}", told.replace('"TR-140"', f'"{number}"'))


def test_a_file_that_takes_longer_is_asked_for_again_and_not_sent_again(isa: Browser, slow: Slow) -> None:
    file = job_file(isa, "TR-940", "z").encode()
    isa.get(READ_IN)
    first = isa.post(READ_IN, {"file": (io.BytesIO(file), "from/else where.json")})
    assert first.status_code == 202 and "The file is being read" in isa.page and "2 come before it" in isa.page
    fields = fields_of(isa.page)
    assert fields["held_name"] == "from/else where.json" and "file" not in fields
    second = isa.post(READ_IN, fields)
    assert second.status_code == 202 and "1 s so far; it is given up after 20 s" in isa.page
    third = isa.post(READ_IN, fields_of(isa.page))
    assert third.status_code == 303 and len(slow.asked) == 1 and set(slow.askers) != {"0"}
    isa.get("/jobs/TR-940/record")
    assert isa.page.count("from else where.json") > 3


def test_what_is_not_known_any_more_is_said(isa: Browser) -> None:
    isa.get(READ_IN)
    assert isa.post(READ_IN, {"held": "0" * 64, "held_name": "job.json"}).status_code == 422
    assert "Choose the file again" in isa.page


def test_the_answer_to_another_question_is_no_file(isa: Browser) -> None:
    """Whoever knows what was asked knows its key."""
    long_work.read(sorted, [2, 1])
    isa.get(READ_IN)
    sent = {"held": long_work.key_of(sorted, [2, 1]), "held_name": "job.json"}
    assert isa.post(READ_IN, sent).status_code == 422 and "Choose the file again" in isa.page


@pytest.mark.parametrize(
    ("error", "status", "says"),
    [(TooLong("Too long for here."), 422, "Too long for here."), (Crowded("40 wait."), 429, "40 wait.")],
)
def test_what_is_given_up_or_too_much_is_said(
    isa: Browser, slow: Slow, monkeypatch: pytest.MonkeyPatch, error: Exception, status: int, says: str
) -> None:
    def refuse(*_: object) -> None:
        raise error

    monkeypatch.setattr(slow, "run", refuse)
    isa.get(READ_IN)
    assert isa.post(READ_IN, {"file": (io.BytesIO(b"{}"), "job.json")}).status_code == status
    assert says in isa.page


def test_what_differs_is_shown_before_anything_is_kept_and_printed_as_read_in(isa: Browser) -> None:
    file = job_file(isa, "TR-941", "y")
    forged = re.sub(r'"value_mm": "12\.\d*"', '"value_mm": "13.9"', file)
    assert forged != file
    isa.get(READ_IN)
    answer = isa.post(READ_IN, {"file": (io.BytesIO(forged.encode()), "forged.json")})
    assert answer.status_code == 422 and "not what its readings come to here" in isa.page
    assert re.search(r"<td>verdict</td><td>in</td><td><strong>(out|not yet)</strong></td>", isa.page)
    token = re.search(r'name="held"[^>]*value="(\w+)"', isa.page)
    assert token and isa.get("/jobs/TR-941/record").status_code == 404, "nothing is kept yet"
    isa.get(READ_IN)
    agreed = {"held": token.group(1), "held_name": "forged.json", "agreed": "1"}
    assert isa.post(READ_IN, agreed).status_code == 303
    isa.get("/jobs/TR-941/record/inspection")
    assert "from forged.json by" in isa.page and "worked out again from the readings" in isa.page


def test_questions_are_asked_in_the_name_of_who_is_signed_in(app: Flask, slow: Slow) -> None:
    for name in ("isa", "bryn"):
        browser = Browser(app.test_client()).be(name)
        browser.client.post("/api/calc/gauge.stack", data="{}", headers={"X-CSRFToken": browser.token})
    assert len(set(slow.askers)) == 2 and "0" not in slow.askers


def test_the_record_is_read_a_page_at_a_time_and_searched(isa: Browser, statements: Any) -> None:
    for number in range(230):
        isa.post(
            "/jobs/TR-101/grind", {"act": "note", "entry_id": f"paged-{number:04d}", "note": f"Note {number} here."}
        )
    isa.get("/jobs/TR-101/record")
    assert isa.page.count("<time datetime") == 100 and "Note 229 here." in isa.page and "Note 129 here." not in isa.page
    assert isa.page.index("Note 229 here.") < isa.page.index("Note 228 here.")
    isa.get("/jobs/TR-101/record?page=3")
    assert (
        "Note 29 here." in isa.page
        and "Note 30 here." not in isa.page
        and ">Older" not in isa.page
        and "<kbd>O</kbd>" not in isa.page
    )
    isa.get("/jobs/TR-101/record?q=Note+117")
    assert isa.page.count("<time datetime") == 1 and "Note 117 here." in isa.page
    isa.get("/jobs/TR-101/record?q=no%25such_")
    assert "Nothing in the log has all of these words." in isa.page
