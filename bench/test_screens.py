"""Thirty screens open on one server: each follows one of the shop's jobs by events and fetches it anew when something
was logged on it. Printed with ``-s``: the share under 150 ms, and p95 beside that of one screen alone."""

import http.client
import json
import random
import re
import shutil
import statistics
import threading
import time
import urllib.parse
from collections.abc import Iterator
from pathlib import Path

import pytest

from bench import SMALL
from tests.browser.conftest import Running, until
from zesty_lark.demo.crew import PASSWORD

SCREENS, NOTES, PAUSE_SECONDS = (3, 3, 0.1) if SMALL else (30, 20, 1.0)
LIMIT_SECONDS, LOOKS_ON_SECONDS = 0.150, 0.5
JOBS = ("TR-101", "TR-114", "TR-120", "TR-133", "TR-140")


class Screen:
    """A screen: signed in, following a run; each fetch that it makes is timed."""

    def __init__(self, address: str, number: int = 0) -> None:
        self.path, self.looks_on = f"/jobs/{JOBS[number % len(JOBS)]}/grind", number >= len(JOBS)
        self.where = urllib.parse.urlsplit(address).netloc
        self.cookie = ""
        self.fetched: list[float] = []
        self.seen = 0
        self.gone = threading.Event()
        page = self.ask("GET", "/sign-in")
        self.token = self._token(page)
        fields = {"csrf_token": self.token, "sign_in_name": "isa", "password": PASSWORD}
        self.ask("POST", "/sign-in", urllib.parse.urlencode(fields))

    def ask(self, method: str, path: str, body: str | None = None) -> str:
        line = http.client.HTTPConnection(self.where, timeout=60)
        headers = {"Cookie": self.cookie, "Content-Type": "application/x-www-form-urlencoded"}
        line.request(method, path, body, headers)
        answer = line.getresponse()
        text = answer.read().decode()
        found = answer.getheader("Set-Cookie")
        if found:
            self.cookie = found.split(";")[0]
        line.close()
        return text

    @staticmethod
    def _token(page: str) -> str:
        found = re.search(r'name="csrf_token"[^>]*value="([^"]+)"', page)
        assert found is not None
        return found.group(1)

    def fetch(self) -> str:
        """Fetch the page, timed."""
        began = time.perf_counter()
        page = self.ask("GET", self.path)
        self.fetched.append(time.perf_counter() - began)
        found = re.search(r'data-seen="(\d+)"', page)
        assert found is not None
        self.seen = int(found.group(1))
        return page

    def follow(self) -> None:
        """Follow the run: with each event the page is fetched."""
        line = http.client.HTTPConnection(self.where, timeout=60)
        line.request("GET", f"{self.path}/live?seen={self.seen}", headers={"Cookie": self.cookie})
        answer = line.getresponse()
        while not self.gone.is_set():
            text = answer.readline().decode()
            if text.startswith("data:") and json.loads(text[5:])["seq"] > self.seen:
                time.sleep(random.uniform(0, LOOKS_ON_SECONDS) if self.looks_on else 0)
                self.fetch()

    def note(self, number: int) -> None:
        """Log something."""
        page = self.fetch()
        fields = {
            "csrf_token": self._token(page), "act": "note", "entry_id": f"bench-note-{id(self)}-{number}",
            "note": f"Note {number}.", "seen": self.seen,
        }  # fmt: skip
        self.ask("POST", self.path, urllib.parse.urlencode(fields))


@pytest.fixture(scope="module")
def running(tmp_path_factory: pytest.TempPathFactory, demo_home: Path) -> Iterator[Running]:
    made: Running = Running(Path(shutil.copytree(demo_home, tmp_path_factory.mktemp("shop") / "home")))
    yield made
    assert made.stop() == 0


def p95(taken: list[float]) -> float:
    return statistics.quantiles(taken, n=20)[-1]


def round_of(address: str, many: int) -> list[float]:
    """So many screens follow the jobs while something is logged on one of them every second; return how long their
    fetches took."""
    screens = [Screen(address, number) for number in range(many)]
    for each in screens * (SCREENS // many):
        each.fetch()
    for each in screens:
        each.fetched.clear()
    for each in screens:
        threading.Thread(target=each.follow, daemon=True).start()
    writers = [Screen(address, number) for number in range(min(many, len(JOBS)))]
    for number in range(NOTES):
        writers[number % len(writers)].note(number)
        time.sleep(PAUSE_SECONDS)
    newest = {each.path: each for each in writers}
    for each in newest.values():
        each.fetch()
    until(lambda: all(each.seen >= newest[each.path].seen for each in screens))
    taken = [one for each in screens for one in each.fetched]
    for each in screens:
        each.gone.set()
    assert SMALL or len(taken) >= 0.8 * NOTES * many / len(writers), f"{len(taken)} fetches: the screens did not follow"
    return taken


def test_thirty_screens_on_one_server(running: Running) -> None:
    """p95 under 150 ms on a machine of its own; as a ratio to one screen in the same run."""
    address = running.address
    alone, together = round_of(address, 1), round_of(address, SCREENS)
    one, all_of_them = p95(alone), p95(together)
    under = sum(each < LIMIT_SECONDS for each in together) / len(together)
    print(f"\np95 of {SCREENS} screens {1000 * all_of_them:.0f} ms, of one {1000 * one:.0f} ms: "
          f"{all_of_them / one:.1f} times; {100 * under:.0f} % under 150 ms")  # fmt: skip
    assert SMALL or all_of_them < 12 * one
