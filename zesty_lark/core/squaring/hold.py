"""How a part is held in a set-up: on the magnet by what its material, its lower face and the gap let through, with
blocks, or in a fixture; and what springs back when the magnet lets it go."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace
from typing import Literal

from zesty_lark.core.part.faces import Condition
from zesty_lark.core.part.surfaces import kind_of, lying_of
from zesty_lark.core.part.surfaces.formed import Holding
from zesty_lark.core.part.surfaces.formed_face import HOLDERS, ON_ROLLS
from zesty_lark.core.part.surfaces.part import Block, BowShape, Lying
from zesty_lark.core.planning.means import ChuckIn
from zesty_lark.core.planning.problem import NOT_HELD
from zesty_lark.core.process.holding import SURFACES, TALL_SHARE, is_tall, pulled_flat
from zesty_lark.core.process.materials import Material
from zesty_lark.core.quantities.units import UM_A_MM
from zesty_lark.core.squaring.corner import PROUD_MM, Corner, corner_of
from zesty_lark.core.squaring.order import RouteStep
from zesty_lark.core.squaring.shop_facts import ShopFacts, holder_of
from zesty_lark.core.squaring.under import SHIM_FROM_MM, is_thin, pin_under, shimmed_mm
from zesty_lark.core.things.shop import Fixture
from zesty_lark.core.work.plans import MAGNET

OF_ONE_PIECE, OF_ONE_PIECE_N = 20, 1e5
"""What is ground and what stands on the magnet are one piece: nothing slips between them."""
OTHER_SHAPE: dict[BowShape, BowShape] = {"middle_up": "ends_up", "ends_up": "middle_up"}
"""A face ground hollow leaves the other one crowned."""


@dataclass(frozen=True)
class Held:
    """How a part is held: the fixture, or what the magnet pulls of it; whether blocks stand beside it; how bowed it
    lies [mm], which way, and whether that is known; why it cannot be held so; and the part's own foot on the magnet,
    where what is ground is less than the whole of it [mm]; what foils under its hollow fill, so that only ``gap_mm`` is
    left to be pulled [mm], and the share of its pull that the magnet is set to; in a fixture how high over the chuck
    the face is [mm], and whether an angle plate stands on its end for it, the part left clamped."""

    fixture: Fixture | None
    blocks: bool
    material_factor: float
    surface: Literal["ground", "milled", "rough"]
    gap_mm: float
    shape: BowShape
    bow_known: bool
    stop: str = ""
    foot_mm: tuple[float, float] | None = None
    shimmed_mm: float = 0.0
    set_to: float = 1.0
    face_height_mm: float | None = None
    on_end: bool = False

    def chuck(self, pull_n_cm2: float) -> ChuckIn:
        """The hold as the planner is asked with it."""
        pull_n_cm2 *= self.set_to
        if self.fixture is None and self.foot_mm is not None:
            along, across = self.foot_mm
            factors = (self.material_factor, SURFACES[self.surface], self.gap_mm)
            return ChuckIn(pull_n_cm2, *factors, along, across, clamps=OF_ONE_PIECE, clamp_n=OF_ONE_PIECE_N)
        if self.fixture is None:
            return ChuckIn(pull_n_cm2, self.material_factor, SURFACES[self.surface], self.gap_mm)
        length, width, _ = self.fixture.stood(on_end=self.on_end)
        return ChuckIn(
            pull_n_cm2,
            base_length_mm=length,
            base_width_mm=width,
            clamps=self.fixture.clamps,
            clamp_n=float(self.fixture.clamp_n),
            face_height_mm=self.face_height_mm,
        )

    @property
    def holder(self) -> str:
        """The fixture's name, or the magnet."""
        return MAGNET if self.fixture is None else self.fixture.name

    @property
    def words(self) -> str:
        """What holds it, in a few words."""
        more = (
            (", with blocks", self.blocks),
            (", shimmed", self.shimmed_mm > 0),
            (", set low", self.set_to < 1),
            (" on its end", self.on_end),
        )
        return self.holder + "".join(words for words, said in more if said)


def in_its_holder(block: Block, step: RouteStep, shop: ShopFacts, method: str) -> RouteStep:
    """Return a set-up told as it is held: two faces in one clamping or the second clamped again; and where a fixture
    holds what the route has down on the magnet, that it does."""
    up, what = step.step.up, step.step
    if any(kind_of(block, face).holding(block, face) is not None for face in up):
        return step
    fixture = holder_of(block, step, shop, method)
    corner = corner_of(block, up, fixture, shop.small("clamp"))
    why = what.why
    if corner is not None and corner.lacks:
        why = (
            f"Face {block.references[0]} against {corner.fixture.name}: face {up[0]} first, then clamped again for "
            f"face {up[1]}. {corner.lacks}"
        )
    elif len(up) > 1 and fixture is None:
        why = f"Face {up[0]} first, then set up again for face {up[1]}: no angle plate holds both."
    elif what.on_magnet and fixture is not None:
        why = f"In {fixture.name}, face {what.down} below: only as parallel to it as {fixture.name} makes it."
    return step if why == what.why else replace(step, step=replace(what, why=why))


def holds(
    block: Block,
    face: int,
    step: RouteStep,
    material: Material,
    *,
    shop: ShopFacts,
    method: str,
    ground: Collection[int],
    springs: Mapping[int, float],
    hollows: Mapping[int, float],
) -> Held:
    """Tell how a part is held with a face up.

    Parameters
    ----------
    block, face, step, material, shop, method
        The part, the face that is up in a set-up, what it is made of, the shop, and the method of squareness.
    ground : collection of int
        The faces ground before.
    springs, hollows : mapping of face to float
        What springs back of the faces planned before, and the hollow heat leaves on them [µm].
    """
    holding = kind_of(block, face).holding(block, face)
    if holding is not None:
        return _formed(block, step, material, holding, shop=shop, method=method)
    lying, down = lying_of(block, face), step.step.down
    tall = is_tall(lying.height_mm, lying.along_mm, lying.across_mm)
    fixture = shop.holder(step, method, tall=tall)
    surface = "ground" if down in ground else block.conditions.get(down, Condition.GROUND).surface
    gap, shape, known = _gap(block, down, ground, shop, springs=springs, hollows=hollows)
    higher = lying.height_mm > min(lying.across_mm, lying.along_mm)
    blocks = fixture is None and (higher if step.blocks is None and not tall else bool(step.blocks))
    stop = ""
    if fixture is None and material.pull_factor <= 0:
        stop = f"Not held: {NOT_HELD}. Choose a fixture for it."
    elif fixture is None and tall and not blocks:
        stop = (
            f"Not held: {lying.height_mm:g} mm high on {lying.across_mm:g} mm, more than {TALL_SHARE:g} times. A "
            "fixture, a vise, or support blocks on both sides close under the face."
        )
    filled = shimmed_mm(shop.small("foil"), gap) if fixture is None else 0.0
    low = fixture is None and not filled and gap >= SHIM_FROM_MM
    low = low and is_thin(lying.along_mm, lying.across_mm, lying.height_mm)
    corner = corner_of(block, step.step.up, fixture, shop.small("clamp"))
    return Held(
        fixture,
        blocks,
        material.pull_factor,
        surface,
        gap - filled,
        shape,
        known,
        stop,
        shimmed_mm=filled,
        set_to=float(shop.chuck.low_share) if low else 1.0,
        face_height_mm=None if fixture is None else _face_height(face, lying, fixture, corner=corner, shop=shop),
        on_end=corner is not None and not corner.lacks and corner.on_end(face),
    )


def _face_height(face: int, lying: Lying, fixture: Fixture, *, corner: Corner | None, shop: ShopFacts) -> float:
    """How high over the chuck a face is in its fixture: at a plate's corner, beside it on pins, or on its seat [mm]."""
    if corner is not None and not corner.lacks:
        return corner.hangs(face) + lying.height_mm
    if not fixture.is_beside:
        return float(fixture.seat_mm) + lying.height_mm
    need = max(float(fixture.height_mm) + PROUD_MM - lying.height_mm, 0.0)
    found = pin_under(shop.small("pin"), need)
    return lying.height_mm + (0.0 if found is None else found[0].lying(found[1])[2])


def _formed(
    block: Block, step: RouteStep, material: Material, holding: Holding, *, shop: ShopFacts, method: str
) -> Held:
    """Hold a part for a slot, an angle or an edge: in the fixture that it needs, or on its own ground foot."""
    fixture = shop.fixture(step, method)
    lying = lying_of(block, step.step.down)
    foot = (lying.along_mm, lying.across_mm)
    stop = ""
    if fixture is None and holding.form:
        rolls = " with its rolls' distance" if holding.form in ON_ROLLS else ""
        stop = f"The shop has no {HOLDERS[holding.form]}{rolls}: put it on the shelf under Shop, or choose a fixture."
    elif fixture is None and material.pull_factor <= 0:
        stop = f"Not held: {NOT_HELD}. Choose a fixture for it."
    elif fixture is None and is_tall(lying.height_mm, *foot):
        stop = f"Not held: {lying.height_mm:g} mm high on {min(foot):g} mm. Choose a fixture for it."
    return Held(fixture, False, material.pull_factor, "ground", 0.0, block.bow_shape, True, stop, foot)


def _gap(
    block: Block,
    down: int,
    ground: Collection[int],
    shop: ShopFacts,
    *,
    springs: Mapping[int, float],
    hollows: Mapping[int, float],
) -> tuple[float, BowShape, bool]:
    """The gap under a part [mm], how it lies, and whether the bow is known: as it came in, or once the lower face was
    ground its measured flatness, else what sprang back and the hollow."""
    if down in shop.flat_measured_um:
        return shop.flat_measured_um[down] / UM_A_MM, OTHER_SHAPE[block.bow_shape], True
    if down in ground:
        gap = (springs.get(down, 0.0) + hollows.get(down, 0.0)) / UM_A_MM
        return gap, OTHER_SHAPE[block.bow_shape], block.bow_mm is not None
    return block.bow_mm or 0.0, block.bow_shape, block.bow_mm is not None


def springs_back(block: Block, face: int, held: Held, pull_n_cm2: float) -> float:
    """Return what springs back of a face when the magnet lets the part go [µm]: never more than the gap; a fixture
    clamps a part as it is."""
    if held.fixture is not None or held.foot_mm is not None:
        return 0.0
    lying = lying_of(block, face)
    bow = pulled_flat(
        (lying.along_mm, lying.across_mm, lying.height_mm),
        held.gap_mm,
        held.shape,
        pull_n_cm2 * held.set_to,
        material_factor=held.material_factor,
        surface_factor=SURFACES[held.surface],
    )
    return 0.0 if bow is None else bow.spring_back_mm * UM_A_MM
