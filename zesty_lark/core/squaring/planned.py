"""A part's whole plan worked out: set-ups, each face's question and plan, stock of the pairs, relations."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from decimal import ROUND_DOWN, Decimal

from zesty_lark.core.part.faces import Axis
from zesty_lark.core.part.prints import THICKNESS
from zesty_lark.core.part.surfaces import kind_of, surfaces_of
from zesty_lark.core.part.surfaces.part import Block, PairPlan, Sharing
from zesty_lark.core.part.surfaces.surface import Surface
from zesty_lark.core.planning.means import LoadIn
from zesty_lark.core.quantities.units import SMALLEST_MM
from zesty_lark.core.squaring.choices import RouteChoices
from zesty_lark.core.squaring.face_plan import ONE, Asks, FacePlan, Means, blocked_where_worth, planned_face
from zesty_lark.core.squaring.hold import holds, in_its_holder, springs_back
from zesty_lark.core.squaring.order import RouteStep, route_steps
from zesty_lark.core.squaring.relations import Relation, relations
from zesty_lark.core.squaring.shop_facts import ShopFacts


@dataclass(frozen=True)
class RoutePlan:
    """The whole plan of a part."""

    steps: list[RouteStep]
    pairs: dict[str, PairPlan]
    faces: dict[int, FacePlan]
    relations: list[Relation]
    surfaces: Mapping[int, Surface] = field(default_factory=dict)

    def about(self, faces: Collection[int]) -> set[str]:
        """The names that ``figures`` gives to these faces, their set-ups and their relations."""
        return (
            {f"face {face}" for face in faces}
            | {set_up_name(step) for step in self.steps if set(step.step.up) <= set(faces)}
            | {relation.name for relation in self.relations if relation.face in faces}
        )

    def pair_of(self, face: int) -> PairPlan:
        """How the stock of the size that a face bounds is shared."""
        return self.pairs[self.surfaces[face].size]

    def is_finished(self, axis: str) -> bool:
        """Whether no face that bounds a size is still to be ground."""
        return not any(self.surfaces[face].size == axis for face in self.faces)

    def in_one_clamping(self, step: RouteStep) -> bool:
        """Whether a set-up's surfaces are taken without unclamping the part: of faces, its plate is put on its end for
        the second."""
        up = step.step.up
        formed = not any(self.surfaces[face].is_height for face in up)
        return len(up) > 1 and (formed or any(face in self.faces and self.faces[face].held.on_end for face in up))

    def step_of(self, face: int) -> RouteStep | None:
        """The set-up that has a face up."""
        return next((step for step in self.steps if face in step.step.up), None)

    @property
    def stops(self) -> list[str]:
        """Why it cannot be released, by anybody."""
        said = [stop for step in self.steps for stop in step.stops]
        return said + [
            f"{self.surfaces[face.face].title}: {face.held.stop}"
            for face in self.faces.values()
            if face.held.stop and not self.is_skipped(face.face)
        ]

    def is_skipped(self, face: int) -> bool:
        """Whether the set-up that has a face up is left out."""
        step = self.step_of(face)
        return step is not None and step.skip

    @property
    def short_of_clean_up(self) -> list[str]:
        """The pairs that do not clean up: released only with a lead's reason. Sides with nothing on them are left as
        they are."""
        return [
            axis
            for axis, pair in self.pairs.items()
            if pair.split.answer == "does not"
            and (axis == THICKNESS or pair.split.total_stock_mm > 0)
            and any(self.surfaces[face].size == axis and not self.is_skipped(face) for face in self.faces)
        ]

    @property
    def near_limits(self) -> dict[int, str]:
        """The faces whose plan is on or over a limit, and how: released only with a reason."""
        return {
            face: each.near_limit for face, each in self.faces.items() if each.near_limit and not self.is_skipped(face)
        }


def plan_route(
    block: Block,
    choices: RouteChoices,
    means: Means,
    shop: ShopFacts,
    *,
    sharing: Mapping[Axis, Sharing],
    done: Sequence[int] = (),
    left_mm: Mapping[int, Decimal] | None = None,
    carries_on: Collection[int] = (),
    loads: Mapping[int, LoadIn] | None = None,
    only: int | None = None,
) -> RoutePlan:
    """Work out a part's plan.

    Parameters
    ----------
    block : Block
    choices : RouteChoices
    means : Means
    shop : ShopFacts
        Its hollow and spring-back by face are filled in here.
    sharing : mapping of axis to Sharing
        How each pair's stock is shared.
    done : sequence of int
        Faces finished already.
    left_mm : mapping of face to Decimal, optional
        What is measured to be on a face now, where that is known better than by sharing the pair's stock [mm].
    carries_on : collection of int
        Faces that go on after a measurement with the wheel's height kept: what little is left is only finished.
    loads : mapping of face to LoadIn, optional
        How many pieces are ground together on the magnet; one where nothing is said, and in a fixture.
    only : int, optional
        The one face whose passes are wanted; how the others are held is worked out, their passes are not, but those of
        the face that it stands on, for the hollow that they leave.
    """
    steps = [
        in_its_holder(block, step, shop, choices.squareness)
        for step in route_steps(block, choices.squareness, choices.steps, done)
    ]
    surfaces = surfaces_of(block)
    pairs: dict[str, PairPlan] = {}
    for number, surface in surfaces.items():
        if surface.size not in pairs:
            pairs[surface.size] = kind_of(block, number).stock(block, number, sharing)
    walk = _Walk(block, choices, means, shop, set(done))
    faces: dict[int, FacePlan] = {}
    wanted = None if only is None else {only, *(step.step.down for step in steps if only in step.step.up)}
    for step in steps:
        for face in step.step.up:
            stock = (left_mm or {}).get(face, _share(surfaces[face], pairs))
            load = (loads or {}).get(face, ONE)
            asks = Asks(face, stock, choices.face(face), means, load, face in carries_on)
            made = walk.face(step, asks, whole=wanted is None or face in wanted)
            faces[face] = made if only in (None, face) else replace(made, problem=None, plan=None, asked=None)
        walk.has_up(step)
    told = replace(shop, hollow_um=walk.hollows, springs_back_um=walk.springs)
    return RoutePlan(
        steps,
        pairs,
        dict(sorted(faces.items())),
        relations(block, choices.squareness, steps, told, done=done),
        surfaces,
    )


@dataclass
class _Walk:
    """The way through a part's set-ups: which faces are ground so far, what springs back of those planned, and the
    hollow that heat leaves on them [µm]."""

    block: Block
    choices: RouteChoices
    means: Means
    shop: ShopFacts
    ground: set[int]
    springs: dict[int, float] = field(default_factory=dict)
    hollows: dict[int, float] = field(default_factory=dict)

    def face(self, step: RouteStep, asks: Asks, *, whole: bool) -> FacePlan:
        """Plan a face that a set-up has up; where not the ``whole``, only how it is held."""
        held = holds(
            self.block,
            asks.face,
            step,
            self.means.material,
            shop=self.shop,
            method=self.choices.squareness,
            ground=self.ground,
            springs=self.springs,
            hollows=self.hollows,
        )
        if whole:
            held = blocked_where_worth(self.block, step, asks, held)
            made = planned_face(self.block, asks, held)
        else:
            made = FacePlan(asks.face, asks.stock, asks.choice, held, None, None, held.stop)
        if made.plan is not None:
            self.hollows[asks.face] = made.plan.hollow_um
        back = springs_back(self.block, asks.face, held, self.means.pull_n_cm2)
        self.springs[asks.face] = 0.0 if step.skip else back
        return made

    def has_up(self, step: RouteStep) -> None:
        """A set-up is behind: its faces are ground, unless it is skipped."""
        if not step.skip:
            self.ground |= set(step.step.up)


def _share(surface: Surface, pairs: Mapping[str, PairPlan]) -> Decimal:
    """What a surface takes, in its first turn where there are several."""
    pair = pairs[surface.size]
    whole = pair.split.first_face_mm if surface.reference else pair.split.second_face_mm
    return whole if pair.turns == 1 else (whole / pair.turns).quantize(SMALLEST_MM, ROUND_DOWN)


def bow_if(block: Block, route: RoutePlan, means: Means) -> dict[int, tuple[float, float]]:
    """Return what a bow that nobody looked for would do, were it as large as the clean-up: by face on the magnet, that
    bow and what would spring back of it [µm]."""
    said = {}
    for face, each in route.faces.items():
        if (
            route.surfaces[face].size == THICKNESS
            and each.held.fixture is None
            and not each.held.bow_known
            and face in block.references
        ):
            bow = float(block.cleanup_mm[face])
            said[face] = (1000 * bow, springs_back(block, face, replace(each.held, gap_mm=bow), means.pull_n_cm2))
    return said


def set_up_name(step: RouteStep) -> str:
    """Return what a set-up is called where figures are compared."""
    return f"set-up of face {step.key.replace('+', ' and ')}"
