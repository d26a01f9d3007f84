"""Entries of the shop log. Nothing logged is ever changed: a correction is a new entry that supersedes."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from decimal import Decimal
from enum import StrEnum

from zesty_lark.core.measure.thickness import Reading, Verdict, at_reference
from zesty_lark.core.route.choices import Habit

__all__ = ["PART_WARM", "Entry", "Kind", "PlanStep", "PlanSteps", "in_force"]


PART_WARM = "part still warm"
"""The note of a measurement taken on a part that had not cooled."""


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
    NOTE = "note"
    MEASURED = "measured"
    FACE_DONE = "face done"
    UNDONE = "undone"
    SIGNED_OFF = "signed off"


@dataclass(frozen=True)
class PlanStep:
    """One downfeed of a released plan: its step and the total so far from the plan's start [mm]."""

    number: int
    step_mm: Decimal
    depth_mm: Decimal
    kind: str


@dataclass(frozen=True)
class PlanSteps:
    """A released plan as the log refers to it.

    Attributes
    ----------
    plan_id : int
        Its number in the store.
    face : int
        The face it is for.
    school : {"light", "all_at_once"}
        The school's key.
    stock_mm, left_on_mm : Decimal
        Normal stock it was made for, and what it leaves on [mm].
    steps : tuple of PlanStep
    spark_passes : int
        Blank passes after the last feed.
    keeps_wheel_height : bool
        It carries on from the collar's last reading: no new touch-off.
    crossfeed_mm, table_mm_s : Decimal
        What the machine is set to [mm], [mm/s].
    minutes : float
        Table time and dresses as estimated at release [min].
    finish_crossfeed_mm, finish_table_mm_s : Decimal or None
        What the machine is set to for the finish passes, where that differs [mm], [mm/s].
    rough_blanks : int
        Blank passes between roughing and finish.
    rough_dress, finish_dress : str
        How the wheel is dressed before each; empty where it is not told.
    skew_deg : Decimal
        How far the part is turned to the travel [°].
    """

    plan_id: int
    face: int
    school: Habit
    stock_mm: Decimal
    left_on_mm: Decimal
    steps: tuple[PlanStep, ...]
    spark_passes: int
    keeps_wheel_height: bool
    crossfeed_mm: Decimal
    table_mm_s: Decimal
    minutes: float
    finish_crossfeed_mm: Decimal | None = None
    finish_table_mm_s: Decimal | None = None
    rough_blanks: int = 0
    rough_dress: str = ""
    finish_dress: str = ""
    skew_deg: Decimal = Decimal(0)


@dataclass(frozen=True)
class Entry:
    """One line of the log; lengths [mm], times UTC. Fields that do not apply are ``None``.

    Attributes
    ----------
    entry_id : str
        Made by whoever sends it; sending it again logs nothing.
    reading_mm : Decimal
        What the collar was set to (pass, touch-off).
    amount_mm : Decimal
        What a dress took off the wheel's radius.
    count : int
        Passes (spark-out).
    part_c : Decimal
        The part's temperature when measured [°C].
    supersedes : str
        The ``entry_id`` that this one takes back.
    asked_mm, got_mm : Decimal
        Since the measurement before: what was fed down, what the thickness lost.
    """

    seq: int
    entry_id: str
    kind: Kind
    at: datetime
    by: str
    face: int | None = None
    machine: str | None = None
    plan: PlanSteps | None = None
    reading_mm: Decimal | None = None
    amount_mm: Decimal | None = None
    count: int | None = None
    note: str = ""
    supersedes: str | None = None
    instrument: str | None = None
    part_c: Decimal | None = None
    readings: tuple[Reading, ...] = field(default=())
    uncertainty_mm: Decimal | None = None
    verdict: Verdict | None = None
    asked_mm: Decimal | None = None
    got_mm: Decimal | None = None

    @property
    def true_readings(self) -> tuple[Reading, ...]:
        """The readings brought to the reference temperature, if the part's was taken."""
        if self.part_c is None:
            return self.readings
        return tuple(at_reference(reading, self.part_c) for reading in self.readings)

    @property
    def greatest_mm(self) -> Decimal:
        """The thickest place of a measurement, at the reference temperature [mm]."""
        return max(reading.value_mm for reading in self.true_readings)

    @property
    def least_mm(self) -> Decimal:
        """The thinnest place of a measurement, at the reference temperature [mm]."""
        return min(reading.value_mm for reading in self.true_readings)

    @property
    def spread_mm(self) -> Decimal:
        """Greatest less least of a measurement [mm]."""
        return self.greatest_mm - self.least_mm


def in_force(entries: Sequence[Entry]) -> list[Entry]:
    """Return the entries that still hold, in order, without the corrections themselves.

    An entry is taken back by a later one in force that supersedes it; taking back a correction restores
    what it took back.
    """
    taken_back: set[str] = set()
    standing: list[Entry] = []
    for entry in reversed(entries):
        if entry.entry_id in taken_back:
            continue
        if entry.supersedes is not None:
            taken_back.add(entry.supersedes)
        if entry.kind is not Kind.UNDONE:
            standing.append(entry)
    return standing[::-1]
