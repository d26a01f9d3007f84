"""A machine's log, and where the machine stands by it: one wheel on its spindle, one load on its chuck, one zero.

Lengths are in mm. What the collar reads belongs to the machine: a touch-off sets it, a dress of the wheel that is on
moves it by what came off, and whatever nobody can follow loses it.
"""

from dataclasses import dataclass, replace
from datetime import datetime
from decimal import Decimal
from typing import Annotated, ClassVar

from annotated_types import Ge, Le, MaxLen
from pydantic.dataclasses import dataclass as checked

from zesty_lark.core.quantities.kept_types import STRICT
from zesty_lark.core.things.log import Folding, Said, ThingEntry, ThingError, ThingNote, ThingUndone

JobNumber = Annotated[str, MaxLen(40)]
WheelName = Annotated[str, MaxLen(80)]


@checked(frozen=True, kw_only=True, config=STRICT)
class LoadUp(Said):
    """A load of a job was put up on the chuck, a surface uppermost; whatever was up before is off."""

    kind: ClassVar[str] = "load up"
    job: JobNumber
    setup: Annotated[str, MaxLen(20)]
    load: int
    surface: int
    pieces: Annotated[tuple[int, ...], MaxLen(1000)] = ()


@checked(frozen=True, kw_only=True, config=STRICT)
class LoadOff(Said):
    """The load is off the chuck."""

    kind: ClassVar[str] = "load off"
    job: JobNumber


@checked(frozen=True, kw_only=True, config=STRICT)
class ZeroSet(Said):
    """The wheel met the work of a job with the collar at this reading."""

    kind: ClassVar[str] = "zero"
    job: JobNumber
    surface: int
    reading_mm: Decimal


@checked(frozen=True, kw_only=True, config=STRICT)
class WheelLess(Said):
    """So much came off the radius of the wheel that is on; ``None`` when nobody knows."""

    kind: ClassVar[str] = "wheel less"
    wheel: WheelName
    amount_mm: Annotated[Decimal, Ge(0), Le(20)] | None = None


@checked(frozen=True, kw_only=True, config=STRICT)
class WheelOn(Said):
    """A wheel is being mounted on the spindle."""

    kind: ClassVar[str] = "wheel on"
    wheel: WheelName


@checked(frozen=True, kw_only=True, config=STRICT)
class WheelOff(Said):
    """The wheel was taken off the spindle."""

    kind: ClassVar[str] = "wheel off"
    wheel: WheelName


@checked(frozen=True, kw_only=True, config=STRICT)
class ZeroLost(Said):
    """What the collar reads means nothing any more; the note says why."""

    kind: ClassVar[str] = "zero lost"


@checked(frozen=True, kw_only=True, config=STRICT)
class Crashed(Said):
    """The wheel struck what it was not to strike: wheel, chuck and zero are in doubt."""

    kind: ClassVar[str] = "crash"
    job: JobNumber = ""
    wheel: WheelName = ""


MACHINE_ENTRIES: tuple[type[Said], ...] = (
    LoadUp, LoadOff, ZeroSet, WheelLess, WheelOn, WheelOff, ZeroLost, Crashed, ThingNote, ThingUndone,
)  # fmt: skip


@dataclass(frozen=True)
class Load:
    """What is up on a chuck: the job, its set-up, load, surface and pieces; since when, put up by whom."""

    job: str
    setup: str
    load: int
    surface: int
    pieces: tuple[int, ...]
    since: datetime
    by: str


@dataclass(frozen=True)
class Zero:
    """Where the collar was touched off, moved by what was dressed since [mm]; in which job, on which surface, when, by
    whom."""

    reading_mm: Decimal
    job: str
    surface: int
    since: datetime
    by: str


@dataclass(frozen=True)
class MachineState:
    """Where a machine stands.

    Attributes
    ----------
    wheel : str or None
        On its spindle, or being mounted.
    load : Load or None
        Up on its chuck.
    zero : Zero or None
        ``None`` before a touch-off, and when it is lost.
    lost : str
        By what the last zero was lost; empty while there is one, or never was.
    history : tuple of ThingEntry
        What holds of its log, oldest first.
    """

    wheel: str | None = None
    load: Load | None = None
    zero: Zero | None = None
    lost: str = ""
    history: tuple[ThingEntry, ...] = ()

    def without_zero(self, why: str) -> "MachineState":
        """The same with its zero lost; ``why`` only counts where there was one."""
        return self if self.zero is None else replace(self, zero=None, lost=why)


def after(now: MachineState, entry: ThingEntry) -> MachineState:
    """Return where a machine stands after one entry more that holds."""
    match entry.what:
        case LoadUp() as said:
            load = Load(said.job, said.setup, said.load, said.surface, said.pieces, entry.at, entry.by)
            kept = now if now.zero is None or now.zero.job == said.job else now.without_zero(f"{said.job} was put up")
            return replace(kept, load=load)
        case LoadOff(job=job) if now.load is not None and now.load.job != job:
            return now
        case LoadOff(job=job):
            return replace(now.without_zero(f"{job} was taken off"), load=None)
        case ZeroSet() as said:
            return replace(now, zero=Zero(said.reading_mm, said.job, said.surface, entry.at, entry.by), lost="")
        case WheelLess(amount_mm=None, wheel=wheel):
            return now.without_zero(f"nobody knows what came off {wheel}")
        case WheelLess(amount_mm=amount):
            moved = None if now.zero is None or amount is None else now.zero.reading_mm + amount
            return now if now.zero is None or moved is None else replace(now, zero=replace(now.zero, reading_mm=moved))
        case WheelOn(wheel=wheel):
            return replace(now.without_zero(f"{wheel} was mounted"), wheel=wheel)
        case WheelOff(wheel=wheel):
            return replace(now.without_zero(f"{wheel} was taken off"), wheel=None)
        case ZeroLost():
            return now.without_zero(entry.note)
        case Crashed():
            return now.without_zero("a crash")
    return now


class MachineFolding(Folding[ThingEntry, None, MachineState]):
    """A machine's log, folded as it grows."""

    def _begin(self) -> None:
        self._now = MachineState()

    def _take(self, entry: ThingEntry) -> None:
        self._now = after(self._now, entry)

    def _stood(self) -> MachineState:
        return replace(self._now, history=tuple(self.history))


def check_taken_back(supersedes: str, now: MachineState, machine: str) -> None:
    """Refuse to take back what a machine has gone on from.

    Raises
    ------
    ThingError
    """
    ids = [entry.entry_id for entry in now.history if not isinstance(entry.what, ThingNote)]
    if supersedes in ids and ids[-1] != supersedes:
        last = next(each for each in reversed(now.history) if each.entry_id == ids[-1])
        raise ThingError(
            f"{machine} has gone on since: {machine_words(last)} by {last.by}. That cannot be taken back from here."
        )


def machine_words(entry: ThingEntry) -> str:
    """Return an entry of a machine's log in words, as part of a sentence."""
    match entry.what:
        case LoadUp(job=job):
            return f"{job} put up"
        case LoadOff(job=job):
            return f"{job} taken off"
        case ZeroSet(job=job):
            return f"touched off for {job}"
        case WheelLess(wheel=wheel):
            return f"{wheel} dressed"
        case WheelOn(wheel=wheel):
            return f"{wheel} mounted"
        case WheelOff(wheel=wheel):
            return f"{wheel} taken off"
        case ZeroLost():
            return f"zero lost, {entry.note}"
        case Crashed():
            return "a crash"
    return entry.note or "a note"
