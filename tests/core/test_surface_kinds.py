"""A kind of surface nothing else knows: said once, it is in the route, planned, ground, measured and signed off."""

from collections.abc import Collection, Iterator, Mapping
from dataclasses import replace
from decimal import Decimal

import pytest

from tests.core.test_route import BLOCK, MEANS, SHARING, SHOP
from tests.core.worklog import Log
from zesty_lark.core.part.faces import ALL_FACES, Axis, FaceState
from zesty_lark.core.part.prints import Characteristic, Print
from zesty_lark.core.part.sequence import SquarenessMethod, Step
from zesty_lark.core.part.sizes import Reading, Size
from zesty_lark.core.part.stock import split
from zesty_lark.core.part.surfaces import KINDS, surfaces_of
from zesty_lark.core.part.surfaces.kind import Kind, Relates
from zesty_lark.core.part.surfaces.part import Block, Lying, PairPlan, PairSize, Sharing
from zesty_lark.core.part.surfaces.surface import Surface
from zesty_lark.core.squaring.choices import RouteChoices
from zesty_lark.core.squaring.order import StepChoice, set_ups
from zesty_lark.core.squaring.planned import RoutePlan, plan_route
from zesty_lark.core.squaring.release import Situation, plan_steps
from zesty_lark.core.work.entry import Kind as EntryKind
from zesty_lark.core.work.job_state import JobSpec
from zesty_lark.core.work.next_act import next_act

D = Decimal
SHOULDER = PairSize(D("14"), D("0.01"), D("0.01"), D("14.12"), D("14.11"))


class Shoulder(Kind):
    """The floor of a step along one side: parallel to the face that the block stands on, at a height over it."""

    def surfaces(self, block: Block) -> dict[int, Surface]:
        return {number: each for number, each in block.others.items() if each.kind == "shoulder"}

    def size_of(self, block: Block, surface: int) -> PairSize:
        return block.sizes[block.others[surface].size]

    def lying(self, block: Block, surface: int) -> Lying:
        return Lying(float(block.sizes["length"].target_mm), 20.0, float(self.size_of(block, surface).target_mm))

    def stock(self, block: Block, surface: int, sharing: Mapping[Axis, Sharing]) -> PairPlan:
        size = self.size_of(block, surface)
        made = split(
            measured_max_mm=size.measured_max_mm,
            measured_min_mm=size.measured_min_mm,
            target_mm=size.goal_mm,
            tol_minus_mm=size.tol_minus_mm,
            tol_plus_mm=size.tol_plus_mm,
            first_cleanup_mm=D(0),
            second_cleanup_mm=size.measured_max_mm - size.measured_min_mm,
            min_skin_mm=D(0),
        )
        return PairPlan(block.others[surface].size, made, size.goal_mm)

    def set_ups(self, block: Block, method: SquarenessMethod) -> list[Step]:
        return [
            Step(
                0,
                [number],
                each.opposite,
                "magnet",
                "The step is ground last, on the finished block.",
                ["shoulder"],
                "",
                [],
            )
            for number, each in self.surfaces(block).items()
        ]

    def why_not(self, block: Block, surface: int, ground: Collection[int]) -> list[str]:
        under = block.others[surface].opposite
        return [] if under in ground else [f"The shoulder would stand on face {under} before that is ground."]

    def is_in_size(self, block: Block, surface: int) -> bool:
        return self.size_of(block, surface).is_in_as_it_came

    def relations(self, block: Block, done: Collection[int]) -> list[Relates]:
        return [("parallel", number, each.opposite) for number, each in self.surfaces(block).items()]


STEPPED = replace(
    BLOCK, sizes={**BLOCK.sizes, "shoulder": SHOULDER}, others={7: Surface(7, "shoulder", 1, kind="shoulder")}
)


@pytest.fixture(autouse=True)
def known() -> Iterator[None]:
    KINDS["shoulder"] = Shoulder()
    yield
    del KINDS["shoulder"]


def route(block: Block = STEPPED, **more: object) -> RoutePlan:
    return plan_route(block, RouteChoices(), MEANS, SHOP, sharing=SHARING, **more)  # type: ignore[arg-type]


def test_it_is_in_the_route_last_and_guarded() -> None:
    made = route()
    assert list(surfaces_of(STEPPED)) == [*ALL_FACES, 7]
    assert [step.key for step in made.steps][-1] == "7" and made.steps[-1].stops == []
    first = plan_route(STEPPED, RouteChoices(steps=(StepChoice("7"),)), MEANS, SHOP, sharing=SHARING)
    assert first.steps[0].stops == ["The shoulder would stand on face 1 before that is ground."]
    assert "7" not in {setup.key for setup in set_ups(BLOCK, route(BLOCK).steps)}
    in_size = replace(
        STEPPED,
        sizes={**STEPPED.sizes, "shoulder": replace(SHOULDER, measured_max_mm=D("14.005"), measured_min_mm=D("14"))},
    )
    assert set_ups(in_size, route(in_size).steps)[-1].left_out


def test_it_is_planned_and_held_as_it_lies() -> None:
    made = route()
    plan = made.faces[7]
    assert plan.stock_mm == D("0.12") and plan.plan is not None and plan.plan.within_limits
    assert made.pair_of(7).ends_at_mm == 14 and plan.held.surface == "ground", "it stands on what was ground before it"
    relation = next(each for each in made.relations if each.face == 7)
    assert (relation.kind, relation.to) == ("parallel", 1) and relation.chain.likely_um > 0
    others = route(BLOCK)
    assert {face: each.stock_mm for face, each in others.faces.items()} == {
        face: made.faces[face].stock_mm for face in ALL_FACES
    }, "the six faces are planned as they were"


def test_it_is_ground_measured_and_signed_off_by_the_log() -> None:
    sizes = {name: size.measured_max_mm for name, size in STEPPED.sizes.items()}
    asked = Characteristic("shoulder", "size", (7, 1), Size(D(14), D("0.01"), D("0.01")))
    done = {face: FaceState.TO_SIZE for face in ALL_FACES}
    made = route(done=ALL_FACES)
    spec = JobSpec(
        Print(surfaces_of(STEPPED), (asked,)), {1: sizes}, {**done, 7: FaceState.STABLE}, set_ups(STEPPED, made.steps)
    )
    log = Log(spec)
    assert next_act(log.now).surface == 7 and log.next == "plan"
    steps = plan_steps(made.faces[7], Situation(D("0.00254"), D("0.02"), cut_ratio=0.6))
    log.add(EntryKind.PLANNED, 7, plan=steps)
    for _ in range(200):
        what = next_act(log.now)
        if what.act == "measure":
            break
        run = log.run(7)
        match what.act:
            case "pass":
                log.add(EntryKind.PASS, 7, reading_mm=run.next_reading_mm)
            case "spark-out" | "no_feed":
                log.add(EntryKind.SPARK_OUT, 7, count=1)
            case "touch_off":
                log.add(EntryKind.TOUCHED_OFF, 7, reading_mm=D(0))
            case "place":
                log.add(EntryKind.PLACED, 7)
            case "dress":
                log.add(EntryKind.DRESSED, 7, amount_mm=D("0.02"))
            case _:
                assert run.next_step is not None
                log.add(EntryKind.DONE, 7, step=run.next_step.number)
    assert next_act(log.now).characteristic == "shoulder"
    log.add(
        EntryKind.MEASURED,
        7,
        readings=(Reading("middle", D("14.001")),),
        uncertainty_mm=D("0.001"),
        verdict="in",
        characteristic="shoulder",
        piece=1,
    )
    log.add(EntryKind.SURFACE_DONE, 7)
    assert log.now.unproved() == [] and log.next == "sign_off"
    log.add(EntryKind.SIGNED_OFF, None)
    assert log.now.pieces[1].states[7] is FaceState.PROVEN
