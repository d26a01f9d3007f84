"""What comes next: one act, from the print, the route, the plan and the log alone."""

from dataclasses import dataclass
from typing import Literal

from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.looking import felt_wrong, holding
from zesty_lark.core.work.plans import FEEDS, StepKind
from zesty_lark.core.work.run import Proof, Run

NextAct = Literal[
    "plan",
    "mount",
    "dress",
    "chamfer",
    "place",
    "turn",
    "blocks",
    "look",
    "touch_off",
    "no_feed",
    "pass",
    "spark-out",
    "cool",
    "measure",
    "measure_again",
    "close",
    "stopped",
    "halted",
    "lead",
    "prove",
    "sign_off",
    "finished",
]
_ACTS: dict[StepKind, NextAct] = {"touch off": "touch_off", "no feed": "no_feed", "rough": "pass", "finish": "pass"}
WITH_WHEEL: tuple[NextAct, ...] = ("dress", "chamfer", "look", "touch_off", "no_feed", "pass", "spark-out")
"""What is done with the wheel that the job is planned with."""
BEFORE_PLACING: tuple[StepKind, ...] = ("dress", "chamfer")
MOST_TRIES = 3
"""Measured so often without an answer, the lead decides."""
_ORDER: tuple[NextAct, ...] = ("measure", "measure_again", "close", "plan", "lead", "stopped")
"""With several pieces: know them all, let go of those that are done, take the others further; what is lost can wait."""


@dataclass(frozen=True)
class Next:
    """What comes next on a job: on which surface, on which pieces, and what is to be measured."""

    act: NextAct
    surface: int | None = None
    pieces: tuple[int, ...] = ()
    characteristic: str = ""

    @property
    def piece(self) -> int | None:
        """The first of the pieces."""
        return self.pieces[0] if self.pieces else None


def next_act(job_state: JobState) -> Next:
    """Tell what comes next."""
    run = job_state.at
    if job_state.signed_off:
        return Next("finished")
    if job_state.halted is not None:
        surface = job_state.halted.surface
        return Next("halted", surface, job_state.runs[surface].pieces)
    if run is None:
        return _after_the_last(job_state)
    if run.plan is None:
        return Next("plan", run.surface, run.pieces)
    if run.proofs:
        return _after_measuring(run, job_state)
    return _of_plan(run, job_state)


def _after_the_last(job_state: JobState) -> Next:
    """Every surface is done: what is not proved yet is measured, or signed off."""
    for number, name in job_state.unproved():
        if job_state.pieces[number].verdicts.get(name) != "out":
            return Next("prove", None, (number,), name)
    return Next("sign_off")


def _of_plan(run: Run, job_state: JobState) -> Next:
    """What the plan asks for next; a load that is not up goes up first, a collar that is not known is zeroed first."""
    step = run.next_step
    kind: StepKind = step.kind if step is not None else "measure"
    act: NextAct = _ACTS.get(kind, kind)  # type: ignore[arg-type]
    if kind not in BEFORE_PLACING:
        if not job_state.is_up(run) and kind not in ("measure", "cool"):
            act = "place"
        elif kind in (*FEEDS, "no feed", "spark-out") and not run.touched_off:
            act = "touch_off"
        elif step is None and not needs_measuring(run, job_state):
            act = "close"
    if act == "touch_off" and (felt_wrong(job_state, run) or holding(job_state, run)):
        act = "look"
    if act in WITH_WHEEL and job_state.on is not None and job_state.on.wheel_stop:
        act = "mount"
    pieces = run.pieces[:1] if act == "measure" else run.pieces
    return Next(act, run.surface, pieces, job_state.spec.wanted.surfaces[run.surface].size if act == "measure" else "")


def needs_measuring(run: Run, job_state: JobState) -> bool:
    """Whether a run is only done when it was measured: a size of the print, or what is left for the other side."""
    return job_state.spec.wanted.ends_on(run.surface) is not None or job_state.on_magnet(run)


def unseen_pieces(run: Run, pieces: tuple[int, ...]) -> tuple[int, ...]:
    """Return those of the pieces of a load that nobody has measured since the last cut, nor seen clean all over."""
    return () if run.clean else tuple(number for number in pieces if number not in run.proofs)


def _after_measuring(run: Run, job_state: JobState) -> Next:
    """A size that is in closes the surface, one under it stops it, one that is surely over goes on to the next plan.

    An unsure one asks for a better measurement, and after a few without an answer for the lead.
    """
    wanted = job_state.spec.wanted
    size = wanted.surfaces[run.surface].size
    if wanted.ends_on(run.surface) is None:
        under = [number for number, proof in run.proofs.items() if proof.under and number in run.pieces]
        if under:
            return Next("stopped", run.surface, tuple(under), size)
        unseen = unseen_pieces(run, run.pieces)
        if unseen and run.cutting_over:
            return Next("measure", run.surface, unseen, size)
        return Next("close" if run.cutting_over else "plan", run.surface, run.pieces, size)
    acts: dict[NextAct, list[int]] = {}
    for number in run.pieces:
        proof = run.proofs.get(number)
        waived = size in job_state.pieces[number].waived
        acts.setdefault("measure" if proof is None else "close" if waived else _answer(proof), []).append(number)
    for act in _ORDER:
        if act in acts:
            return Next(act, run.surface, tuple(acts[act]), size)
    return Next("plan", run.surface, run.pieces)


def _answer(proof: Proof) -> NextAct:
    if proof.under:
        return "stopped"
    if proof.verdict == "in":
        return "close"
    if proof.verdict == "not yet" or (proof.verdict == "out" and proof.over):
        return "plan"
    return "lead" if proof.verdict == "out" or proof.tries >= MOST_TRIES else "measure_again"
