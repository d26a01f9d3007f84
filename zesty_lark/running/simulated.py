"""The simulated gauge as a command: it listens, and its keyboard is its button and its plug."""

import signal
import sys
import threading
from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

from zesty_lark.core.measure.instruments import GAUGE_PORT
from zesty_lark.core.simulated.hidden import SHAPES
from zesty_lark.exchange.instruments.simulated import SimulatedGauge, Trim

KEYS = "Enter presses its button; unplug, plug, dirty, clean, silent, speak, garble, mm, in, um, quit"


def run_gauge(port: int | None, trim: Mapping[str, Any], say: Callable[[str], None]) -> int:
    """Run the gauge until it is told to stop; return the exit code."""
    shape = SHAPES.get(str(trim["surface"]))
    if shape is None:
        say(f"there is no such surface; one of {', '.join(SHAPES)}")
        return 2
    surface = replace(shape, length_mm=trim["length"], width_mm=trim["width"])
    made = SimulatedGauge(
        surface,
        Trim(trim["resolution"], trim["noise"], trim["drift"], trim["unit"], bool(trim["dirty"])),
        int(trim["seed"]),
    )
    asked = GAUGE_PORT if port is None else port
    try:
        listens = made.listen(port=asked)
    except OSError as error:
        say(f"port {asked} cannot be listened on ({error.strerror or error}); give --port another, or 0")
        return 1
    say(f"the simulated gauge listens on socket://127.0.0.1:{listens}")
    say(KEYS)
    ended = threading.Event()
    for each in (signal.SIGTERM, signal.SIGINT):
        signal.signal(each, lambda *_: ended.set())
    threading.Thread(target=_keyboard, args=(made, listens, ended, say), daemon=True).start()
    ended.wait()
    made.unplug()
    return 0


def _keyboard(gauge: SimulatedGauge, port: int, ended: threading.Event, say: Callable[[str], None]) -> None:
    """Follow the keyboard; without one the gauge runs until it is stopped."""
    words: dict[str, Callable[[], object]] = {
        "": gauge.press,
        "unplug": gauge.unplug,
        "plug": lambda: gauge.listen(port=port),
        "dirty": lambda: gauge.answer("dirty on"),
        "clean": lambda: gauge.answer("dirty off"),
        "silent": lambda: gauge.answer("silent on"),
        "speak": lambda: gauge.answer("silent off"),
        "garble": lambda: gauge.answer("garble"),
        "mm": lambda: gauge.answer("unit mm"),
        "in": lambda: gauge.answer("unit in"),
        "um": lambda: gauge.answer("unit um"),
        "quit": ended.set,
    }
    for line in sys.stdin:
        act = words.get(line.strip().lower())
        if act is None:
            say(KEYS)
        else:
            act()
