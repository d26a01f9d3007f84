"""A face's planning: stock, schools side by side, cautions - asked of the core with this job's values."""

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal

from zesty_lark.core.dial import GraduationError
from zesty_lark.core.faces import SetUp, set_up_for
from zesty_lark.core.machine import Machine
from zesty_lark.core.process.schools import (
    SCHOOLS,
    Face,
    SchoolKey,
    SchoolPlan,
    Settings,
    home_settings,
    plan_school,
)
from zesty_lark.core.shoplog.remaining import keeps_wheel_height
from zesty_lark.core.shoplog.standing import Standing
from zesty_lark.core.stock import StockSplit, mill_first
from zesty_lark.core.units import small_text
from zesty_lark.store.models import Job
from zesty_lark.web.shared.wording import as_unit
from zesty_lark.web.shared.work import Stock, pair_split, stock_of

__all__ = ["Choice", "Planning", "face_of", "plan_face"]


@dataclass(frozen=True)
class Choice:
    """What the person chose so far; ``None`` leaves it to the school's home or the take-in.

    Attributes
    ----------
    school : {"light", "all_at_once"} or None
    settings : mapping
        Any of the fields of ``Settings`` for the chosen school.
    skin_mm, share : Decimal or None
        Instead of the take-in's, when ``sharing`` is set.
    """

    school: SchoolKey | None = None
    settings: Mapping[str, Decimal | int] | None = None
    skin_mm: Decimal | None = None
    share: Decimal | None = None
    sharing: bool = False


@dataclass(frozen=True)
class Planning:
    """Everything the plan page shows of one face."""

    face: int
    set_up: SetUp
    split: StockSplit
    stock: Stock
    schools: Mapping[SchoolKey, SchoolPlan]
    chosen: SchoolPlan
    carries_on: bool
    mill_first: bool
    problem: str
    problem_field: str


def face_of(job: Job, stock_mm: Decimal) -> Face:
    """Return the face of the job's pair as planning sees it."""
    size = {axis: job.part.size(axis) for axis in ("length", "width", "thickness")}
    thickness = size["thickness"].to_core()
    return Face(length_mm=size["length"].target_mm, width_mm=size["width"].target_mm,
                thickness_mm=thickness.target_mm, stock_mm=stock_mm, tolerance_mm=thickness.width_mm)


def plan_face(job: Job, standing: Standing, face: int, choice: Choice) -> Planning:
    """Work out the planning of a face."""
    shared = pair_split(job, skin_mm=choice.skin_mm, share=choice.share, use_share=choice.sharing)
    stock = stock_of(job, standing, face, shared)
    carries_on = keeps_wheel_height(standing.faces[face], standing)
    core_face = face_of(job, max(stock.on_mm, Decimal(0)))
    machine, wheel, unit = job.machine.to_core(), job.wheel.to_core(), as_unit(job.print_unit)
    at_home = {key: plan_school(key, core_face, machine, wheel, print_unit=unit, fresh_dress=not carries_on)
               for key in SCHOOLS}
    before = standing.faces[face].plan
    key = choice.school or (before.school if before else None) or _quickest_that_fits(at_home)
    chosen, problem, field = at_home[key], "", ""
    if choice.settings:
        try:
            chosen = plan_school(key, core_face, machine, wheel, print_unit=unit, fresh_dress=not carries_on,
                                 settings=_settings(key, core_face, machine, choice.settings))
        except GraduationError as error:
            problem, field = _graduation_words(machine), {"rough_mm": "downfeed"}.get(error.field, "finish")
        except ValueError:
            problem, field = "This has to be more than 0.", "crossfeed"
    return Planning(
        face=face, set_up=set_up_for(face, job.part.reference_face), split=shared, stock=stock,
        schools={**at_home, key: chosen}, chosen=chosen, carries_on=carries_on,
        mill_first=mill_first(shared.total_stock_mm, _out_of_parallel(job)), problem=problem, problem_field=field,
    )


def _graduation_words(machine: Machine) -> str:
    return f"The dial’s graduation is {small_text(machine.graduation_mm, machine.dial_unit)}; a step cannot be smaller."


def _quickest_that_fits(plans: Mapping[SchoolKey, SchoolPlan]) -> SchoolKey:
    fitting = [plan for plan in plans.values() if plan.fits] or list(plans.values())
    return min(fitting, key=lambda plan: plan.minutes).school.key


def _settings(key: SchoolKey, face: Face, machine: Machine, given: Mapping[str, Decimal | int]) -> Settings:
    home = home_settings(key, face, machine)
    return Settings(**{name: given.get(name, getattr(home, name)) for name in (
        "downfeed_mm", "crossfeed_mm", "table_mm_s", "finish_mm", "finish_passes")})


def _out_of_parallel(job: Job) -> Decimal:
    size = job.part.size("thickness")
    return size.measured_max_mm - size.measured_min_mm
