"""A part as it is taken in: what the print wants, and the block as it came."""

from collections.abc import Mapping
from dataclasses import field, fields
from datetime import date
from decimal import Decimal
from typing import Annotated, Literal

from annotated_types import Ge, Le
from pydantic import AfterValidator, Field, model_validator
from pydantic.dataclasses import dataclass as checked

from zesty_lark.core.part.faces import ALL_FACES, AS_IT_IS, AXIS, CORNERS, OPPOSITE, Axis, Condition, Purpose
from zesty_lark.core.part.prints import SIZES, THICKNESS, ZONES, CharacteristicKind
from zesty_lark.core.part.sizes import Size
from zesty_lark.core.part.surfaces.features import loaded_features
from zesty_lark.core.part.surfaces.formed_face import feature_wrong
from zesty_lark.core.part.surfaces.part import PairSize
from zesty_lark.core.process.materials import materials
from zesty_lark.core.quantities.kept_types import STRICT, Amount, Contradictions, Length, Name, UnitName

MOST_PIECES = 999
"""A larger batch is a job for each load."""
ABOUT_MM = Decimal("0.5")
"""How well a size is known that stays as it is, either way [mm]."""
USUAL_NAMES = (*SIZES, "parallel", "square", "flat", "finish")
"""What a print asks of every block; nothing else goes by these names."""
Quantity = Annotated[int, Ge(1), Le(MOST_PIECES)]
BowShape = Literal["middle_up", "ends_up"]
JobNumber = Annotated[str, Field(pattern=r"^[A-Za-z0-9][A-Za-z0-9._-]{0,19}$")]
Hardness = Annotated[Decimal, Field(ge=10, le=72, max_digits=5, decimal_places=2)]
Roughness = Annotated[Decimal, Field(gt=0, lt=100, max_digits=7, decimal_places=4)]
Share = Annotated[Decimal, Field(ge=0, le=1, max_digits=5, decimal_places=4)]
TO_ANOTHER: tuple[CharacteristicKind, ...] = ("size", "parallel", "square", "angle", "position")
"""What is asked between two surfaces."""


def measured_wrong(axis: str, target_mm: Decimal, most_mm: Decimal, least_mm: Decimal) -> Contradictions:
    """Return what of a size as it came does not go together, in words: of its ``min``, or of its ``target``."""
    said = {}
    if least_mm > most_mm:
        said["min"] = "The least cannot be over the greatest."
    if axis == THICKNESS and most_mm < target_mm:
        said["target"] = "The target is above the stock: there is nothing to grind down to it."
    return said


def _a_condition(word: str) -> str:
    if word not in list(Condition):
        raise ValueError(f"a face in the condition “{word[:20]}” is not known here")
    return word


@checked(frozen=True, config=STRICT)
class SizeIn:
    """A size as taken in: the print's and the measured, exact [mm]."""

    size: Size
    measured_max_mm: Length
    measured_min_mm: Length

    @classmethod
    def as_it_is(cls, about_mm: Decimal) -> "SizeIn":
        """A size that nobody asks for, to about 1 mm: for hold, strokes and heat."""
        return cls(Size(about_mm, ABOUT_MM, ABOUT_MM), about_mm, about_mm)


@checked(frozen=True, config=STRICT)
class FaceIn:
    """A face as taken in: its condition, high minus low [mm], and what it is for: one that stays as it is has no
    clean-up."""

    condition: Annotated[str, AfterValidator(_a_condition)]
    cleanup_mm: Amount
    purpose: Purpose


@checked(frozen=True, config=STRICT)
class CharacteristicIn:
    """Something the print asks for between any surfaces: nominal and tolerances [mm], of an angle [°]."""

    name: Annotated[str, Field(min_length=1, max_length=20)]
    kind: CharacteristicKind
    surface: int
    to_surface: int | None
    nominal: Amount
    tol_minus: Amount
    tol_plus: Amount

    @model_validator(mode="after")
    def _goes_together(self) -> "CharacteristicIn":
        if self.surface == self.to_surface:
            raise ValueError(f"{self.name}: a face has no {self.kind} to itself.")
        if self.kind in TO_ANOTHER and self.to_surface is None:
            raise ValueError(f"{self.name}: {self.kind} to which other face?")
        if self.kind in ZONES and self.tol_plus == 0:
            raise ValueError(f"{self.name}: how much is allowed?")
        Size(self.nominal, self.tol_minus, self.tol_plus)
        return self


@checked(frozen=True, config=STRICT)
class TakeIn:
    """All that taking a part in asks for; owner, machine and wheel are named by their keys."""

    number: JobNumber
    title: Name
    print_unit: UnitName
    due_on: date | None
    owner_id: int
    machine_id: int
    wheel_id: int
    quantity: Quantity
    material: Name
    hardness_hrc: Hardness | None
    parallel_mm: Length | None
    square_mm: Length | None
    flat_mm: Length | None
    ra_um: Roughness | None
    mark_corner: str
    reference_face: Literal[1, 2]
    min_skin_mm: Amount
    first_share: Share | None
    remarks: Annotated[str, Field(max_length=2000)]
    sizes: Mapping[str, SizeIn]
    faces: Mapping[int, FaceIn]
    bow_mm: Amount | None = None
    bow_shape: BowShape = "middle_up"
    leave_mm: Amount = Decimal(0)
    route: Annotated[str, Field(max_length=20_000)] | None = None
    features: Annotated[str, Field(max_length=20_000)] | None = None
    pieces: Mapping[int, Mapping[str, Length]] = field(default_factory=dict)
    more: tuple[CharacteristicIn, ...] = ()


def take_in_wrong(what: TakeIn) -> Contradictions:
    """Return what of a part does not go together, by the field that it is about, in words."""
    said: Contradictions = {}
    if set(what.sizes) != set(SIZES):
        said["sizes"] = "A block has a thickness, a width and a length, each once."
    if set(what.faces) != set(ALL_FACES):
        said["faces"] = "Each of the six faces has to be described once."
    if what.mark_corner not in CORNERS:
        said["mark_corner"] = "That is no corner of a block."
    known = materials().get(what.material)
    if known is None or known.declined:
        said["material"] = "That material is not known here." if known is None else known.declined
    if set(what.faces) == set(ALL_FACES) and not what.features and len(_left(what)) == len(ALL_FACES):
        said["faces"] = "Every face stays as it is: there is nothing to grind."
    for axis, size in what.sizes.items():
        wrong = measured_wrong(axis, size.size.target_mm, size.measured_max_mm, size.measured_min_mm)
        said |= {f"{axis}_{name}": words for name, words in wrong.items()}
    return said | _of_pieces(what) | _of_the_rest(what) | ({} if "sizes" in said else _of_features(what))


def _left(what: TakeIn) -> set[int]:
    """The faces that stay as they are."""
    return {number for number, face in what.faces.items() if face.purpose == AS_IT_IS}


def pairs_left(purposes: Mapping[int, str | None]) -> list[Axis]:
    """Return the sizes whose two faces stay as they are, of what each face is for."""
    left = {face for face, purpose in purposes.items() if purpose == AS_IT_IS}
    return [AXIS[face] for face in sorted(left) if face < OPPOSITE[face] and OPPOSITE[face] in left]


def _of_pieces(what: TakeIn) -> Contradictions:
    wrong = [number for number in what.pieces if not 1 <= number <= what.quantity]
    if wrong:
        return {"pieces": f"There is no piece {wrong[0]}: the job has {what.quantity}."}
    others = [axis for own in what.pieces.values() for axis in own if axis not in SIZES]
    return {"pieces": f"A piece has no “{others[0][:20]}”."} if others else {}


def _of_the_rest(what: TakeIn) -> Contradictions:
    beyond = [each.name for each in what.more if {each.surface, each.to_surface} - {None, *ALL_FACES}]
    if beyond:
        return {"more": f"The print asks for {beyond[0]} of a face that a block has not."}
    names = [each.name for each in what.more]
    twice = [name for at, name in enumerate(names) if name in names[:at] or name in USUAL_NAMES]
    return {"more": f"The print asks for {twice[0]} already."} if twice else {}


def _of_features(what: TakeIn) -> Contradictions:
    try:
        features = loaded_features(what.features)
    except ValueError:
        return {"features": "The slots, angles or edges cannot be read."}
    sizes = {
        axis: PairSize(each.size.target_mm, each.size.tol_minus_mm, each.size.tol_plus_mm,
                       each.measured_max_mm, each.measured_min_mm)
        for axis, each in what.sizes.items()
    }  # fmt: skip
    return {
        f"feature{number}_{name}": f"{feature.name.capitalize()}: {words}"
        for number, feature in enumerate(features, start=1)
        for name, words in feature_wrong(feature, sizes).items()
    }


def differences(before: TakeIn, after: TakeIn) -> list[str]:
    """Name the fields in which two take-ins differ."""
    names = [
        each.name.removesuffix("_id").removesuffix("_mm").replace("_", " ")
        for each in fields(TakeIn)
        if each.name not in ("sizes", "faces", "pieces", "more", "route", "features")
        and getattr(before, each.name) != getattr(after, each.name)
    ]
    names += [axis for axis in after.sizes if before.sizes.get(axis) != after.sizes[axis]]
    names += [f"face {face}" for face in after.faces if before.faces.get(face) != after.faces[face]]
    names += ["pieces’ own sizes"] if before.pieces != after.pieces else []
    names += ["what else the print asks"] if before.more != after.more else []
    names += ["slots, angles and edges"] if before.features != after.features else []
    return names
