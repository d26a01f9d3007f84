"""What the grind page shows of where a job stands."""

from collections.abc import Callable
from datetime import datetime
from decimal import Decimal
from typing import Any

from flask import request

from zesty_lark.core.part.dial import on_collar
from zesty_lark.core.part.shown_units import ShownUnits
from zesty_lark.core.part.surfaces.formed_face import formed_of
from zesty_lark.core.quantities.units import dial_text
from zesty_lark.core.work.behind import behind
from zesty_lark.core.work.cautions import cautions_at
from zesty_lark.core.work.entries import ZeroLost
from zesty_lark.core.work.halting import STOPS
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.looking import open_items
from zesty_lark.core.work.machine_acts import (
    Dressed,
    LeftMachine,
    PassFed,
    Placed,
    SparkedOut,
    StepDone,
    StepSkipped,
    SurfaceDone,
    TouchedOff,
)
from zesty_lark.core.work.machine_rules import MOST_DRESS_MM
from zesty_lark.core.work.next_act import Next, next_act
from zesty_lark.core.work.observing import OBSERVATIONS, SIDES
from zesty_lark.core.work.plans import PlanStep
from zesty_lark.core.work.run import Run
from zesty_lark.core.work.telling import pieces_words, step_words, tell
from zesty_lark.core.work.witnesses import least_seconds, quick_words, seconds_since
from zesty_lark.shopfloor.acts.jobs import may_take_over
from zesty_lark.shopfloor.companion import companion
from zesty_lark.shopfloor.rights import may_work_on
from zesty_lark.shopfloor.units import as_unit
from zesty_lark.shopfloor.wheels import dress_for
from zesty_lark.store import shop
from zesty_lark.store.models import Job
from zesty_lark.web.grind.acts import ANY_TIME
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.frame import next_url
from zesty_lark.web.shared.plan_ladder import plan_ladder
from zesty_lark.web.shared.wording import entry_id, now, units

LAST_SHOWN = 3
COMING_SHOWN = 3
STEPS = (Placed, TouchedOff, PassFed, SparkedOut, Dressed, StepDone, StepSkipped, SurfaceDone, LeftMachine)
COME_DOWN_MM = Decimal("0.05")
"""How far above a predicted reading the wheel is come down from [mm]."""
RUNNING = ("pass", "spark-out", "no_feed")
AT_WORK = (*RUNNING, "measure", "look", "touch_off", "dress", "chamfer", "turn", "blocks", "cool")
SEEN_KEYS = {"uneven": "e", "died": "f", "clean": "c", "patch": "a", "dull": "h"}
SIDE_KEYS = {"front": "arrowdown", "back": "arrowup", "left": "arrowleft", "right": "arrowright", "middle": "i"}


def page(
    job: Job, job_state: JobState, *, wrong: str = "", act: str = "", about: str = "", plain: bool = False
) -> dict[str, Any]:
    """Return everything the page shows; ``about`` is what a press was asked about; ``plain`` without what a screen
    that nobody answers does not have: the ladder, what was logged, live readings."""
    what, words = next_act(job_state), units(job)
    run = job_state.runs[what.surface] if what.surface else None
    step = run.next_step if run is not None else None
    revs, collar = (0, Decimal(0))
    formed = formed_of(job.part.block()).get(run.surface) if run is not None and job.part.features else None
    across = formed is not None and formed.feeding.dial == "across"
    if run is not None and run.next_reading_mm is not None:
        revs, collar = (0, run.next_reading_mm) if across else on_collar(run.next_reading_mm, job.machine.per_rev_mm)
    touch = job_state.touch_reading_mm(run) if run is not None else None
    return {
        "next": what,
        "run": run,
        "job_state": job_state,
        "step": step,
        "formed": formed,
        "across": across,
        "goal": None if formed is None else formed.goal_mm,
        "at_work": what.act in AT_WORK,
        "running": what.act in RUNNING,
        "next_url": next_url(job.number, what),
        "load": _load(job_state, what),
        "open_items": open_items(job_state, run) if run is not None and job_state.is_up(run) else [],
        "step_told": step_words(step, words) if step is not None else "",
        "coming": behind(job_state, words)[:COMING_SHOWN],
        "down": job_state.spec.wanted.surfaces[what.surface].opposite if what.surface else None,
        "touch": touch if touch is not None and touch >= 0 else None,
        "come_down": COME_DOWN_MM,
        "wrong": wrong,
        "stands": _stands(job_state),
        "any_time": ANY_TIME,
        "most_dress": MOST_DRESS_MM,
        "wrong_act": act,
        "about": about,
        "takes": least_seconds(step),
        "since": 0.0 if plain else seconds_since(job_state, now()),
        "quick_words": quick_words(step) if step is not None else "",
        "revs": revs,
        "collar": collar,
        "whats_next": what,
        "count": _count(run, step),
        "may_log": may_work_on(guard.person(), job) and not job_state.held_elsewhere(guard.screen()),
        "may_take_over": may_take_over(guard.person(), job_state),
        "take_over_id": entry_id(),
        "may_work": may_work_on(guard.person(), job),
        "elsewhere": job_state.held_elsewhere(guard.screen()),
        "units": words,
        "own": "thou" if job.machine.dial_unit == "in" else "mm",
        "own_collar": _own_collar(job),
        "typed": request.form,
        "cautions": cautions_at(what, run, job_state),
        "doubt": job_state.on.wheel_stop if job_state.on is not None and what.act == "place" else "",
        "other_up": job_state.on.other_up if job_state.on is not None and what.act == "place" else "",
        "lost": _lost(job_state, words) if what.act in ("place", "look", "touch_off", "mount") else None,
        "dress": dress_for(job, job_state, step.what) if step is not None and what.act == "dress" else None,
        "stop": STOPS.get(job_state.halted.seen) if job_state.halted is not None else None,
        "stops": STOPS.values(),
        "observations": OBSERVATIONS.values(),
        "sides": SIDES,
        "seen_keys": SEEN_KEYS,
        "side_keys": SIDE_KEYS,
    } | (_beside(job, job_state, run, what) if not plain else dict.fromkeys(("beside", "readout", "meter"), None))


def _lost(job_state: JobState, words: ShownUnits) -> tuple[datetime, str] | None:
    """When and what took the load off, or lost the zero, since it was last touched off here; ``None`` when nothing
    did."""
    for entry in reversed(job_state.history):
        if isinstance(entry, LeftMachine | ZeroLost):
            return entry.at, tell(entry, words)
        if isinstance(entry, Placed | TouchedOff):
            return None
    return None


def _stands(job_state: JobState) -> str:
    """The last step that was taken: what a screen knows by it that a press it could not make is over."""
    return next((entry.entry_id for entry in reversed(job_state.history) if isinstance(entry, STEPS)), "")


def _beside(job: Job, job_state: JobState, run: Run | None, what: Next) -> dict[str, Any]:
    """The ladder, what was logged last, the wheel, time left, the readings that come in."""
    session, words = database.session(), units(job)
    told = [(entry, tell(entry, words, len(job_state.pieces))) for entry in job_state.history[-LAST_SHOWN:]]
    sensors = shop.sensors_of(session, job.machine_id)
    return {
        "told": told[::-1],
        "ladder": plan_ladder(job, job_state, run) if run is not None and run.plan is not None else "",
        "beside": companion(session, job, job_state, run if what.act in (*AT_WORK, "place") else None),
        "readout": sensors.get("position"),
        "meter": sensors.get("power"),
    }


def _load(job_state: JobState, what: Next) -> str:
    """Which pieces are meant, where there are several."""
    return f", {pieces_words(what.pieces)}" if what.pieces and len(job_state.pieces) > 1 else ""


def _own_collar(job: Job) -> Callable[[Decimal], str]:
    """Write a reading as the machine's own dial has it: what is typed is read in its words, whatever is shown."""
    return lambda mm: dial_text(mm, as_unit(job.machine.dial_unit), job.machine.graduation_mm)


def _count(face: Run | None, step: PlanStep | None) -> tuple[int, int]:
    """Which spark-out of its run a spark-out pass is, and of how many."""
    if face is None or face.plan is None or step is None:
        return 1, 1
    first = last = face.done
    while first > 0 and face.plan.steps[first - 1].kind == "spark-out":
        first -= 1
    while last + 1 < len(face.plan.steps) and face.plan.steps[last + 1].kind == "spark-out":
        last += 1
    return face.done - first + 1, last - first + 1
