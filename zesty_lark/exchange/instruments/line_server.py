"""A loopback server that speaks lines: what a simulated instrument is heard through."""

import contextlib
import socket
import socketserver
import threading
from collections.abc import Callable
from typing import Any

MOST_LINE = 200
LOOK_SECONDS = 0.05


class LineServer:
    """Answers each line with what ``answer`` says of it; nothing where that is empty.

    Parameters
    ----------
    answer : callable
        From a line to the answer, its end included.
    """

    def __init__(self, answer: Callable[[str], bytes]) -> None:
        self.answer = answer
        self._listeners: list[Callable[[bytes], None]] = []
        self._server: _Server | None = None

    def listen(self, host: str = "127.0.0.1", port: int = 0) -> int:
        """Begin to serve; return the port."""
        self._server = _Server((host, port), _Line, self)
        threading.Thread(target=self._server.serve_forever, args=(LOOK_SECONDS,), daemon=True).start()
        return int(self._server.server_address[1])

    @property
    def port(self) -> int:
        """Where it listens; 0 when it does not."""
        return 0 if self._server is None else int(self._server.server_address[1])

    def unplug(self) -> None:
        """End every connection and answer nobody, as when its plug is pulled."""
        server, self._server = self._server, None
        if server is not None:
            server.shutdown()
            server.end_all()
            server.server_close()

    @property
    def listened_to(self) -> bool:
        """Whether anybody is connected."""
        return bool(self._listeners)

    def send_all(self, line: bytes) -> None:
        """Send a line to everyone who is connected, asked for or not."""
        for each in list(self._listeners):
            each(line)

    def joins(self, send: Callable[[bytes], None]) -> Callable[[], None]:
        """Let someone listen; return how they leave."""
        self._listeners.append(send)
        return lambda: self._listeners.remove(send)


class _Server(socketserver.ThreadingTCPServer):
    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, address: tuple[str, int], handler: Any, lines: LineServer) -> None:
        super().__init__(address, handler)
        self.lines = lines
        self.open: set[_Line] = set()

    def end_all(self) -> None:
        for each in list(self.open):
            each.end()


class _Line(socketserver.StreamRequestHandler):
    server: _Server

    def setup(self) -> None:
        super().setup()
        self._writing = threading.Lock()
        self.server.open.add(self)

    def handle(self) -> None:
        leave = self.server.lines.joins(self._send)
        try:
            while line := self.rfile.readline(MOST_LINE):
                answer = self.server.lines.answer(line.decode("ascii", "replace"))
                if answer:
                    self._send(answer)
        except OSError:
            pass
        finally:
            leave()
            self.server.open.discard(self)

    def _send(self, line: bytes) -> None:
        try:
            with self._writing:
                self.wfile.write(line)
        except (OSError, ValueError):
            return

    def end(self) -> None:
        """Cut this connection."""
        with contextlib.suppress(OSError):
            self.request.shutdown(socket.SHUT_RDWR)
