"""Entries of the shop log, a type for each thing that happens. Nothing logged is ever changed: a correction takes back.

Lengths are in mm, times in UTC. An entry's id is made by whoever sends it; sent again, it logs nothing.
"""

from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from zesty_lark.core.part.prints import THICKNESS
from zesty_lark.core.part.sizes import Reading, Verdict, corrected
from zesty_lark.core.quantities.units import micrometres
from zesty_lark.core.work.entry import Entry, Kind
from zesty_lark.core.work.machine_acts import (
    Dressed,
    Halted,
    LeftMachine,
    Observed,
    PassFed,
    Placed,
    Planned,
    Prepared,
    SparkedOut,
    StepDone,
    StepSkipped,
    SurfaceDone,
    TakenOver,
    TouchedOff,
    WentOn,
)

PART_WARM = "part still warm"
"""The note of a measurement taken on a part that had not cooled."""
SECONDS_A_DEGREE = 3600
PieceEnd = Literal["scrapped", "passed"]
RouteChange = Literal["skip", "first", "grind"]
"""A set-up is left out; it comes next; a surface is ground again, or as well although no set-up had it up."""


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
    def u_arcsec(self) -> float:
        """U of an angle, which is kept in degrees [″]."""
        return float(self.uncertainty_mm) * SECONDS_A_DEGREE

    @property
    def middle_mm(self) -> Decimal:
        """Half way between greatest and least of a measurement [mm]."""
        return (self.greatest_mm + self.least_mm) / 2

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
class CautionWaived(Entry):
    """A lead lets a set-up go on with a caution, named by its check; the note says why."""

    kind = Kind.CAUTION_WAIVED
    setup: str
    item: str


@dataclass(frozen=True, kw_only=True)
class Ended(Entry):
    """A lead scraps a piece or passes it as it is; the note says why."""

    kind = Kind.ENDED
    piece: int
    end: PieceEnd


@dataclass(frozen=True, kw_only=True)
class ZeroLost(Entry):
    """What the collar reads means nothing any more; the note says by what. Told by the machine, never by hand."""

    kind = Kind.ZERO_LOST


ENTRY_TYPES: dict[Kind, type[Entry]] = {
    each.kind: each
    for each in (
        TakenIn,
        Amended,
        HandedOver,
        Planned,
        Placed,
        Prepared,
        CautionWaived,
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
        Observed,
        Halted,
        WentOn,
        TakenOver,
        Rerouted,
        Ended,
        Undone,
        Waived,
        SignedOff,
        ZeroLost,
    )
}
