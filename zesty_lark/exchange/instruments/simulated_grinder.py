"""The simulated grinder over the wire: a readout, a power meter and a gauge, each a loopback server that speaks lines.

``?`` asks each for its number. The readout also takes what hands do, and answers each with ``ok`` and what is seen, or
with ``no`` and why not: ``part NAME L W T``, ``formed NAME L W STOCK [ETA BODY]``, ``place FACE``, ``touch``, ``ring
MM``, ``collar MM``, ``pass CROSS TABLE``, ``dress MM KIND [MM/S DIAMOND]``, ``wait MIN``, ``lift``, ``clear``, ``loads
TIMES``. The gauge takes ``at X Y`` [mm] from the face's front left corner, and ``press``, its button, which then moves
on to the next of five places.
"""

import random
import threading
from collections.abc import Callable
from dataclasses import dataclass, field

from zesty_lark.core.part.faces import Axis
from zesty_lark.core.simulated.block import Lump
from zesty_lark.core.simulated.machine import GrinderError, PassSeen, SimulatedGrinder
from zesty_lark.core.simulated.truth import Truth, seeded
from zesty_lark.core.simulated.wheel import SimulatedWheel
from zesty_lark.core.wheel.dressing import dress_lead, sharpness_after
from zesty_lark.exchange.instruments.line_server import LineServer

PLACES = ((0.1, 0.1), (0.9, 0.1), (0.5, 0.5), (0.1, 0.9), (0.9, 0.9))
AXES: tuple[Axis, ...] = ("length", "width", "thickness")
MOST_PARTS = 50
LONGEST_MM, FARTHEST_MM, MOST_MINUTES = 600.0, 1000.0, 600.0


@dataclass(frozen=True)
class GrinderSettings:
    """What is on the simulated grinder: wheel [mm], speed [rpm], the collar's graduation [mm], the seed of what is
    hidden, how far its parts are bowed [µm]."""

    diameter_mm: float = 180.0
    width_mm: float = 12.7
    rpm: float = 3000.0
    graduation_mm: float = 0.00254
    seed: int = 1
    bow_um: float = 0.0


@dataclass
class GrinderServer:
    """A simulated grinder that is listened to; each part it was ever given is kept by name, with its surfaces."""

    settings: GrinderSettings = field(default_factory=GrinderSettings)
    truth: Truth | None = None

    def __post_init__(self) -> None:
        self._lock = threading.Lock()
        self.truth = self.truth or seeded(self.settings.seed, bow_um=self.settings.bow_um)
        self.parts: dict[str, Lump] = {}
        at = self.settings
        wheel = SimulatedWheel(at.diameter_mm, at.width_mm, self.truth.g_ratio, self.truth.dulls_mm3_mm)
        self.grinder = SimulatedGrinder(
            self.truth, self._lump("", (88.3, 54.3, 22.26)), wheel, at.rpm, at.graduation_mm, seed=at.seed
        )
        self.place = 0
        self.probe = PLACES[0]
        self.readout = LineServer(self.answer)
        self.meter = LineServer(self._power)
        self.gauge = LineServer(self._size)
        self._hands: dict[str, Callable[[list[str]], str]] = {
            "part": self._part,
            "formed": self._formed,
            "place": lambda words: self._do(self.grinder.place, int(words[0])),
            "touch": lambda words: f"{self.grinder.touch_off():.5f}",
            "ring": lambda words: self._do(self.grinder.rename, _number(words[0], FARTHEST_MM)),
            "collar": lambda words: self._turn(_number(words[0], FARTHEST_MM)),
            "pass": self._pass,
            "dress": self._dress,
            "wait": lambda words: self._do(self.grinder.wait, _number(words[0], MOST_MINUTES)),
            "lift": lambda words: self._do(self.grinder.lift),
            "loads": lambda words: self._loads(_number(words[0], 1000.0)),
            "clear": lambda words: self._do(self.grinder.raise_clear),
        }

    def _lump(self, name: str, sizes: tuple[float, float, float]) -> Lump:
        dice = random.Random(f"{self.settings.seed} {name}")
        assert self.truth is not None
        return Lump.of(dict(zip(AXES, sizes, strict=True)), dice, self.truth.surface_um, self.truth.bow_um)

    def listen(self, host: str = "127.0.0.1", port: int = 0) -> tuple[int, int, int]:
        """Begin to serve on three ports one after another, or three free ones; return them."""
        return tuple(  # type: ignore[return-value]
            each.listen(host, port + number if port else 0)
            for number, each in enumerate((self.readout, self.meter, self.gauge))
        )

    def unplug(self) -> None:
        """End every connection."""
        for each in (self.readout, self.meter, self.gauge):
            each.unplug()

    def answer(self, line: str) -> bytes:
        """Answer a line on the readout's port: its position, or what hands do."""
        words = line.split()
        if not words:
            return b""
        with self._lock:
            if words[0] == "?":
                return b"" if self.grinder.faults.silent else f"Z {self.grinder.readout_mm():+.4f} mm\r\n".encode()
            try:
                return f"ok {self._hands[words[0]](words[1:])}".rstrip().encode() + b"\r\n"
            except KeyError:
                return f"no {words[0][:20]} is nothing that can be done\r\n".encode()
            except (GrinderError, ValueError, IndexError) as error:
                return f"no {error}\r\n".encode()

    @staticmethod
    def _do(act: Callable[..., None], *given: object) -> str:
        act(*given)
        return ""

    def _turn(self, collar_mm: float) -> str:
        self.grinder.turn_to(collar_mm)
        return f"{self.grinder.readout_mm():.4f}"

    def _dress(self, words: list[str]) -> str:
        """So much off the radius; how fast the diamond of a width went across tells how sharp the wheel is then, else
        what kind of dress it was."""
        amount, kind = _number(words[0], 5.0), (*words, "general")[1]
        if len(words) < 4:
            return self._do(self.grinder.dress, amount, kind)
        traverse, diamond = _number(words[2], 1000.0), _number(words[3], 10.0)
        if traverse <= 0 or diamond <= 0:
            raise GrinderError("the diamond does not go across")
        lead = dress_lead(diamond_width_mm=diamond, traverse_mm_s=traverse, wheel_rpm=self.grinder.rpm)
        return self._do(self.grinder.dress, amount, kind, sharpness_after(lead.overlap))

    def _loads(self, times: float) -> str:
        self.grinder.faults.loads = times
        return ""

    def _part(self, words: list[str]) -> str:
        """Another part is taken up; one of a name that was here before is as it was left."""
        name = words[0][:40]
        if name not in self.parts:
            if len(self.parts) >= MOST_PARTS:
                raise GrinderError("there are too many parts already")
            along, across, high = (_number(word, LONGEST_MM) for word in words[1:4])
            self.parts[name] = self._lump(name, (along, across, high))
        return self._taken_up(name)

    def _taken_up(self, name: str) -> str:
        if self.grinder.lump is not self.parts[name]:
            self.grinder.lift()
            self.grinder.lump = self.parts[name]
        return ""

    def _formed(self, words: list[str]) -> str:
        """A slot's wall, an angle or an edge of a part is taken up, as its face 1."""
        name = words[0][:60]
        if name not in self.parts:
            if len(self.parts) >= MOST_PARTS:
                raise GrinderError("there are too many parts already")
            along, across, stock = (_number(word, LONGEST_MM) for word in words[1:4])
            eta = _number(words[4], 1.0) or None if len(words) > 4 else None
            body = _number(words[5], LONGEST_MM**3) or None if len(words) > 5 else None
            dice = random.Random(f"{self.settings.seed} {name}")
            assert self.truth is not None
            self.parts[name] = Lump.formed((along, across), stock, dice, self.truth.surface_um, eta=eta, body_mm3=body)
        return self._taken_up(name)

    def _pass(self, words: list[str]) -> str:
        seen = self.grinder.run_pass(_number(words[0], 500.0), _number(words[1], 2000.0))
        return seen_words(seen)

    def _power(self, line: str) -> bytes:
        if line.strip() != "?" or self.grinder.faults.silent:
            return b""
        with self._lock:
            return f"P {self.grinder.power_w:.1f} W\r\n".encode()

    def _size(self, line: str) -> bytes:
        word, _, rest = line.strip().partition(" ")
        if word == "at":
            x, _, y = rest.partition(" ")
            along, across = self.grinder.lump.lying(self.grinder.up or 1)
            try:
                self.probe = float(x) / along, float(y) / across
            except ValueError:
                return b""
        elif word == "?":
            return self._measured()
        elif word == "press":
            self.press()
        return b""

    def press(self) -> None:
        """Press the gauge's button: its reading goes to everyone who listens, and it moves on to the next place."""
        self.gauge.send_all(self._measured())
        self.place = (self.place + 1) % len(PLACES)
        self.probe = PLACES[self.place]

    def _measured(self) -> bytes:
        with self._lock:
            return f"{self.grinder.measure_mm(*self.probe):.5f} mm\r\n".encode()


def seen_words(seen: PassSeen) -> str:
    """Write what a pass looked like in words for the wire."""
    return (
        f"clean={seen.clean:.3f} side={seen.side or '-'} died={int(seen.died)} power={seen.power_w:.1f} "
        f"contact={seen.contact_c:.0f}"
    )


def _number(word: str, most: float) -> float:
    number = float(word)
    if not abs(number) <= most:
        raise GrinderError(f"{word[:20]} is too much")
    return number
