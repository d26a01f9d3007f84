"""What a shop measures with: gauges, how they are connected, and sets of gauge blocks."""

import re
from collections.abc import Mapping
from datetime import date
from decimal import Decimal, InvalidOperation
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator
from pydantic.dataclasses import dataclass as checked

from zesty_lark.core.block_sets import block_set
from zesty_lark.core.kept_types import STRICT, Amount, Contradictions, Extent, Name, Resolved, UnitName, refuse

Reads = Literal["sizes", "deviations"]
READS: dict[Reads, str] = {
    "sizes": "Sizes, such as a micrometer",
    "deviations": "Deviations, such as a lever indicator",
}
Sends = Literal["mm", "in", "um"]
SENDS: dict[Sends, str] = {"mm": "mm", "in": "inches", "um": "µm"}
PORT = re.compile(r"socket://[^\s/]+:\d{1,5}|/dev/tty(USB|ACM|S)\d{1,4}|/dev/serial/by-id/[\w.:-]+")
"""What an address that readings may come from looks like: a serial port, or a host and a port. Others are not read."""
BlockSetName = Literal["inch81", "metric47", "metric88", "own"]
BLOCK_SETS: dict[BlockSetName, str] = {
    "inch81": "81 pieces, inch",
    "metric47": "47 pieces, metric",
    "metric88": "88 pieces, metric",
    "own": "a list of its own",
}
MOST_BLOCKS = 300
GAUGE_PORT = 8421
"""Where the simulated gauge listens unless it is told otherwise."""


def instrument_contradictions(of: Mapping[str, Any]) -> Contradictions:
    """Return what of an instrument does not go together, by field, in words."""
    said: Contradictions = {}
    if of["most_mm"] <= of["least_mm"]:
        said["most_mm"] = "The range ends before it begins."
    if of["due_on"] < of["calibrated_on"]:
        said["due_on"] = "It cannot be due before it was calibrated."
    port = of.get("port") or ""
    if port and not PORT.fullmatch(port):
        said["port"] = "This is no address readings come from: /dev/ttyUSB0, /dev/serial/by-id/… or socket://host:port."
    if of.get("simulated") and not port.startswith("socket://127.0.0.1:"):
        said["simulated"] = "The simulated gauge listens on this machine: socket://127.0.0.1: and its port."
    return said


@checked(frozen=True, config=STRICT)
class Instrument:
    """An instrument: its range and what it brings to the uncertainty [mm], calibrated and due when.

    Attributes
    ----------
    reads : {"sizes", "deviations"}
        A lever indicator reads deviations from where it was set.
    port : str or None
        Where its readings come from, as a serial port or an address; ``None`` when they are typed.
    baud : int
    sends : {"mm", "in", "um"}
        The unit of its numbers; a line that says another is refused.
    asks : str
        What is sent to make it send; empty when it sends by itself: each time its button is pressed, or all the time.
    streams : bool
        It sends all the time: what it sends is shown, and taken by a key.
    falls : bool
        Its reading falls when the surface rises.
    simulated : bool
        It is the simulated gauge, which is told where its probe stands.
    """

    name: Name
    unit: UnitName
    least_mm: Amount
    most_mm: Extent
    resolution_mm: Resolved
    error_limit_mm: Amount
    calibration_u_mm: Amount
    repeatability_mm: Amount
    calibrated_on: date
    due_on: date
    reads: Reads = "sizes"
    port: Annotated[str, Field(max_length=200)] | None = None
    baud: Annotated[int, Field(ge=50, le=4_000_000)] = 9600
    sends: Sends = "mm"
    asks: Annotated[str, Field(max_length=20)] = ""
    falls: bool = False
    simulated: bool = False
    streams: bool = False

    @model_validator(mode="after")
    def _goes_together(self) -> "Instrument":
        refuse(self, instrument_contradictions)
        return self

    @property
    def travel_mm(self) -> Decimal:
        """How far it can read from where it was set [mm]."""
        return self.most_mm - self.least_mm


def block_sizes(text: str) -> tuple[Decimal, ...]:
    """Read a list of block sizes as people write it, apart by blanks or commas.

    Raises
    ------
    ValueError
        If a word is no size.
    """
    sizes = []
    for word in re.split(r"[\s,;]+", text.strip()):
        if not word:
            continue
        try:
            size = Decimal(word)
        except InvalidOperation:
            size = Decimal(0)
        if not size.is_finite() or not 0 < size <= 1000 or size != round(size, 5):
            raise ValueError(f"“{word[:20]}” is no size of a block.")
        sizes.append(size)
    if len(sizes) > MOST_BLOCKS:
        raise ValueError(f"A set has {MOST_BLOCKS} blocks at most.")
    return tuple(sizes)


def block_contradictions(of: Mapping[str, Any]) -> Contradictions:
    """Return what of a block set does not go together, by field, in words."""
    said: Contradictions = {}
    lists: dict[str, tuple[Decimal, ...]] = {}
    for field in ("blocks", "missing", "worn"):
        try:
            lists[field] = block_sizes(of[field])
        except ValueError as error:
            said[field] = str(error)
    if of["set_name"] == "own" and not lists.get("blocks"):
        said.setdefault("blocks", "Which blocks are in it?")
    own_unit = "in" if of["set_name"] == "inch81" else "mm"
    if of["set_name"] != "own" and of["unit"] != own_unit:
        said["unit"] = f"That set is in {'inches' if own_unit == 'in' else 'mm'}."
    if not said:
        known = lists["blocks"] if of["set_name"] == "own" else block_set(of["set_name"])
        for field in ("missing", "worn"):
            strange = [size for size in lists[field] if size not in known]
            if strange:
                said[field] = f"The set has no block of {strange[0].normalize():f}."
    if of["due_on"] < of["calibrated_on"]:
        said["due_on"] = "It cannot be due before it was calibrated."
    return said


@checked(frozen=True, config=STRICT)
class BlockSet:
    """A set of gauge blocks: a built-in set or a list of its own, in its unit; which are missing and which are worn;
    U of a block, k = 2 [µm]; calibrated and due when."""

    name: Name
    unit: UnitName
    set_name: BlockSetName
    u_um: Annotated[Decimal, Field(gt=0, le=50, max_digits=6, decimal_places=3, allow_inf_nan=False)]
    calibrated_on: date
    due_on: date
    blocks: Annotated[str, Field(max_length=4000)] = ""
    missing: Annotated[str, Field(max_length=4000)] = ""
    worn: Annotated[str, Field(max_length=4000)] = ""

    @model_validator(mode="after")
    def _goes_together(self) -> "BlockSet":
        refuse(self, block_contradictions)
        return self

    @property
    def usable(self) -> tuple[Decimal, ...]:
        """The sizes that are neither missing nor worn, in its unit."""
        whole = list(block_sizes(self.blocks) if self.set_name == "own" else block_set(self.set_name))
        for size in (*block_sizes(self.missing), *block_sizes(self.worn)):
            if size in whole:
                whole.remove(size)
        return tuple(whole)
