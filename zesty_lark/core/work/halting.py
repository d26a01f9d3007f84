"""Stop conditions: what was seen or heard, the first safe act, and what has to be done before it goes on."""

import re
from collections.abc import Mapping
from dataclasses import dataclass

FIRST_ACT = "Wheel clear of the work. Coolant on. Table out."
"""Said for every stop, before anything else."""


CRASH = "crash"
_LIKE_A_CRASH = re.compile(r"crash|broke|broken|burst|shatter|struck|hit |bang|piece off|chunk|ran into", re.IGNORECASE)


def sounds_like_a_crash(words: str) -> bool:
    """Tell whether what somebody typed may be a crash: then it is asked."""
    return _LIKE_A_CRASH.search(words) is not None


@dataclass(frozen=True)
class StopCondition:
    """A stop condition: its key, in a word, in words, what to do first, what to look at before going on; whether a
    dress follows, and whether the part has to be put up anew."""

    key: str
    short: str
    words: str
    first: str
    look: str
    dresses: bool = False
    loose: bool = False


STOPS: Mapping[str, StopCondition] = {
    each.key: each
    for each in (
        StopCondition(
            "colour",
            "Colour",
            "Colour on the face",
            FIRST_ACT,
            "Let it cool. Then look: dull or loaded wheel, coolant not reaching, too slow a table, too deep a cut. A "
            "face that wiped itself clean does not prove that it was cool.",
            dresses=True,
        ),
        StopCondition(
            "squeal",
            "Squeal",
            "Squeal, the pitch rising",
            FIRST_ACT,
            "The wheel is glazed or loaded: look at it when it stands still, then dress.",
            dresses=True,
        ),
        StopCondition(
            "chatter",
            "Chatter",
            "Chatter",
            FIRST_ACT,
            "Measure the pitch of the ripple: once a turn is the wheel, else a motor, a pump or a bearing. Trouble "
            "says which.",
        ),
        StopCondition(
            "moved",
            "Moved",
            "The part moved",
            "Wheel clear, spindle off. Nobody reaches in until it stands still.",
            "It was not held. The zero is lost: wipe, block it, magnet full on, push, put it up and touch off anew.",
            loose=True,
        ),
        StopCondition(
            "other",
            "Other",
            "Something else",
            FIRST_ACT,
            "What was it? Say it when it goes on, so that it is in the record.",
        ),
        StopCondition(
            CRASH,
            "Crash",
            "The wheel struck something, or a piece broke off",
            "Wheel clear, spindle off. Nobody reaches in until it stands still.",
            "The wheel is out of use until it was looked at and rung; a broken one for good. The zero is lost. Look at "
            "chuck, guard and spindle; the piece comes down and is measured again, or it is scrap.",
            loose=True,
        ),
    )
}
