"""What strangers and years cost, each as a ratio to the same in the same run."""

import http.client
import socket
import threading
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import Engine

from bench import SMALL, quickest
from tests.web.conftest import Browser
from zesty_lark.core.work.entries import Noted
from zesty_lark.running.http_server import BufferingServer
from zesty_lark.settings import Settings
from zesty_lark.store import jobs, log_rows, people, shoplog
from zesty_lark.store.database import sessions
from zesty_lark.store.read_in import ReadIn, read_back

SLOW_CLIENTS, LONG_LOG = (20, 1_000) if SMALL else (200, 17_000)
HALVES = (b"GET / HTTP/1.1\r\nHost: x\r\nX-Slow: ", b"POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 9999\r\n\r\nx", b"")


@pytest.fixture
def port(bryn: Browser) -> Iterator[int]:
    listener = socket.create_server(("127.0.0.1", 0), backlog=500)
    limits = Settings(header_seconds=600, body_seconds=600, idle_seconds=600)
    server = BufferingServer(bryn.client.application, listener, limits)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    yield listener.getsockname()[1]
    server.stop()
    thread.join()


def test_a_page_while_two_hundred_send_slowly(port: int) -> None:
    """Wanted: within twice its usual time."""

    def page() -> None:
        asked = http.client.HTTPConnection("127.0.0.1", port)
        asked.request("GET", "/sign-in")
        assert asked.getresponse().read()
        asked.close()

    usual = quickest(page, 40)
    slow = []
    for number in range(SLOW_CLIENTS):
        slow.append(socket.create_connection(("127.0.0.1", port)))
        slow[-1].sendall(HALVES[number % len(HALVES)])
    print(f"\na page beside {SLOW_CLIENTS} slow clients: {quickest(page, 40) / usual:.2f} of its usual time")
    for each in slow:
        each.close()


def test_a_press_on_a_long_log(engine: Engine) -> None:
    """Wanted: what it takes on a log of 500."""
    make = sessions(engine)
    numbers = iter(range(10**6))

    def press() -> None:
        with make() as session:
            job, person = jobs.by_number(session, "TR-133"), people.by_sign_in_name(session, "bryn")
            assert job is not None and person is not None
            entry = Noted(entry_id=f"press-{next(numbers):08d}", at=datetime.now(UTC), note="n")
            shoplog.append(session, job, person, shoplog.Draft(entry))
            session.commit()

    def grown_to(entries: int) -> float:
        with make() as session:
            job = jobs.by_number(session, "TR-133")
            assert job is not None
            here = log_rows.entries_of(session, job)
            known = {each.sign_in_name: each for each in people.everyone(session)}
            at = here[-1].at
            more = [
                Noted(entry_id=f"grown-{number:08d}", at=at + timedelta(seconds=number), by="bryn", note="n")
                for number in range(len(here), entries)
            ]
            read_in = ReadIn(known["isa"], at)
            read_back(session, job, [*here, *more], known, instruments={}, read_in=read_in)
            session.commit()
        return quickest(press, 25)

    short, long = grown_to(500), grown_to(LONG_LOG)
    print(f"\na press on a log of {LONG_LOG}: {long / short:.2f} of one on 500")
