"""What was not done, in words of the work, when a press at the machine is refused."""

from typing import Final

from zesty_lark.core.work.job_state import JobState

_NOT_DONE: Final = {
    "place": "{surface} not put up",
    "touch_off": "{surface} not touched off",
    "pass": "Pass not logged",
    "spark_out": "Spark-out not logged",
    "dressed": "Dress not logged",
    "done": "Step not logged",
    "skip": "Step not skipped",
    "leave": "{surface} not taken off",
    "close": "{surface} not done",
    "note": "Note not kept",
    "undo": "Not undone",
    "observe": "What was seen is not logged",
    "halt": "Stop not logged",
    "go_on": "Not gone on",
    "take_over": "Run not taken over",
}
"""By the act that was pressed."""


def refused_words(act: str, surface: int | None, job_state: JobState, why: str) -> str:
    """Return one line for a press that was refused: what was not done, and why."""
    named = job_state.titled(surface) if surface in job_state.runs and surface is not None else "The face"
    return f"{_NOT_DONE.get(act, 'Not logged').format(surface=named)}: {why}"
