"""One kind of log, for every job and every thing of the shop: what holds of it, and the fold as it grows.

Nothing that is logged is ever changed: an entry that was wrong is taken back by a later one.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Any, ClassVar, Generic, Protocol, TypeVar

from annotated_types import MaxLen
from pydantic import TypeAdapter
from pydantic.dataclasses import dataclass as checked

from zesty_lark.core.quantities.kept_types import STRICT


class Logged(Protocol):
    """An entry of any log."""

    @property
    def entry_id(self) -> str:
        """The sender's id of it."""

    @property
    def seq(self) -> int:
        """Its number in the log; a later one is greater."""

    @property
    def takes_back(self) -> str | None:
        """The id of the entry that this one takes back."""


E = TypeVar("E", bound=Logged)
Spec = TypeVar("Spec")
State = TypeVar("State")


def in_force(entries: Sequence[E]) -> list[E]:
    """Return the entries that still hold, in order, without the corrections themselves.

    An entry is taken back by a later one in force; taking back a correction restores what it took back.
    """
    taken_back: set[str] = set()
    holding: list[E] = []
    for entry in reversed(entries):
        if entry.entry_id in taken_back:
            continue
        if entry.takes_back is not None:
            taken_back.add(entry.takes_back)
        else:
            holding.append(entry)
    return holding[::-1]


class Folding(Generic[E, Spec, State]):
    """A log that is folded as it grows: what is added is walked once, unless it takes something back.

    Whoever folds a kind of log says how: ``_begin`` from nothing, ``_take`` one entry that holds, ``_stood`` what it
    comes to.

    Parameters
    ----------
    spec : Spec
        What the fold has to know beside the log.
    entries : sequence of E
        All there are, oldest first, those that were taken back included.
    """

    def __init__(self, spec: Spec, entries: Sequence[E] = ()) -> None:
        self.spec = spec
        self.entries = list(entries)
        self._walk_all()

    def _begin(self) -> None:
        raise NotImplementedError

    def _take(self, entry: E) -> None:
        raise NotImplementedError

    def _stood(self) -> State:
        raise NotImplementedError

    def _turns_back(self, entry: E) -> bool:
        """Tell whether an entry changes what those before it come to."""
        return entry.takes_back is not None

    def _walk_all(self) -> None:
        self._stands: State | None = None
        self.history = in_force(self.entries)
        self._begin()
        for entry in self.history:
            self._take(entry)

    @property
    def last_seq(self) -> int:
        """The number of the newest entry; 0 for an empty log."""
        return self.entries[-1].seq if self.entries else 0

    def add(self, entry: E) -> None:
        """Add the entry that was logged next."""
        self.entries.append(entry)
        if self._turns_back(entry):
            self._walk_all()
            return
        self._stands = None
        self.history.append(entry)
        self._take(entry)

    def state(self) -> State:
        """Return what it all comes to; worked out once between two entries."""
        if self._stands is None:
            self._stands = self._stood()
        return self._stands


@checked(frozen=True, kw_only=True, config=STRICT)
class Said:
    """What only this kind of entry of a thing's log has."""

    kind: ClassVar[str] = ""


@checked(frozen=True, kw_only=True, config=STRICT)
class ThingNote(Said):
    """A note."""

    kind: ClassVar[str] = "note"


@checked(frozen=True, kw_only=True, config=STRICT)
class ThingUndone(Said):
    """Another entry is taken back, by its id."""

    kind: ClassVar[str] = "undone"
    supersedes: Annotated[str, MaxLen(36)]


@dataclass(frozen=True, kw_only=True)
class ThingEntry:
    """One line of a thing's log: who, when, on which machine, and what.

    ``of_job`` tells that it was logged at the machine, in a job, and is taken back there.
    """

    entry_id: str
    at: datetime
    what: Said
    by: str = ""
    machine: str | None = None
    note: str = ""
    of_job: bool = False
    seq: int = 0

    @property
    def takes_back(self) -> str | None:
        """The id of the entry that this one takes back."""
        return self.what.supersedes if isinstance(self.what, ThingUndone) else None


class ThingError(ValueError):
    """It cannot be logged of this thing; the message says why and what would be right."""


def undoable(history: Sequence[ThingEntry]) -> ThingEntry | None:
    """Return the last entry that holds, where it can be taken back on the thing's own page."""
    last = history[-1] if history else None
    return None if last is None or last.of_job else last


def check_undone(what: ThingUndone, history: Sequence[ThingEntry]) -> None:
    """Refuse to take back anything but the last entry that holds.

    Raises
    ------
    ThingError
    """
    last = undoable(history)
    if last is None or last.entry_id != what.supersedes:
        raise ThingError("Only the last entry is taken back, and one of a job is taken back in its job.")


def said_of(what: Said) -> dict[str, Any]:
    """Return what an entry says as plain values, ready for JSON."""
    found: dict[str, Any] = TypeAdapter(type(what)).dump_python(what, mode="json")
    return found
