"""The six faces of a block: how each lies, what there is to take, when its turn comes, and what it is made square or
parallel to."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from decimal import Decimal

from zesty_lark.core.part.faces import ALL_FACES, AXIS, OPPOSITE, Axis, Condition
from zesty_lark.core.part.sequence import SquarenessMethod, Step, face_sequence
from zesty_lark.core.part.stock import split
from zesty_lark.core.part.surfaces.kind import Kind, Relates
from zesty_lark.core.part.surfaces.part import Block, Lying, PairPlan, PairSize, Sharing
from zesty_lark.core.part.surfaces.surface import Surface

CAME_FOR: Axis = "thickness"
"""The pair that the part came to be ground for: it is never left alone for being in size as it came."""


class BlockFace(Kind):
    """A face of the block, 1 to 6."""

    def surfaces(self, block: Block) -> dict[int, Surface]:
        """All six."""
        return block_surfaces(block.references)

    def size_of(self, block: Block, surface: int) -> PairSize:
        """The size of its pair."""
        return block.sizes[AXIS[surface]]

    def lying(self, block: Block, surface: int) -> Lying:
        """The longer side of the face along the travel."""
        up = AXIS[surface]
        sides = sorted((float(block.sizes[axis].target_mm) for axis in AXIS.values() if axis != up), reverse=True)
        return Lying(sides[0], sides[-1], float(block.sizes[up].target_mm))

    def stock(self, block: Block, surface: int, sharing: Mapping[Axis, Sharing]) -> PairPlan:
        """Its pair's, shared between the two."""
        axis = AXIS[surface]
        return pair_stock(block, axis, sharing[axis])

    def set_ups(self, block: Block, method: SquarenessMethod) -> list[Step]:
        """The method's, in its order."""
        sizes = {axis: float(block.sizes[axis].target_mm) for axis in AXIS.values()}
        first, second, third = block.references
        return face_sequence(
            method=method,
            length_mm=sizes["length"],
            width_mm=sizes["width"],
            height_mm=sizes["thickness"],
            primary_reference=first,
            secondary_reference=second,
            tertiary_reference=third,
            done=sorted(block.as_it_is),
        ).steps

    def why_not(self, block: Block, surface: int, ground: Collection[int]) -> list[str]:
        """A reference is not ground again, nothing stands on what is not ground, square comes after what it is square
        to."""
        references, other, said = block.references, OPPOSITE[surface], []
        if surface in references and other in ground:
            said.append(
                f"Face {surface} is a reference and face {other} was made parallel to it: ground again, it would take "
                "that with it."
            )
        if surface not in references and other not in ground:
            said.append(f"Face {surface} would stand on face {other} before that is ground: nothing to be parallel to.")
        if surface in references[1:] and references[0] not in ground:
            said.append(f"Face {surface} is to be square to face {references[0]}, which is not ground yet.")
        return said

    def is_in_size(self, block: Block, surface: int) -> bool:
        """Whether a side is within its tolerance as it came; the thickness is what the part came for, unless its faces
        came ground and it has something else to be ground."""
        if AXIS[surface] == CAME_FOR:
            ground = all(block.conditions.get(face) is Condition.GROUND for face in (surface, OPPOSITE[surface]))
            if not (ground and block.features):
                return False
        return self.size_of(block, surface).is_in_as_it_came

    def relations(self, block: Block, done: Collection[int]) -> list[Relates]:
        """Opposite faces parallel, references square to each other, and where the print asks it the first pair flat."""
        first, second, third = block.references
        wanted: list[Relates] = [
            ("parallel", OPPOSITE[first], first),
            ("square", second, first),
            ("square", third, first),
            ("square", third, second),
            ("parallel", OPPOSITE[second], second),
            ("parallel", OPPOSITE[third], third),
        ]
        flat = () if block.flat_um is None else (first, OPPOSITE[first])
        wanted += [("flat", face, face) for face in flat if face not in done]
        known = {face for face in block.as_it_is if block.conditions.get(face) is Condition.GROUND}
        return [
            (kind, face, to)
            for kind, face, to in wanted
            if face not in block.as_it_is and to not in block.as_it_is - known
        ]


def block_surfaces(references: Sequence[int]) -> dict[int, Surface]:
    """Return the six faces of a block with these references, the first of the largest pair."""
    first, others = references[0], references[1:]
    return {
        face: Surface(face, AXIS[face], OPPOSITE[face], face in references, first if face in others else None)
        for face in ALL_FACES
    }


def pair_stock(block: Block, axis: Axis, sharing: Sharing) -> PairPlan:
    """Share the stock of a pair of faces, aiming at the middle of the tolerance zone. What a face would take that stays
    as it is comes off its opposite.

    A position is kept as far as both faces' clean-up and skin leave room for it. Where only the tolerance saves the
    clean-up, both faces take their whole need, and the size ends below the goal, still in the zone.
    """
    reference = next(face for face in block.references if AXIS[face] == axis)
    size, goal = block.sizes[axis], block.sizes[axis].goal_mm
    lower, upper = size.target_mm - size.tol_minus_mm, size.target_mm + size.tol_plus_mm
    one_sided = reference in block.as_it_is
    made = split(
        measured_max_mm=size.measured_max_mm,
        measured_min_mm=size.measured_min_mm,
        target_mm=goal,
        tol_minus_mm=max(goal - lower, Decimal(0)),
        tol_plus_mm=max(upper - goal, Decimal(0)),
        first_cleanup_mm=Decimal(0) if one_sided else block.cleanup_mm[reference],
        second_cleanup_mm=block.cleanup_mm[OPPOSITE[reference]] + (sharing.skin_mm if one_sided else 0),
        min_skin_mm=Decimal(0) if one_sided else sharing.skin_mm,
        first_share=Decimal(0) if one_sided else sharing.first_share,
    )
    if one_sided:
        return PairPlan(axis, made, goal, turns=sharing.turns)
    least = block.cleanup_mm[reference] + sharing.skin_mm
    if made.spare_mm < 0 and made.cleans_up_within_tolerance:
        second = block.cleanup_mm[OPPOSITE[reference]] + sharing.skin_mm
        return PairPlan(
            axis,
            replace(made, first_face_mm=least, second_face_mm=second),
            size.measured_max_mm - least - second,
            turns=sharing.turns,
        )
    if sharing.first_mm is None:
        return PairPlan(axis, made, goal, turns=sharing.turns)
    if made.spare_mm >= 0:
        first = min(max(sharing.first_mm, least), least + made.spare_mm)
        made = replace(made, first_face_mm=first, second_face_mm=made.total_stock_mm - first)
    return PairPlan(axis, made, goal, sharing.first_mm - made.first_face_mm, sharing.turns)
