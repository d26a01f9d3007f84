"""Which faces lie at a block's four sides with a face up."""

from collections.abc import Mapping

from zesty_lark.core.part.faces import OPPOSITE

NEIGHBOURS: Mapping[int, Mapping[str, int]] = {
    1: {"top": 3, "bottom": 5, "left": 4, "right": 6},
    2: {"top": 3, "bottom": 5, "left": 6, "right": 4},
    3: {"top": 2, "bottom": 1, "left": 4, "right": 6},
    4: {"top": 3, "bottom": 5, "left": 2, "right": 1},
    5: {"top": 1, "bottom": 2, "left": 4, "right": 6},
    6: {"top": 3, "bottom": 5, "left": 1, "right": 2},
}
"""Which face lies beyond each edge of a face as the net draws it: 4, 1, 6, 2 in a row, 3 above 1, 5 below it."""
ENDS = (4, 6)
"""The faces at the ends of the length."""


def sides_of(face: int) -> tuple[int, int, int, int]:
    """Return the faces at the front, back, left and right of a block that lies with a face up, longer side along the
    travel."""
    beyond = NEIGHBOURS[face]
    front, back, left, right = beyond["bottom"], beyond["top"], beyond["left"], beyond["right"]
    if face in ENDS:  # width stands taller than the thickness in the net, and lies along the travel
        return left, right, back, front
    assert OPPOSITE[front] == back
    return front, back, left, right
