"""Shapes on a wheel: angles, relief for side work, corners and full radii, the print of a corner.

Sources: an angle is often set from the other side, 90° − angle; a stepped corner leaves peaks as a swung radius does.
"""

import math
from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Lt, MaxLen, MinLen

from zesty_lark.core.angles_slots.radii import arc
from zesty_lark.core.quantities.angles import dms_text
from zesty_lark.core.quantities.numbers import InputError, NonNegative, Positive
from zesty_lark.core.wheel.grain import PEEL_CROSSFEED_SHARE, PEEL_MOST_SHARE

LEAST_LAND_MM, MOST_LAND_MM = 0.5, 1.5
FENCE_DEG = 1.0
BESIDE_MM = 2.0
"""How much of the part is drawn beside and under the wheel [mm]."""
ACROSS = 24
"""Points along an arc of a drawn profile."""
Profile = list[tuple[float, float]]


@dataclass(frozen=True)
class AngleSetting:
    """A dressing fixture's setting for an angle, from the face's side and from the other [°], and both in words."""

    face_deg: float
    side_deg: float
    face_words: str
    side_words: str


def angle_setting(*, angle_deg: Annotated[float, Gt(0), Lt(90)]) -> AngleSetting:
    """Set a dressing fixture for an angle between the wheel's face and its new flank [°]: from the other side it is
    90° − angle."""
    other = 90 - angle_deg
    return AngleSetting(angle_deg, other, dms_text(angle_deg), dms_text(other))


@dataclass(frozen=True)
class Relief:
    """A wheel relieved for side work: the land left at its corner, how far each side is dished, how much of the slot's
    wall it clears [mm], whether that may be, and why not."""

    land_mm: float
    dish_mm: float
    straight_from_mm: float
    may: bool
    why: str


def relief(
    *,
    wheel_width_mm: Positive,
    slot_depth_mm: Positive,
    undercut_mm: NonNegative,
    corner_mm: NonNegative,
    land_mm: Annotated[float, Ge(LEAST_LAND_MM), Le(MOST_LAND_MM)] = 1.0,
    dish_deg: Annotated[float, Gt(0), Le(10)] = FENCE_DEG,
) -> Relief:
    """Check a wheel's relief against a slot's undercut: a rounded corner above the undercut leaves a curved wall.

    Parameters
    ----------
    wheel_width_mm, slot_depth_mm, undercut_mm : float
        The wheel, how deep the slot is, how high the undercut at the wall's foot [mm].
    corner_mm, land_mm : float
        The wheel's corner radius as dressed or printed, and the land left at the corner [mm].
    dish_deg : float
        How far each side is dished from the land on [°].
    """
    dish = max(slot_depth_mm - land_mm, 0.0) * math.tan(math.radians(dish_deg))
    said = []
    if corner_mm > undercut_mm:
        said.append(
            f"The corner is rounded {corner_mm:.3f} mm high and the undercut {undercut_mm:.3f} mm: the wall's foot is "
            "left curved. Dress the corner sharp, or deepen the undercut."
        )
    if corner_mm >= land_mm:
        said.append("The corner has eaten the land: dress it again.")
    if 2 * dish >= wheel_width_mm / 2:
        said.append("So much dish leaves a wheel that is too thin in its web.")
    return Relief(land_mm, dish, corner_mm, not said, " ".join(said))


@dataclass(frozen=True)
class StepDress:
    """A radius dressed in steps: how many, each one [°], the peaks it leaves [mm], and the radius [mm]."""

    radius_mm: float
    steps: int
    step_deg: float
    peak_mm: float


def step_dress(
    *, shape: Literal["corner", "full"], wheel_width_mm: Positive, allow_mm: Positive, radius_mm: Positive | None = None
) -> StepDress:
    """Divide a corner radius, or a full radius of half the wheel's width, into steps of the dressing fixture.

    Parameters
    ----------
    shape : {"corner", "full"}
        A quarter turn at one corner, or half a turn over the whole face.
    wheel_width_mm, allow_mm, radius_mm : float
        The face, the peaks allowed, the corner's radius [mm].

    Raises
    ------
    InputError
        If a corner's radius is missing, or is more than the face.
    """
    radius = wheel_width_mm / 2 if shape == "full" else radius_mm
    if radius is None:
        raise InputError("radius_mm", "radius_mm is missing: a corner needs its radius")
    if radius > wheel_width_mm:
        raise InputError("radius_mm", f"radius_mm must be at most the wheel's width, {wheel_width_mm:g}")
    made = arc(radius_mm=radius, sweep_deg=180.0 if shape == "full" else 90.0, allow_mm=allow_mm)
    return StepDress(radius, made.steps, made.step_deg, made.peak_mm)


@dataclass(frozen=True)
class CornerPrint:
    """The corner as its print shows it: radius and spread of the readings [mm], what the peel may do with it [mm], and
    how far it has worn since it was dressed [mm]."""

    radius_mm: float
    spread_mm: float
    peel_crossfeed_mm: float
    peel_depth_mm: float
    worn_mm: float
    words: str


def corner_print(
    *,
    readings_mm: Annotated[list[Annotated[float, Gt(0), Le(20)]], MinLen(1), MaxLen(20)],
    grain_mm: Positive,
    dressed_mm: NonNegative = 0.0,
) -> CornerPrint:
    """Tell what fillets read in a thin blade mean: the true corner, about one grain when it is fresh.

    Parameters
    ----------
    readings_mm : list of float
        Fillets under the microscope [mm].
    grain_mm, dressed_mm : float
        The wheel's grain by its grit, and the radius it was dressed to, 0 for a sharp corner [mm].
    """
    radius = sum(readings_mm) / len(readings_mm)
    spread = max(readings_mm) - min(readings_mm)
    fresh = max(grain_mm, dressed_mm)
    worn = max(radius - fresh, 0.0)
    words = (
        f"About {radius / grain_mm:.1f} grains: the corner is as sharp as this wheel's can be."
        if radius <= 1.5 * fresh
        else f"{worn:.3f} mm of the corner has gone since the dress: it rounds whatever meets in a corner."
    )
    return CornerPrint(radius, spread, PEEL_CROSSFEED_SHARE * radius, PEEL_MOST_SHARE * radius, worn, words)


def shape_profile(
    *,
    shape: Literal["flat", "angle", "relief", "corner", "full", "back", "chamfer"],
    wheel_width_mm: Positive,
    depth_mm: Positive,
    angle_deg: Annotated[float, Gt(0), Lt(90)] = 45.0,
    radius_mm: NonNegative = 0.0,
    land_mm: NonNegative = 1.0,
) -> Profile:
    """Return the outline of a wheel's edge, across its face and up from its lowest line [mm].

    Parameters
    ----------
    shape : str
        ``angle`` is one flank from the front corner; ``relief`` dishes both sides from a land on; ``corner`` rounds the
        front corner, ``full`` the whole face; ``back`` takes the face 1° back for work beside a fence; ``chamfer``
        breaks the leading corner by ``land_mm``.
    wheel_width_mm, depth_mm : float
        The face, and how much of the sides is drawn [mm].
    angle_deg, radius_mm, land_mm : float
        What the shape needs [°] [mm].
    """
    width = wheel_width_mm
    if shape == "angle":
        run = min(depth_mm / math.tan(math.radians(angle_deg)), width)
        return [(0.0, run * math.tan(math.radians(angle_deg))), (run, 0.0), (width, 0.0), (width, depth_mm)]
    if shape == "relief":
        dish = max(depth_mm - land_mm, 0.0) * math.tan(math.radians(FENCE_DEG))
        return [(dish, depth_mm), (0.0, land_mm), (0.0, 0.0), (width, 0.0), (width, land_mm), (width - dish, depth_mm)]
    if shape == "corner":
        return [(0.0, depth_mm), *_arc(radius_mm, radius_mm, 180, 270), (width, 0.0), (width, depth_mm)]
    if shape == "full":
        return [
            (0.0, max(depth_mm, width / 2)),
            *_arc(width / 2, width / 2, 180, 360),
            (width, max(depth_mm, width / 2)),
        ]
    if shape == "back":
        rise = width * math.tan(math.radians(FENCE_DEG))
        return [(0.0, depth_mm), (0.0, 0.0), (width, rise), (width, depth_mm)]
    if shape == "chamfer":
        rise = land_mm * math.tan(math.radians(5.0))
        return [(0.0, depth_mm), (0.0, rise), (land_mm, 0.0), (width, 0.0), (width, depth_mm)]
    return [(0.0, depth_mm), (0.0, 0.0), (width, 0.0), (width, depth_mm)]


def ground_by(outline: Profile, *, shoulder: bool, groove: bool) -> Profile:
    """Return the outline of a part as a wheel's edge leaves it, the wheel standing in it [mm].

    Parameters
    ----------
    outline : list of (float, float)
        Of the wheel's edge.
    shoulder, groove : bool
        Whether the part stands up beside the wheel's front, and beside its back as well; else it lies under it.
    """
    left = outline if shoulder else outline[1:]
    inside = left if groove else left[:-1]
    return [
        (inside[0][0] - BESIDE_MM, inside[0][1]),
        *inside,
        (inside[-1][0] + BESIDE_MM, inside[-1][1]),
        (inside[-1][0] + BESIDE_MM, -BESIDE_MM),
        (inside[0][0] - BESIDE_MM, -BESIDE_MM),
    ]


def slot_beside(*, wheel_width_mm: float, depth_mm: float, undercut_mm: float) -> Profile:
    """Return the outline of a slot beside a wheel: its wall to the left, its floor under it, the undercut at its foot
    [mm]."""
    far = wheel_width_mm + BESIDE_MM
    wall = [(0.0, depth_mm), (0.0, undercut_mm), (-undercut_mm, undercut_mm), (-undercut_mm, 0.0)]
    return [*wall, (far, 0.0), (far, -BESIDE_MM), (-2 * BESIDE_MM, -BESIDE_MM), (-2 * BESIDE_MM, depth_mm)]


def _arc(middle: float, radius: float, first_deg: float, last_deg: float) -> Profile:
    """Points of an arc about (middle, radius), from one angle to another [°]."""
    return [
        (middle + radius * math.cos(math.radians(turn)), radius + radius * math.sin(math.radians(turn)))
        for turn in (first_deg + (last_deg - first_deg) * number / ACROSS for number in range(ACROSS + 1))
    ]
