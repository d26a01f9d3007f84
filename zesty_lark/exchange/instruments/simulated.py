"""The simulated gauge: a loopback server with a probe over a hidden surface.

It speaks lines. ``?`` is answered with the height under the probe; ``at X Y`` moves the probe [mm]; ``press`` is its
button, which sends a line to everyone who listens; ``unplug`` ends every connection and refuses new ones until ``plug``
comes from the keyboard; ``dirty on|off``, ``unit mm|in|um``, ``garble``, ``silent on|off`` make it go wrong.
"""

import random
import threading
from dataclasses import dataclass, field

from zesty_lark.core.simulated.hidden import HiddenSurface
from zesty_lark.exchange.instruments.line_server import LineServer

UM = {"mm": 1e-3, "in": 1e-3 / 25.4, "um": 1.0}
DIGITS = {"mm": 5, "in": 7, "um": 2}
DIRT_UM = 6.0


@dataclass
class Trim:
    """How the gauge is set: resolution, noise (one standard deviation) and drift a reading [µm], the unit it sends, and
    what is wrong with it."""

    resolution_um: float = 0.1
    noise_um: float = 0.05
    drift_um: float = 0.0
    unit: str = "mm"
    dirty: bool = False
    silent: bool = False
    garbled: int = 0


@dataclass
class SimulatedGauge:
    """A gauge over a hidden surface. Everything random comes from the seed; ``sent`` counts its readings."""

    surface: HiddenSurface
    trim: Trim = field(default_factory=Trim)
    seed: int = 1
    at: tuple[float, float] = (0.0, 0.0)
    sent: int = 0
    pressed: int = 0

    def __post_init__(self) -> None:
        self._random = random.Random(self.seed)
        self._lock = threading.Lock()
        self._lines = LineServer(self.answer)

    @property
    def true_um(self) -> float:
        """The hidden height under the probe [µm]."""
        return self.surface.height_um(*self.at)

    def reading(self) -> str:
        """Return the number as the gauge shows it now."""
        with self._lock:
            trim, self.sent = self.trim, self.sent + 1
            um = self.true_um + trim.drift_um * self.sent + self._random.gauss(0, trim.noise_um)
            if trim.dirty:
                um += abs(self._random.gauss(0, DIRT_UM))
            um = round(um / trim.resolution_um) * trim.resolution_um
            return f"{um * UM[trim.unit]:+.{DIGITS[trim.unit]}f} {trim.unit}"

    def press(self) -> None:
        """Press the gauge's own button: a reading goes to everyone who listens."""
        self.pressed += 1
        self._lines.send_all(self._line() + b"\r\n")

    def _line(self) -> bytes:
        if self.trim.garbled > 0:
            self.trim.garbled -= 1
            return b"\x7f#.#.3"
        return self.reading().encode()

    def answer(self, line: str) -> bytes:
        """Answer a line; nothing for what only moves or sets something."""
        word, _, rest = line.strip().partition(" ")
        if word == "?":
            return b"" if self.trim.silent else self._line() + b"\r\n"
        self._set(word, rest)
        return b""

    def _set(self, word: str, rest: str) -> None:
        if word == "at":
            x, _, y = rest.partition(" ")
            try:
                self.at = float(x), float(y)
            except ValueError:
                return
        elif word == "press":
            self.press()
        elif word == "dirty":
            self.trim.dirty = rest != "off"
        elif word == "silent":
            self.trim.silent = rest != "off"
        elif word == "garble":
            self.trim.garbled = 1
        elif word == "unit" and rest in UM:
            self.trim.unit = rest
        elif word == "unplug":
            self.unplug()

    def listen(self, host: str = "127.0.0.1", port: int = 0) -> int:
        """Begin to serve; return the port."""
        return self._lines.listen(host, port)

    def unplug(self) -> None:
        """End every connection and answer nobody, as when its plug is pulled."""
        self._lines.unplug()

    @property
    def listened_to(self) -> bool:
        """Whether anybody is connected."""
        return self._lines.listened_to
