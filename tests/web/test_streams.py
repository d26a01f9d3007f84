"""Streams without a thread for each: one reader an instrument, everyone hears all of it, a life that ends softly."""

import threading
from collections.abc import Callable, Iterator

import pytest
from flask import Flask
from sqlalchemy.orm import sessionmaker

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


def follow(app: Flask, of: Streams, screen: Screen, source: Callable[[threading.Event], Iterator[str]]) -> None:
    """Follow an instrument as a server that hands answers over lets one."""
    begun: list[Callable[[Screen], None]] = []
    with app.test_request_context(environ_overrides={"lark.hand_over": begun.append}):
        of.follow(("gauge", 1), source=source)
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
