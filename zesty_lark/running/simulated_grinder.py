"""The simulated grinder as a command: it listens on three ports, and its keyboard is its handwheels."""

import signal
import sys
import threading
from collections.abc import Callable, Mapping

from zesty_lark.core.measure.sensors import GRINDER_PORT
from zesty_lark.exchange.instruments.simulated_grinder import GrinderServer, GrinderSettings

KEYS = (
    "Enter presses the gauge's button; part NAME L W T, place FACE, touch, ring MM, collar MM, pass CROSS TABLE, "
    "dress MM KIND, wait MIN, lift, clear, loads TIMES, at X Y, quit"
)


def run_grinder(port: int | None, on: Mapping[str, float], say: Callable[[str], None]) -> int:
    """Run the grinder until it is told to stop; return the exit code."""
    made = GrinderServer(
        GrinderSettings(on["diameter"], on["width"], on["rpm"], on["graduation"], int(on["seed"]), on["bow"])
    )
    asked = GRINDER_PORT if port is None else port
    try:
        ports = made.listen(port=asked)
    except OSError as error:
        made.unplug()
        say(f"ports {asked} to {asked + 2} cannot be listened on ({error.strerror or error}); give --port another")
        return 1
    for name, listens in zip(("readout", "power meter", "gauge"), ports, strict=True):
        say(f"the simulated grinder's {name} listens on socket://127.0.0.1:{listens}")
    say(KEYS)
    ended = threading.Event()
    for each in (signal.SIGTERM, signal.SIGINT):
        signal.signal(each, lambda *_: ended.set())
    threading.Thread(target=_keyboard, args=(made, ended, say), daemon=True).start()
    ended.wait()
    made.unplug()
    return 0


def _keyboard(made: GrinderServer, ended: threading.Event, say: Callable[[str], None]) -> None:
    """Follow the keyboard; without one the grinder runs until it is stopped."""
    for line in sys.stdin:
        word = line.strip().lower()
        if word == "quit":
            ended.set()
        elif not word:
            made.press()
        elif word.startswith("at "):
            made.gauge.answer(line)
        else:
            say(made.answer(line).decode("ascii", "replace").strip() or KEYS)
