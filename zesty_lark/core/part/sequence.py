"""The order of all six faces for a method of squareness: what is up, what is down, in which fixture, and what it makes
true.

Faces are numbered 1 and 2 (the largest), 3 and 5, 4 and 6; each pair's reference
can be either.
"""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

from zesty_lark.core.part.faces import OPPOSITE
from zesty_lark.core.quantities.numbers import InputError, Positive

SquarenessMethod = Literal["angle_plate", "square_block", "vee_or_vise", "small_part_fixture", "shim", "assembly"]
FaceNumber = Annotated[int, Ge(1), Le(6)]
SMALL_MM = 20.0

MAGNET, MAGNET_SUPPORTED = "magnet", "magnet, supported if taller than wide"
ON_MAGNET = frozenset({MAGNET, MAGNET_SUPPORTED})
"""Where the part stands on the magnet itself."""
METHODS_OF_SQUARENESS: dict[str, tuple[str, str]] = {
    "angle_plate": ("angle plate", "the angle plate's squareness, once"),
    "square_block": ("square block and clamp, part on pins", "the block's squareness and the seating, each time"),
    "vee_or_vise": ("vee block or grinding vise", "the side indicated to zero along the travel, and the vise"),
    "small_part_fixture": ("small-part fixture", "the cube's squareness"),
    "shim": ("shim under one edge, on the magnet", "what was measured before, and the shim"),
    "assembly": ("built up with its neighbours", "the assembly's own faces"),
}


SQUARENESS_NAMES = {
    "angle_plate": "Angle plate",
    "square_block": "Square block and clamp",
    "vee_or_vise": "Vee block or vise",
    "small_part_fixture": "Small-part fixture",
    "shim": "Shim to square",
    "assembly": "As an assembly",
}


@dataclass(frozen=True)
class Step:
    """One set-up: faces up (two when both stand proud in one clamping) and down, fixture, why, and the relations it
    makes."""

    number: int
    up: list[int]
    down: int
    fixture: str
    why: str
    makes: list[str]
    through: str
    cautions: list[str]

    @property
    def on_magnet(self) -> bool:
        """Whether the part stands on the magnet itself."""
        return self.fixture in ON_MAGNET


@dataclass(frozen=True)
class Sequence:
    """The steps in order, what each face is, and faces that are left alone."""

    method: str
    steps: list[Step]
    references: list[int]
    left_alone: list[int]


def face_sequence(
    *,
    method: SquarenessMethod,
    length_mm: Positive,
    width_mm: Positive,
    height_mm: Positive,
    primary_reference: FaceNumber = 1,
    secondary_reference: FaceNumber = 3,
    tertiary_reference: FaceNumber = 4,
    done: Annotated[list[FaceNumber], MaxLen(6)] | None = None,
) -> Sequence:
    """Order the set-ups of a block.

    Parameters
    ----------
    method : {"angle_plate", "square_block", "vee_or_vise", "small_part_fixture", "shim", "assembly"}
        How it is got square.
    length_mm, width_mm, height_mm : float
        The block, height across faces 1 and 2 [mm].
    primary_reference, secondary_reference, tertiary_reference : int
        The reference of each pair: 1 or 2, 3 or 5, 4 or 6.
    done : sequence of int, optional
        Faces that are finished already: never ground again.

    Raises
    ------
    InputError
        If a reference is not of its pair, or an opposite is done before its reference.
    """
    references = _references(primary_reference, secondary_reference, tertiary_reference)
    finished = set(done or [])
    for face in references:
        if OPPOSITE[face] in finished and face not in finished:
            raise InputError("done", f"done must not hold face {OPPOSITE[face]} before its reference, face {face}")
    first, second, third = references
    steps = _primary(first) + _square(method, first, second, third) + _opposites(first, second, third)
    tall = {second: width_mm, third: length_mm, OPPOSITE[second]: width_mm, OPPOSITE[third]: length_mm}
    kept = [step for step in steps if not set(step[0]) <= finished]
    numbered = [
        Step(
            number,
            [face for face in up if face not in finished],
            down,
            fixture,
            why,
            [words for face, words in makes if face not in finished],
            through,
            _cautions(up[0], down, tall, height_mm, smallest=min(length_mm, width_mm, height_mm), method=method),
        )
        for number, (up, down, fixture, why, makes, through) in enumerate(kept, start=1)
    ]
    return Sequence(method, numbered, list(references), sorted(finished))


_Row = tuple[list[int], int, str, str, list[tuple[int, str]], str]


def _references(first: int, second: int, third: int) -> tuple[int, int, int]:
    for field, face, pair in (
        ("primary_reference", first, (1, 2)),
        ("secondary_reference", second, (3, 5)),
        ("tertiary_reference", third, (4, 6)),
    ):
        if face not in pair:
            raise InputError(field, f"{field} must be {pair[0]} or {pair[1]}")
    return first, second, third


def _primary(first: int) -> list[_Row]:
    other = OPPOSITE[first]
    return [
        (
            [first],
            other,
            MAGNET,
            f"Clean up the primary reference; face {other} under it only has to be stable.",
            [(first, f"{first} flat")],
            "the machine's travel",
        ),
        (
            [other],
            first,
            MAGNET,
            "Flip once and grind to size; the reference stays down from now on.",
            [(other, f"{other} parallel to {first}"), (other, "thickness")],
            "the chuck's flatness",
        ),
    ]


def _square(method: str, first: int, second: int, third: int) -> list[_Row]:
    fixture, through = METHODS_OF_SQUARENESS[method]
    square = [
        (second, f"{second} square to {first}"),
        (third, f"{third} square to {first}"),
        (third, f"{third} square to {second}"),
    ]
    if method == "angle_plate":
        return [
            (
                [second, third],
                OPPOSITE[second],
                fixture,
                f"Face {first} against the plate, faces {second} and {third} proud of its edges: both in one "
                "clamping, the plate turned on its own square edges.",
                square,
                through,
            )
        ]
    whys = {
        "square_block": (
            f"Clamp face {first} to the proven block; pins under the part, so that the magnet does not pull it off."
        ),
        "vee_or_vise": (
            f"Face {first} to the solid jaw, feed towards it; indicate the finished side to zero along the travel."
        ),
        "small_part_fixture": f"Face {first} to the cube's rib, screw home.",
        "shim": (
            "Measure how far it leans, put paper or foil under one edge, grind, measure again; repeat until "
            f"face {first} is square to it."
        ),
        "assembly": (
            "Build it up with the parts it has to be flush with and grind them together; what is hidden was "
            "ground before."
        ),
    }
    return [
        ([second], OPPOSITE[second], fixture, whys[method], square[:1], through),
        ([third], OPPOSITE[third], fixture, whys[method], square[1:], through),
    ]


def _opposites(first: int, second: int, third: int) -> list[_Row]:
    return [
        (
            [OPPOSITE[face]],
            face,
            MAGNET_SUPPORTED,
            f"Face {face} down on the magnet: parallel to it, and so square to {first}.",
            [(OPPOSITE[face], f"{OPPOSITE[face]} parallel to {face}"), (OPPOSITE[face], size)],
            "the chuck's flatness",
        )
        for face, size in ((second, "width"), (third, "length"))
    ]


def _cautions(up: int, down: int, tall: dict[int, float], height: float, *, smallest: float, method: str) -> list[str]:
    said = []
    if up in tall and tall[up] > height:
        said.append(
            "Taller than its footprint: support blocks close under the face, on the side the wheel pushes to and "
            "behind."
        )
    if smallest < SMALL_MM and method not in ("small_part_fixture", "vee_or_vise") and up not in (1, 2):
        said.append("Small for this fixture: a small-part fixture or a vise holds it better than a magnet.")
    said.append(f"Deburr and wipe before face {down} goes down.")
    return said
