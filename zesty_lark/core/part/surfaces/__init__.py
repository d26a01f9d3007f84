"""The kinds of surface, and what route, plan, machine and measuring ask of one.

Nothing outside this room knows a kind by name. A new kind is a module beside ``block_face`` and a line in ``KINDS``.
"""

from zesty_lark.core.part.surfaces.block_face import BlockFace
from zesty_lark.core.part.surfaces.formed import FORMED, Feeding
from zesty_lark.core.part.surfaces.formed_face import FormedFace
from zesty_lark.core.part.surfaces.kind import Kind
from zesty_lark.core.part.surfaces.part import Block, Lying
from zesty_lark.core.part.surfaces.surface import FACE, Surface

__all__ = ["KINDS", "feeding_of", "kind_of", "lying_of", "surfaces_of"]

KINDS: dict[str, Kind] = {FACE: BlockFace(), FORMED: FormedFace()}


def kind_of(block: Block, surface: int) -> Kind:
    """Return the kind of one of a part's surfaces."""
    return KINDS[block.others[surface].kind if surface in block.others else FACE]


def lying_of(block: Block, surface: int) -> Lying:
    """Return how a part lies with a surface up."""
    return kind_of(block, surface).lying(block, surface)


def feeding_of(block: Block, surface: int) -> Feeding:
    """Return how a surface is fed."""
    return kind_of(block, surface).feeding(block, surface)


def surfaces_of(block: Block) -> dict[int, Surface]:
    """Return every surface of a part by its number, kind after kind."""
    return {number: surface for kind in KINDS.values() for number, surface in kind.surfaces(block).items()}
