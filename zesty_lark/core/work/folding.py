"""A log and where it stands: folded as it grows, each entry walked once, unless one takes something back."""

from collections.abc import Sequence

from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.fold import Fold
from zesty_lark.core.work.job_state import JobSpec, JobState


class Folding:
    """A log that is folded as it grows: what is added is walked once, unless it takes something back."""

    def __init__(self, spec: JobSpec, entries: Sequence[Entry] = ()) -> None:
        self.spec = spec
        self.entries = list(entries)
        self._stands: JobState | None = None
        self._begin()
        self._walk()

    def _begin(self) -> None:
        self._fold, self._walked = Fold(self.spec), 0
        self._history: list[Entry] = []

    def _walk(self) -> None:
        if any(entry.takes_back is not None for entry in self.entries[self._walked :]):
            self._begin()
            fresh = in_force(self.entries)
        else:
            fresh = self.entries[self._walked :]
        for entry in fresh:
            self._fold.add(entry)
        self._history += fresh
        self._walked = len(self.entries)
        self._stands = None

    @property
    def last_seq(self) -> int:
        """The number of the newest entry; 0 for an empty log."""
        return self.entries[-1].seq if self.entries else 0

    def add(self, entry: Entry) -> None:
        """Add the entry that was logged next."""
        self.entries.append(entry)
        self._walk()

    def state(self) -> JobState:
        """Return where the work stands now; worked out once between two entries."""
        if self._stands is None:
            self._stands = self._stood()
        return self._stands

    def _stood(self) -> JobState:
        fold, history = self._fold, self._history
        at = None if fold.signed_off else fold.at_work()
        runs = fold.newest_runs(at)
        return JobState(
            spec=self.spec,
            pieces={number: piece.frozen() for number, piece in fold.pieces.items()},
            setups=tuple(fold.setups),
            runs=runs,
            up=fold.up,
            at=None if at is None else runs[at.place[2]],
            touches_chuck_mm=fold.touches_chuck,
            dressed=fold.dressed,
            shortfalls=tuple(fold.shortfalls),
            history=tuple(history),
            last_seq=self.last_seq,
            signed_off=fold.signed_off,
            halted=fold.halted,
            held=None if at is None else fold.held,
            wheel_use=fold.wheel.use,
            powers=tuple(fold.wheel.powers),
            idle_w=fold.wheel.idle_w,
        )


def stand(spec: JobSpec, entries: Sequence[Entry]) -> JobState:
    """Derive where a job stands from its whole log.

    Parameters
    ----------
    spec : Brief
        The print, the pieces as they were taken in, and the route.
    entries : sequence of Entry
        All entries, oldest first, those that were taken back included.

    Returns
    -------
    Standing
    """
    return Folding(spec, entries).state()


def in_force(entries: Sequence[Entry]) -> list[Entry]:
    """Return the entries that still hold, in order, without the corrections themselves.

    An entry is taken back by a later one in force; taking back a correction restores what it took back.
    """
    taken_back: set[str] = set()
    job_state: list[Entry] = []
    for entry in reversed(entries):
        if entry.entry_id in taken_back:
            continue
        if entry.takes_back is not None:
            taken_back.add(entry.takes_back)
        else:
            job_state.append(entry)
    return job_state[::-1]
