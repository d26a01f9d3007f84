"""Slots, inclined faces, lead-in chamfers, radii and edge breaks as the print gives them.

Lengths are exact [mm], angles in degrees; how each came is kept beside what is wanted.
"""

import json
from functools import lru_cache
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Lt
from pydantic import ConfigDict, Field, TypeAdapter, ValidationError, model_validator
from pydantic.dataclasses import dataclass as checked

from zesty_lark.core.quantities.numbers import ExactNonNegative, ExactPositive

_STRICT = ConfigDict(extra="forbid", allow_inf_nan=False, str_strip_whitespace=True)
FeatureName = Annotated[str, Field(pattern=r"^[a-z][a-z0-9 -]{0,9}$")]
FaceNumber = Annotated[int, Ge(1), Le(6)]
Slope = Annotated[float, Gt(0), Lt(80)]
MOST_FEATURES = 4
FEATURE_KINDS = {
    "slot": "Slot",
    "incline": "Inclined face",
    "lead_ins": "Lead-in chamfers",
    "radius": "Outside radius",
    "edge": "Edge break",
}


class FeatureError(ValueError):
    """What of a slot, a chamfer or an edge cannot be; ``field`` names it."""

    def __init__(self, field: str, message: str) -> None:
        super().__init__(message)
        self.field = field


@checked(frozen=True, config=_STRICT)
class Slot:
    """A slot open on a face, along the datum side it is measured from: where its walls are now and are wanted, how deep
    [mm]; what is kept where width and position cannot both be; and how its walls are ground."""

    name: FeatureName
    on_face: FaceNumber
    datum: FaceNumber
    centre_mm: ExactPositive
    position_tol_mm: ExactPositive
    width_mm: ExactPositive
    width_minus_mm: ExactNonNegative
    width_plus_mm: ExactNonNegative
    left_now_mm: ExactPositive
    right_now_mm: ExactPositive
    depth_mm: ExactPositive
    depth_tol_mm: ExactPositive
    depth_now_mm: ExactPositive
    undercut_mm: ExactNonNegative
    keep: Literal["", "width", "position"] = ""
    way: Literal["tilted", "side"] = "tilted"
    kind: Literal["slot"] = "slot"

    @model_validator(mode="after")
    def _walls(self) -> "Slot":
        if self.right_now_mm <= self.left_now_mm:
            raise FeatureError("right_now_mm", "The right wall is beyond the left one, from the same datum.")
        if self.width_minus_mm + self.width_plus_mm == 0:
            raise FeatureError("width_plus_mm", "How much may the width be out?")
        return self


@checked(frozen=True, config=_STRICT)
class Incline:
    """A face that falls from one end or side of another towards ``falls_to`` [°], and may rise to the back besides; its
    height at its high edge over the face opposite, wanted and as it is [mm]."""

    name: FeatureName
    on_face: FaceNumber
    falls_to: FaceNumber
    angle_deg: Slope
    angle_tol_deg: Annotated[float, Gt(0), Le(5)]
    height_mm: ExactPositive
    height_minus_mm: ExactNonNegative
    height_plus_mm: ExactNonNegative
    height_now_mm: ExactPositive
    across_deg: Annotated[float, Gt(-80), Lt(80)] = 0.0
    kind: Literal["incline"] = "incline"

    @model_validator(mode="after")
    def _has_stock(self) -> "Incline":
        if self.height_minus_mm + self.height_plus_mm == 0:
            raise FeatureError("height_plus_mm", "How much may the height be out?")
        return self


@checked(frozen=True, config=_STRICT)
class LeadIns:
    """Two lead-in chamfers that meet in a corner, at one end: one on the floor, one on the wall that stands on it along
    a side, at their angles [°]; how long each is along its own face, wanted and as it is [mm]."""

    name: FeatureName
    on_face: FaceNumber
    wall_face: FaceNumber
    end: FaceNumber
    floor_deg: Slope
    wall_deg: Slope
    angle_tol_deg: Annotated[float, Gt(0), Le(5)]
    floor_long_mm: ExactPositive
    wall_long_mm: ExactPositive
    long_tol_mm: ExactPositive
    floor_now_mm: ExactNonNegative
    wall_now_mm: ExactNonNegative
    kind: Literal["lead_ins"] = "lead_ins"


@checked(frozen=True, config=_STRICT)
class Radius:
    """An outside radius between two faces, swung on a spin fixture: wanted, and as far from its centre as it stands now
    [mm]; how high its peaks may stand."""

    name: FeatureName
    on_face: FaceNumber
    to_face: FaceNumber
    radius_mm: ExactPositive
    radius_minus_mm: ExactNonNegative
    radius_plus_mm: ExactNonNegative
    radius_now_mm: ExactPositive
    peak_um: Annotated[float, Gt(0), Le(1000)] = 2.0
    kind: Literal["radius"] = "radius"

    @model_validator(mode="after")
    def _has_limits(self) -> "Radius":
        if self.radius_minus_mm + self.radius_plus_mm == 0:
            raise FeatureError("radius_plus_mm", "How much may the radius be out?")
        return self


@checked(frozen=True, config=_STRICT)
class EdgeBreak:
    """A 90° edge between two faces broken at 45°: the flat wanted and as it is [mm]."""

    name: FeatureName
    on_face: FaceNumber
    to_face: FaceNumber
    flat_mm: ExactPositive
    flat_tol_mm: ExactPositive
    flat_now_mm: ExactNonNegative
    kind: Literal["edge"] = "edge"


Feature = Annotated[Slot | Incline | LeadIns | Radius | EdgeBreak, Field(discriminator="kind")]


@checked(frozen=True, config=_STRICT)
class _Kept:
    format: Literal["features 1"]
    features: Annotated[tuple[Feature, ...], Field(max_length=MOST_FEATURES)]


_ADAPTER = TypeAdapter(_Kept)


def dumped_features(features: tuple[Feature, ...]) -> str | None:
    """Return features as JSON text; ``None`` for a plain block."""
    return _ADAPTER.dump_json(_Kept("features 1", features)).decode() if features else None


@lru_cache(maxsize=256)
def loaded_features(text: str | None) -> tuple[Feature, ...]:
    """Read features from JSON text.

    Raises
    ------
    ValueError
        If it holds none of this form.
    """
    if not text:
        return ()
    try:
        kept = _ADAPTER.validate_python(json.loads(text), strict=False)
    except (ValidationError, ValueError, RecursionError) as error:
        raise ValueError(f"these are no features: {error}") from error
    names = [feature.name for feature in kept.features]
    if len(set(names)) != len(names):
        raise ValueError("two features go by one name")
    return kept.features
