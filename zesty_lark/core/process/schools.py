"""Schools of taking stock off, side by side: a first estimate from strokes and springs.

All are right somewhere. This estimate knows strokes, passes, dresses and time; it does not know heat, power or
hold, and says so.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Literal

from zesty_lark.core import dial, layout
from zesty_lark.core.machine import Machine, Wheel
from zesty_lark.core.process import springs
from zesty_lark.core.units import Unit, small_text

__all__ = ["SCHOOLS", "Face", "School", "SchoolKey", "SchoolPlan", "Settings", "home_settings", "plan_school"]

SchoolKey = Literal["light", "all_at_once"]

LIGHT_MOST_DOWNFEED_MM = Decimal("0.05")
LIGHT_MOST_CROSSFEED_MM = Decimal("0.5")
LIGHT_LONG_MINUTES = 45.0
"""Past this the price of timid passes is worth saying [min]."""

AT_ONCE_LEAST_MM = Decimal("0.1")
AT_ONCE_MOST_MM = Decimal("0.3")
AT_ONCE_THIN_MM = Decimal(6)
"""Thinner than the magnet's field is high, a part will not bear one deep cut [mm]."""

SOFT_GRADES = "ABCDEFGHI"
COARSE_GRIT = 46
"""Grit number up to which a wheel is coarse enough for one deep cut (46 is the usual roughing wheel)."""

SPARK_SHARE = 0.1
"""Spark-out goes on until what is left is at most this share of the tolerance."""

DRESS_MINUTES = 1.5
SECONDS_A_MINUTE = 60.0


@dataclass(frozen=True)
class Settings:
    """What the machine is set to for one face; lengths [mm], speed [mm/s]."""

    downfeed_mm: Decimal
    crossfeed_mm: Decimal
    table_mm_s: Decimal
    finish_mm: Decimal
    finish_passes: int


@dataclass(frozen=True)
class Face:
    """The face to be planned: length along and width across the travel, thickness, stock, tolerance width [mm]."""

    length_mm: Decimal
    width_mm: Decimal
    thickness_mm: Decimal
    stock_mm: Decimal
    tolerance_mm: Decimal


@dataclass(frozen=True)
class School:
    """One habit of taking stock off: what it does and where it is at home."""

    key: SchoolKey
    name: str
    does: str
    home: Settings
    dresses: int


@dataclass(frozen=True)
class SchoolPlan:
    """A school worked out on this face, wheel and machine.

    Attributes
    ----------
    collar : CollarPlan
        The collar readings, from 0.
    spark_passes : int
        Blank passes after the last feed.
    strokes : int
        Of all passes and blanks together.
    minutes : float
        Table time and dresses; set-up, touch-off, cooling and measuring are apart [min].
    fits : bool
        Whether the school is at home here; ``why`` gives the reason either way.
    left_by_springs_mm : float
        What the springs are expected to hold back after the spark-out [mm].
    """

    school: School
    settings: Settings
    collar: dial.CollarPlan
    spark_passes: int
    strokes: int
    minutes: float
    dresses: int
    fits: bool
    why: str
    left_by_springs_mm: float


SCHOOLS: dict[SchoolKey, School] = {
    "light": School(
        "light", "Light and even",
        "Small even downfeeds, small crossfeed, fast table, a step at each end.",
        Settings(Decimal("0.013"), Decimal("0.4"), Decimal(10_000), Decimal("0.0051"), 2), 2,
    ),
    "all_at_once": School(
        "all_at_once", "All at once",
        "The whole stock less a finish allowance in one rough pass with a soft, coarse, freshly rough-dressed wheel.",
        Settings(Decimal(0), Decimal("0.3"), Decimal(10_000), Decimal("0.0125"), 1), 2,
    ),
}


def home_settings(key: SchoolKey, face: Face, machine: Machine) -> Settings:
    """Return a school's home setting, snapped to the machine's graduations and ranges."""
    home = SCHOOLS[key].home
    finish = _snap(home.finish_mm, machine.graduation_mm)
    if key == "all_at_once":
        downfeed = _snap(max(face.stock_mm - finish * home.finish_passes, Decimal(0)), machine.graduation_mm)
    else:
        downfeed = _snap(home.downfeed_mm, machine.graduation_mm)
    crossfeed = min(max(home.crossfeed_mm, machine.crossfeed_min_mm), machine.crossfeed_max_mm)
    return Settings(
        downfeed_mm=downfeed,
        crossfeed_mm=_snap(crossfeed, machine.crossfeed_graduation_mm),
        table_mm_s=min(home.table_mm_s, machine.table_max_mm_s),
        finish_mm=finish,
        finish_passes=home.finish_passes,
    )


def _snap(length_mm: Decimal, graduation_mm: Decimal) -> Decimal:
    """Round down to whole graduations, but never below one."""
    return max(dial.whole_graduations(length_mm, graduation_mm), 1) * graduation_mm


def plan_school(
    key: SchoolKey,
    face: Face,
    machine: Machine,
    wheel: Wheel,
    *,
    print_unit: Unit,
    settings: Settings | None = None,
    fresh_dress: bool = True,
) -> SchoolPlan:
    """Work one school out on this face, at its home setting or at the settings given.

    Parameters
    ----------
    key : {"light", "all_at_once"}
        The school.
    face, machine, wheel
        What it is worked out on.
    print_unit : {"mm", "in"}
        The unit its reasons are given in.
    settings : Settings, optional
        Instead of the school's home setting.
    fresh_dress : bool
        Count the school's dresses; not when a plan carries on with the wheel as it is.

    Raises
    ------
    GraduationError
        If a step is under a graduation of the dial.
    ValueError
        If the crossfeed or the table speed is not over 0.
    """
    school = SCHOOLS[key]
    used = settings or home_settings(key, face, machine)
    collar = dial.plan(
        stock_mm=max(face.stock_mm, Decimal(0)), graduation_mm=machine.graduation_mm, rough_mm=used.downfeed_mm,
        finish_mm=used.finish_mm, finish_passes=used.finish_passes, per_rev_mm=machine.per_rev_mm,
    )
    ratio = springs.crossfed_cut_ratio(machine.cut_ratio, float(wheel.width_mm), float(used.crossfeed_mm))
    held_back = springs.left_after([float(each.step_mm) for each in collar.passes], ratio)
    blanks = max(1, springs.passes_until(held_back, ratio, SPARK_SHARE * float(face.tolerance_mm)))
    one = layout.strokes(
        length_mm=float(face.length_mm), width_mm=float(face.width_mm), wheel_width_mm=float(wheel.width_mm),
        crossfeed_mm=float(used.crossfeed_mm), table_mm_s=float(used.table_mm_s), reversal_s=machine.reversal_s,
        feed_every=machine.feed_every,
    )
    traverses = len(collar.passes) + blanks
    dresses = school.dresses if fresh_dress else 0
    minutes = traverses * one.seconds_per_pass / SECONDS_A_MINUTE + dresses * DRESS_MINUTES
    plan = SchoolPlan(
        school=school, settings=used, collar=collar, spark_passes=blanks,
        strokes=traverses * one.strokes, minutes=minutes, dresses=dresses, fits=True, why="",
        left_by_springs_mm=springs.left_after([0.0] * blanks, ratio, left_mm=held_back),
    )
    fits, why = _JUDGES[key](plan, face, machine, wheel, print_unit)
    return replace(plan, fits=fits, why=why)


_Judge = Callable[[SchoolPlan, Face, Machine, Wheel, Unit], tuple[bool, str]]


def _judge_light(plan: SchoolPlan, face: Face, machine: Machine, wheel: Wheel, unit: Unit) -> tuple[bool, str]:
    if plan.settings.downfeed_mm > LIGHT_MOST_DOWNFEED_MM:
        return False, (f"{small_text(plan.settings.downfeed_mm, unit)} a pass is not light any more: "
                       f"this school stays at {small_text(LIGHT_MOST_DOWNFEED_MM, unit)} or under.")
    if plan.settings.crossfeed_mm > LIGHT_MOST_CROSSFEED_MM:
        return False, (f"A crossfeed of {small_text(plan.settings.crossfeed_mm, unit)} is over this school's "
                       f"{small_text(LIGHT_MOST_CROSSFEED_MM, unit)}.")
    if plan.minutes > LIGHT_LONG_MINUTES:
        return True, (f"It works, at a price: {len(plan.collar.passes)} passes for "
                      f"{small_text(face.stock_mm, unit)} of stock.")
    return True, "Asks little of wheel, magnet and coolant; forgiving when the work is unknown. Its price is time."


def _judge_all_at_once(plan: SchoolPlan, face: Face, machine: Machine, wheel: Wheel, unit: Unit) -> tuple[bool, str]:
    stock = small_text(face.stock_mm, unit)
    if face.stock_mm < AT_ONCE_LEAST_MM:
        return False, f"{stock} is too little to gain by it: its home is {_home(unit)} of stock."
    if face.stock_mm > AT_ONCE_MOST_MM:
        return False, f"{stock} is too much for one pass: its home is {_home(unit)} of stock."
    if machine.coolant == "dry":
        return False, "One deep cut needs flooding, and this machine runs dry."
    if face.thickness_mm < AT_ONCE_THIN_MM:
        return False, f"At {small_text(face.thickness_mm, unit)} thick the part will not bear one deep cut."
    if wheel.grade.upper() not in SOFT_GRADES:
        return False, f"A wheel of grade {wheel.grade} is too hard for one deep cut: it wants I or softer."
    if wheel.grit > COARSE_GRIT:
        return False, f"Grit {wheel.grit} is too fine for one deep cut: it wants {COARSE_GRIT} or coarser."
    return True, "Stock, wheel and coolant suit it. Dress rough first; let the part cool before the finish pass."


def _home(unit: Unit) -> str:
    return f"{small_text(AT_ONCE_LEAST_MM, unit)} to {small_text(AT_ONCE_MOST_MM, unit)}"


_JUDGES: dict[SchoolKey, _Judge] = {"light": _judge_light, "all_at_once": _judge_all_at_once}
