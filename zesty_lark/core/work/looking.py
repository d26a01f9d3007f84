"""What was looked at before the wheel touches: said of which piece, what is still open, and what of it holds the
touch-off."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from zesty_lark.core.work.entries import ZeroLost
from zesty_lark.core.work.halting import CRASH
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import Halted, LeftMachine, Placed, Prepared
from zesty_lark.core.work.preparing import ITEMS, Answer, Item
from zesty_lark.core.work.run import Run
from zesty_lark.core.work.telling import pieces_words

WARM_UP = "warm up"
"""The item that another job's log may know: a machine is warmed up once a day."""
PUT_UP = "stopped"
"""The item that putting a load up answers: nobody does that before the wheel was seen to stop."""
RESTS_ON_WHEEL = ("guard", "nozzle", "stroke", "room", "swing", "wheel shape")
"""What has to be looked at again when another wheel, or the same anew, is on: the guard was open for it."""
Said = Mapping[str, Mapping[int, Prepared]]
"""What was said last of each item, piece by piece."""


@dataclass(frozen=True)
class OpenItem:
    """An item that is not well yet, and the pieces of the load that it is still to be said of."""

    item: Item
    pieces: tuple[int, ...]


def prepared(job_state: JobState, run: Run) -> dict[str, dict[int, Prepared]]:
    """Return what was said last of each item and each piece of a load, since it was put up; a crash takes all of it
    back, and where the machine lost the zero, so does what rests on the wheel and its guard."""
    said: dict[str, dict[int, Prepared]] = {}
    for entry in job_state.history:
        if isinstance(entry, Placed | LeftMachine) and entry.place == run.place:
            said.clear()
        elif isinstance(entry, Halted) and entry.seen == CRASH:
            said.clear()
        elif isinstance(entry, ZeroLost):
            for key in RESTS_ON_WHEEL:
                said.pop(key, None)
        elif isinstance(entry, Prepared) and entry.place == run.place:
            for piece in entry.pieces or run.pieces:
                said.setdefault(entry.item, {})[piece] = entry
    return said


def put_up(job_state: JobState, run: Run) -> Placed | None:
    """Return the entry by which a load is up now; ``None`` while it is not."""
    if not job_state.is_up(run):
        return None
    placed = (entry for entry in reversed(job_state.history) if isinstance(entry, Placed))
    return next((entry for entry in placed if entry.place == run.place), None)


def answer_of(entry: Prepared) -> Answer | None:
    """Return what was answered, where an item has answers."""
    item = ITEMS.get(entry.item)
    return None if item is None else item.answer(entry.answer)


def is_well(entry: Prepared) -> bool:
    """Whether an answer leaves nothing to put right."""
    answer = answer_of(entry)
    return answer is None or answer.well


def felt_wrong(job_state: JobState, run: Run) -> list[Answer]:
    """Return the answers that are not well and still stand."""
    entries = [entry for said in prepared(job_state, run).values() for entry in said.values()]
    answers = {entry.entry_id: answer_of(entry) for entry in entries}
    return [answer for answer in answers.values() if answer is not None and not answer.well]


def felt_stop(run: Run, job_state: JobState) -> str:
    """Return why the wheel does not touch after what was felt; empty when it may."""
    wrong = felt_wrong(job_state, run)
    return f"{wrong[0].words}. {wrong[0].remedy} Then say so on the list before the touch-off." if wrong else ""


def still_open(said: Said, asks: Iterable[str], pieces: tuple[int, ...]) -> list[OpenItem]:
    """Return the items of a list that are not well on every piece, in its order.

    Parameters
    ----------
    said : mapping of item to mapping of piece to Prepared
        What ``prepared`` gives.
    asks : iterable of str
        The items that the set-up asks.
    pieces : tuple of int
        The pieces of the load: an item in which one may differ from the next is said of each, any other once.
    """
    found = []
    for key in asks:
        item, entries = ITEMS.get(key), said.get(key, {})
        if item is None or key == PUT_UP:
            continue
        if item.each:
            missing = tuple(piece for piece in pieces if piece not in entries or not is_well(entries[piece]))
        else:
            newest = max(entries.values(), key=lambda entry: entry.seq, default=None)
            missing = () if newest is not None and is_well(newest) else pieces
        if missing:
            found.append(OpenItem(item, missing))
    return found


def open_items(job_state: JobState, run: Run, more: Iterable[str] = ()) -> list[OpenItem]:
    """Return what a load that is up still has open of what its putting-up asks, and of ``more``."""
    asks = (*run.asks, *(key for key in more if key not in run.asks))
    return still_open(prepared(job_state, run), asks, run.pieces)


def holding(job_state: JobState, run: Run, more: Iterable[str] = ()) -> list[OpenItem]:
    """Return what of that holds the touch-off."""
    return [each for each in open_items(job_state, run, more) if each.item.holds]


def open_stop(run: Run, job_state: JobState, more: Iterable[str] = ()) -> str:
    """Return why the wheel does not touch before somebody has looked; empty when it may."""
    waits = holding(job_state, run, more)
    if not waits:
        return ""
    several = len(run.pieces) > 1
    words = [
        each.item.words + (f" ({pieces_words(each.pieces)})" if several and each.item.each else "") for each in waits
    ]
    return f"Not looked at yet: {', '.join(words)}. Look, and say so on the list before the touch-off."
