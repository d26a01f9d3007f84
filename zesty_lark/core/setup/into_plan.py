"""What of a layout is the plan's to know: which fixture, whether blocks, how it is turned."""

from dataclasses import replace

from zesty_lark.core.setup.solids import Built
from zesty_lark.core.squaring.choices import RouteChoices
from zesty_lark.core.squaring.order import StepChoice
from zesty_lark.core.squaring.planned import RoutePlan


def into_plan(built: Built, choices: RouteChoices, route: RoutePlan, face: int) -> RouteChoices:
    """Return a plan's choices as a layout holds the part with a face up; the same where it is held as planned.

    What the plan takes anyway is not chosen over again: a fixture only when it is another than the plan's, blocks only
    when they stand where the plan has none, or the other way round.
    """
    step, planned = route.step_of(face), route.faces.get(face)
    if step is None or planned is None:
        return choices
    fixture = next(built.of_role("fixture"), None)
    name = None if fixture is None else fixture.name
    blocks = fixture is None and any(True for _ in built.of_role("backing", "support"))
    holder = None if planned.held.fixture is None else planned.held.fixture.name
    if (name, blocks) != (holder, planned.held.blocks):
        chosen = [StepChoice(each.key, each.skip, each.fixture, each.blocks) for each in route.steps]
        held = StepChoice(step.key, step.skip, name, blocks if fixture is None else None)
        choices = replace(choices, steps=tuple(held if each.key == step.key else each for each in chosen))
    turn = _folded(built.layout.pieces[0].turn_deg) if fixture is None and built.layout.pieces else 0.0
    was = choices.face(face)
    return choices if was.skew_deg == turn else choices.with_face(face, replace(was, skew_deg=turn))


def _folded(turn_deg: float) -> float:
    """A turn as the travel sees it: from −90 to 90°."""
    return turn_deg if abs(turn_deg) <= 90 else turn_deg - 180 if turn_deg > 0 else turn_deg + 180
