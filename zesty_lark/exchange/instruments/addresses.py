"""Where readings may come from: serial ports that are ones, and the hosts and ports that the shop's settings name.

Whatever is set down, on whatever path it came, is looked at again when it is opened: an address is no way to reach what
else listens in the shop.
"""

import os
import re
import stat
from dataclasses import dataclass

SHIPPED = "127.0.0.1:8421-8424"
"""Where the simulated gauge and the simulated grinder listen unless they are told otherwise."""
_SOCKET = re.compile(r"socket://([A-Za-z0-9.-]{1,200}|\[[0-9a-f:]{2,45}\]):([0-9]{1,5})")
_SERIAL = re.compile(r"/dev/tty(USB|ACM|S)[0-9]{1,4}")
_BY_ID = re.compile(r"/dev/serial/by-id/[A-Za-z0-9][\w.:-]{0,120}")
_RANGE = re.compile(r"([A-Za-z0-9.-]{1,200}|\[[0-9a-f:]{2,45}\]):([0-9]{1,5})(?:-([0-9]{1,5}))?")


class AddressError(ValueError):
    """It is no address that readings may come from; the message says why and what would be."""


@dataclass(frozen=True)
class Place:
    """An address taken apart: a host and its port, or a serial device."""

    host: str = ""
    port: int = 0
    device: str = ""


def _ranges(told: str) -> list[tuple[str, int, int]]:
    found = []
    for part in re.split(r"[,\s]+", told.strip()):
        parts = _RANGE.fullmatch(part)
        if part and parts is None:
            raise AddressError(f"“{part}” is no host and port: 192.0.2.7:9000, or 192.0.2.7:9000-9003.")
        if parts is not None:
            found.append((parts[1].strip("[]").lower(), int(parts[2]), int(parts[3] or parts[2])))
    return found


_allowed: list[tuple[str, int, int]] = _ranges(SHIPPED)


def allow(told: str) -> None:
    """Let readings come from these hosts and ports, and no others: ``host:port`` or ``host:from-to``, apart by commas.

    Raises
    ------
    AddressError
        If one is none.
    """
    _allowed[:] = _ranges(told)


def allowed_words() -> str:
    """Return the hosts and ports that readings may come from, in words."""
    return ", ".join(f"{host}:{low}" if low == high else f"{host}:{low}-{high}" for host, low, high in _allowed)


def place_of(address: str) -> Place:
    """Take an address apart, if readings may come from there.

    Raises
    ------
    AddressError
        If it is of a kind that is not read, or a host or port that the settings do not name.
    """
    match = _SOCKET.fullmatch(address)
    if match is not None:
        host, port = match[1].strip("[]").lower(), int(match[2])
        if not any(host == each and low <= port <= high for each, low, high in _allowed):
            raise AddressError(
                f"Readings come from {allowed_words() or 'no host'} only. Whoever looks after this server adds others "
                "with LARK_GAUGE_HOSTS."
            )
        return Place(host, port)
    if _SERIAL.fullmatch(address) or _BY_ID.fullmatch(address):
        return Place(device=address)
    raise AddressError(
        "This is no address readings come from: /dev/ttyUSB0, /dev/serial/by-id/… or socket://host:port. Other kinds "
        "are not read."
    )


def reachable(address: str) -> Place:
    """Take an address apart as it is opened: a serial device is one, by whatever name it goes.

    Raises
    ------
    AddressError
        As ``place_of``; or if there is no such device, or it is something else.
    """
    place = place_of(address)
    if not place.device:
        return place
    device = os.path.realpath(place.device)
    if not _SERIAL.fullmatch(device):
        raise AddressError("It is not plugged in, or is no serial port.")
    try:
        kind = os.stat(device).st_mode
    except OSError as error:
        raise AddressError("It is not plugged in.") from error
    if not stat.S_ISCHR(kind):
        raise AddressError("What is there is no serial port.")
    return Place(device=device)
