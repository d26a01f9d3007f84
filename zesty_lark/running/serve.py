"""Starts the database and the web server, keeps both alive, and stops both cleanly."""

import contextlib
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from types import FrameType
from typing import Protocol

from sqlalchemy import URL, make_url
from sqlalchemy.exc import DBAPIError

from zesty_lark.exchange.backup_file import BackupError
from zesty_lark.running.backoff import Backoff
from zesty_lark.running.backups import Home
from zesty_lark.running.children import die_with_parent
from zesty_lark.running.compiled_code import all_kept
from zesty_lark.running.home import StartError, held
from zesty_lark.running.mariadb import MariaDBError, PrivateMariaDB, free_port
from zesty_lark.running.web_server import WebServer, listen
from zesty_lark.settings import Settings, check_reach

WATCH_SECONDS = 0.2
STARTS = 3
"""Tries at a first start, before it is given up in words."""
TRIES = 8
"""Starts of a database that dies while the shop is brought up to date, before that is said and given up."""

Say = Callable[[str], None]
Prepare = Callable[[URL], list[str]]


class Kept(Protocol):
    """What the supervisor keeps alive."""

    name: str

    def alive(self) -> bool:
        """Tell whether it runs."""

    def start(self) -> None:
        """Start it and wait until it answers."""

    def stop(self) -> None:
        """Stop it, or clear away what is left of it."""


class _Keeper:
    """Puts back what dies, more slowly each time; says so every time and never gives up."""

    def __init__(self, things: list[Kept], say: Say) -> None:
        self.say = say
        self.things = [(thing, Backoff()) for thing in things]

    def look(self) -> None:
        """Start again whatever is dead and has waited long enough."""
        for thing, backoff in self.things:
            if not thing.alive() and backoff.due(time.monotonic()):
                self._again(thing, backoff)

    def _again(self, thing: Kept, backoff: Backoff) -> None:
        self.say(f"{thing.name} stopped unasked; starting it again")
        wait = backoff.failed(time.monotonic())
        try:
            thing.stop()
            thing.start()
        except (StartError, MariaDBError, OSError) as error:
            self.say(f"{thing.name} cannot be started: {error}\nanother try in {max(wait, 1.0):.0f} s")


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
    try:
        _start(server, say)
        yield server.url(), server
    finally:
        server.stop()


def _start(thing: Kept, say: Say) -> None:
    """Start something for the first time; a start that fails is tried again before it is given up."""
    backoff = Backoff()
    while True:
        try:
            thing.start()
            return
        except (StartError, MariaDBError) as error:
            wait = backoff.failed(time.monotonic())
            if backoff.deaths == STARTS:
                raise
            say(f"{thing.name} cannot be started: {error}\nanother try in {wait:.1f} s")
            thing.stop()
            time.sleep(wait)


def serve(settings: Settings, say: Say, prepare: Prepare) -> None:
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
    StartError, MariaDBError, SettingError
        If it cannot start.
    """
    check_reach(settings)
    with (
        held(settings.home) as lock,
        _stop_signals() as stopped,
        contextlib.closing(listen(settings)) as listener,
        _compiling(say) as compiled,
        database(settings, say) as (url, server),
    ):
        lines = _prepared(prepare, url, server, say)
        address = f"http://{settings.host}:{listener.getsockname()[1]}"
        web = WebServer(settings, url, listener)
        compiled()
        try:
            _start(web, say)
            lock.write(address)
            lock.flush()
            Home(settings.home).has_served()
            say(f"Zesty Lark is at {address}")
            for line in lines:
                say(line)
            say("Ctrl-C stops it.")
            _watch(stopped, web, server=server, prepare=prepare, say=say)
        finally:
            say("stopping")
            web.stop()
    say("stopped; everything logged is kept")


def _prepared(prepare: Prepare, url: URL, server: PrivateMariaDB | None, say: Say) -> list[str]:
    """Bring the shop up to date; a database that dies meanwhile is started again, and the rest is taken up."""
    backoff = Backoff()
    while True:
        try:
            return prepare(url)
        except (DBAPIError, MariaDBError) as error:
            if server is None or server.alive() or backoff.deaths == TRIES:
                raise StartError(f"The database cannot be brought up to date: {error}") from error
            say("the database stopped unasked; starting it again")
            time.sleep(backoff.failed(time.monotonic()))
            server.stop()
            with contextlib.suppress(MariaDBError):
                server.start()


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


def _watch(stopped: list[int], web: WebServer, *, server: PrivateMariaDB | None, prepare: Prepare, say: Say) -> None:
    """Put back what dies, and restore what is asked for, until asked to stop."""
    home = Home(web.settings.home)
    keeper = _Keeper([server, web] if server is not None else [web], say)
    while not stopped:
        time.sleep(WATCH_SECONDS)
        keeper.look()
        if home.to_restore.exists():
            say("a backup is to be restored; pages wait meanwhile")
            web.stop()
            try:
                _prepared(prepare, web.url, server, say)
            except (BackupError, StartError) as error:
                say(str(error))
            web.start()


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
