"""Streams without a thread for each: one reader an instrument, everyone hears all of it, a life that ends softly."""

import threading
from collections.abc import Callable, Iterator
from datetime import UTC, datetime

import pytest
from flask import Flask
from sqlalchemy.orm import Session, sessionmaker
from werkzeug.exceptions import TooManyRequests

from zesty_lark.demo.crew import PASSWORD
from zesty_lark.running.mariadb import PrivateMariaDB
from zesty_lark.store import migrate, people, rows, sign_ins
from zesty_lark.store.database import connect, sessions
from zesty_lark.store.models import Person, SignedIn
from zesty_lark.store.models.people import Role
from zesty_lark.web.shared import streams
from zesty_lark.web.shared.streams import Streams

WAIT_SECONDS = 60.0


class Screen:
    """Somebody who follows."""

    def __init__(self) -> None:
        self.heard: list[str] = []
        self.ended = threading.Event()
        self._more = threading.Condition()

    def write(self, data: bytes) -> None:
        with self._more:
            self.heard.append(data.decode())
            self._more.notify_all()

    def end(self) -> None:
        self.ended.set()

    def waits_for(self, words: str) -> bool:
        with self._more:
            return self._more.wait_for(lambda: words in "".join(self.heard), WAIT_SECONDS)


@pytest.fixture
def followed() -> Iterator[tuple[Streams, threading.Event]]:
    stopping = threading.Event()
    yield Streams(sessionmaker(), stopping), stopping
    stopping.set()


def somebody() -> SignedIn:
    return SignedIn(id=1, person_id=1, person=Person(id=1, role="machinist"))


def follow(
    app: Flask,
    of: Streams,
    screen: Screen,
    source: Callable[[threading.Event], Iterator[str]],
    by: SignedIn | None = None,
) -> None:
    """Follow an instrument as a server that hands answers over lets one."""
    begun: list[Callable[[Screen], None]] = []
    with app.test_request_context(environ_overrides={"lark.hand_over": begun.append}):
        of.follow(("gauge", 1), by or somebody(), source=source)
    begun[0](screen)


def test_an_instrument_is_read_once_however_many_follow_and_all_hear_it_to_the_end(
    app: Flask, followed: tuple[Streams, threading.Event]
) -> None:
    of, _ = followed
    began, go_on = [], threading.Event()

    def says(ended: threading.Event) -> Iterator[str]:
        began.append(1)
        while not go_on.wait(0.01):
            yield ": \n\n"
        yield "data: pressed\n\n"
        yield "data: unplugged\n\n"

    one, other = Screen(), Screen()
    follow(app, of, one, says)
    assert one.waits_for(": ")
    follow(app, of, other, says)
    assert other.waits_for(": ")
    go_on.set()
    for each in (one, other):
        assert each.waits_for("data: unplugged") and each.ended.wait(WAIT_SECONDS)
        assert "".join(each.heard).count("data: pressed") == 1
    assert began == [1]


def test_who_has_followed_for_long_is_asked_to_come_back_at_once(
    app: Flask, followed: tuple[Streams, threading.Event], monkeypatch: pytest.MonkeyPatch
) -> None:
    of, stopping = followed
    monkeypatch.setattr(streams, "LIFE_SECONDS", 0.0)

    def says(ended: threading.Event) -> Iterator[str]:
        while not ended.wait(0.01) and not stopping.is_set():
            yield ": \n\n"

    screen = Screen()
    follow(app, of, screen, says)
    assert screen.ended.wait(WAIT_SECONDS) and screen.waits_for(f"retry: {streams.AT_ONCE_MS}")


def quiet(stopping: threading.Event) -> Callable[[threading.Event], Iterator[str]]:
    def says(ended: threading.Event) -> Iterator[str]:
        while not ended.wait(0.01) and not stopping.is_set():
            yield ": \n\n"

    return says


@pytest.fixture
def shop_of_its_own(server: PrivateMariaDB) -> Iterator[sessionmaker[Session]]:
    """A database that a thread sees what another commits in."""
    server.make_database("lark_streams")
    engine = connect(server.url().set(database="lark_streams"))
    rows.clear(engine)
    migrate.upgrade(engine)
    yield sessions(engine)
    rows.clear(engine)
    engine.dispose()


@pytest.mark.parametrize("ends", ["signed out", "shut out", "another role"])
def test_a_stream_ends_with_the_sign_in_that_asked_for_it(
    app: Flask, shop_of_its_own: sessionmaker[Session], ends: str
) -> None:
    stopping, now = threading.Event(), datetime.now(UTC)
    of = Streams(shop_of_its_own, stopping)
    with shop_of_its_own() as session:
        lead = people.add_person(session, sign_in_name="isa", name="I", role=Role.LEAD, password=None, at=now)
        who = people.add_person(session, sign_in_name="nim", name="N", role=Role.APPRENTICE, password=PASSWORD, at=now)
        for each in (lead, who):
            sign_ins.begin(session, each, address="", browser="", now=now)
        lead.active = True
        session.commit()
        here, stays = sign_ins.of_person(session, who)[0], sign_ins.of_person(session, lead)[0]
        screens = Screen(), Screen()
        for screen, by in zip(screens, (here, stays), strict=True):
            follow(app, of, screen, quiet(stopping), by)
            assert screen.waits_for(": ")
        if ends == "signed out":
            sign_ins.end(session, who, here.id)
        elif ends == "shut out":
            people.shut_out(session, who)
        else:
            people.change(session, who, name="N", role=Role.MACHINIST, by=lead, at=now)
        session.commit()
    assert screens[0].ended.wait(WAIT_SECONDS) and not screens[1].ended.is_set()
    stopping.set()


def test_one_person_cannot_follow_everything(app: Flask, followed: tuple[Streams, threading.Event]) -> None:
    of, stopping = followed
    for _ in range(streams.MOST_A_PERSON):
        follow(app, of, Screen(), quiet(stopping))
    with pytest.raises(TooManyRequests):
        follow(app, of, Screen(), quiet(stopping))
    other = SignedIn(id=2, person_id=2, person=Person(id=2, role="lead"))
    screen = Screen()
    follow(app, of, screen, quiet(stopping), other)
    assert screen.waits_for(": ")
