"""A chuck ground in place: step after step, each pass with its own dress, the last step taken back."""

from datetime import UTC, datetime, timedelta

import pytest

from zesty_lark.core.things.chuck import CHUCK_STEPS, ChuckFolding, ChuckState, ChuckStepDone, check_chuck_entry
from zesty_lark.core.things.log import Said, ThingEntry, ThingError, ThingNote, ThingUndone

NOW = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)


class Log:
    """A chuck's log as it grows, each entry checked as it is logged, and folded anew beside it."""

    def __init__(self, passes: int = 1) -> None:
        self.passes, self.fold = passes, ChuckFolding(None)

    @property
    def now(self) -> ChuckState:
        state = self.fold.state()
        assert state == ChuckFolding(None, self.fold.entries).state()
        return state

    def add(self, what: Said) -> ThingEntry:
        number = len(self.fold.entries) + 1
        entry = ThingEntry(entry_id=f"chuck-{number:03d}", at=NOW + timedelta(minutes=number), what=what, seq=number)
        check_chuck_entry(entry, self.now)
        self.fold.add(entry)
        return entry

    def ground(self, *steps: str) -> ThingEntry:
        for step in steps:
            name, _, answer = step.partition(":")
            said = ChuckStepDone(step=name, answer=answer, passes=self.passes)  # type: ignore[arg-type]
            last = self.add(said)
        return last

    @property
    def next(self) -> str | None:
        grinding = self.now.grinding
        return "fence off" if grinding is None else None if grinding.next is None else grinding.next.name


def test_grinding_goes_step_by_step_with_a_dress_before_every_pass_and_the_fence_last() -> None:
    log, order = Log(passes=2), []
    while (step := log.next) is not None:
        log.ground("film:full" if step == "film" else step)
        order.append(step)
    assert order == [
        "fence off", "cleaned", "reseated", "film", "magnet on", "dress", "pass", "dress", "pass", "spark-out",
        "mapped", "fence on", "fence ground",
    ]  # fmt: skip
    assert set(CHUCK_STEPS) == set(order)
    grinding = log.now.grinding
    assert grinding is not None and (grinding.number, grinding.passes_done) == (1, 2)
    with pytest.raises(ThingError, match="First: Take the fence off"):
        log.ground("pass")
    log.passes = 5
    log.ground("fence off")
    again = log.now.grinding
    assert again is not None and (again.number, again.passes, len(again.done)) == (2, 5, 1)


def test_a_grinding_keeps_the_passes_it_was_begun_with() -> None:
    log = Log(passes=1)
    log.ground("fence off")
    log.passes = 40
    log.ground("cleaned", "reseated", "film:full", "magnet on", "dress", "pass")
    assert log.next == "spark-out"


def test_part_contact_on_the_film_means_seating_it_again() -> None:
    log = Log()
    log.ground("fence off", "cleaned", "reseated", "film:partly")
    for wanted in ("cleaned", "reseated", "film"):
        grinding = log.now.grinding
        assert log.next == wanted and grinding is not None and "part contact" in grinding.held_up
        with pytest.raises(ThingError):
            log.ground("magnet on")
        if wanted == "film":
            with pytest.raises(ThingError, match="full contact"):
                log.ground("film")
        log.ground("film:full" if wanted == "film" else wanted)
    assert log.next == "magnet on" and log.now.grinding is not None and not log.now.grinding.held_up


def test_the_last_step_is_taken_back_and_no_other_and_a_note_changes_nothing() -> None:
    log = Log()
    first = log.ground("fence off")
    before = log.now
    last = log.ground("cleaned")
    with pytest.raises(ThingError, match="Only the last"):
        log.add(ThingUndone(supersedes=first.entry_id))
    log.add(ThingUndone(supersedes=last.entry_id))
    assert log.now == before and log.next == "cleaned"
    log.add(ThingNote())
    assert log.now.grinding == before.grinding
