"""A job's log and where the job stands by it."""

from collections.abc import Sequence

from zesty_lark.core.things import log
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.fold import Fold
from zesty_lark.core.work.job_state import JobSpec, JobState


class Folding(log.Folding[Entry, JobSpec, JobState]):
    """A job's log, folded as it grows."""

    def _begin(self) -> None:
        self._fold = Fold(self.spec)

    def _take(self, entry: Entry) -> None:
        self._fold.add(entry)

    def _stood(self) -> JobState:
        fold, history = self._fold, self.history
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
    spec : JobSpec
        The print, the pieces as they were taken in, and the route.
    entries : sequence of Entry
        All entries, oldest first, those that were taken back included.

    Returns
    -------
    JobState
    """
    return Folding(spec, entries).state()
