"""What hands do and feel before the wheel touches: the short list, and what each answer means."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass

from zesty_lark.core.work.entries import CautionWaived
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import Prepared
from zesty_lark.core.work.run import Run


@dataclass(frozen=True)
class Answer:
    """What may be said of an item: its key, in words, whether it is well, and what to do when it is not."""

    key: str
    words: str
    well: bool = True
    remedy: str = ""


@dataclass(frozen=True)
class Item:
    """One thing of the list: its key, what to do, how, and what may be said; without answers it is simply done.

    ``holds``: the wheel does not touch before it is answered; ``each``: one piece may differ in it from the next.
    """

    key: str
    words: str
    how: str = ""
    answers: tuple[Answer, ...] = ()
    holds: bool = True
    each: bool = False

    @property
    def well_answer(self) -> str:
        """The first of its answers that is well; empty where it is simply done."""
        return next((each.key for each in self.answers if each.well), "")

    def answer(self, key: str) -> Answer | None:
        """Return an answer by its key."""
        return next((each for each in self.answers if each.key == key), None)


_ROCK = (
    Answer("pivots", "Pivots about a third from its far end"),
    Answer("spins", "Spins about its middle", False, "It stands on a hump: find it, knock it down, stone."),
    Answer(
        "rocks 1", "Rocks on front left – back right", False,
        "It stands on that diagonal: knock its two corners down, or shim the other two.",
    ),
    Answer(
        "rocks 2", "Rocks on front right – back left", False,
        "It stands on that diagonal: knock its two corners down, or shim the other two.",
    ),
)  # fmt: skip
_PUSH = (
    Answer("holds", "Does not move"),
    Answer("moves", "Moves", False, "It is not held: wipe again, block it, or a fixture. The wheel does not start."),
)
_PROUD = (
    Answer("proud", "Stands proud all round"),
    Answer(
        "low", "A corner or clamp is higher", False, "Raise the part, or lower the clamp, until the face is highest."
    ),
)
_BELOW = (
    Answer("below", "All below the final face"),
    Answer("above", "One is as high", False, "Take it off, or a lower one: the wheel would strike it."),
)
_STROKE = (
    Answer("clear", "Clears at both ends"),
    Answer("short", "Stops over the part", False, "Set the stops so that the wheel clears the part at both ends."),
)
_SIDES = (
    Answer("parallel", "Parallel within a third of the tolerance"),
    Answer("taper", "They are not", False, "Grind them parallel first: the turn puts twice their error into the slot."),
)
_SHAPE = (
    Answer("right", "It lies on all over"),
    Answer("off", "It does not", False, "Dress it again: an angle that is off by an error opens or closes the walls by "
           "twice as much."),
)  # fmt: skip
_FOIL = (
    Answer("none", "None goes"),
    Answer("goes", "One goes under", False, "Lift, stone, wipe and set it down again."),
)
_BACK = (
    Answer("zero", "Reads zero end to end"),
    Answer("leans", "It leans", False, "Change the stack by what it shows, times centres over length."),
)
_ALONG = (
    Answer("zero", "Reads zero end to end"),
    Answer("out", "It is out", False, "Tap it round until it reads zero end to end, then clamp and read again."),
)
_ROOM = (
    Answer("clear", "Clear all the way"),
    Answer("strikes", "It would strike", False, "Move the part, the clamp or the stop until it clears by hand."),
)
_HIGH = (Answer("front", "High at the front"), Answer("back", "High at the back"), Answer("level", "Level"))
ITEMS: Mapping[str, Item] = {
    each.key: each
    for each in (
        Item("warm up", "Warm-up run", "The table its full travel and the spindle, as the maker says.", holds=False),
        Item("stopped", "Wheel stopped", "And seen to be stopped. Coasting counts as running."),
        Item(
            "wiped",
            "Wiped, stoned, felt",
            "Chuck and what stands on it: a flat stone, a rag, a bare hand.",
            holds=False,
        ),
        Item("burrs", "Burrs stoned off", "Every edge of the part that lies down.", holds=False, each=True),
        Item(
            "rock",
            "Rock and swing it",
            "Press the middle, tap the corners; swing it by one end.",
            _ROCK,
            holds=False,
            each=True,
        ),
        Item(
            "shimmed",
            "Shim under the hollow",
            "Slide the foil in till it is just felt; nothing is pulled flat.",
            each=True,
        ),
        Item("pushed", "Magnet on, push it", "With the hand, before the wheel starts.", _PUSH, each=True),
        Item("proud", "Face proud of the fixture", "A straight edge or a finger over it.", _PROUD),
        Item("below", "Blocks below the face", "A finger across; lead-in blocks a hair lower.", _BELOW),
        Item("guard", "Guard closed", "And nobody in line with the wheel."),
        Item("nozzle", "Nozzle aimed", "At the wheel’s face just before the contact.", holds=False),
        Item(
            "outer sides",
            "Outer sides parallel",
            "A micrometer at four places: the part is turned for the other wall.",
            _SIDES,
        ),
        Item(
            "wheel shape", "Wheel dressed to its shape", "Tried on a scrap or the slot’s mouth, turned by hand.", _SHAPE
        ),
        Item(
            "stack",
            "Stack wrung, under its roll",
            "Rolls, plate and blocks stoned and wiped; large to small; the plate clamped.",
        ),
        Item("foil", "A thin foil goes under no roll", "Try both ends of both rolls.", _FOIL),
        Item("angle back", "Angle checked back", "An indicator over a master on the plate, end to end.", _BACK),
        Item("indicated", "Indicated along the travel", "The fence, the part's side or the edge.", _ALONG),
        Item("turned in plan", "Turned in plan, indicated", "Against a second sine bar, or the dividing table.", _BACK),
        Item("vee", "Bedded in the vee", "Both faces wiped; a foil pulls tight at both ends.", _FOIL),
        Item("swing", "Swung by hand, stop to stop", "The wheel still: it clears the fixture all the way.", _ROOM),
        Item(
            "room",
            "Room seen beside the wheel",
            "By hand, both ends and both sides: guard, plate’s end, clamps, walls.",
            _ROOM,
        ),
        Item("stroke", "A stroke seen clear", "By hand, at both ends and both sides.", _STROKE),
        Item(
            "high side",
            "High side found",
            "From a map, a few touches of the indicator, or a sweep.",
            _HIGH,
            holds=False,
        ),
    )
}


def set_up_stop(run: Run, job_state: JobState) -> str:
    """Return why nothing is ground in a load's set-up as it was laid out; empty when it may be."""
    stop = job_state.spec.set_up_stops.get(run.setup)
    return f"The set-up stops: {stop} Put it right at Set up." if stop else ""


def not_on_the_list(entry: Prepared, run: Run) -> str:
    """Return why something cannot be ticked off; empty when it can."""
    if run.plan is None:
        return "It has no plan yet: plan it before it is set up."
    if not set(entry.pieces) <= set(run.pieces):
        return "Of which piece is that said? Only those of the load that is up are looked at."
    item = ITEMS.get(entry.item)
    if item is None or (item.answer(entry.answer) is None if item.answers else entry.answer):
        return "That is not on the list before the touch-off."
    return ""


def says_no_piece(item: str, pieces: Collection[int], run: Run) -> str:
    """Return why something that one piece may differ in is not said of a whole load unasked; empty when it may be."""
    asked = ITEMS.get(item)
    if asked is None or not asked.each or pieces or len(run.pieces) < 2:
        return ""
    return f"{asked.words}: of which pieces? Name each that was looked at."


def not_waivable(entry: CautionWaived, job_state: JobState) -> str:
    """Return why a caution cannot be waived; empty when it can, with a reason."""
    if job_state.setup(entry.setup) is None:
        return "The route has no such set-up."
    return "" if entry.item.strip() else "Which caution is waived?"
