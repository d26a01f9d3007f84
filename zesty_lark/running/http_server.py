"""The web server of one process: an event loop holds the connections, threads work only on requests that have arrived.

Whoever sends slowly, or reads slowly, or not at all, holds a socket and no thread; and how long a request may take to
arrive, and an answer to be fetched, is limited.
"""

import resource
import socket
import threading
import time
from collections.abc import Callable, Iterable
from contextlib import suppress
from typing import Any

from waitress.adjustments import Adjustments
from waitress.channel import ClientDisconnected, HTTPChannel
from waitress.server import TcpWSGIServer
from waitress.task import WSGITask
from waitress.wasyncore import close_all, loop

from zesty_lark.running.turns import FairTurns
from zesty_lark.settings import Settings, is_loopback

GRACEFUL_SECONDS = 5.0
FETCH_SECONDS = 120.0
"""How long an answer may wait for its reader."""
MOST_HEADER_BYTES = 64 * 1024
MOST_BODY_BYTES = 33 * 1024 * 1024
MOST_CONNECTIONS = 4000
MOST_UNREAD_BYTES = 64 * 1024
FILES_BESIDE = 200
LOOK_SECONDS = 1
SHARE = 3
"""One person has a third of the threads at most."""

Application = Callable[[dict[str, Any], Callable[..., Any]], Iterable[bytes]]
Whose = Callable[[str, str], str]


class Sink:
    """An answer that goes on after its request was worked on: what is written to it is sent, and no thread waits."""

    def __init__(self, channel: "_Connection") -> None:
        self._channel = channel

    def write(self, data: bytes) -> None:
        """Send more of the answer.

        Raises
        ------
        OSError
            If whoever asked has gone, or does not read.
        """
        channel = self._channel
        if not channel.connected or channel.will_close or channel.total_outbufs_len > MOST_UNREAD_BYTES:
            channel.will_close = True
            raise OSError("nobody reads it")
        channel.write_soon(b"%X\r\n%b\r\n" % (len(data), data))

    def end(self) -> None:
        """The answer is whole; the connection is closed when it is sent."""
        channel = self._channel
        channel.streaming = False
        if channel.connected:
            with suppress(OSError, ClientDisconnected):
                channel.write_soon(b"0\r\n\r\n")
            channel.close_when_flushed = True
            channel.server.pull_trigger()


class _Task(WSGITask):  # type: ignore[misc]
    """A request whose answer the application may hand over to be gone on with later: ``lark.hand_over`` takes what is
    to have the ``Sink``."""

    _begin: Callable[[Sink], None] | None = None

    def get_environment(self) -> dict[str, Any]:
        """Return the WSGI environment."""
        environ: dict[str, Any] = super().get_environment()
        if self.version == "1.1":
            environ["lark.hand_over"] = self._hand_over
        return environ

    def _hand_over(self, begin: Callable[[Sink], None]) -> None:
        self._begin = begin

    def finish(self) -> None:
        """End the answer, or leave it open."""
        if self._begin is None or not self.chunked_response:
            super().finish()
            return
        self.channel.streaming, self.close_on_finish = True, False
        self._begin(Sink(self.channel))


class _Connection(HTTPChannel):  # type: ignore[misc]
    """A connection that knows since when its request has been arriving, and whether its answer goes on."""

    task_class = _Task
    arriving_since: float | None = None
    streaming = False

    def received(self, data: bytes) -> bool:
        """Take what came in."""
        answer: bool = super().received(data)
        if self.request is None:
            self.arriving_since = None
        elif self.arriving_since is None:
            self.arriving_since = time.time()
        return answer

    def _flush_some(self, do_close: bool = True) -> bool:
        """Send what waits. One thread at a time: the loop takes it that nobody writes once a request has been worked
        on, and an answer that goes on is written to all the same."""
        with self.outbuf_lock:
            sent: bool = super()._flush_some(do_close=do_close)
        return sent


def _by_address(cookies: str, address: str) -> str:
    return address


class BufferingServer(TcpWSGIServer):  # type: ignore[misc]
    """Serves an application on a listening socket that other processes may share, until ``stop`` is called.

    Parameters
    ----------
    application : callable
        A WSGI application.
    listener : socket
        Bound and listening.
    settings : Settings
        Threads, time limits, and the proxy whose word on addresses is taken.
    whose : callable
        Returns whose a request is, from its cookies and address.
    """

    channel_class = _Connection

    def __init__(
        self, application: Application, listener: socket.socket, settings: Settings, whose: Whose = _by_address
    ) -> None:
        self.limits = settings
        self._stopping = threading.Event()
        proxy = settings.trusted_proxy
        believed: dict[str, Any] = {}
        if proxy is not None:
            believed = {
                "trusted_proxy": proxy,
                "trusted_proxy_headers": {"x-forwarded-for", "x-forwarded-proto", "x-forwarded-host"},
            }
        adjustments = Adjustments(
            sockets=[listener],
            threads=settings.threads,
            connection_limit=_most_connections(),
            cleanup_interval=LOOK_SECONDS,
            channel_timeout=settings.idle_seconds,
            max_request_header_size=MOST_HEADER_BYTES,
            max_request_body_size=MOST_BODY_BYTES,
            asyncore_use_poll=True,
            clear_untrusted_proxy_headers=True,
            log_socket_errors=False,
            ident=None,
            **believed,
        )
        family, kind, number = listener.family, listener.type, listener.proto
        sockinfo = (family, kind, number, listener.getsockname())
        listener.setblocking(False)
        turns = FairTurns(lambda channel: _of(channel, whose), max(1, settings.threads // SHARE))
        turns.set_thread_count(settings.threads)
        super().__init__(application, None, True, listener, turns, adjustments, bind_socket=False, sockinfo=sockinfo)

    def run(self) -> None:
        """Serve; once asked to stop, finish what has arrived and send what is answered, for a few seconds at most."""
        until: float | None = None
        while until is None or (self._busy() and time.monotonic() < until):
            loop(timeout=LOOK_SECONDS if until is None else 0.05, map=self._map, use_poll=True, count=1)
            if self._stopping.is_set() and until is None:
                self.accepting = False
                until = time.monotonic() + GRACEFUL_SECONDS
        self.task_dispatcher.shutdown(timeout=1)
        close_all(self._map)

    def stop(self) -> None:
        """Ask the loop to end; may be called by a signal."""
        self._stopping.set()
        with suppress(OSError):  # it has ended already
            self.pull_trigger()

    def _busy(self) -> bool:
        return any(channel.requests or channel.total_outbufs_len for channel in self.active_channels.values())

    def set_socket_options(self, conn: socket.socket) -> None:
        """Refuse whoever comes round the trusted proxy, before a byte is read."""
        super().set_socket_options(conn)
        proxy = self.limits.trusted_proxy
        if proxy is None:
            return
        address = conn.getpeername()[0]
        if address != proxy and not is_loopback(address):
            conn.close()
            raise OSError("not through the proxy")

    def maintenance(self, now: float) -> None:
        """Close what has taken too long: idle, arriving, or being fetched; an answer that goes on may be silent."""
        for channel in self.active_channels.values():
            if channel.streaming and not channel.total_outbufs_len:
                channel.last_activity = now
        super().maintenance(now)
        for channel in self.active_channels.values():
            since = channel.arriving_since
            if since is not None and channel.request is not None:
                in_body = channel.request.headers_finished
                limit = self.limits.body_seconds if in_body else self.limits.header_seconds
                channel.will_close |= now - since > limit
            if channel.total_outbufs_len and not channel.requests and now - channel.last_activity > FETCH_SECONDS:
                channel.will_close = True


def _of(channel: _Connection, whose: Whose) -> str:
    headers = channel.requests[0].headers
    return whose(headers.get("COOKIE", ""), channel.addr[0] if channel.addr else "")


def _most_connections() -> int:
    """Let this process open as many files as it may; return how many connections that allows."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    wanted = MOST_CONNECTIONS + FILES_BESIDE
    allowed = wanted if hard == resource.RLIM_INFINITY else min(wanted, hard)
    if soft < allowed:
        resource.setrlimit(resource.RLIMIT_NOFILE, (allowed, hard))
    return max(50, max(soft, allowed) - FILES_BESIDE)
