"""Slow strangers hold sockets, not threads; and what came through the trusted proxy is told apart from what did not."""

import http.client
import socket
import threading
from collections.abc import Callable, Iterable, Iterator
from contextlib import ExitStack, contextmanager
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.browser.conftest import until
from zesty_lark.running import http_server
from zesty_lark.running.backoff import FIRST_WAIT, LONG_LIFE, LONGEST_WAIT, Backoff
from zesty_lark.running.http_server import BufferingServer, Sink
from zesty_lark.settings import SettingError, Settings, check_reach

WAIT_SECONDS = 120.0
HALF_HEAD = b"GET / HTTP/1.1\r\nHost: x\r\nX-Slow: "
HALF_BODY = b"POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 1000\r\n\r\nabc"


def echo(environ: dict[str, Any], start: Callable[..., Any]) -> Iterable[bytes]:
    body = f"{environ['REMOTE_ADDR']} {environ['wsgi.url_scheme']}".encode()
    start("200 OK", [("Content-Length", str(len(body)))])
    return [body]


@contextmanager
def serving(app: Callable[..., Any] = echo, **settings: Any) -> Iterator[tuple[BufferingServer, int]]:
    listener = socket.create_server(("127.0.0.1", 0), backlog=500)
    server = BufferingServer(app, listener, Settings(threads=2, **settings))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    try:
        yield server, listener.getsockname()[1]
    finally:
        server.stop()
        thread.join(WAIT_SECONDS)
        assert not thread.is_alive()


def connect(port: int, sent: bytes = b"") -> socket.socket:
    made = socket.create_connection(("127.0.0.1", port), timeout=WAIT_SECONDS)
    made.sendall(sent)
    return made


def answer(port: int, headers: dict[str, str] | None = None) -> str:
    asked = http.client.HTTPConnection("127.0.0.1", port, timeout=WAIT_SECONDS)
    asked.request("GET", "/", headers=headers or {})
    body = asked.getresponse().read().decode()
    asked.close()
    return body


def test_two_hundred_slow_clients_hold_no_thread_and_are_shut_out_in_time() -> None:
    with serving(header_seconds=600, body_seconds=600, idle_seconds=600) as (server, port), ExitStack() as opened:
        halves = [(HALF_HEAD, HALF_BODY, b"")[number % 3] for number in range(200)]
        slow = [opened.enter_context(connect(port, half)) for half in halves]
        assert [answer(port) for _ in range(20)] == ["127.0.0.1 http"] * 20
        assert len(server.active_channels) >= 200
        until(lambda: server.task_dispatcher.active_count == 0)  # an answer arrives before its thread has put it down
        server.limits = Settings(header_seconds=0.1, body_seconds=0.1)
        server.adj.channel_timeout = 0
        assert all(each.recv(1) == b"" for each in slow), "closed by the server"


@pytest.mark.parametrize(
    ("sent", "limit"), [(HALF_HEAD, "header_seconds"), (HALF_BODY, "body_seconds"), (b"", "idle_seconds")]
)
def test_each_way_of_being_slow_has_its_limit(sent: bytes, limit: str) -> None:
    limits: dict[str, float] = {"header_seconds": 600, "body_seconds": 600, "idle_seconds": 600}
    with serving(**limits | {limit: 1}) as (_server, port), connect(port, sent) as slow:
        assert slow.recv(1) == b""


def test_dripping_does_not_lengthen_the_time_that_a_request_has() -> None:
    with serving(header_seconds=1) as (_server, port), connect(port, HALF_HEAD) as slow:
        over = threading.Event()

        def drip() -> None:
            while not over.wait(0.1):
                try:
                    slow.sendall(b"a")
                except OSError:
                    return

        dripping = threading.Thread(target=drip, daemon=True)
        dripping.start()
        try:
            ended = slow.recv(1)
        except ConnectionResetError:
            ended = b""
        over.set()
        dripping.join()
        assert ended == b""


def test_what_is_being_worked_on_is_answered_before_the_end() -> None:
    working, go_on = threading.Event(), threading.Event()

    def slow_answer(environ: dict[str, Any], start: Callable[..., Any]) -> Iterable[bytes]:
        working.set()
        assert go_on.wait(WAIT_SECONDS)
        return echo(environ, start)

    got: list[str] = []
    with serving(slow_answer) as (server, port):
        asking = threading.Thread(target=lambda: got.append(answer(port)), daemon=True)
        asking.start()
        assert working.wait(WAIT_SECONDS)
        server.stop()
        go_on.set()
        asking.join(WAIT_SECONDS)
    assert got == ["127.0.0.1 http"]


def test_an_answer_that_goes_on_is_sent_each_part_once_and_in_order() -> None:
    """Whoever writes and the loop both send what is there; what the one is sending the other does not send again."""
    many = 20_000

    def goes_on(sink: Sink) -> None:
        def write() -> None:
            for number in range(many):
                sink.write(b"%d\n" % number)
                if number % 50 == 0:
                    until(lambda: not sink._channel.total_outbufs_len)
            sink.end()

        threading.Thread(target=write, daemon=True).start()

    def hand_over(environ: dict[str, Any], start: Callable[..., Any]) -> Iterable[bytes]:
        start("200 OK", [("Content-Type", "text/plain")])
        environ["lark.hand_over"](goes_on)
        return (part for part in [b"begun\n"])

    with serving(hand_over) as (_server, port):
        lines = answer(port).splitlines()
    assert lines == ["begun", *map(str, range(many))]


def test_only_the_trusted_proxy_s_word_on_addresses_is_taken() -> None:
    forwarded = {"X-Forwarded-For": "192.0.2.7", "X-Forwarded-Proto": "https"}
    with serving() as (_server, port):
        assert answer(port, forwarded) == "127.0.0.1 http"
    with serving(trusted_proxy="127.0.0.1") as (_server, port):
        assert answer(port, forwarded) == "192.0.2.7 https"


def test_whoever_comes_round_the_proxy_is_not_let_in(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(http_server, "is_loopback", lambda address: False)
    with serving(trusted_proxy="192.0.2.1") as (_server, port), connect(port, b"GET / HTTP/1.0\r\n\r\n") as outside:
        try:
            assert outside.recv(1) == b""
        except ConnectionResetError:
            pass


@pytest.mark.parametrize(
    ("settings", "words"),
    [
        ({"host": "0.0.0.0"}, "LARK_TRUSTED_PROXY"),
        ({"host": "192.0.2.4"}, "LARK_TRUSTED_PROXY"),
        ({"host": "0.0.0.0", "trusted_proxy": "192.0.2.1"}, "LARK_SECURE_COOKIES"),
        ({"trusted_proxy": "the proxy", "secure_cookies": True}, "one address"),
    ],
)
def test_other_machines_reach_it_through_tls_only(settings: dict[str, Any], words: str) -> None:
    with pytest.raises(SettingError, match=words):
        check_reach(Settings(**settings))


def test_what_is_set_up_whole_is_allowed() -> None:
    check_reach(Settings(host="127.0.0.1"))
    check_reach(Settings(host="localhost"))
    check_reach(Settings(host="0.0.0.0", trusted_proxy="192.0.2.1", secure_cookies=True))


@given(st.lists(st.floats(0, 1000), max_size=30))
def test_what_keeps_dying_is_started_ever_more_slowly_and_never_given_up(gaps: list[float]) -> None:
    backoff, now, wait = Backoff(), 0.0, 0.0
    assert backoff.due(now)
    for gap in gaps:
        now += gap
        long_lived = gap > LONG_LIFE + wait
        before, wait = wait, backoff.failed(now)
        assert wait == 0 if long_lived else before <= wait <= max(FIRST_WAIT, 2 * before)
        assert wait <= LONGEST_WAIT and backoff.due(now + wait) and (wait == 0 or not backoff.due(now + wait / 2))
