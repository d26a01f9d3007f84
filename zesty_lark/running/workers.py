"""The web server: one process that loads the application and keeps as many workers of it alive as are asked for."""

import gc
import logging
import os
import shutil
import signal
import socket
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial

from flask import Flask
from jinja2 import FileSystemBytecodeCache

from zesty_lark.core.warm_up import warm_up
from zesty_lark.running.backoff import Backoff
from zesty_lark.running.calculators import Calculators, calculate
from zesty_lark.running.children import die_with_parent
from zesty_lark.running.compiled_code import folder
from zesty_lark.running.http_server import BufferingServer
from zesty_lark.settings import Settings
from zesty_lark.shopfloor import long_work
from zesty_lark.web.factory import create_app
from zesty_lark.web.shared import logs
from zesty_lark.web.shared.turns import teller

HEARD = (signal.SIGTERM, signal.SIGINT, signal.SIGCHLD)
LOOK_SECONDS = 1.0
ANSWERS = "answers"
LOG = logging.getLogger("zesty_lark.running")


class _Workers:
    """The parent of the workers: puts back those that die, more slowly each time."""

    def __init__(self, app: Flask, listener: socket.socket, settings: Settings) -> None:
        self.app, self.listener, self.settings = app, listener, settings
        self.asked, self.answered = socket.socketpair(socket.AF_UNIX, socket.SOCK_DGRAM)
        self.kept = [
            *(_Kept("web worker", self._serve) for _ in range(settings.workers)),
            *(_Kept("calculator", self._calculate) for _ in range(settings.calculators)),
        ]

    def keep(self) -> None:
        """Run until asked to stop; then stop every one and wait for them."""
        signal.pthread_sigmask(signal.SIG_BLOCK, HEARD)
        while True:
            for each in self.kept:
                if each.pid is None and each.backoff.due(time.monotonic()):
                    _fork(each)
            heard = signal.sigtimedwait(HEARD, LOOK_SECONDS)
            self._bury()
            if heard is not None and heard.si_signo != signal.SIGCHLD:
                break
        alive = [each.pid for each in self.kept if each.pid is not None]
        for pid in alive:
            os.kill(pid, signal.SIGTERM)
        for pid in alive:
            os.waitpid(pid, 0)

    def _bury(self) -> None:
        for each in self.kept:
            if each.pid is None:
                continue
            gone, status = os.waitpid(each.pid, os.WNOHANG)
            if gone:
                each.pid = None
                wait = each.backoff.failed(time.monotonic())
                code = os.waitstatus_to_exitcode(status)
                LOG.error("a %s died (%s); another starts in %.1f s", each.name, code, wait)

    def _serve(self) -> None:
        """A worker's life."""
        if self.settings.calculators:
            long_work.use(Calculators(self.asked, self.settings.home / ANSWERS))
        server = BufferingServer(self.app, self.listener, self.settings, teller(self.app))

        def stop(*_: object) -> None:
            self.app.config["LARK_STOPPING"].set()  # whoever follows a gauge holds a thread
            server.stop()

        signal.signal(signal.SIGTERM, stop)
        signal.pthread_sigmask(signal.SIG_UNBLOCK, HEARD)
        server.run()

    def _calculate(self) -> None:
        """A calculator's life."""
        self.listener.close()
        signal.signal(signal.SIGTERM, signal.SIG_DFL)
        signal.pthread_sigmask(signal.SIG_UNBLOCK, HEARD)
        calculate(self.answered, self.settings.home / ANSWERS)


@dataclass
class _Kept:
    """A child that is kept alive."""

    name: str
    live: Callable[[], None]
    pid: int | None = None
    backoff: Backoff = field(default_factory=Backoff)


def _fork(each: _Kept) -> None:
    parent = os.getpid()
    each.pid = os.fork()
    if each.pid:
        return
    code = 1
    try:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        die_with_parent(signal.SIGTERM, new_group=False)()
        if os.getppid() == parent:
            each.live()
        code = 0
    except BaseException:
        LOG.exception("a %s failed", each.name)
    finally:
        os._exit(code)


def _get_ready(app: Flask) -> None:
    """Load the templates and the compiled calculations before there are workers: they share them, and nobody's first
    page or plan waits.

    What was made until then stays for good: it is no longer looked over for what may go.
    """
    for load in (partial(_load_templates, app), warm_up):
        try:
            load()
        except Exception:
            LOG.exception("not everything could be made ready; whoever is first to ask waits for it")
    gc.collect()
    gc.freeze()
    gc.enable()


def _load_templates(app: Flask) -> None:
    """Load every template, compiled by an earlier start if its source is still the same."""
    kept = folder()
    app.jinja_env.bytecode_cache = FileSystemBytecodeCache(str(kept)) if kept is not None else None
    try:
        for name in app.jinja_env.list_templates():
            app.jinja_env.get_template(name)
    finally:
        app.jinja_env.bytecode_cache = None


def keep_workers(listening: int) -> None:
    """Load the application and keep its workers; the listening socket is given by its file descriptor."""
    logs.to_standard_error()
    settings = Settings()
    listener = socket.socket(fileno=listening)
    shutil.rmtree(settings.home / ANSWERS, ignore_errors=True)  # another version may have worked them out
    app = create_app(settings)
    _get_ready(app)
    _Workers(app, listener, settings).keep()
