"""The list behind the next act: the rest of its plan, surfaces still to be ground, what is to be proved, sign-off."""

from itertools import groupby

from zesty_lark.core.part.shown_units import ShownUnits
from zesty_lark.core.work.next_act import next_act
from zesty_lark.core.work.run import Run
from zesty_lark.core.work.standing import Standing
from zesty_lark.core.work.telling import step_words


def behind(standing: Standing, units: ShownUnits) -> list[str]:
    """Return what comes after the next act, in its order and in words; the same wherever it is looked at."""
    if standing.signed_off:
        return []
    run = standing.at
    said = [] if run is None else _rest_of_plan(run, units)
    said += [standing.titled(surface) for surface in _to_grind(standing) if run is None or surface != run.surface]
    proofs = dict.fromkeys(name for _, name in standing.unproved())
    if run is None:
        proofs.pop(next_act(standing).characteristic, None)
    said += [f"Measure {name}" for name in proofs if not _measured_on_the_way(name, standing)]
    return said if next_act(standing).act == "sign_off" else [*said, "Sign off"]


def _rest_of_plan(run: Run, units: ShownUnits) -> list[str]:
    """The plan's steps after the next one; those that are alike are one line."""
    steps = () if run.plan is None else run.plan.steps[run.done + 1 :]
    alike = ((words, len(list(same))) for words, same in groupby(step_words(step, units) for step in steps))
    return [words if count == 1 else f"{count} × {words}" for words, count in alike]


def _to_grind(standing: Standing) -> list[int]:
    """The surfaces of the route that some piece still wants."""
    asked = standing.brief.wanted.surfaces
    return [
        surface
        for setup in standing.setups
        if not setup.left_out
        for surface in setup.up
        if any(standing.pieces[number].wants(asked[surface]) for number in standing.live)
    ]


def _measured_on_the_way(name: str, standing: Standing) -> bool:
    """Whether a size is measured while its surface is ground, which is still to come."""
    return any(standing.brief.wanted.surfaces[surface].size == name for surface in _to_grind(standing))
