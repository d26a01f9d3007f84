"""The web server: one process that loads the application and keeps as many workers of it alive as are asked for.

Started by the supervisor, with the listening socket handed over: ``python -m zesty_lark.running.worker FD``.
"""

import logging
import os
import signal
import socket
import sys
import threading
import time

from flask import Flask

from zesty_lark.core.warm_up import warm_up
from zesty_lark.running.backoff import Backoff
from zesty_lark.running.children import die_with_parent
from zesty_lark.running.http_server import BufferingServer
from zesty_lark.settings import Settings
from zesty_lark.web.factory import create_app
from zesty_lark.web.shared import logs

__all__ = ["main"]

HEARD = (signal.SIGTERM, signal.SIGINT, signal.SIGCHLD)
LOOK_SECONDS = 1.0
LOG = logging.getLogger("zesty_lark.running")


class _Workers:
    """The parent of the workers: puts back those that die, more slowly each time."""

    def __init__(self, app: Flask, listener: socket.socket, settings: Settings) -> None:
        self.app, self.listener, self.settings = app, listener, settings
        self.alive: set[int] = set()
        self.backoff = Backoff()

    def keep(self) -> None:
        """Run until asked to stop; then stop every worker and wait for them."""
        signal.pthread_sigmask(signal.SIG_BLOCK, HEARD)
        while True:
            if len(self.alive) < self.settings.workers and self.backoff.due(time.monotonic()):
                self._fork()
                continue
            heard = signal.sigtimedwait(HEARD, LOOK_SECONDS)
            self._bury()
            if heard is not None and heard.si_signo != signal.SIGCHLD:
                break
        for pid in self.alive:
            os.kill(pid, signal.SIGTERM)
        for pid in self.alive:
            os.waitpid(pid, 0)

    def _fork(self) -> None:
        parent = os.getpid()
        pid = os.fork()
        if pid:
            self.alive.add(pid)
            return
        try:
            die_with_parent(signal.SIGTERM, new_group=False)()
            if os.getppid() == parent:
                _serve(self.app, self.listener, self.settings)
        finally:
            os._exit(0)

    def _bury(self) -> None:
        for pid in list(self.alive):
            gone, status = os.waitpid(pid, os.WNOHANG)
            if gone:
                self.alive.discard(pid)
                wait = self.backoff.failed(time.monotonic())
                LOG.error("a web worker died (%s); another starts in %.1f s", os.waitstatus_to_exitcode(status), wait)


def _serve(app: Flask, listener: socket.socket, settings: Settings) -> None:
    """A worker's life. The compiled calculations load beside its first requests, so that nobody's first plan waits."""
    server = BufferingServer(app, listener, settings)
    signal.signal(signal.SIGTERM, lambda *_: server.stop())
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    signal.pthread_sigmask(signal.SIG_UNBLOCK, HEARD)
    threading.Thread(target=warm_up, daemon=True, name="get ready").start()
    server.run()


def main() -> None:
    """Load the application and keep its workers."""
    logs.to_standard_error()
    settings = Settings()
    listener = socket.socket(fileno=int(sys.argv[1]))
    _Workers(create_app(settings), listener, settings).keep()


if __name__ == "__main__":
    main()
