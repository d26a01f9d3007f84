"""The demonstration as a person starts it, and Debian's headless Chromium looking at it."""

import fcntl
import os
import re
import shutil
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Cookie, Page, Playwright, Route, sync_playwright

from tests.conftest import Rows
from zesty_lark.demo.crew import PASSWORD
from zesty_lark.running.mariadb import PrivateMariaDB, free_port
from zesty_lark.store import rows
from zesty_lark.store.database import connect

ROOT = Path(__file__).parents[2]
ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
CHROMIUM = "/usr/bin/chromium-headless-shell"
START_SECONDS = 900.0
"""Limits only a real fault reaches, on a machine loaded many times over."""
PAGE_SECONDS = float(os.environ.get("LARK_TEST_SECONDS", "300"))
THERE = """([selector, words]) => [...document.querySelectorAll(selector)].some(
  each => each.checkVisibility() && each.innerText.replace(/\\s+/g, " ").toLowerCase().includes(words)
)"""
_signed_in: dict[tuple[str, str], list[Cookie]] = {}
"""Cookies of those who have signed in, by address and name."""


class Running:
    """A start command in a home of its own; what it says is kept."""

    def __init__(self, home: Path, command: str = "demo", *, argv: list[str] | None = None, cwd: Path = ROOT) -> None:
        self.home = home
        environment = dict(os.environ, LARK_HOME=str(home), LARK_PORT="0", LARK_GAUGE_HOSTS="127.0.0.1:1-65535")
        self.process = subprocess.Popen(
            argv or [sys.executable, "-m", "zesty_lark.cli", command],
            cwd=cwd,
            env=environment,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.PIPE,
            text=True,
        )
        self.lines: list[str] = []
        self._reached = False
        self._said = threading.Condition()
        self._listener = threading.Thread(target=self._listen, daemon=True)
        self._listener.start()

    def _listen(self) -> None:
        assert self.process.stderr is not None
        with self.process.stderr as said:
            for line in said:
                with self._said:
                    self.lines.append(line.rstrip())
                    self._said.notify_all()
        with self._said:
            self._said.notify_all()

    def wait_for(self, words: str, times: int = 1, seconds: float = START_SECONDS) -> str:
        """Wait until a line with ``words`` was said so many times; return the last."""

        def found() -> list[str]:
            return [line for line in self.lines if words in line]

        with self._said:
            enough = self._said.wait_for(lambda: len(found()) >= times or not self._listener.is_alive(), seconds)
        assert enough and len(found()) >= times, "\n".join(self.lines)
        return found()[-1]

    @property
    def address(self) -> str:
        """Where it serves."""
        found = re.search(r"http://\S+", self.wait_for("Zesty Lark is at"))
        assert found
        self.wait_for("Ctrl-C")
        if not self._reached:
            for where in [each for each in _signed_in if each[0] == found.group(0)]:
                del _signed_in[where]  # another shop was there before
        self._reached = True
        return found.group(0)

    def children(self, name: str) -> list[int]:
        """Return the process ids of its own children whose command has ``name`` in it."""
        found = []
        for entry in Path("/proc").iterdir():
            if entry.name.isdigit():
                try:
                    parent = int((entry / "stat").read_text().rsplit(")", 1)[1].split()[1])
                    command = (entry / "cmdline").read_bytes().decode()
                except (OSError, IndexError):
                    continue
                if parent == self.process.pid and name in command:
                    found.append(int(entry.name))
        return found

    def stop(self) -> int:
        """Press Ctrl-C and wait."""
        if self.process.poll() is None:
            self.process.send_signal(signal.SIGINT)
        code = self.process.wait(PAGE_SECONDS)
        self._listener.join(PAGE_SECONDS)
        return code


@pytest.fixture(scope="session")
def demo_home(common_folder: Path, demo_rows: Rows) -> Path:
    """The home of a demonstration that was made and stopped: what a test may copy, and then kill. One for all who test
    beside each other: the first to come makes it."""
    made = common_folder / "demonstration"
    with open(common_folder / "demonstration.lock", "w", encoding="utf-8") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not made.exists():
            making = PrivateMariaDB(common_folder / "making" / "database", free_port())
            making.create()
            making.start()
            try:
                engine = connect(making.url())
                rows.put_in(engine, *demo_rows)
                engine.dispose()
            finally:
                making.stop()
            making.directory.parent.rename(made)
    return made


@pytest.fixture(scope="session")
def running(tmp_path_factory: pytest.TempPathFactory, demo_home: Path) -> Iterator[Running]:
    started = Running(Path(shutil.copytree(demo_home, tmp_path_factory.mktemp("shop") / "home")))
    yield started
    assert started.stop() == 0


@pytest.fixture(scope="session")
def playwright() -> Iterator[Playwright]:
    with sync_playwright() as made:
        yield made


@pytest.fixture(scope="session")
def chromium(playwright: Playwright) -> Iterator[Browser]:
    browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
    yield browser
    browser.close()


ASKED = "() => document.querySelector('[data-takes]:not([hidden]) input:required:not(:checked)') !== null"
"""Whether the page asks about a pass that was made in less time than its strokes take: nobody waits for them here."""

SAYS_ELSE = "before => document.querySelector('.before-now')?.innerText !== before"
"""The list before the touch-off asks for something else."""


class Person:
    """Someone at a screen with a keyboard only; a script error on any page fails the test."""

    def __init__(self, chromium: Browser, address: str, width: int, height: int) -> None:
        self.address = address
        self.context = chromium.new_context(
            viewport={"width": width, "height": height}, base_url=address, reduced_motion="reduce"
        )
        self.context.set_default_timeout(1000 * PAGE_SECONDS)
        self.page: Page = self.context.new_page()
        self.errors: list[str] = []
        self.page.on("pageerror", lambda error: self.errors.append(str(error)))
        self.page.on(
            "console",
            lambda message: (
                self.errors.append(message.text)
                if message.type == "error" and "Failed to load resource" not in message.text
                else None
            ),
        )

    def type(self, words: str) -> None:
        self.page.keyboard.type(words)

    def press(self, *keys: str) -> None:
        self.page.wait_for_load_state("load")  # a key before the page's script is there is nobody's
        for key in keys:
            asks = key == "d" and self.page.locator("[data-takes]").count() > 0
            self.page.keyboard.press(key)
            if asks and self.page.evaluate(ASKED):
                self.page.keyboard.press("j")
                self.page.keyboard.press("d")

    def press_once_there(self, key: str) -> None:
        """Press a key once the page has what it presses: a plan may be worked out first, on a page of its own."""
        self.there(f"[data-key={key}]")
        self.press(key)

    def tab_to(self, name: str) -> None:
        """Tab until the field of that name has the focus."""
        for _ in range(80):
            if self.page.evaluate("document.activeElement?.name") == name:
                return
            self.press("Tab")
        raise AssertionError(f"no way to {name} by keyboard")

    def fill(self, name: str, words: str) -> None:
        self.tab_to(name)
        self.press("ControlOrMeta+a")
        self.type(words)

    def sign_in(self, name: str) -> None:
        self.page.goto("/sign-in")
        self.page.wait_for_function("() => document.activeElement.name === 'sign_in_name'")
        self.type(name)
        self.press("Tab")
        self.type(PASSWORD)
        self.press("Enter")
        self.page.wait_for_url("**/")

    def be(self, name: str) -> None:
        """Be signed in, with the cookie of an earlier sign-in if there is one; on no page yet."""
        where = self.address, name
        self.context.clear_cookies()
        if where not in _signed_in:
            self.sign_in(name)
            _signed_in[where] = self.context.cookies()
        self.context.add_cookies(_signed_in[where])  # type: ignore[arg-type]

    def sees(self, words: str) -> None:
        self.there("body", words)

    def there(self, selector: str, words: str = "") -> None:
        """Wait until something is on the page, with those words in it; looked for at every frame."""
        self.page.wait_for_function(THERE, arg=[selector, " ".join(words.split()).lower()])

    def take_over(self) -> None:
        """Take the run over where another screen works it."""
        if self.page.get_by_text("worked on another screen").count():
            self.press("t")
            self.page.get_by_text("worked on another screen").wait_for(state="detached")

    def tick_before_placing(self) -> None:
        """What is ticked before a load is put up: the wheel is stopped, and another's load is off."""
        if self.page.locator("#takes-off").count():
            self.press("j")
        self.press("v")

    def look(self) -> None:
        """Work through the list before the touch-off where the page asks for it; all of it is well."""
        if not self.page.locator(".grind-bar .btn-primary", has_text="to look at").count():
            return
        self.press("d")
        self.page.wait_for_url("**/set-up/before*")
        self.tick_off()
        self.press("g")
        self.page.wait_for_url("**/grind")

    def tick_off(self) -> list[str]:
        """The list before the touch-off, a key each, until nothing of it is left; return what was asked."""
        asked: list[str] = []
        now = self.page.locator(".before-now")
        now.wait_for()
        while self.page.locator(".before-answers").count():
            before = now.inner_text()
            asked.append(now.locator(".now-word").inner_text())
            if self.page.locator("#each-piece").count():
                self.press("l")
            main = self.page.locator(".before-answers .btn-primary").get_attribute("data-key")
            self.press("c" if asked[-1] == "High side found" else main or "")
            self.page.wait_for_function(SAYS_ELSE, arg=before)
            assert len(asked) < 40
        return asked

    def to_the_sixth_pass(self) -> None:
        """TR-101 at its sixth pass; put up again, and touched off where it was, when another was put up meanwhile."""
        self.page.goto("/jobs/TR-101/grind")
        self.take_over()
        if self.page.locator(".grind-bar .btn-primary", has_text="is up").count():
            self.tick_before_placing()
            self.press("d")
            self.sees("Look at the set-up")
            self.look()
            self.sees("Touch off on the high spot")
            self.fill("reading", "5.5")
            self.press("Escape", "d")
        self.sees("pass 6 of")

    def bar_the_way(self, answer: Callable[[Route], object]) -> None:
        """From now on it is ``answer`` that answers a run's page: the browser lets some requests through at first."""
        asked = []

        def each(route: Route) -> None:
            if asked:
                answer(route)
            else:
                route.fulfill(status=418)

        self.page.route("**/grind", each)
        self.page.wait_for_function("() => fetch(location.href, { method: 'POST' }).then(one => one.status === 418)")
        asked.append(True)

    def no_scroll(self) -> None:
        """The page fits the screen and the next action is on it."""
        self.page.evaluate("document.fonts.ready")
        self.page.wait_for_function(
            "() => { const main = document.getElementById('main'); return main.scrollHeight <= main.clientHeight + 1; }"
        )
        box = self.page.locator(".bar .btn-primary, .strip-go .btn-primary").first.bounding_box()
        size = self.page.viewport_size
        assert box and size and box["y"] + box["height"] <= size["height"] and box["x"] + box["width"] <= size["width"]

    def close(self) -> None:
        self.context.close()
        assert not self.errors


@pytest.fixture
def machinist(chromium: Browser, running: Running) -> Iterator[Person]:
    person = Person(chromium, running.address, 1280, 800)
    yield person
    person.close()


@pytest.fixture
def phone(chromium: Browser, running: Running) -> Iterator[Person]:
    person = Person(chromium, running.address, 390, 844)
    yield person
    person.close()


def until(condition: object, seconds: float = PAGE_SECONDS) -> None:
    """Wait until ``condition()`` holds."""
    end = time.monotonic() + seconds
    while not condition():  # type: ignore[operator]
        assert time.monotonic() < end, "it never came true"
        threading.Event().wait(0.05)
