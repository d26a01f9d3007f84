"""The list behind the next act: the rest of its plan, surfaces still to be ground, what is to be proved, sign-off."""

from itertools import groupby

from zesty_lark.core.part.shown_units import ShownUnits
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.next_act import next_act
from zesty_lark.core.work.run import Run
from zesty_lark.core.work.telling import step_words


def behind(job_state: JobState, units: ShownUnits) -> list[str]:
    """Return what comes after the next act, in its order and in words; the same wherever it is looked at."""
    if job_state.signed_off:
        return []
    run = job_state.at
    said = [] if run is None else _rest_of_plan(run, units)
    to_grind = _to_grind(job_state)
    said += [job_state.titled(surface) for surface in to_grind if run is None or surface != run.surface]
    proofs = dict.fromkeys(name for _, name in job_state.unproved())
    if run is None:
        proofs.pop(next_act(job_state).characteristic, None)
    asked = job_state.spec.wanted.surfaces
    on_the_way = {asked[surface].size for surface in to_grind}
    said += [f"Measure {name}" for name in proofs if name not in on_the_way]
    return said if next_act(job_state).act == "sign_off" else [*said, "Sign off"]


def _rest_of_plan(run: Run, units: ShownUnits) -> list[str]:
    """The plan's steps after the next one; those that are alike are one line."""
    steps = () if run.plan is None else run.plan.steps[run.done + 1 :]
    alike = ((words, len(list(same))) for words, same in groupby(step_words(step, units) for step in steps))
    return [words if count == 1 else f"{count} × {words}" for words, count in alike]


def _to_grind(job_state: JobState) -> list[int]:
    """The surfaces of the route that some piece still wants."""
    asked = job_state.spec.wanted.surfaces
    return [
        surface
        for setup in job_state.setups
        if not setup.left_out
        for surface in setup.up
        if any(job_state.pieces[number].wants(asked[surface]) for number in job_state.live)
    ]
