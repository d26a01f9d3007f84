"""Entries of the shop log, a type for each thing that happens. Nothing logged is ever changed: a correction takes back.

Lengths are in mm, times in UTC. An entry's id is made by whoever sends it; sent again, it logs nothing.
"""

import re
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from enum import StrEnum
from typing import ClassVar, Literal, TypeAlias

from zesty_lark.core.sizes import Reading, Verdict, corrected
from zesty_lark.core.units import micrometres
from zesty_lark.core.work.plans import PlanSteps
from zesty_lark.core.work.prints import THICKNESS

__all__ = [
    "ENTRY_ID",
    "ENTRY_TYPES",
    "PART_WARM",
    "Amended",
    "AtMachine",
    "Dressed",
    "Ended",
    "Entry",
    "HandedOver",
    "Kind",
    "LeftMachine",
    "Measured",
    "Noted",
    "PieceEnd",
    "Place",
    "Placed",
    "PassFed",
    "Planned",
    "Prepared",
    "Released",
    "Rerouted",
    "RouteChange",
    "SignedOff",
    "SparkedOut",
    "StepDone",
    "StepSkipped",
    "SurfaceDone",
    "TakenIn",
    "TouchedOff",
    "Undone",
    "Waived",
]

ENTRY_ID = re.compile(r"[A-Za-z0-9-]{8,36}")
"""What an entry's id looks like, by whatever door it comes in."""
PART_WARM = "part still warm"
"""The note of a measurement taken on a part that had not cooled."""
PieceEnd = Literal["scrapped", "passed"]
RouteChange = Literal["skip", "first", "grind"]
"""A set-up is left out; it comes next; a surface is ground again, or as well although no set-up had it up."""
Place: TypeAlias = tuple[str, int, int]
"""Set-up, load and surface."""


class Kind(StrEnum):
    """What happened."""

    TAKEN_IN = "taken in"
    AMENDED = "amended"
    HANDED_OVER = "handed over"
    PLANNED = "planned"
    PLACED = "placed"
    TOUCHED_OFF = "touched off"
    PASS = "pass"
    SPARK_OUT = "spark-out"
    DRESSED = "dressed"
    DONE = "done"
    SKIPPED = "skipped"
    NOTE = "note"
    MEASURED = "measured"
    SURFACE_DONE = "face done"
    LEFT = "left"
    REROUTED = "rerouted"
    ENDED = "ended"
    UNDONE = "undone"
    WAIVED = "waived"
    PREPARED = "prepared"
    RELEASED = "released"
    SIGNED_OFF = "signed off"


@dataclass(frozen=True, kw_only=True)
class Entry:
    """One line of the log: who did it and when, and what they said of it; and who read it in and when, if it was not
    lived here."""

    kind: ClassVar[Kind]
    entry_id: str
    at: datetime
    by: str = ""
    seq: int = 0
    machine: str | None = None
    note: str = ""
    read_in_by: str = ""
    read_in_at: datetime | None = None

    @property
    def takes_back(self) -> str | None:
        """The entry that this one takes back."""
        return None


class TakenIn(Entry):
    """The part was taken in."""

    kind = Kind.TAKEN_IN


class Amended(Entry):
    """What was taken in was changed; the note says what."""

    kind = Kind.AMENDED


class HandedOver(Entry):
    """The job has another owner."""

    kind = Kind.HANDED_OVER


class Noted(Entry):
    """A note."""

    kind = Kind.NOTE


class SignedOff(Entry):
    """The job is finished."""

    kind = Kind.SIGNED_OFF


@dataclass(frozen=True, kw_only=True)
class Undone(Entry):
    """Another entry is taken back, by its id."""

    kind = Kind.UNDONE
    supersedes: str

    @property
    def takes_back(self) -> str | None:
        """The entry that this one takes back."""
        return self.supersedes


@dataclass(frozen=True, kw_only=True)
class AtMachine(Entry):
    """Something done at the machine: on which surface, in which set-up and load. Without a set-up the one at work is
    meant."""

    surface: int
    setup: str = ""
    load: int = 0

    @property
    def place(self) -> Place:
        """Set-up, load and surface."""
        return self.setup, self.load, self.surface


@dataclass(frozen=True, kw_only=True)
class Planned(AtMachine):
    """A plan was released for a load, which is made by it: ``pieces`` are put up together."""

    kind = Kind.PLANNED
    plan: PlanSteps
    pieces: tuple[int, ...] = ()


class Placed(AtMachine):
    """The load is up, this surface uppermost."""

    kind = Kind.PLACED


@dataclass(frozen=True, kw_only=True)
class TouchedOff(AtMachine):
    """The wheel met the highest piece of the load with the collar at this reading."""

    kind = Kind.TOUCHED_OFF
    reading_mm: Decimal


@dataclass(frozen=True, kw_only=True)
class PassFed(AtMachine):
    """A pass with the collar fed down to this reading."""

    kind = Kind.PASS
    reading_mm: Decimal


@dataclass(frozen=True, kw_only=True)
class SparkedOut(AtMachine):
    """Passes without feed."""

    kind = Kind.SPARK_OUT
    count: int = 1


@dataclass(frozen=True, kw_only=True)
class Dressed(AtMachine):
    """The wheel was dressed; what came off its radius, ``None`` when nobody knows."""

    kind = Kind.DRESSED
    amount_mm: Decimal | None = None


@dataclass(frozen=True, kw_only=True)
class StepDone(AtMachine):
    """A step of the plan that is only said to be done."""

    kind = Kind.DONE
    step: int


@dataclass(frozen=True, kw_only=True)
class StepSkipped(AtMachine):
    """A step of the plan that was not done; the note says why."""

    kind = Kind.SKIPPED
    step: int


@dataclass(frozen=True, kw_only=True)
class SurfaceDone(AtMachine):
    """The surface is done on these pieces; without any, on all of the load."""

    kind = Kind.SURFACE_DONE
    pieces: tuple[int, ...] = ()


class LeftMachine(AtMachine):
    """The load was taken off before it was done; the note says why."""

    kind = Kind.LEFT


@dataclass(frozen=True, kw_only=True)
class Rerouted(Entry):
    """The route is left: a set-up skipped or taken next, a surface ground again. The note says why."""

    kind = Kind.REROUTED
    change: RouteChange
    setup: str = ""
    surface: int | None = None
    pieces: tuple[int, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Measured(Entry):
    """A characteristic of a piece was measured.

    Attributes
    ----------
    surface : int or None
        The surface that was up or had just been, where that matters.
    part_c, gauge_c, room_c : Decimal
        The part's temperature, the gauge's or its master's, the room's [°C].
    uncertainty_mm : Decimal
        U of each reading, k = 2.
    verdict : Verdict or None
        ``None`` where the print asks nothing of it yet.
    how : str
        How it was measured, where not read straight off: against which stack, by reversal, with which rolls.
    map_key : str or None
        The map it was read from.
    asked_mm, got_mm : Decimal
        Since the measurement before: what was fed down, what the size lost.
    """

    kind = Kind.MEASURED
    characteristic: str = THICKNESS
    piece: int = 1
    surface: int | None = None
    setup: str = ""
    load: int = 0
    readings: tuple[Reading, ...] = ()
    instrument: str | None = None
    part_c: Decimal | None = None
    gauge_c: Decimal | None = None
    room_c: Decimal | None = None
    uncertainty_mm: Decimal = Decimal(0)
    verdict: Verdict | None = None
    asked_mm: Decimal | None = None
    got_mm: Decimal | None = None
    how: str = ""
    map_key: str | None = None

    @property
    def true_readings(self) -> tuple[Reading, ...]:
        """The readings as gauge and part would have them at one temperature, where the part's was taken."""
        if self.part_c is None:
            return self.readings
        return tuple(corrected(reading, self.part_c, self.gauge_c, self.room_c) for reading in self.readings)

    @property
    def greatest_mm(self) -> Decimal:
        """The largest of a measurement, its warmth taken out [mm]."""
        return max(reading.value_mm for reading in self.true_readings)

    @property
    def least_mm(self) -> Decimal:
        """The smallest of a measurement, its warmth taken out [mm]."""
        return min(reading.value_mm for reading in self.true_readings)

    @property
    def um(self) -> float:
        """The largest of a deviation or a roughness [µm]."""
        return micrometres(self.greatest_mm)

    @property
    def u_um(self) -> float:
        """U in micrometres [µm]."""
        return micrometres(self.uncertainty_mm)

    @property
    def spread_mm(self) -> Decimal:
        """Greatest less least of a measurement [mm]."""
        return self.greatest_mm - self.least_mm


@dataclass(frozen=True, kw_only=True)
class Waived(Entry):
    """A lead does without a verdict on a characteristic, of one piece or of all; the note says why."""

    kind = Kind.WAIVED
    characteristic: str
    piece: int | None = None


@dataclass(frozen=True, kw_only=True)
class Prepared(AtMachine):
    """Something of the list before the touch-off was done, and what was felt or seen where that is asked."""

    kind = Kind.PREPARED
    item: str
    answer: str = ""


@dataclass(frozen=True, kw_only=True)
class Released(Entry):
    """A lead lets a set-up go on with a caution, named by its check; the note says why."""

    kind = Kind.RELEASED
    setup: str
    item: str


@dataclass(frozen=True, kw_only=True)
class Ended(Entry):
    """A lead scraps a piece or passes it as it is; the note says why."""

    kind = Kind.ENDED
    piece: int
    end: PieceEnd


ENTRY_TYPES: dict[Kind, type[Entry]] = {
    each.kind: each
    for each in (
        TakenIn,
        Amended,
        HandedOver,
        Planned,
        Placed,
        Prepared,
        Released,
        TouchedOff,
        PassFed,
        SparkedOut,
        Dressed,
        StepDone,
        StepSkipped,
        Noted,
        Measured,
        SurfaceDone,
        LeftMachine,
        Rerouted,
        Ended,
        Undone,
        Waived,
        SignedOff,
    )
}
