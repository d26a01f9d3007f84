"""A gauge on a serial port or an address: its lines one by one, and plain words for what goes wrong.

A reading is only ever what a whole line said; a line that was cut short is waited for, and never guessed. A line that
nobody asked for was sent with the gauge's own button, and is to be taken.
"""

import contextlib
import errno
import time
from collections.abc import Iterator
from dataclasses import dataclass
from decimal import Decimal
from types import TracebackType

import serial

from zesty_lark.core.measure.instruments import Instrument
from zesty_lark.core.measure.sensors import Sensor
from zesty_lark.core.measure.signal import LONGEST, Fault, SignalError, read_line, read_sensor
from zesty_lark.exchange.instruments.addresses import AddressError, reachable

WAIT_SECONDS = 0.25
PAUSE_SECONDS = 0.12
"""Between two questions, so that what the button sends meanwhile is told from an answer."""
SILENT_SECONDS = 3.0
"""A gauge that was asked and says nothing for so long is told of."""
WRITE_SECONDS = 1.0
MOST_A_SECOND, AT_ONCE = 20, 10
"""So many lines a second are passed on, and so many in one go after a pause: no hand presses a button quicker."""


@dataclass(frozen=True)
class Event:
    """What a gauge has to say: a value [mm], of a power meter [W], taken with its own button or only shown; or a fault.
    ``line`` is what it sent."""

    value_mm: Decimal | None = None
    pressed: bool = False
    fault: Fault | None = None
    words: str = ""
    line: str = ""


class GaugePort:
    """A gauge's port, or that of a machine's readout or power meter, open as long as the ``with`` lasts.

    Parameters
    ----------
    gauge : Instrument or Sensor
        With a ``port`` that readings may come from (``addresses``).

    Raises
    ------
    SignalError
        "unplugged", when it cannot be opened.
    """

    def __init__(self, gauge: Instrument | Sensor) -> None:
        self.gauge = gauge
        self._rest = b""
        self._last = time.monotonic()
        self._asked = self._cut = False
        self._room, self._counted = float(AT_ONCE), time.monotonic()

    def __enter__(self) -> "GaugePort":
        assert self.gauge.port is not None
        try:
            place = reachable(self.gauge.port)
            self._port = serial.serial_for_url(
                place.device or self.gauge.port,
                baudrate=self.gauge.baud,
                timeout=PAUSE_SECONDS,
                write_timeout=WRITE_SECONDS,
                do_not_open=True,
            )
            with contextlib.suppress(AttributeError, ValueError):
                self._port.exclusive = True
            self._port.open()
        except AddressError as error:
            raise SignalError("unplugged", f"{self.gauge.name} cannot be reached. {error}") from error
        except (serial.SerialException, OSError, ValueError) as error:
            raise SignalError("unplugged", f"{self.gauge.name} cannot be reached: {_why(error)}") from error
        self._last = time.monotonic()
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        with contextlib.suppress(serial.SerialException, OSError):
            self._port.close()

    def events(self) -> Iterator[Event]:
        """Yield what the gauge says, at least a few times a second; an empty event when it says nothing."""
        while True:
            try:
                line = self._line(PAUSE_SECONDS if self.gauge.asks and not self._asked else WAIT_SECONDS)
                if line is None and self.gauge.asks and not self._asked:
                    self._port.write(f"{self.gauge.asks}\r\n".encode())
                    self._asked = True
                    line = self._line(WAIT_SECONDS)
            except (serial.SerialException, OSError) as error:
                yield Event(fault="unplugged", words=f"{self.gauge.name} was unplugged: {_why(error)}")
                return
            if line is not None and not self._passes():
                self._skip()
                continue
            yield self._said(line)

    def _passes(self) -> bool:
        """Whether one line more may be passed on: so many a second, and a few at once."""
        now = time.monotonic()
        self._room = min(AT_ONCE, self._room + (now - self._counted) * MOST_A_SECOND)
        self._counted = now
        if self._room < 1:
            return False
        self._room -= 1
        return True

    def _skip(self) -> None:
        """It chatters: what has come is dropped, and what it says a moment later is the newest."""
        time.sleep(1 / MOST_A_SECOND)
        with contextlib.suppress(serial.SerialException, OSError):
            self._port.reset_input_buffer()
        self._rest, self._cut = b"", True

    def _line(self, seconds: float) -> bytes | None:
        """The next whole line; ``None`` when none came in time."""
        until = time.monotonic() + seconds
        while b"\n" not in self._rest:
            if len(self._rest) > LONGEST * 4:
                line, self._rest = self._rest, b""
                return line
            came = self._port.read(max(1, min(self._port.in_waiting or 1, LONGEST)))
            self._rest += came
            if not came and time.monotonic() > until:
                return None
        line, _, self._rest = self._rest.partition(b"\n")
        if self._cut:  # the end of a line whose beginning was dropped
            self._cut = False
            return self._line(seconds)
        return line

    def _said(self, line: bytes | None) -> Event:
        if line is None:
            quiet = time.monotonic() - self._last > SILENT_SECONDS
            if self.gauge.asks and quiet:
                self._asked, self._last = False, time.monotonic()
                return Event(fault="silent", words=f"{self.gauge.name} does not answer. Is it switched on?")
            return Event()
        self._last = time.monotonic()
        pressed = not self._asked and not self.gauge.streams
        self._asked = False
        shown = line.decode("utf-8", "replace").strip()[:LONGEST]
        try:
            value = read_sensor(line, self.gauge) if isinstance(self.gauge, Sensor) else read_line(line, self.gauge)
        except SignalError as error:
            return Event(pressed=pressed, fault=error.fault, words=str(error), line=shown)
        return Event(value, pressed, line=shown)


def _why(error: Exception) -> str:
    """Why a port cannot be opened or read, in words of ours: what a driver says may tell what else there is."""
    number = getattr(error, "errno", None) or getattr(error.__cause__ or error.__context__, "errno", None)
    if number == errno.EACCES:
        return "this server may not open its port."
    if number in (errno.EBUSY, errno.EAGAIN):
        return "something else has its port open."
    return "nothing answers. Is it plugged in and switched on?"
