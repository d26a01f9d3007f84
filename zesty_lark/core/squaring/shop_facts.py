"""What the shop knows that a part’s plan stands on: its chuck and the map of it, fixtures, small things, how well it
measures."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from zesty_lark.core.measure.maps.footprint import Footprint, footprint
from zesty_lark.core.part.sequence import METHODS_OF_SQUARENESS
from zesty_lark.core.part.surfaces import lying_of
from zesty_lark.core.part.surfaces.formed_face import HOLDERS
from zesty_lark.core.part.surfaces.part import Block
from zesty_lark.core.process.holding import is_tall
from zesty_lark.core.squaring.order import RouteStep
from zesty_lark.core.things.shop import Accessory, AccessoryKind, Chuck, Fixture

Points = tuple[tuple[float, float, float], ...]
_FORMS = {words: form for form, words in HOLDERS.items() if form}


def _serves(fixture: Fixture, form: str) -> bool:
    """Whether a fixture is of a form; a sine plate of which the rolls' distance is known, a compound one of both."""
    if form == "compound_plate":
        return fixture.form == "sine_plate" and fixture.centres_mm is not None and fixture.top_centres_mm is not None
    return fixture.form == form and (form != "sine_plate" or fixture.centres_mm is not None)


@dataclass(frozen=True)
class ShopFacts:
    """What the shop knows: chuck, the points of its newest map [mm] [µm], fixtures, small things, U of measuring a
    thickness and a squareness; and by face the hollow and spring-back that are expected, and the flatness that was
    measured [µm]."""

    chuck: Chuck
    fixtures: Sequence[Fixture] = ()
    chuck_map: Points = ()
    measuring_um: float = 1.0
    measuring_square_um: float = 1.5
    accessories: Sequence[Accessory] = ()
    hollow_um: Mapping[int, float] = field(default_factory=dict)
    springs_back_um: Mapping[int, float] = field(default_factory=dict)
    flat_measured_um: Mapping[int, float] = field(default_factory=dict)

    @property
    def chuck_range_um(self) -> float | None:
        """The range of the chuck's whole map; ``None`` when it was never mapped [µm]."""
        heights = [z for _, _, z in self.chuck_map]
        return max(heights) - min(heights) if heights else None

    def small(self, kind: AccessoryKind) -> list[Accessory]:
        """The shop's small things of a kind."""
        return [each for each in self.accessories if each.kind == kind]

    @property
    def for_faces(self) -> list[Fixture]:
        """The fixtures that a block's faces are ground in."""
        return [fixture for fixture in self.fixtures if not fixture.is_for_angles]

    def under(self, length_mm: float, width_mm: float) -> Footprint | None:
        """What the chuck's map has under a footprint; ``None`` without a map."""
        return footprint(self.chuck_map, length_mm, width_mm) if self.chuck_map else None

    def holder(self, step: RouteStep, method: str, *, tall: bool) -> Fixture | None:
        """What holds the part in a set-up: its fixture; or where it is too tall for the bare magnet, and no blocks are
        asked for, the steadiest one there is."""
        named = self.fixture(step, method)
        plain = self.for_faces
        if named is not None or not tall or step.blocks or not plain:
            return named
        return max(plain, key=lambda each: (each.kind == method, each.base_length_mm * each.base_width_mm))

    def fixture(self, step: RouteStep, method: str) -> Fixture | None:
        """The fixture of a set-up: the one chosen, else the truest of the method's kind; ``None`` on the bare
        magnet."""
        for each in self.fixtures:
            if each.name == step.fixture:
                return each
        if step.step.fixture in _FORMS:
            serve = [each for each in self.fixtures if _serves(each, _FORMS[step.step.fixture])]
            return min(serve, key=lambda each: each.top_centres_mm is not None, default=None)
        if step.step.fixture != METHODS_OF_SQUARENESS[method][0]:
            return None
        kind = [fixture for fixture in self.for_faces if fixture.kind == method]
        return min(kind, key=lambda each: each.out_of_square) if kind else None


def holder_of(block: Block, step: RouteStep, shop: ShopFacts, method: str) -> Fixture | None:
    """Return what holds the part in a set-up, as high as it stands for its first face; ``None`` on the bare magnet."""
    lying = lying_of(block, step.step.up[0])
    return shop.holder(step, method, tall=is_tall(lying.height_mm, lying.along_mm, lying.across_mm))
