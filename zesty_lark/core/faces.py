"""Six faces, the order in which a pair is ground, and the guard on a finished reference."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Literal

__all__ = [
    "ALL_FACES", "AXIS", "Axis", "CORNERS", "FINISHED", "OPPOSITE", "PRIMARY", "Condition", "FaceError", "FaceState", "SetUp",
    "corner_faces", "may_grind", "pair_order", "set_up_for",
]

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


class FaceError(ValueError):
    """A step that would spoil the order of the faces; the message says why."""


FINISHED = (FaceState.CLEANED, FaceState.TO_SIZE, FaceState.PROVEN)
"""The states of a face that is not ground again, unless it only was cleaned and is still to come to size."""


@dataclass(frozen=True)
class SetUp:
    """One step of the order: what is up, what it stands on, what it is for."""

    up: int
    down: int
    why: str


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


def pair_order(reference: int) -> tuple[SetUp, SetUp]:
    """Return the two set-ups of a pair: the reference first, then its opposite standing on it.

    Raises
    ------
    FaceError
        If the reference is not one of the six faces.
    """
    if reference not in OPPOSITE:
        raise FaceError(f"A block has faces 1 to 6; there is no face {reference}.")
    other = OPPOSITE[reference]
    return (
        SetUp(reference, other, f"Clean up the reference. It stands on face {other}, which only has to be stable."),
        SetUp(other, reference, f"Grind to size on the finished reference: parallel to face {reference} "
                                "as far as the chuck is flat."),
    )


def set_up_for(face: int, reference: int) -> SetUp:
    """Return the set-up in which ``face`` is up.

    Raises
    ------
    FaceError
        If the face does not belong to the reference's pair.
    """
    for step in pair_order(reference):
        if step.up == face:
            return step
    raise FaceError(f"Face {face} is not ground in this pair.")


def may_grind(face: int, reference: int, states: Mapping[int, FaceState]) -> None:
    """Pass silently when ``face`` may be ground now.

    Parameters
    ----------
    face, reference : int
        The face to go up and the reference of its pair.
    states : mapping of face to FaceState
        Where both faces of the pair stand.

    Raises
    ------
    FaceError
        If it is a finished reference, is done, or would stand on something that is not ready.
    """
    step = set_up_for(face, reference)
    if face == reference and states[face] in FINISHED:
        raise FaceError(f"Face {face} is a finished reference: it stays down on the magnet and is never ground again.")
    if states[face] in (FaceState.TO_SIZE, FaceState.PROVEN):
        raise FaceError(f"Face {face} is to size already.")
    if face == reference and states[step.down] is FaceState.RAW:
        raise FaceError(f"Face {step.down} must be stable before anything stands on it: "
                        "take scale and burrs off and see that it does not rock.")
    if face != reference and states[reference] not in FINISHED:
        raise FaceError(f"Face {reference} is the reference and comes first; face {face} is ground standing on it.")
