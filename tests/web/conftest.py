"""The application on the demonstration's database; CSRF stays on; every test is rolled back."""

import re
import secrets
from contextlib import suppress
from datetime import UTC, datetime
from pathlib import Path

import pytest
from flask import Flask
from flask.testing import FlaskClient
from itsdangerous import URLSafeTimedSerializer
from pydantic import SecretStr
from sqlalchemy import Engine
from sqlalchemy.orm import Session, sessionmaker
from werkzeug.test import TestResponse

from tests.looking import look
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.demo.crew import PASSWORD
from zesty_lark.settings import Settings
from zesty_lark.shopfloor.rights import NotYours
from zesty_lark.store import jobs, people, sign_ins
from zesty_lark.store.database import sessions
from zesty_lark.store.models import Person
from zesty_lark.web.factory import create_app
from zesty_lark.web.shared import guard

TOKEN = re.compile(r'name="csrf_token"[^>]*value="([^"]+)"')
ENTRY = re.compile(r'name="entry_id"[^>]*value="([^"]+)"')
SEEN = re.compile(r'name="seen"[^>]*value="(\d+)"')


AREAS = re.compile(r"(<textarea.*?</textarea>)", re.S)
BETWEEN = re.compile(r"(?<=>) (?=<)|(?<=<p>) | (?=</)")
OPENED = re.compile(r"(<(?!/)[^>]*>) ")


def in_one_line(page: str) -> str:
    """A page as it is seen: white space is one space, none where a tag begins or ends; text areas keep theirs."""
    parts = AREAS.split(page)  # areas are every second part
    parts[::2] = [" ".join(f"<{part}>".split())[1:-1] for part in parts[::2]]
    return OPENED.sub(r"\1", BETWEEN.sub("", "".join(parts)))


class Browser:
    """A client that fills in what a page's own forms would send."""

    def __init__(self, client: FlaskClient) -> None:
        self.client = client
        self.token = ""
        self._answered = ""
        self._page: str | None = None

    @property
    def page(self) -> str:
        """The page that was answered last, as it is seen."""
        if self._page is None:
            self._page = in_one_line(self._answered)
        return self._page

    def get(self, path: str, **more: object) -> TestResponse:
        answer = self.client.get(path, **more)  # type: ignore[arg-type]
        self.remember(answer)
        return answer

    def remember(self, answer: TestResponse) -> None:
        self._answered = answer.get_data(as_text=True) if answer.mimetype == "text/html" else ""
        self._page = None
        found = TOKEN.search(self._answered)
        if found:
            self.token = found.group(1)

    def post(self, path: str, fields: dict[str, object] | None = None, **more: object) -> TestResponse:
        answer = self.client.post(path, data={"csrf_token": self.token} | (fields or {}), **more)  # type: ignore[arg-type]
        self.remember(answer)
        return answer

    def sign_in(self, name: str, password: str = PASSWORD) -> "Browser":
        self.get("/sign-in")
        answer = self.post("/sign-in", {"sign_in_name": name, "password": password})
        assert answer.status_code == 303, self.page
        self.get("/")
        return self

    def be(self, name: str) -> "Browser":
        """Be signed in without the pages for it, with a form's token; on no page yet."""
        app = self.client.application
        with app.config["LARK_SESSIONS"]() as opened:
            who = people.by_sign_in_name(opened, name)
            token = sign_ins.begin(opened, who, address="127.0.0.1", browser="", now=datetime.now(UTC))
            opened.commit()
        with self.client.session_transaction() as cookie:
            cookie |= {"person": who.id, "token": token, "csrf_token": token}
            cookie["screen"] = secrets.token_hex(guard.SCREEN_BYTES)
        self.token = URLSafeTimedSerializer(app.secret_key, salt="wtf-csrf-token").dumps(token)
        return self

    def look(self, job: str) -> None:
        """Look at what the list before the touch-off asks, and say that it is well."""
        with self.client.session_transaction() as cookie:
            person, screen = cookie["person"], cookie.get("screen", "")
        with self.client.application.config["LARK_SESSIONS"]() as opened:
            known, who = jobs.by_number(opened, job), opened.get(Person, person)
            assert known is not None and who is not None
            with suppress(NotYours, LogError):  # the press itself says so
                look(opened, known, who, screen)
            opened.commit()

    def press(self, job: str, act: str, *, looks: bool = True, **fields: object) -> TestResponse:
        """Press something on the grind page as it stands now; before a touch-off what holds it is looked at."""
        if act == "touch_off" and looks:
            self.look(job)
        self.get(f"/jobs/{job}/grind")
        seen, entry = SEEN.search(self.page), ENTRY.findall(self.page)
        assert seen and entry, self.page
        face = re.search(r'name="surface"[^>]*value="(\d)"', self.page)
        form = {"act": act, "seen": seen.group(1), "entry_id": entry[-1], "surface": face.group(1) if face else ""}
        reading = re.search(r'name="reading" value="([^"]+ mm)"', self.page)
        if act == "pass" and reading:
            form["reading"] = reading.group(1)
        other = re.search(r'name="takes_off" value="([^"]+)"', self.page)
        if act == "place" and other:
            form["takes_off"] = other.group(1)
        if act in ("pass", "spark_out"):
            form["sure"] = "quick"  # nobody waits here for a table
        undone = re.search(r'name="supersedes"[^>]*value="([^"]+)"', self.page)
        if act == "undo" and undone:
            form["supersedes"] = undone.group(1)
        return self.post(f"/jobs/{job}/grind", form | fields)  # type: ignore[operator]


def make_app(engine: Engine, maker: sessionmaker[Session], home: Path) -> Flask:
    made = create_app(
        Settings(
            home=home, secret=SecretStr("a secret that is long enough for tests"), gauge_hosts="127.0.0.1:1-65535"
        ),
        engine,
    )
    made.config.update(TESTING=True, LARK_SESSIONS=maker)
    return made


@pytest.fixture(scope="session")
def loaded(demo_engine: Engine, tmp_path_factory: pytest.TempPathFactory) -> Flask:
    """One application for all: its templates are compiled once."""
    return make_app(demo_engine, sessions(demo_engine), tmp_path_factory.mktemp("home"))


@pytest.fixture
def app(loaded: Flask, demo_maker: sessionmaker[Session], tmp_path: Path) -> Flask:
    loaded.config.update(LARK_SESSIONS=demo_maker, LARK_HOME=tmp_path)
    return loaded


@pytest.fixture
def stranger(app: Flask) -> Browser:
    return Browser(app.test_client())


@pytest.fixture
def bryn(stranger: Browser) -> Browser:
    return stranger.be("bryn")


@pytest.fixture
def isa(stranger: Browser) -> Browser:
    return stranger.be("isa")
