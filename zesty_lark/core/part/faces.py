"""The six faces of a block: how they lie, what they bound, how far they have come."""

from collections.abc import Mapping
from enum import StrEnum
from typing import Literal, get_args

ALL_FACES = (1, 2, 3, 4, 5, 6)
PRIMARY = (1, 2)
"""The pair with the largest area; 3 and 5 are the long sides, 4 and 6 the ends."""

OPPOSITE: Mapping[int, int] = {1: 2, 2: 1, 3: 5, 5: 3, 4: 6, 6: 4}

Axis = Literal["length", "width", "thickness"]
AXIS: Mapping[int, Axis] = {1: "thickness", 2: "thickness", 3: "width", 5: "width", 4: "length", 6: "length"}
"""The size that each pair of faces bounds."""

CORNERS = ("1-3-4", "1-3-6", "1-5-4", "1-5-6", "2-3-4", "2-3-6", "2-5-4", "2-5-6")
"""The corners that can carry the part's mark, named by the three faces that meet there."""


class FaceState(StrEnum):
    """How far a face has come."""

    RAW = "raw"
    STABLE = "stable"
    CLEANED = "cleaned"
    TO_SIZE = "to size"
    PROVEN = "proven"
    AS_IT_IS = "as it is"


class Condition(StrEnum):
    """What a face looks like when the part is taken in; stable means three points and no rocking."""

    SCALED = "scale or burrs"
    SAWN = "sawn"
    MILLED = "milled"
    STABLE = "stable"
    GROUND = "ground"

    @property
    def state(self) -> FaceState:
        """The state a face of this condition starts in."""
        if self in (Condition.SCALED, Condition.SAWN):
            return FaceState.RAW
        return FaceState.CLEANED if self is Condition.GROUND else FaceState.STABLE

    @property
    def surface(self) -> Literal["ground", "milled", "rough"]:
        """How it carries a magnet's field when it lies down."""
        if self in (Condition.SCALED, Condition.SAWN):
            return "rough"
        return "ground" if self is Condition.GROUND else "milled"


Purpose = Literal["bearing", "plain", "as it is"]
"""What a face is for: full finish, as far as it needs, or not ground at all, since nobody asks for it."""
AS_IT_IS: Purpose = "as it is"
PURPOSES = get_args(Purpose)


class FaceError(ValueError):
    """A step that would spoil the order of the faces; the message says why."""


FINISHED = (FaceState.CLEANED, FaceState.TO_SIZE, FaceState.PROVEN, FaceState.AS_IT_IS)
"""The states of a face that is not ground again, unless it only was cleaned and is still to come to size."""
AT_SIZE = (FaceState.TO_SIZE, FaceState.PROVEN, FaceState.AS_IT_IS)
"""The states of a face that no wheel touches any more."""


def corner_faces(corner: str) -> tuple[int, int, int]:
    """Return the three faces that meet at a corner such as ``1-3-4``.

    Raises
    ------
    FaceError
        If there is no such corner.
    """
    if corner not in CORNERS:
        raise FaceError(f"There is no corner {corner} on a block.")
    first, second, third = (int(face) for face in corner.split("-"))
    return first, second, third
