"""Readings come from serial ports and from the hosts that the settings name; an address reaches nothing else."""

import os
from collections.abc import Iterator
from pathlib import Path

import pytest

from zesty_lark.exchange.instruments import addresses
from zesty_lark.exchange.instruments.addresses import AddressError, Place, allow, place_of, reachable


@pytest.fixture(autouse=True)
def named() -> Iterator[None]:
    allow("127.0.0.1:8421-8424, gauges.shop:9000")
    yield
    allow("127.0.0.1:1-65535")


@pytest.mark.parametrize(
    ("address", "place"),
    [
        ("socket://127.0.0.1:8421", Place("127.0.0.1", 8421)),
        ("socket://127.0.0.1:8424", Place("127.0.0.1", 8424)),
        ("socket://Gauges.Shop:9000", Place("gauges.shop", 9000)),
        ("/dev/ttyUSB0", Place(device="/dev/ttyUSB0")),
        ("/dev/ttyACM12", Place(device="/dev/ttyACM12")),
        ("/dev/serial/by-id/usb-Gauge_1-if00-port0", Place(device="/dev/serial/by-id/usb-Gauge_1-if00-port0")),
    ],
)
def test_what_is_named_may_be_read_from(address: str, place: Place) -> None:
    assert place_of(address) == place


@pytest.mark.parametrize(
    "address",
    [
        "socket://127.0.0.1:8425", "socket://127.0.0.1:3306", "socket://127.0.0.1:08421x", "socket://localhost:8421",
        "socket://192.0.2.1:8421", "socket://127.0.0.1:8421/?logging=debug", "socket://gauges.shop:9001", "socket://",
        "socket://127.0.0.1@192.0.2.1:8421", "rfc2217://127.0.0.1:8421", "loop://?logging=debug", "hwgrep://.*",
        "spy:///dev/ttyUSB0?file=/tmp/x", "alt:///dev/ttyUSB0?class=os", "cp2110://", "COM3", "/dev/pts/0", "/dev/mem",
        "/dev/ttyUSB0/../mem", "/dev/tty1", "/dev/serial/by-id/../../mem", "/dev/serial/by-id/..", "/etc/passwd", "",
        "http://127.0.0.1:8421", "/dev/ttyUSB0\n", "socket://127.0.0.1:8421\n",
    ],
)  # fmt: skip
def test_nothing_else_is(address: str) -> None:
    for asks in (place_of, reachable):
        with pytest.raises(AddressError):
            asks(address)


def test_a_name_that_leads_to_something_else_is_not_opened(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A symlink among the names of serial ports may lead anywhere."""
    where = {"/dev/serial/by-id/a": "/dev/mem", "/dev/serial/by-id/b": "/dev/ttyUSB7", "/dev/ttyS0": "/dev/pts/0"}
    monkeypatch.setattr(os.path, "realpath", lambda path: where.get(path, path))
    for each in ("/dev/serial/by-id/a", "/dev/ttyS0", "/dev/serial/by-id/b"):
        with pytest.raises(AddressError):
            reachable(each)
    real = os.stat
    for kind, good in (("/dev/null", True), (str(tmp_path), False)):
        monkeypatch.setattr(os, "stat", lambda path, kind=kind: real(kind if path == "/dev/ttyUSB7" else path))
        if good:
            assert reachable("/dev/serial/by-id/b") == Place(device="/dev/ttyUSB7")
        else:
            with pytest.raises(AddressError, match="no serial port"):
                reachable("/dev/serial/by-id/b")


@pytest.mark.parametrize("told", ["127.0.0.1", "socket://h:1", "h:x", "h:1-", "h:1;h:2"])
def test_a_setting_that_is_none_is_refused(told: str) -> None:
    with pytest.raises(AddressError, match="is no host and port"):
        allow(told)
    assert addresses.allowed_words() == "127.0.0.1:8421-8424, gauges.shop:9000"


def test_with_none_named_nothing_is_read_from_a_host() -> None:
    allow("")
    with pytest.raises(AddressError, match="no host only"):
        place_of("socket://127.0.0.1:8421")
