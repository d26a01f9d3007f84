"""The web server as the supervisor sees it: a process that is handed the listening socket."""

import contextlib
import http.client
import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path

from sqlalchemy import URL

from zesty_lark.running.children import die_with_parent
from zesty_lark.running.home import StartError
from zesty_lark.running.http_server import GRACEFUL_SECONDS
from zesty_lark.settings import Settings

READY_SECONDS = 180.0
BACKLOG = 1024
ANSWER_SECONDS = 10.0


class PortBusy(StartError):
    """Something else listens on the web server's port."""


def listen(settings: Settings) -> socket.socket:
    """Return the listening socket; it outlives the web server, so that whoever comes while that restarts waits.

    Raises
    ------
    PortBusy
        If the port is taken, or the host is not this machine's.
    """
    family = socket.AF_INET6 if ":" in settings.host else socket.AF_INET
    try:
        return socket.create_server((settings.host, settings.port), family=family, backlog=BACKLOG)
    except OSError as error:
        raise PortBusy(
            f"{settings.host}:{settings.port} cannot be listened on ({error.strerror or error}). "
            "Set LARK_PORT to another port, or to 0 for a free one."
        ) from error


class WebServer:
    """Starts and stops the web server; what it writes goes to ``web.log`` in the home directory."""

    name = "the web server"

    def __init__(self, settings: Settings, url: URL, listener: socket.socket) -> None:
        self.settings, self.url, self.listener = settings, url, listener
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def log(self) -> Path:
        """Where it writes."""
        return self.settings.home / "web.log"

    def start(self) -> None:
        """Start it and wait until it answers.

        Raises
        ------
        StartError
            If it stops or does not answer in time; the end of its log is in the message.
        """
        environment = dict(
            os.environ,
            LARK_DATABASE_URL=self.url.render_as_string(hide_password=False),
            LARK_HOME=str(self.settings.home.resolve()),
        )
        with open(self.log, "ab") as output:
            self.log.chmod(0o600)
            self.process = subprocess.Popen(
                [sys.executable, "-m", "zesty_lark.running.worker", str(self.listener.fileno())],
                stdout=output,
                stderr=output,
                env=environment,
                pass_fds=[self.listener.fileno()],
                preexec_fn=die_with_parent(),
            )
        self._wait_until_ready()

    def _wait_until_ready(self) -> None:
        assert self.process is not None
        until = time.monotonic() + READY_SECONDS
        while time.monotonic() < until:
            if self.process.poll() is not None:
                raise StartError(f"The web server stopped at once. The end of {self.log}:\n{_end_of(self.log)}")
            if self._answers():
                return
            time.sleep(0.03)
        raise StartError(f"The web server did not answer within {READY_SECONDS:.0f} s; see {self.log}")

    def _answers(self) -> bool:
        host, port = self.listener.getsockname()[:2]
        reached = {"0.0.0.0": "127.0.0.1", "::": "::1"}.get(host, host)
        asked = http.client.HTTPConnection(reached, port, timeout=ANSWER_SECONDS)
        try:
            asked.request("GET", "/health")
            return asked.getresponse().status < 600
        except (OSError, http.client.HTTPException):
            return False
        finally:
            asked.close()

    def alive(self) -> bool:
        """Tell whether it runs."""
        return self.process is not None and self.process.poll() is None

    def stop(self) -> None:
        """Stop it and all its workers; what has arrived is finished first."""
        if self.process is None:
            return
        with contextlib.suppress(ProcessLookupError):
            self.process.terminate()
        with contextlib.suppress(subprocess.TimeoutExpired):
            self.process.wait(GRACEFUL_SECONDS * 2)
        with contextlib.suppress(ProcessLookupError):
            os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait()
        self.process = None


def _end_of(log: Path) -> str:
    return log.read_text("utf-8", "replace")[-1500:] if log.exists() else "(no log)"
