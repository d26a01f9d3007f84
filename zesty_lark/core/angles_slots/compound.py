"""Two angles at once, and lead-in chamfers that meet in a corner."""

import math
from dataclasses import dataclass
from typing import Annotated

from annotated_types import Ge, Gt, Le, Lt

from zesty_lark.core.quantities.angles import dms_text
from zesty_lark.core.quantities.numbers import InputError, Positive

Component = Annotated[float, Ge(-1e6), Le(1e6)]
ChamferAngle = Annotated[float, Gt(0), Lt(90)]


@dataclass(frozen=True)
class Hinges:
    """Base hinge about x, top hinge about y [°], and their stacks [mm]."""

    base_deg: float
    top_deg: float
    base_stack_mm: float
    top_stack_mm: float


@dataclass(frozen=True)
class Mitre:
    """Tilt, rotation in plan, the wheel's side angle, and the dresser's setting from the other side [°]."""

    tilt_deg: float
    rotate_deg: float
    wheel_deg: float
    dresser_deg: float
    wheel_dms: str
    dresser_dms: str


@dataclass(frozen=True)
class Normal:
    """A face's unit normal in the part's frame: x along the travel, y to the back, z up."""

    nx: float
    ny: float
    nz: float


Slope = Annotated[float, Gt(-90), Lt(90)]


def face_normal(
    *,
    along_deg: Slope | None = None,
    across_deg: Slope | None = None,
    tilt_deg: Annotated[float, Ge(0), Lt(90)] | None = None,
    direction_deg: Annotated[float, Ge(-360), Le(360)] | None = None,
) -> Normal:
    """Return the normal of a face as a print gives it.

    Parameters
    ----------
    along_deg, across_deg : float, optional
        Its slopes: how steeply it rises to the right as seen from the front, and to the back as seen from the side [°].
    tilt_deg, direction_deg : float, optional
        Or how far it leans from level, and towards where in plan it falls, counted from the right to the back [°].

    Raises
    ------
    InputError
        If neither pair is whole, or both are given.
    """
    slopes, lean = (along_deg, across_deg), (tilt_deg, direction_deg)
    if (None in slopes) == (None in lean) or any(each is not None for each in (lean if None in lean else slopes)):
        raise InputError("along_deg", "along_deg and across_deg must be given, or tilt_deg and direction_deg instead")
    if along_deg is not None and across_deg is not None:
        x, y = -math.tan(math.radians(along_deg)), -math.tan(math.radians(across_deg))
        long = math.sqrt(x * x + y * y + 1)
        return Normal(x / long, y / long, 1 / long)
    tilt, towards = math.radians(tilt_deg or 0), math.radians(direction_deg or 0)
    return Normal(math.sin(tilt) * math.cos(towards), math.sin(tilt) * math.sin(towards), math.cos(tilt))


def hinges(
    *, nx: Component, ny: Component, nz: Component, base_centres_mm: Positive, top_centres_mm: Positive
) -> Hinges:
    """Bring a face with normal (nx, ny, nz) in the part's frame to vertical on a compound sine plate.

    Centre distances [mm]. R = Rx(a)·Ry(b): b = −atan2(nx, nz), a = atan2(ny, √(nx² + nz²)); stack = centres·sin.

    Raises
    ------
    InputError
        If the normal has no length.
    """
    if nx == ny == nz == 0:
        raise InputError("nz", "nx, ny and nz must not all be 0")
    top = -math.atan2(nx, nz)
    base = math.atan2(ny, math.hypot(nx, nz))
    return Hinges(
        math.degrees(base),
        math.degrees(top),
        base_centres_mm * math.sin(abs(base)),
        top_centres_mm * math.sin(abs(top)),
    )


def mitre(*, floor_deg: ChamferAngle, wall_deg: ChamferAngle) -> Mitre:
    """Set up a floor chamfer at A and a wall chamfer at B that meet in a corner.

    Tilt by A; rotate in plan by atan(cos A·tan B); the wheel's side takes atan(sin(rot)·tan A) [°].
    """
    a, b = math.radians(floor_deg), math.radians(wall_deg)
    rotate = math.atan(math.cos(a) * math.tan(b))
    wheel = math.degrees(math.atan(math.sin(rotate) * math.tan(a)))
    return Mitre(floor_deg, math.degrees(rotate), wheel, 90 - wheel, dms_text(wheel), dms_text(90 - wheel))


def mitre_steps(made: Mitre) -> list[str]:
    """Return the cuts of two lead-in chamfers that meet in a corner, in their order."""
    return [
        f"Tilt the part {dms_text(made.tilt_deg)}: the floor's chamfer lies level.",
        f"Turn it in plan {dms_text(made.rotate_deg)}: the wall's chamfer lies along the travel.",
        f"Dress the wheel's side to {made.wheel_dms}, or {made.dresser_dms} from the other side; the corner sharp.",
        "Plunge to just above the floor, clear of the wall.",
        "Feed back into the wall, little by little, and let it spark out.",
        "Drop the rest onto the floor.",
        "Walk off along the floor, away from the corner.",
        "Roll in the corner, or the microscope: what the reading lacks is left to take.",
    ]
