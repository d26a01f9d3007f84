"""The decision in words, as it is said at the machine."""

from collections.abc import Callable, Sequence

from zesty_lark.core.landing.asked import Act, Run
from zesty_lark.core.landing.decide import Decision

TWO_THIRDS = 2 / 3
HARDLY_IN = 0.1
"""With less it is not yet the size that is gone for."""
Lengths = Callable[[float], str]


def in_mm(depth_mm: float) -> str:
    """Write a depth under the touch-off."""
    return f"{depth_mm:g} mm"


def why(run: Run, decided: Decision, depth: Lengths = in_mm) -> str:
    """Say what was decided and why.

    Parameters
    ----------
    run : Run
    decided : Decision
    depth : callable
        How a depth under the touch-off [mm] is written: as the collar reads.
    """
    told = {
        "in": "In: the last readings prove it. Nothing more to take.",
        "under": "Under size: it cannot be put back. Stop and tell the lead.",
        "read again": "Lift it, wipe it, put it back and read it again.",
        "surprise": "That is not what was expected. Was the wheel there, is the zero lost, did the part move, is there "
        "dirt? Wipe all and read it twice again before anything else.",
        "sparks": "The sparks were not as they should have been. Was the wheel there, is the zero lost? Measure before "
        "anything else.",
        "stuck": _stuck(decided),
    }.get(decided.reason)
    if told is not None:
        return told
    first = (
        "The readings stand: something else happened, so the zero is taken anew from them. Say what it was. "
        if decided.reason == "zero anew"
        else _coarse(run)
    )
    assert decided.way is not None
    return (
        first + what_next(decided.acts, depth) + f": {chances(decided.way.chances.inside, decided.way.chances.under)}."
    )


def _stuck(decided: Decision) -> str:
    if decided.end is None:
        return "No cut that is safe would bring it in. Read it twice more; the mean decides."
    return {
        "in": "The mean of all readings proves it in.",
        "out": "The mean of all readings is outside, and no cut can mend it.",
        "unsure": "No cut is safe any more and the readings do not prove it in: a better gauge, a comparison with "
        "blocks or ten readings can.",
    }[decided.end]


def _coarse(run: Run) -> str:
    """Say before the first cut that a setting is coarse against the zone."""
    if run.acts or run.setting_mm <= TWO_THIRDS * run.guarded_mm:
        return ""
    return (
        f"A setting of {run.setting_mm:g} mm is coarse for the {max(run.guarded_mm, 0):.2g} mm in which a reading "
        "proves the size: set it finer, between the lines, or take a better gauge. "
    )


def what_next(acts: Sequence[Act], depth: Lengths = in_mm) -> str:
    """Say the acts until the next stop in one sentence."""
    rough = [act.to_mm for act in acts if act.act == "pass" and act.kind == "rough"]
    finish = [act.to_mm for act in acts if act.act == "pass" and act.kind == "finish"]
    blanks = sum(act.act == "spark_out" for act in acts)
    said = []
    if rough and rough[-1] is not None:
        said.append(f"rough down to {depth(rough[-1])}")
    if any(act.act == "dress" for act in acts):
        said.append("dress")
    if finish and finish[-1] is not None:
        said.append(f"down to {depth(finish[-1])}")
    if blanks:
        said.append("one spark-out" if blanks == 1 else f"{_NUMBERS.get(blanks, str(blanks))} spark-outs")
    whole = ", ".join([*said, "then measure"])
    return whole[0].upper() + whole[1:]


_NUMBERS = {2: "two", 3: "three", 4: "four"}


def chances(inside: float, under: float) -> str:
    """Say the two chances: in of a hundred, under of a thousand; where it is hardly in yet, that so far it may go."""
    in_100, in_1000 = round(100 * inside), round(1000 * under)
    low = f"{in_1000} in 1000" if in_1000 else "less than 1 in 1000"
    if inside < HARDLY_IN:
        return f"so far it may go before it is measured, {low} that it is under"
    return f"{in_100} in 100 that it is in, {low} that it is under"
