"""The set-ups in the order someone wants them, and what skipping or moving one does. References are guarded."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from zesty_lark.core.part.sequence import SquarenessMethod, Step
from zesty_lark.core.part.surfaces import KINDS, kind_of
from zesty_lark.core.part.surfaces.part import Block
from zesty_lark.core.work.setups import SetUp


@dataclass(frozen=True)
class StepChoice:
    """What someone wants of a set-up: its place is its place in their list; skipped; another fixture by name; with or
    without blocks beside the part, ``None`` as its height asks."""

    key: str
    skip: bool = False
    fixture: str | None = None
    blocks: bool | None = None


@dataclass(frozen=True)
class RouteStep:
    """A set-up in its place. ``stops`` say why it must not be so; ``losses`` what relation is not made this way.

    ``fixture`` is one of the shop's by name, ``None`` while the method's own kind is meant.
    """

    key: str
    number: int
    step: Step
    skip: bool
    fixture: str | None
    stops: list[str]
    losses: list[str]
    blocks: bool | None = None


def key_of(step: Step) -> str:
    """The name of a set-up that does not change with its place: the faces it has up."""
    return "+".join(str(face) for face in step.up)


def route_steps(
    block: Block, method: SquarenessMethod, choices: Sequence[StepChoice] = (), done: Sequence[int] = ()
) -> list[RouteStep]:
    """Order the set-ups of a method as someone wants them.

    Parameters
    ----------
    block : Block
    method : str
        One of the methods of squareness.
    choices : sequence of StepChoice
        Set-ups in the wanted order; those not named keep their place at the end, unknown ones are dropped.
    done : sequence of int
        Faces finished already: their set-ups are left out.
    """
    usual = [step for kind in KINDS.values() for step in kind.set_ups(block, method)]
    left = {key_of(step): step for step in usual if not set(step.up) <= set(done)}
    wanted = [choice for choice in choices if choice.key in left]
    wanted += [StepChoice(key) for key in left if key not in {choice.key for choice in wanted}]
    ground, steps = set(done) | block.as_it_is, []
    for number, choice in enumerate(wanted, start=1):
        step = replace(left[choice.key], number=number)
        stops = [] if choice.skip else [w for up in step.up for w in kind_of(block, up).why_not(block, up, ground)]
        losses = [f"not made: {each}" for each in step.makes] if choice.skip else []
        steps.append(RouteStep(choice.key, number, step, choice.skip, choice.fixture, stops, losses, choice.blocks))
        if not choice.skip:
            ground |= set(step.up)
    return steps


IN_SIZE = "in size as it came"
SKIPPED = "skipped in the plan"


def set_ups(block: Block, steps: Sequence[RouteStep]) -> tuple[SetUp, ...]:
    """Return the route as the log follows it: sides that are in size as they came are left alone."""
    made = []
    for step in steps:
        up = tuple(face for face in step.step.up if not kind_of(block, face).is_in_size(block, face))
        left_out = SKIPPED if step.skip else "" if up else IN_SIZE
        made.append(
            SetUp(
                step.key,
                up or tuple(step.step.up),
                step.step.down,
                step.step.on_magnet and step.fixture is None,
                left_out,
            )
        )
    return tuple(made)
