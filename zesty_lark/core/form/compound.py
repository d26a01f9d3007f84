"""Two angles at once, and lead-in chamfers that meet in a corner."""

import math
from dataclasses import dataclass
from typing import Annotated

from annotated_types import Ge, Gt, Le, Lt

from zesty_lark.core.angles import dms_text
from zesty_lark.core.quantities import InputError, Positive

__all__ = ["Hinges", "Mitre", "hinges", "mitre"]

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
