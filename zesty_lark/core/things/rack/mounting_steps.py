"""Mounting a wheel, step by step in its order. Nothing here replaces the wheel maker's and the machine's
instructions."""

from dataclasses import dataclass
from typing import Literal

Step = Literal["speed", "look", "ring", "bore", "blotters", "flanges", "guard", "run_up", "true", "balance", "dress"]


@dataclass(frozen=True)
class MountingStep:
    """A step: its key, name, what is done, whether finding it bad puts the wheel out of use, and whether it may be left
    out with a reason."""

    key: Step
    name: str
    words: str
    bad_ends: bool = False
    may_skip: bool = False


MOUNTING: tuple[MountingStep, ...] = (
    MountingStep(
        "speed",
        "Speed",
        "Its marked maximum against this spindle. Over it the wheel is not mounted; nobody can release that.",
    ),
    MountingStep(
        "look",
        "Look",
        "Cracks, chips, damp, a blotter torn; was it ever dropped? A dropped wheel is scrap.",
        bad_ends=True,
    ),
    MountingStep(
        "ring",
        "Ring test",
        "Dry, hung on a finger or pin: tap it beside the vertical, turn it, tap again. It rings clear, or it is scrap.",
        bad_ends=True,
    ),
    MountingStep(
        "bore", "Bore", "It slides on without force and without play. Never ream, press or hammer a wheel on."
    ),
    MountingStep("blotters", "Blotters", "One on each side, whole, larger than the flanges."),
    MountingStep("flanges", "Flanges", "Equal, clean, relieved and flat; tightened only as much as holds."),
    MountingStep("guard", "Guard", "Closed and tight before the spindle starts."),
    MountingStep("run_up", "Run-up", "A minute at full speed, standing out of its plane, nobody in line with it."),
    MountingStep("true", "True", "Trued round first: a wheel that is out of round balances wrongly."),
    MountingStep("balance", "Balance", "Until what is left is within the grade.", may_skip=True),
    MountingStep("dress", "Dress", "Trued lightly and dressed: now it is ready."),
)


def steps_for(bond: str | None) -> tuple[MountingStep, ...]:
    """Return the steps for a wheel of a bond: only a vitrified one rings; one whose bond nobody knows is tested too."""
    return tuple(step for step in MOUNTING if step.key != "ring" or bond in (None, "V"))
