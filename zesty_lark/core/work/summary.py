"""Where a job stands in a line, for lists: what a shop's years must not make slower."""

from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from zesty_lark.core.part.faces import FaceState
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.next_act import Next, NextAct, next_act
from zesty_lark.core.work.telling import pieces_words

WaitsFor = Literal["planning", "the machine", "measuring", "a lead", "sign-off", ""]
NEXT_WORDS: dict[NextAct, str] = {
    "plan": "plan the passes",
    "mount": "mount its wheel",
    "dress": "dress the wheel",
    "chamfer": "chamfer the wheel",
    "place": "put it on the chuck",
    "turn": "turn it",
    "blocks": "place the blocks",
    "look": "look at the set-up",
    "touch_off": "touch off",
    "no_feed": "first pass, no feed",
    "pass": "grind",
    "spark-out": "spark out",
    "cool": "let it cool",
    "measure": "measure",
    "lead": "the lead decides",
    "measure_again": "measure again",
    "close": "declare it done",
    "prove": "measure what is left",
    "stopped": "under size",
    "halted": "stopped: go on with a reason",
    "sign_off": "sign off",
    "finished": "finished",
}
_WAITS: dict[NextAct, WaitsFor] = {
    "plan": "planning",
    "measure": "measuring",
    "measure_again": "measuring",
    "prove": "measuring",
    "close": "measuring",
    "lead": "a lead",
    "stopped": "a lead",
    "sign_off": "sign-off",
    "finished": "",
}


@dataclass(frozen=True)
class Summary:
    """A job in a line.

    Attributes
    ----------
    act, surface, piece, characteristic
        What comes next, as ``Next`` has it.
    words : str
        The same in words.
    waits_for : WaitsFor
        Whom or what it waits for; empty when it is finished.
    running : bool
        A load of it is up on the machine.
    up : int or None
        The surface that is up.
    states : dict of surface to FaceState
    finished_at, last_at : datetime or None
        When it was signed off, and when something was logged last.
    """

    act: NextAct
    surface: int | None
    piece: int | None
    characteristic: str
    words: str
    waits_for: WaitsFor
    running: bool
    up: int | None
    states: dict[int, FaceState]
    finished_at: datetime | None
    last_at: datetime | None


def summary_of(job_state: JobState) -> Summary:
    """Return a job's summary."""
    what = next_act(job_state)
    return Summary(
        what.act,
        what.surface,
        what.piece,
        what.characteristic,
        next_words(what, job_state),
        _WAITS.get(what.act, "the machine"),
        job_state.up is not None and what.act != "finished",
        job_state.surface_up,
        job_state.states,
        None if job_state.signed_off is None else job_state.signed_off.at,
        job_state.history[-1].at if job_state.history else None,
    )


def next_words(what: Next, job_state: JobState) -> str:
    """Say what comes next, on which face and which pieces."""
    words = NEXT_WORDS[what.act]
    of = f", {pieces_words(what.pieces)}" if what.pieces and len(job_state.pieces) > 1 else ""
    if what.surface is None:
        return f"Measure {what.characteristic}{of}" if what.act == "prove" else words.capitalize()
    run = job_state.runs[what.surface]
    if what.act == "pass" and run.plan:
        return f"{job_state.titled(what.surface)}, pass {run.passes_done + 1} of {len(run.plan.passes)}{of}"
    return f"{job_state.titled(what.surface)}: {words}{of}"
