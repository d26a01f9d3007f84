"""Cautions at the step they are about: the one that applies, when it applies; asked back only where hands go in."""

from dataclasses import dataclass

from zesty_lark.core.work.halting import STOPS
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.next_act import Next
from zesty_lark.core.work.run import Run

HANDS_IN = ("place", "turn", "blocks")
"""The acts for which a hand goes in: each asks that the wheel was seen to be stopped."""


@dataclass(frozen=True)
class Caution:
    """A caution in words, and whether it has to be confirmed before the act is logged."""

    words: str
    confirm: bool = False


STILL = "Wheel stopped and seen to be stopped before hands go in. Coasting counts as running."
LIFT = "Table run out, magnet off; tilt the part and lift it, do not drag it."
WIPE = "Stone the burrs off, wipe chuck and part, feel both. Does it rock?"
PUSH = "Magnet on, and a push with the hand, before the wheel starts."
IN_LINE = "Glasses on; nobody in line with the wheel."
HANDWHEELS = "Handwheels that spin with the power feed are out before the table runs."
DIAMOND = (
    "Diamond in its rest, on the drag side, a little past the wheel’s middle in the direction it turns there. "
    "Coolant on: no dust."
)
FIRST_AFTER_DRESS = "Wash the wheel and its guard before it cuts: loose grains leave comma-shaped scratches."
BLOCKS = "Each block held by the magnet in its own right, its top under the final face; push the part by hand."
HIGH = "Come from the side that is high, from above, the table running."


def cautions_at(what: Next, run: Run | None, job_state: JobState) -> tuple[Caution, ...]:
    """Return the cautions that apply to the next act, as things stand."""
    if what.act == "halted" and job_state.halted is not None:
        return (
            Caution(STOPS[job_state.halted.seen].first if job_state.halted.seen in STOPS else STOPS["other"].first),
        )
    if what.act == "place":
        lift = (Caution(LIFT),) if job_state.up is not None else ()
        return (Caution(STILL, confirm=True), *lift, Caution(WIPE))
    if what.act == "turn":
        return (Caution(STILL, confirm=True), Caution(LIFT), Caution(PUSH))
    if what.act == "blocks":
        return (Caution(STILL, confirm=True), Caution(BLOCKS))
    if what.act == "touch_off":
        return (Caution(HIGH), Caution(IN_LINE))
    if what.act in ("dress", "chamfer"):
        return (Caution(DIAMOND),)
    if what.act == "no_feed":
        return (Caution(HANDWHEELS),)
    if what.act == "pass" and run is not None and _just_dressed(run):
        return (Caution(FIRST_AFTER_DRESS),)
    return ()


def _just_dressed(run: Run) -> bool:
    return run.plan is not None and run.done > 0 and run.plan.steps[run.done - 1].kind == "dress"
