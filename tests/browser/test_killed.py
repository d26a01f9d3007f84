"""Killed at any moment, nothing logged is lost or doubled; and the start commands behave."""

import os
import shutil
import signal
import subprocess
import sys
import urllib.request
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Route

from tests.browser.conftest import PAGE_SECONDS, ROOT, Person, Running, until
from zesty_lark.running import compiled_code


@pytest.fixture
def home(tmp_path: Path, demo_home: Path) -> Path:
    """A demonstration of its own, as it was made."""
    return Path(shutil.copytree(demo_home, tmp_path / "home"))


@pytest.fixture(scope="module")
def own(tmp_path_factory: pytest.TempPathFactory, demo_home: Path) -> Iterator[Running]:
    """A shop that these tests may do anything to, one after the other: each leaves TR-101 at the pass it was at."""
    started = Running(Path(shutil.copytree(demo_home, tmp_path_factory.mktemp("own") / "home")))
    yield started
    started.stop()


def at_pass_6(person: Person) -> None:
    person.sign_in("bryn")
    person.page.goto("/jobs/TR-101/grind")
    person.sees("pass 6 of")
    person.take_over()


def undo_down_to_pass_6(person: Person, *passed: str) -> None:
    person.page.goto("/jobs/TR-101/grind")
    for back_at in passed:
        person.press("u")
        person.sees(back_at)


def test_kill_9_of_server_and_database_loses_and_doubles_nothing(own: Running, chromium: Browser) -> None:
    person = Person(chromium, own.address, 1280, 800)
    at_pass_6(person)
    for number, (victim, then) in enumerate((("running.worker", "pass 7 of"), ("mariadbd", "Off its radius")), start=1):
        (pid,) = own.children(victim)
        os.kill(pid, signal.SIGKILL)
        person.press("d")
        person.sees(then)
        person.page.wait_for_function("() => document.body.dataset.waiting === '0'")
        own.wait_for("starting it again", times=number)
    person.page.goto("/jobs/TR-101/record")
    story = person.page.locator(".story").inner_text()
    assert story.count("Pass down to 6.0 thou") == 1 and story.count("Pass down to 6.5 thou") == 1
    undo_down_to_pass_6(person, "pass 7 of", "pass 6 of")
    person.errors.clear()  # refused connections are what this test is about
    person.close()


def test_a_press_made_while_everything_is_down_is_sent_after_the_browser_comes_back(
    own: Running, chromium: Browser
) -> None:
    address = own.address
    person = Person(chromium, address, 1280, 800)
    at_pass_6(person)
    person.bar_the_way(lambda route: route.abort() if route.request.method == "POST" else route.fallback())
    person.press("d")
    person.sees("The press is kept here")
    page = person.context.new_page()
    person.page.close()
    page.goto(address + "/jobs/TR-101/grind")
    page.get_by_text("pass 7 of").wait_for()
    page.reload()
    assert "pass 7 of" in page.locator(".now-what").inner_text()
    person.page = page
    undo_down_to_pass_6(person, "pass 6 of")
    person.errors.clear()
    person.close()


def test_a_backup_and_its_restore_while_the_shop_runs(own: Running, tmp_path: Path) -> None:
    """What is lived between the two is gone again; pages are there before and after, and one worker's death is none."""
    assert own.address
    said = [line for line in own.lines if "starting it again" in line]
    (web,) = own.children("running.worker")
    worker = int(Path(f"/proc/{web}/task/{web}/children").read_text().split()[0])
    os.kill(worker, signal.SIGKILL)
    for command in (["backup", "a.zip"], ["restore", "--yes", "a.zip"], ["backup", "b.zip"]):
        told = lark(own.home, *command, cwd=tmp_path)
        assert told.returncode == 0, told.stderr
        assert command[0] == "backup" or "what was there before is in" in told.stderr
    with zipfile.ZipFile(tmp_path / "a.zip") as first, zipfile.ZipFile(tmp_path / "b.zip") as second:
        tables = [name for name in first.namelist() if name.startswith("tables/")]
        assert len(tables) > 20 and all(first.read(name) == second.read(name) for name in tables)
    with urllib.request.urlopen(own.address + "/sign-in", timeout=PAGE_SECONDS) as answer:
        assert answer.status == 200
    refused = lark(own.home, "migrate", cwd=tmp_path)
    assert refused.returncode == 1 and f"running already, at {own.address}" in refused.stderr
    assert [line for line in own.lines if "starting it again" in line] == said, "the web server outlives its workers"


def lark(home: Path, *arguments: str, cwd: Path) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "zesty_lark.cli", *arguments],
        cwd=cwd,
        capture_output=True,
        text=True,
        env=dict(os.environ, LARK_HOME=str(home), PYTHONPATH=str(ROOT)),
        timeout=PAGE_SECONDS,
    )


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda home: (home / "session.key").write_text(""), "empty or damaged"),
        (lambda home: (home / "session.key").write_bytes(b"\xff" * 64), "cannot be read"),
        (lambda home: (home / "running.lock").mkdir(), "cannot be written"),
    ],
)
def test_a_home_that_cannot_be_used_is_said_in_words(
    tmp_path: Path, make: Callable[[Path], object], words: str
) -> None:
    make(tmp_path)
    told = lark(tmp_path, "up", cwd=tmp_path)
    assert told.returncode == 1 and words in told.stderr and "Traceback" not in told.stderr


def test_what_the_server_refuses_is_shown_gives_the_buttons_back_and_waits_in_a_list(
    own: Running, chromium: Browser
) -> None:
    """Only a lost connection and 503 mean “try again”."""
    person = Person(chromium, own.address, 1280, 800)
    at_pass_6(person)
    answers = iter((503, 500))

    def answer(route: Route) -> None:
        code = next(answers, None) if route.request.method == "POST" else None
        if code is None:
            route.fallback()
        else:
            route.fulfill(status=code, content_type="text/html", body="<main id='main'><h1>Of the test</h1></main>")

    person.bar_the_way(answer)
    person.press("d")
    refused = person.page.locator("#outbox-refused")
    refused.wait_for()
    assert (
        refused.locator("summary").inner_text().strip().startswith("Pass done: not logged, the server answered 500")
    ), "503 was sent again by itself"
    person.sees("Of the test")
    person.page.goto("/jobs/TR-101/grind")
    person.sees("pass 6 of")
    assert person.page.locator(".bar .btn-primary").first.is_enabled()
    refused.locator("summary").click()
    person.page.get_by_role("button", name="Send it again").click()
    person.sees("pass 7 of")
    refused.wait_for(state="hidden")
    undo_down_to_pass_6(person, "pass 6 of")
    person.errors.clear()
    person.close()


def test_killing_the_start_command_itself_leaves_a_home_that_starts_again(home: Path) -> None:
    first = Running(home)
    assert first.address
    children = first.children("mariadbd") + first.children("running.worker")
    assert len(children) == 2
    first.process.kill()
    first.process.wait()
    assert (home.stat().st_mode & 0o777, (home / "web.log").stat().st_mode & 0o777) == (0o700, 0o600)
    assert (home / "database" / "mariadb.log").stat().st_mode & 0o777 == 0o600
    again = Running(home)
    with urllib.request.urlopen(again.address + "/sign-in", timeout=PAGE_SECONDS) as answer:
        assert answer.status == 200
    until(
        lambda: (
            not any(
                Path(f"/proc/{pid}/cmdline").exists() and Path(f"/proc/{pid}/cmdline").read_bytes() for pid in children
            )
        )
    )
    assert not [line for line in again.lines if "loading the Tern Rock Light" in line], "its data is still there"
    ctrl_c_stops_everything(again)


def test_a_second_start_says_that_one_is_running(own: Running) -> None:
    address = own.address
    second = subprocess.run(
        [sys.executable, "-m", "zesty_lark.cli", "demo"],
        cwd=ROOT,
        capture_output=True,
        text=True,
        env=dict(os.environ, LARK_HOME=str(own.home), LARK_PORT="0"),
        timeout=PAGE_SECONDS,
    )
    assert second.returncode == 1 and f"running already, at {address}" in second.stderr


def ctrl_c_stops_everything(started: Running) -> None:
    children = started.children("mariadbd") + started.children("running.worker")
    assert len(children) == 2 and started.stop() == 0
    assert "everything logged is kept" in started.lines[-1]
    assert not any(Path(f"/proc/{pid}").exists() for pid in children)


def test_an_empty_shop_asks_for_its_first_user(tmp_path: Path, chromium: Browser) -> None:
    started = Running(tmp_path / "home", "up")
    person = Person(chromium, started.address, 1280, 800)
    code = started.wait_for("give this code").rsplit(" ", 1)[1]
    person.page.goto("/")
    person.type(code)
    for words in ("tove", "Tove Larch", "three plain words"):
        person.press("Tab")
        person.type(words)
    person.press("Enter")
    person.sees("You are the first lead here")
    person.close()
    assert started.stop() == 0


def test_a_taken_port_is_said_in_words(own: Running, tmp_path: Path) -> None:
    port = own.address.rsplit(":", 1)[1]
    other = subprocess.run(
        [sys.executable, "-m", "zesty_lark.cli", "demo"],
        cwd=ROOT,
        capture_output=True,
        text=True,
        env=dict(os.environ, LARK_HOME=str(tmp_path / "other"), LARK_PORT=port),
        timeout=PAGE_SECONDS,
    )
    assert other.returncode == 1 and "Set LARK_PORT" in other.stderr and "Traceback" not in other.stderr


def _bring_what_is_compiled(clone: Path) -> None:
    """Spare the clone compiling what is compiled here already; it is used only where its sources are the same."""
    kept = compiled_code.folder()
    if kept is not None and kept.is_relative_to(ROOT):
        shutil.copytree(kept, clone / kept.relative_to(ROOT))


@pytest.mark.skipif(shutil.which("git") is None, reason="a clone needs git")
def test_the_two_commands_work_from_a_clean_clone(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """``./lark demo`` from a fresh clone makes its own environment, once; ``./lark test`` runs."""
    monkeypatch.setenv("UV_COMPILE_BYTECODE", "0")  # of all there is, this needs a part
    clone = tmp_path / "clone"
    subprocess.run(["git", "clone", "-q", str(ROOT), str(clone)], check=True)
    _bring_what_is_compiled(clone)
    cold = Running(tmp_path / "home", argv=["./lark", "demo"], cwd=clone)
    with urllib.request.urlopen(cold.address + "/sign-in", timeout=PAGE_SECONDS) as answer:
        assert b"Sign-in name" in answer.read()
    assert any("installing the locked Python packages" in line for line in cold.lines)
    assert cold.stop() == 0
    again = subprocess.run(["./lark", "help"], cwd=clone, capture_output=True, text=True, timeout=PAGE_SECONDS)
    assert again.returncode == 0 and "demo" in again.stdout and "installing" not in again.stderr
    tested = subprocess.run(
        ["./lark", "test", "tests/core/test_units.py"], cwd=clone, capture_output=True, text=True, timeout=3600
    )
    assert tested.returncode == 0 and "passed" in tested.stdout, tested.stdout + tested.stderr
