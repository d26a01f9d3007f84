"""Starts the database and the web server, keeps both alive, and stops both cleanly."""

import contextlib
import fcntl
import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from types import FrameType
from typing import IO

from sqlalchemy import URL, make_url

from zesty_lark.running.compiled_code import all_kept
from zesty_lark.running.mariadb import PrivateMariaDB, die_with_parent, free_port
from zesty_lark.settings import Settings

__all__ = ["AlreadyRunning", "PortBusy", "StartError", "database", "serve"]

READY_SECONDS = 30.0
GRACEFUL_SECONDS = 5
WATCH_SECONDS = 0.2

Say = Callable[[str], None]


class StartError(RuntimeError):
    """The application cannot start; the message says why and what to do."""


class AlreadyRunning(StartError):
    """Another start command holds this home directory."""


class PortBusy(StartError):
    """Something else listens on the web server's port."""


@contextlib.contextmanager
def _only_one(home: Path) -> Iterator[IO[str]]:
    """Hold the home directory's lock; the kernel lets go of it however this process ends."""
    home.mkdir(mode=0o700, parents=True, exist_ok=True)
    with open(home / "running.lock", "a+", encoding="utf-8") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as error:
            lock.seek(0)
            raise AlreadyRunning(
                f"It is running already, at {lock.read().strip() or 'an address not known yet'}. "
                "Stop that one first (Ctrl-C where it runs)."
            ) from error
        lock.seek(0)
        lock.truncate()
        yield lock


@contextlib.contextmanager
def database(settings: Settings, say: Say) -> Iterator[tuple[URL, PrivateMariaDB | None]]:
    """Give the address of the database, starting the private one unless an outside one is set."""
    if settings.database_url is not None:
        yield make_url(settings.database_url.get_secret_value()), None
        return
    server = PrivateMariaDB(settings.home / "database", free_port())
    if not (server.directory / "created").exists():
        say("making a private database (a few seconds, once)")
    server.create()
    server.start()
    try:
        yield server.url(), server
    finally:
        server.stop()


def serve(settings: Settings, say: Say, prepare: Callable[[URL], list[str]]) -> None:
    """Run until Ctrl-C or SIGTERM.

    Parameters
    ----------
    settings : Settings
        Where and how to run.
    say : callable
        Tells the person at the terminal one line.
    prepare : callable
        Given the database's address, brings it up to date and returns lines to print once it serves.

    Raises
    ------
    AlreadyRunning, PortBusy, StartError, MariaDBError
        If it cannot start.
    """
    with (
        _only_one(settings.home) as lock,
        _stop_signals() as stopped,
        _compiling(say) as compiled,
        database(settings, say) as (url, server),
    ):
        port = settings.port or free_port()
        _check_port(settings.host, port)
        lines = prepare(url)
        address = f"http://{settings.host}:{port}"
        lock.write(address)
        lock.flush()
        web = _WebServer(settings, url, port)
        compiled()
        web.start()
        try:
            say(f"Zesty Lark is at {address}")
            for line in lines:
                say(line)
            say("Ctrl-C stops it.")
            _watch(stopped, web, server, say)
        finally:
            say("stopping")
            web.stop()
    say("stopped; everything logged is kept")


@contextlib.contextmanager
def _compiling(say: Say) -> Iterator[Callable[[], object]]:
    """Compile the calculations beside what else there is to do, if they are not kept yet; give what waits for that."""
    if all_kept():
        yield lambda: None
        return
    say("compiling the calculations (about 15 seconds, once)")
    process = subprocess.Popen([sys.executable, "-m", "zesty_lark.running.compiled_code"], preexec_fn=die_with_parent())
    try:
        yield process.wait
    finally:
        process.kill()
        process.wait()


class _WebServer:
    def __init__(self, settings: Settings, url: URL, port: int) -> None:
        self.settings, self.url, self.port = settings, url, port
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        environment = dict(
            os.environ,
            LARK_DATABASE_URL=self.url.render_as_string(hide_password=False),
            LARK_HOME=str(self.settings.home.resolve()),
        )
        log = self.settings.home / "web.log"
        with open(log, "ab") as output:
            self.process = subprocess.Popen(
                [
                    sys.executable,
                    "-m",
                    "gunicorn",
                    "--bind",
                    f"{self.settings.host}:{self.port}",
                    "--worker-class",
                    "gthread",
                    "--workers",
                    str(self.settings.workers),
                    "--threads",
                    str(self.settings.threads),
                    "--graceful-timeout",
                    str(GRACEFUL_SECONDS),
                    "--no-control-socket",
                    "--config",
                    "python:zesty_lark.running.worker",
                    "--log-level",
                    "warning",
                    "--preload",
                    "zesty_lark.web.factory:create_app()",
                ],
                stdout=output,
                stderr=output,
                env=environment,
                preexec_fn=die_with_parent(),
            )
        self._wait_until_ready(log)

    def _wait_until_ready(self, log: Path) -> None:
        assert self.process is not None
        until = time.monotonic() + READY_SECONDS
        while time.monotonic() < until:
            if self.process.poll() is not None:
                raise StartError(f"The web server stopped at once. The end of {log}:\n{_end_of(log)}")
            if _answers(self.settings.host, self.port):
                return
            time.sleep(0.03)
        raise StartError(f"The web server did not answer within {READY_SECONDS:.0f} s; see {log}")

    def alive(self) -> bool:
        return self.process is not None and self.process.poll() is None

    def stop(self) -> None:
        if self.process is None:
            return
        with contextlib.suppress(ProcessLookupError):
            self.process.terminate()
        try:
            self.process.wait(GRACEFUL_SECONDS * 2)
        except subprocess.TimeoutExpired:
            pass
        with contextlib.suppress(ProcessLookupError):
            os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait()


def _watch(stopped: list[int], web: _WebServer, server: PrivateMariaDB | None, say: Say) -> None:
    """Put back what dies until asked to stop."""
    while not stopped:
        if server is not None and not server.alive():
            say("the database stopped unasked; starting it again")
            server.start()
        if not web.alive():
            say("the web server stopped unasked; starting it again")
            web.stop()
            web.start()
        time.sleep(WATCH_SECONDS)


@contextlib.contextmanager
def _stop_signals() -> Iterator[list[int]]:
    """Collect SIGINT and SIGTERM instead of dying of them."""
    received: list[int] = []

    def receive(number: int, frame: FrameType | None) -> None:
        received.append(number)

    before = {number: signal.signal(number, receive) for number in (signal.SIGINT, signal.SIGTERM)}
    try:
        yield received
    finally:
        for number, handler in before.items():
            signal.signal(number, handler)


def _check_port(host: str, port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as error:
            raise PortBusy(
                f"Something else is using {host}:{port}. Set LARK_PORT to another port, or to 0 for a free one."
            ) from error


def _answers(host: str, port: int) -> bool:
    try:
        with socket.create_connection((host, port), timeout=1):
            return True
    except OSError:
        return False


def _end_of(log: Path) -> str:
    return log.read_text("utf-8", "replace")[-1500:] if log.exists() else "(no log)"
