"""What the next presses at the machine lead to, one after another: what a screen shows while nobody answers it.

Each press is taken to be what the plan asks for: the collar at its next reading, a touch-off as it is offered, a dress
by the amount that is offered. Where the next act needs more than that - a measurement, a plan - it ends.
"""

from collections.abc import Callable
from dataclasses import replace
from datetime import datetime
from decimal import Decimal

from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.folding import Folding
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import Dressed, PassFed, Placed, SparkedOut, StepDone, TouchedOff
from zesty_lark.core.work.next_act import NextAct, next_act
from zesty_lark.core.work.run import Run

MOST_AHEAD = 40
_MADE: dict[NextAct, Callable[[Run, JobState, Decimal], tuple[type[Entry], dict[str, object]]]] = {
    "place": lambda run, job_state, _: (Placed, {}),
    "touch_off": lambda run, job_state, _: (TouchedOff, {"reading_mm": _offered(run, job_state)}),
    "pass": lambda run, job_state, _: (PassFed, {"reading_mm": run.next_reading_mm}),
    "spark-out": lambda run, job_state, _: (SparkedOut, {}),
    "no_feed": lambda run, job_state, _: (SparkedOut, {}),
    "dress": lambda run, job_state, graduation: (Dressed, {"amount_mm": job_state.wheel_use.dress_mm(graduation)}),
    "chamfer": lambda run, job_state, _: (StepDone, {"step": run.done + 1}),
    "turn": lambda run, job_state, _: (StepDone, {"step": run.done + 1}),
    "blocks": lambda run, job_state, _: (StepDone, {"step": run.done + 1}),
    "cool": lambda run, job_state, _: (StepDone, {"step": run.done + 1}),
}


def _offered(run: Run, job_state: JobState) -> Decimal:
    """The reading that a touch-off is offered at: where it should be met, else 0."""
    touch = job_state.touch_reading_mm(run)
    return Decimal(0) if touch is None else max(touch, Decimal(0))


def ahead(job_state: JobState, at: datetime, graduation_mm: Decimal, most: int = MOST_AHEAD) -> list[JobState]:
    """Return where the job stands after each of the next presses, as the plan has them.

    Parameters
    ----------
    job_state : JobState
        Where it stands now.
    at : datetime
        The time they are taken to be at.
    graduation_mm : Decimal
        Of the collar: a dress is offered in whole ones [mm].
    most : int
        How many at the most.
    """
    fold = Folding(job_state.spec, job_state.history)
    found: list[JobState] = []
    on = job_state.on
    while len(found) < most:
        what = next_act(job_state)
        make = _MADE.get(what.act)
        if make is None or what.surface is None:
            break
        run = job_state.runs[what.surface]
        kind, more = make(run, job_state, graduation_mm)
        place = {"surface": run.surface, "setup": run.setup, "load": run.load}
        fold.add(kind(entry_id=f"ahead-{len(found):04d}", at=at, **place, **more))  # type: ignore[arg-type]
        if on is not None and kind is Placed:
            on = replace(on, up=on.job)
        job_state = replace(fold.state(), on=on)
        found.append(job_state)
        if kind is Placed:  # what its set-up wants looked at is not known before
            break
    return found
