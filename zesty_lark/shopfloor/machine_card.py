"""A machine as it stands: its wheel, its load, its zero, and whether a hand may go on."""

from dataclasses import dataclass
from typing import Literal

from sqlalchemy.orm import Session

from zesty_lark.core.part.prints import THICKNESS
from zesty_lark.core.things.log import ThingEntry
from zesty_lark.core.things.machine import MachineState, machine_words
from zesty_lark.core.things.rack.mounting_steps import MOUNTING
from zesty_lark.core.work.halting import STOPS
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.next_act import next_act
from zesty_lark.core.work.run import Run
from zesty_lark.core.work.summary import NEXT_WORDS
from zesty_lark.store import job_states, jobs, machines, shop
from zesty_lark.store.models import Job, MachineRow, WheelRow

Sign = Literal["well", "think", "stop"]
SHOWN = 12


@dataclass(frozen=True)
class MachineCard:
    """What one look at a machine tells.

    Attributes
    ----------
    state : MachineState
    wheel : WheelRow or None
        On its spindle.
    job, job_state : Job, JobState or None
        Whose load is up.
    sign : {"well", "think", "stop"}
        Whether a hand may go on, has something to do first, or stops.
    words : str
        Why, as a sentence.
    """

    machine: MachineRow
    state: MachineState
    wheel: WheelRow | None
    job: Job | None
    job_state: JobState | None
    sign: Sign
    words: str

    @property
    def happened(self) -> list[tuple[ThingEntry, str]]:
        """What was done at it last, the newest first."""
        return [(entry, machine_words(entry)) for entry in self.state.history[: -SHOWN - 1 : -1]]

    @property
    def run(self) -> Run | None:
        """The run that is up."""
        up = None if self.job_state is None else self.job_state.surface_up
        return None if up is None or self.job_state is None else self.job_state.runs[up]

    @property
    def piece_mm(self) -> tuple[float, float] | None:
        """How long a piece lies along the travel, and how high the highest is [mm]; ``None`` with nothing up."""
        run, job_state = self.run, self.job_state
        if run is None or job_state is None or not run.pieces:
            return None
        surface = job_state.spec.wanted.surfaces[run.surface]
        size = surface.size if surface.is_height else THICKNESS
        high = max(job_state.pieces[number].sizes[size].by_collar_mm for number in run.pieces)
        return job_state.spec.lying_mm[run.surface][0], float(high)


def card_of(session: Session, machine: MachineRow) -> MachineCard:
    """Return a machine as it stands."""
    state = machines.state_of(session, machine)
    wheel = None if machine.spindle is None else shop.by_name(session, WheelRow, machine.spindle)
    job = None if machine.on_chuck is None else jobs.by_number(session, machine.on_chuck)
    job_state = None if job is None else job_states.state_of(session, job)
    sign, words = _says(state, wheel, job_state)
    return MachineCard(machine, state, wheel, job, job_state, sign, words)


def _says(state: MachineState, wheel: WheelRow | None, job_state: JobState | None) -> tuple[Sign, str]:
    """The same reasons by which its job would be stopped, the hardest first."""
    if wheel is None:
        return "stop", "No wheel is on the spindle."
    if wheel.scrapped:
        return "stop", f"{wheel.name} is out of use, and still on."
    step = next((each for each in MOUNTING if each.key == wheel.next_step), None)
    if step is not None:
        return "stop", f"{wheel.name} is not ready: {step.name.lower()} comes first."
    if job_state is None or job_state.on is None:
        return "think", "Nothing is up."
    if job_state.halted is not None:
        stop = STOPS.get(job_state.halted.seen)
        return "stop", f"Stopped: {job_state.halted.seen if stop is None else stop.words.lower()}."
    for why in (*job_state.spec.stops, job_state.on.wheel_stop):
        if why:
            return "stop", why
    if state.zero is None:
        return "think", f"The zero is lost: {state.lost}." if state.lost else "Not touched off yet."
    return "well", f"It may go on: {NEXT_WORDS[next_act(job_state).act]}."
