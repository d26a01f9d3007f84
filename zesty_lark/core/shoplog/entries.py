"""Entries of the shop log. Nothing logged is ever changed: a correction is a new entry that supersedes."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from decimal import Decimal
from enum import StrEnum
from typing import Literal

from zesty_lark.core.measure.thickness import Reading, Verdict, corrected
from zesty_lark.core.planner.problem import SchoolName

__all__ = ["CHARACTERISTICS", "DONE_KINDS", "FEEDS", "MAGNET", "PART_WARM", "THICKNESS", "Entry", "Kind", "PlanSchool",
           "PlanStep", "PlanSteps", "StepKind", "in_force"]


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
    DONE = "done"
    SKIPPED = "skipped"
    NOTE = "note"
    MEASURED = "measured"
    FACE_DONE = "face done"
    UNDONE = "undone"
    WAIVED = "waived"
    SIGNED_OFF = "signed off"


StepKind = Literal["dress", "chamfer", "place", "turn", "blocks", "touch off", "no feed", "rough", "blank", "cool", "measure",
                   "finish"]
FEEDS: tuple[StepKind, ...] = ("rough", "finish")
"""The steps that feed down."""
DONE_KINDS: tuple[StepKind, ...] = ("chamfer", "turn", "blocks", "cool")
"""The steps that are only said to be done; the others have an entry of their own."""
PlanSchool = Literal["quickest", "own"] | SchoolName
THICKNESS = "thickness"
CHARACTERISTICS = (THICKNESS, "width", "length", "parallel", "square", "flat", "finish")
"""What a print can ask for, and a verdict be given on."""
MAGNET = "magnet"


@dataclass(frozen=True)
class PlanStep:
    """One thing a released plan asks for, in its order.

    Attributes
    ----------
    number : int
        Its place, from 1.
    kind : StepKind
    step_mm, depth_mm : Decimal
        What is fed down in it, 0 where nothing is, and the total so far from the plan's start [mm].
    crossfeed_mm, table_mm_s : Decimal or None
        What the machine is set to for a pass [mm], [mm/s].
    what : str
        Which dress; what is measured and why; what is blocked.
    amount : Decimal or None
        The chamfer [mm], the turn [°], the wait [min].
    minutes : float
        How long it takes [min].
    """

    number: int
    kind: StepKind
    step_mm: Decimal
    depth_mm: Decimal
    crossfeed_mm: Decimal | None = None
    table_mm_s: Decimal | None = None
    what: str = ""
    amount: Decimal | None = None
    minutes: float = 0.0


@dataclass(frozen=True)
class PlanSteps:
    """A released plan as the log refers to it.

    Attributes
    ----------
    plan_id : int
        Its number in the store.
    face : int
        The face it is for.
    school : str
        The school's key.
    stock_mm, left_on_mm : Decimal
        Normal stock it was made for, and what it leaves on [mm].
    steps : tuple of PlanStep
        Everything it asks for, in order.
    keeps_wheel_height : bool
        It carries on from the collar's last reading: no new touch-off.
    holder : str
        What holds the part: the magnet, or a fixture by name.
    hold_safety : Decimal or None
        The estimate of the hold; ``None`` where a plan was made without one.
    rise_c : Decimal
        How much warmer the part gets than its surroundings [K].
    reason : str
        Why it was released although it is on a limit or does not clean up.
    """

    plan_id: int
    face: int
    school: PlanSchool
    stock_mm: Decimal
    left_on_mm: Decimal
    steps: tuple[PlanStep, ...]
    keeps_wheel_height: bool
    holder: str = MAGNET
    hold_safety: Decimal | None = None
    rise_c: Decimal = Decimal(0)
    reason: str = ""

    @property
    def passes(self) -> tuple[PlanStep, ...]:
        """The steps that feed down."""
        return tuple(step for step in self.steps if step.kind in FEEDS)

    @property
    def table_minutes(self) -> float:
        """Time of passes and dresses [min]."""
        return sum(step.minutes for step in self.steps if step.kind in ("dress", "no feed", "blank", *FEEDS))

    @property
    def minutes(self) -> float:
        """Time in all, with the handling [min]."""
        return sum(step.minutes for step in self.steps)

    def of_kind(self, *kinds: StepKind) -> tuple[PlanStep, ...]:
        """The steps of some kinds."""
        return tuple(step for step in self.steps if step.kind in kinds)


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
    step : int
        The step of the plan that was done or skipped.
    characteristic : str
        What was measured or waived.
    part_c, gauge_c, room_c : Decimal
        Temperatures when measured: the part's, the gauge's or its master's, the room's [°C].
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
    step: int | None = None
    characteristic: str = THICKNESS
    part_c: Decimal | None = None
    gauge_c: Decimal | None = None
    room_c: Decimal | None = None
    readings: tuple[Reading, ...] = field(default=())
    uncertainty_mm: Decimal | None = None
    verdict: Verdict | None = None
    asked_mm: Decimal | None = None
    got_mm: Decimal | None = None

    @property
    def true_readings(self) -> tuple[Reading, ...]:
        """The readings as gauge and part would have them at one temperature, where the part's was taken."""
        if self.part_c is None:
            return self.readings
        return tuple(corrected(reading, self.part_c, self.gauge_c, self.room_c) for reading in self.readings)

    @property
    def greatest_mm(self) -> Decimal:
        """The thickest place of a measurement, its warmth taken out [mm]."""
        return max(reading.value_mm for reading in self.true_readings)

    @property
    def least_mm(self) -> Decimal:
        """The thinnest place of a measurement, its warmth taken out [mm]."""
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
