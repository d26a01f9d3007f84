"""What every entry of the shop log has; and what is done at the machine has beside it.

Lengths are in mm, times in UTC. An entry's id is made by whoever sends it; sent again, it logs nothing.
"""

import re
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from typing import ClassVar, TypeAlias

ENTRY_ID = re.compile(r"[A-Za-z0-9-]{8,36}")
"""What an entry's id looks like, by whatever door it comes in."""
MOST_ENTRIES = 20_000
"""A job's log has no more: so many go into its file and out of it again."""
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
    OBSERVED = "observed"
    HALTED = "stopped"
    WENT_ON = "went on"
    TAKEN_OVER = "taken over"
    REROUTED = "rerouted"
    ENDED = "ended"
    UNDONE = "undone"
    WAIVED = "waived"
    PREPARED = "prepared"
    CAUTION_WAIVED = "caution_waived"
    SIGNED_OFF = "signed off"
    ZERO_LOST = "zero lost"


@dataclass(frozen=True, kw_only=True)
class Entry:
    """One line of the log: who did it and when, what they said of it and on which screen; and who read it in, when and
    from which file, if it was not lived here. ``clock_doubt``: the clock that gave its time may have been wrong."""

    kind: ClassVar[Kind]
    entry_id: str
    at: datetime
    by: str = ""
    seq: int = 0
    machine: str | None = None
    note: str = ""
    screen: str = ""
    read_in_by: str = ""
    read_in_at: datetime | None = None
    read_in_from: str = ""
    clock_doubt: bool = False

    @property
    def takes_back(self) -> str | None:
        """The entry that this one takes back."""
        return None


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
